"""What is worth doing to a unit, and proposals that become jobs."""

from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from stations.people.screens import press
from stations.units.models import Unit
from stations.workshop import services
from stations.workshop.proposals import proposals_of


def worth(request, number):
    """What is worth doing: fetched by the unit’s page once that stands, or a page of its own."""
    units = Unit.objects.select_related("lot", "model__strip_down", "strip_down")
    unit = get_object_or_404(units, number=number)
    template = "workshop/_proposals.html" if request.headers.get("HX-Request") else "workshop/worth.html"
    return render(request, template, {"unit": unit, "proposals": proposals_of(unit)})


@require_POST
def open_one(request, number):
    unit = get_object_or_404(Unit, number=number)

    there = reverse("workshop:unit", args=[number])

    def act():
        jobs = [services.open_proposed(request.user, unit, key) for key in request.POST.getlist("key")[:12]]
        return reverse("workshop:job", args=[jobs[0].pk]) if len(jobs) == 1 else there

    return press(request, act, there)
