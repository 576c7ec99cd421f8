"""What stands at the bench, and what runs by itself just now."""

from django.core.paginator import Paginator
from django.shortcuts import render

from core.flow.stage import Station
from stations.bench import timers
from stations.common import clock
from stations.units.selectors import units_at


def bench(request):
    """What stands at the bench, and what runs by itself just now."""
    page = Paginator(units_at(Station.BENCH), 25).get_page(request.GET.get("page"))
    now = clock.now()
    return render(request, "bench/bench.html", {"page": page, "timers": timers.running()[:40], "now": now})
