"""What was read off the machine: codes, serials, signals."""

from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from stations.common.refusals import Refused
from stations.common.typed import whole_number
from stations.intake.views.unit import _row
from stations.people.screens import press
from stations.units import read_off
from stations.units.models import UnitFact


def readings(request, number):
    """Every possible reading of what is typed: a partial while one types, with a button to keep each."""
    row = _row(number)
    kind, typed = request.GET.get("kind", ""), request.GET.get("typed", "")
    context = {"unit": row, "kind": kind, "typed": typed, "on_what": request.GET.get("on_what", "")}
    context["repair"] = request.GET.get("repair", "")
    try:
        context["found"] = read_off.readings(kind, typed, row.model)
    except Refused as refusal:
        context["problem"] = refusal.message if typed.strip() else ""
    return render(request, "intake/_readings.html", context)


@require_POST
def keep_fact(request, number):
    row = _row(number)
    back = reverse("intake:unit", args=[number]) + "#facts"
    post = request.POST

    def act():
        picked = whole_number(post.get("choice", ""))
        choice = -1 if picked is None else picked
        read_off.keep_fact(
            request.user,
            row,
            post.get("kind", ""),
            post.get("typed", ""),
            choice,
            post.get("on_what", ""),
            bool(post.get("repair")),
        )

    return press(request, act, back)


@require_POST
def drop_fact(request, pk):
    fact = get_object_or_404(UnitFact.objects.select_related("unit"), pk=pk)
    back = reverse("intake:unit", args=[fact.unit.number]) + "#facts"

    return press(request, lambda: read_off.drop_fact(request.user, fact), back)
