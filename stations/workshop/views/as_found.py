"""The state of a unit as found and afterwards."""

from django.shortcuts import get_object_or_404, render
from django.urls import reverse

from stations.common.typed import whole_number
from stations.people.screens import saved
from stations.units.models import Unit
from stations.workshop import as_found
from stations.workshop.forms import StateForm


def sheet(request, number):
    """Everything that was noted; the form notes one more, or says what became of it (`?one=`)."""
    unit = get_object_or_404(Unit.objects.select_related("lot", "model"), number=number)
    state = unit.as_found.filter(pk=whole_number(request.GET.get("one", ""))).first()
    form = StateForm(request.POST or None, instance=state)

    def save(data):
        as_found.record_state(
            request.user, unit, state, data["version"] or 0, data["what"], data["found"], data["after"]
        )

    if done := saved(request, form, save, reverse("workshop:as-found", args=[number])):
        return done
    context = {"unit": unit, "rows": unit.as_found.select_related("seen_by"), "form": form, "state": state}
    return render(request, "workshop/as_found.html", context)
