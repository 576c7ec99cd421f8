"""Where the money is now."""

from datetime import timedelta

from django.core.paginator import Paginator
from django.shortcuts import render

from core.books.statement import Place
from core.books.valuation import AGE_WORDS, together
from stations.books import held, statements
from stations.common import clock

PER_PAGE = 25
# What is told unit by unit.
_UNITS = {Place.OURS, Place.ON_COMMISSION}


def stock(request):
    """What stands where at what it cost, what of it will bring less, and what lies unused."""
    rows = held.units_held()
    units = together(row.held for row in rows)
    stands = statements.stood(clock.today() + timedelta(days=1))
    drawers, idle = held.idle_drawers()
    context = {
        "stands": stands,
        "places": [(place, amount) for place in Place if (amount := stands.held.get(place)) and place not in _UNITS],
        "units": units,
        "lower": stands.stock - units.too_much,
        "stations": held.by_station(rows),
        "page": Paginator(rows, PER_PAGE).get_page(request.GET.get("page")),
        "ages": AGE_WORDS,
        "idle_days": held.IDLE,
        "drawers": drawers,
        "idle": idle,
    }
    return render(request, "books/stock.html", context)
