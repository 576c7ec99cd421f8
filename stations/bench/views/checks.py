"""The checks in force."""

from django.http import Http404
from django.shortcuts import render
from django.urls import reverse

from core.bench.checks import Group
from stations.bench import library
from stations.bench.forms import CheckForm, NewCheckForm
from stations.bench.models import BenchCheck
from stations.common.details import names_of
from stations.people import history
from stations.people.models import HistoryEntry
from stations.people.screens import saved


def checks(request):
    """Every check, in the order of the gates; the shop's own are marked."""
    ours = set(BenchCheck.objects.values_list("code", flat=True))
    groups = list(Group)
    there = sorted(library.library(), key=lambda check: groups.index(check.group))
    context = {"checks": [(c, c.code in ours) for c in there], "resting": library.resting()}
    return render(request, "bench/checks.html", context)


def check(request, code):
    row = library.row_for(code)
    if row is None:
        raise Http404
    form = CheckForm(request.POST or None, instance=row)
    return _check_form(request, form, code)


def new_check(request):
    form = NewCheckForm(request.POST or None)
    return _check_form(request, form, None)


def _check_form(request, form, code):

    def act(data):
        said = library.CheckDetails(**{name: data[name] for name in names_of(library.CheckDetails)})
        library.save_check(request.user, code or data["code"], data["version"], said)

    if done := saved(request, form, act, reverse("bench:checks")):
        return done
    story = history.latest(HistoryEntry.Subject.CHECK, form.instance.pk) if form.instance.pk else None
    return render(request, "bench/check.html", {"form": form, "code": code, "story": story})
