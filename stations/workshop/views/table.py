"""What stands in the workshop."""

from django.core.paginator import Paginator
from django.shortcuts import render

from core.flow.stage import Station
from stations.units.selectors import units_at


def workshop(request):
    page = Paginator(units_at(Station.WORKSHOP), 25).get_page(request.GET.get("page"))
    return render(request, "workshop/workshop.html", {"page": page})
