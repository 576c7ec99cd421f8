"""What stands at selling."""

from django.core.paginator import Paginator
from django.shortcuts import render

from core.flow.stage import Station
from stations.units.models import Unit


def selling(request):
    units = (
        Unit.objects.filter(station=Station.SELLING).select_related("lot", "listing").order_by("stage", "stage_since")
    )
    to_send = Unit.objects.filter(stage__in=["sold", "sent"]).select_related("lot", "sale").order_by("stage_since")
    page = Paginator(units, 25).get_page(request.GET.get("page"))
    return render(request, "selling/selling.html", {"page": page, "to_send": to_send[:50]})
