from django.core.paginator import Paginator
from django.shortcuts import get_object_or_404, render

from stations.books import selectors
from stations.books.drawing import waterfall
from stations.buying.models import Lot
from stations.buying.money_bar import money_bars
from stations.ledger.models import Account
from stations.ledger.selectors import postings_of
from stations.units.models import Unit


def books(request):
    """Every lot with what it cost, brought and may still bring."""
    page = Paginator(Lot.objects.select_related("supplier"), 25).get_page(request.GET.get("page"))
    results = selectors.lot_results(list(page))
    bars = money_bars(results)
    rows = [(result, bars[result.lot.pk]) for result in results]
    return render(request, "books/books.html", {"page": page, "rows": rows})


def lot(request, number):
    """One lot: its result, and every unit's part in it."""
    row = get_object_or_404(Lot.objects.select_related("supplier"), number=number)
    page = Paginator(row.units.select_related("line"), 50).get_page(request.GET.get("page"))
    units = list(page)
    earned = selectors.units_earnings(units)
    result = selectors.lot_results([row])[0]
    context = {
        "lot": row,
        "result": result,
        "bar": money_bars([result])[row.pk],
        "page": page,
        "units": [(unit, earned[unit.pk]) for unit in units],
        "fall": waterfall(result.money, result.money.sale + result.to_come),
        "against_plan": selectors.against_plan(row),
    }
    return render(request, "books/lot.html", context)


def unit(request, number):
    """One unit's ledger, entry by entry, with reversals in sight."""
    row = get_object_or_404(Unit.objects.select_related("lot", "line"), number=number)
    money = selectors.units_earnings([row])[row.pk]
    postings = [
        (posting, [e for e in posting.entries.all() if e.account == Account.UNIT and e.account_id == row.pk])
        for posting in postings_of(Account.UNIT, row.pk)
    ]
    context = {"unit": row, "money": money, "fall": waterfall(money, row.expected_worth), "postings": postings}
    return render(request, "books/unit.html", context)
