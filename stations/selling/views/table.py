"""What stands at selling, and what waits for a seller."""

from django.core.paginator import Paginator
from django.db.models import F
from django.shortcuts import render

from core.flow.stage import Station
from stations.selling import attention
from stations.units.models import Unit

SHOWN = attention.SHOWN


def selling(request):
    """First what brings most for its minutes, then each list that may not be forgotten."""
    units = Unit.objects.filter(station=Station.SELLING).select_related("lot", "listing")
    units = units.order_by(F("pull").desc(nulls_last=True), "stage_since")
    to_send = Unit.objects.filter(stage__in=["sold", "sent"]).select_related("lot", "sale").order_by("stage_since")
    context = {
        "page": Paginator(units, 25).get_page(request.GET.get("page")),
        "first": attention.first(),
        "needs": attention.needs_somebody()[:SHOWN],
        "trouble": attention.in_trouble()[:SHOWN],
        "maybe_up": attention.maybe_up()[:SHOWN],
        "by_hand": attention.to_do_by_hand()[:SHOWN],
        "offers": attention.waiting_offers().count(),
        "questions": attention.waiting_questions().count(),
        "markdowns": attention.markdowns().order_by("-gains")[:SHOWN],
        "stale": attention.stale().order_by("-stale", "unit__number")[:SHOWN],
        "to_send": to_send[:50],
    }
    return render(request, "selling/selling.html", context)
