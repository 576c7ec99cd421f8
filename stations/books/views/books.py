"""The lots and what they earned."""

from django.core.paginator import Paginator
from django.shortcuts import render

from stations.books import selectors
from stations.buying.models import Lot
from stations.buying.money_bar import money_bars


def books(request):
    """Every lot with what it cost, brought and may still bring."""
    page = Paginator(Lot.objects.select_related("supplier"), 25).get_page(request.GET.get("page"))
    results = selectors.lot_results(list(page))
    bars = money_bars(results)
    rows = [(result, bars[result.lot.pk]) for result in results]
    return render(request, "books/books.html", {"page": page, "rows": rows, "to_settle": selectors.to_settle()})
