"""Stop or go: the box on the pages of a unit, a job, a fault and the day; what was decided."""

from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from stations.people.screens import press, sent
from stations.units.models import Unit
from stations.workshop.stop_drawing import drawn
from stations.workshop.stop_or_go import decide, stop_or_go


def box(request, number):
    """The box alone, fetched by the pages that show it; with a page round it where it was gone to."""
    unit = _unit(number)
    asked = stop_or_go(unit)
    # On the page of a job or a fault the same keys mean something else, and stopping has no way back.
    within = bool(request.headers.get("HX-Request"))
    keys = not within or "keys" in request.GET
    context = {"unit": unit, "asked": asked, "drawn": drawn(asked) if asked else None, "keys": keys}
    name = "workshop/_stop_or_go.html" if within else "workshop/stop_or_go.html"
    context["decisions"] = unit.stop_decisions.select_related("who")[:12]
    return render(request, name, context)


@require_POST
def decided(request, number):
    unit = _unit(number)
    there = reverse("workshop:stop-or-go", args=[number])

    def act():
        decide(request.user, unit, sent(request, "what"), sent(request, "why"))

    return press(request, act, there, "why")


def _unit(number) -> Unit:
    return get_object_or_404(Unit.objects.select_related("lot", "line", "model__fit"), number=number)
