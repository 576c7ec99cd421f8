"""What one lot earned."""

from django.core.paginator import Paginator
from django.shortcuts import get_object_or_404, render

from core.books.earnings import an_hour
from stations.books import selectors
from stations.books.drawing import waterfall
from stations.buying.models import Lot
from stations.buying.money_bar import money_bars
from stations.units.costs import not_shared
from stations.workshop.models import Job


def lot(request, number):
    """One lot: its result, and every unit's part in it."""
    row = get_object_or_404(Lot.objects.select_related("supplier"), number=number)
    page = Paginator(row.units.select_related("line"), 50).get_page(request.GET.get("page"))
    units = list(page)
    earned = selectors.units_earnings(units)
    result = selectors.lot_results([row])[0]
    minutes = selectors.minutes_on(Job.objects.filter(unit__lot=row))
    context = {
        "lot": row,
        "result": result,
        "bar": money_bars([result])[row.pk],
        "page": page,
        "units": [(unit, earned[unit.pk]) for unit in units],
        "fall": waterfall(result.money, result.money.sale + result.to_come),
        "cost_unknown": next(iter(not_shared(units).values()), ""),
        "against_plan": selectors.against_plan(row),
        "minutes": minutes,
        "an_hour": an_hour(result.money, minutes) if row.priced else None,
    }
    return render(request, "books/lot.html", context)
