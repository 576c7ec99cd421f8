"""Two machines side by side."""

from django.contrib import messages
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse

from core.flow.stage import GONE
from stations.bench import power
from stations.common.typed import whole_number
from stations.people.screens import press
from stations.units.models import Unit
from stations.workshop import side_by_side
from stations.workshop.forms_parts import BesideForm


def choose(request, number):
    """Which other machine: by its tag."""
    row = _unit(number)
    form = BesideForm(request.GET or None)
    if form.is_bound and form.is_valid():
        other = form.cleaned_data["other"]
        if other.pk != row.pk:
            return redirect("workshop:beside", number=number, other=other.number)
        form.add_error("other", "That is the same machine.")
    return render(request, "workshop/beside_choose.html", {"unit": row, "form": form, "like": _like(row)})


def _like(unit: Unit):
    """Others of its model that are here, donors first; of what is not ours nothing is taken."""
    if unit.model_id is None:
        return []
    rows = Unit.objects.filter(model=unit.model_id, holding=Unit.Holding.OWNED)
    rows = rows.exclude(pk=unit.pk).exclude(stage__in=GONE)
    return rows.order_by("-approach", "number")[:12]


def beside(request, number, other):
    """The pairs, and what is proposed; pressing it changes what is ticked over."""
    here, there = _unit(number), _unit(other)
    if here.pk == there.pk:
        return redirect("workshop:choose-beside", number=number)
    address = reverse("workshop:beside", args=[number, other])
    if request.method == "POST":
        keys = [key for key in map(whole_number, request.POST.getlist("part")) if key is not None]

        def act():
            count = side_by_side.change_over(request.user, here, there, keys)
            messages.success(request, f"{count} changed over. Both have to be tested again.")

        return press(request, act, address)
    context = {
        "unit": here,
        "other": there,
        "both": side_by_side.look_at(here, there),
        "charged": [(unit, words) for unit in (here, there) if (words := power.charged_words(unit))],
    }
    return render(request, "workshop/beside.html", context)


def _unit(number) -> Unit:
    rows = Unit.objects.select_related("lot", "line", "model__strip_down")
    return get_object_or_404(rows, number=number)
