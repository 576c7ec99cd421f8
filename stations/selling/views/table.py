"""What stands at selling, and what waits for a seller."""

from django.core.paginator import Paginator
from django.db.models import F
from django.shortcuts import render

from core.flow.stage import Stage, Station
from stations.common.paging import ByKeys, rows_of
from stations.selling import attention
from stations.units.models import Unit

SHOWN = attention.SHOWN


def selling(request):
    """First what brings most for its minutes, then each list that may not be forgotten."""
    here = Unit.objects.filter(station=Station.SELLING)
    to_list = here.exclude(stage=Stage.LISTED).select_related("lot").order_by(F("pull").desc(nulls_last=True), "id")
    live = attention.keys(attention.live().order_by("-published_at", "-id"))
    context = {
        "page": Paginator(to_list, 15).get_page(request.GET.get("page")),
        "live": ByKeys(live, attention.WITH_UNIT, 15).get_page(request.GET.get("live")),
        "first": attention.first(),
        "needs": attention.needs_somebody()[:SHOWN],
        "trouble": attention.in_trouble()[:SHOWN],
        "maybe_up": attention.maybe_up()[:SHOWN],
        "by_hand": attention.to_do_by_hand()[:SHOWN],
        "offers": attention.waiting_offers().count(),
        "questions": attention.waiting_questions().count(),
        "markdowns": rows_of(attention.keys(attention.markdowns())[:SHOWN], attention.WITH_UNIT),
        "stale": rows_of(attention.keys(attention.stale())[:SHOWN], attention.WITH_UNIT),
        "due": attention.due(),
    }
    return render(request, "selling/selling.html", context)
