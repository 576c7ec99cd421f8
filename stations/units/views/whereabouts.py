"""Where things stand: one unit put somewhere else, scanned one after another, or a whole shelf."""

from urllib.parse import urlencode

from django.contrib import messages
from django.core.paginator import Paginator
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from stations.people.screens import press, saved, sent
from stations.units import whereabouts
from stations.units.forms import PlaceForm
from stations.units.models import Unit

PER_PAGE = 50


def place(request, number):
    """Where one unit stands now: a place that is known is one press."""
    unit = get_object_or_404(Unit.objects.select_related("lot", "model"), number=number)
    form = PlaceForm(request.POST or None, initial={"place": unit.place})

    def put(data):
        whereabouts.put(request.user, [unit], data["place"])

    if done := saved(request, form, put, reverse("floor:unit", args=[number])):
        return done
    return render(request, "units/place.html", {"unit": unit, "form": form, "known": whereabouts.known_places()})


def put_down(request):
    """Tags scanned one after another are put in one place."""
    at = " ".join(request.GET.get("place", "").split())[:40]
    page = Paginator(whereabouts.standing_at(at), PER_PAGE).get_page(request.GET.get("page")) if at else None
    context = {"place": at, "page": page, "known": whereabouts.known_places()}
    return render(request, "units/put_down.html", context)


def _there(place: str) -> str:
    return f"{reverse('units:put-down')}?{urlencode({'place': place})}"


@require_POST
def put(request):
    """One tag was scanned."""
    at = sent(request, "place")

    def act():
        unit = whereabouts.unit_of(sent(request, "tag"))
        before = unit.place
        moved = whereabouts.put(request.user, [unit], at)
        was = f", was at {before}" if moved and before else ("" if moved else ", as before")
        messages.success(request, f"{unit.tag} {unit.title}: at {at}{was}.")

    return press(request, act, _there(at), "tag")


@require_POST
def move_all(request):
    """A whole shelf stands somewhere else."""
    at, to = sent(request, "place"), sent(request, "to")

    def act():
        moved = whereabouts.move_all(request.user, at, to)
        messages.success(request, f"{moved} stand at {to} now.")
        return _there(to)

    return press(request, act, _there(at), "to")
