"""What stands in the workshop."""

from django.core.paginator import Paginator
from django.shortcuts import render

from core.flow.stage import Station
from stations.units.selectors import units_at
from stations.workshop import selectors


def workshop(request):
    page = Paginator(units_at(Station.WORKSHOP), 25).get_page(request.GET.get("page"))
    context = {"page": page, "fixes": selectors.temporary_fixes(), "open_machines": selectors.standing_open()}
    return render(request, "workshop/workshop.html", context)
