"""Next up at one station: fetched by its page."""

from django.http import Http404
from django.shortcuts import render

from core.flow.stage import Station
from stations.floor import selectors
from stations.floor.views.next_page import next_address

MOST = 3


def next_at(request, station):
    if station not in {one.value for one in Station}:
        raise Http404
    steps = [(step, next_address(step.unit)) for step in selectors.next_steps(most=MOST, station=station)]
    return render(request, "floor/_next_at.html", {"steps": steps})
