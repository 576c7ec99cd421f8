"""Lots and lines as CSV and JSON."""

from django.core.paginator import Paginator
from django.http import JsonResponse
from django.shortcuts import get_object_or_404

from stations.buying import selectors
from stations.buying.models import Lot
from stations.buying.sharing import current_sharing
from stations.common.spreadsheet import csv_answer

LOT_FIELDS = ("code", "title", "supplier", "source", "bought_on", "currency", "rate", "landed_total", "back", "cost")


def _lot_rows():
    """Every lot as exported, a page of the books at a time."""
    lots = selectors.lots()
    for page in Paginator(lots, 200):
        for row in selectors.with_money(list(page)):
            lot = row.lot
            yield (
                lot.code,
                lot.title,
                lot.supplier.name,
                lot.source_kind,
                lot.bought_on.isoformat(),
                lot.currency,
                lot.rate,
                lot.landed_total if lot.priced else "",
                row.money.sale,
                row.money.cost if lot.priced else "",
            )


def lots_csv(request):
    return csv_answer("lots.csv", LOT_FIELDS, _lot_rows())


def lots_json(request):
    rows = [dict(zip(LOT_FIELDS, map(str, row), strict=True)) for row in _lot_rows()]
    return JsonResponse({"lots": rows})


LINE_FIELDS = (
    "lot",
    "position",
    "description",
    "quantity",
    "received",
    "not_come",
    "kind",
    "claim",
    "claim_words",
    "weight_kg",
    "worth_low",
    "worth_likely",
    "worth_high",
    "finish_cost",
    "share",
)


def _line_rows(lot):
    for line, share, _ in selectors.lines_with_shares(lot.lines.all(), current_sharing(lot)):
        yield (
            lot.code,
            line.position,
            line.description,
            line.quantity,
            line.received,
            line.not_come,
            line.kind,
            line.claim,
            line.claim_words,
            line.weight_kg,
            line.worth_low,
            line.worth_likely,
            line.worth_high,
            line.finish_cost,
            share.amount if share else "",
        )


def lines_csv(request, number):
    lot = get_object_or_404(Lot, number=number)
    return csv_answer(f"{lot.code}.csv", LINE_FIELDS, _line_rows(lot))


def lines_json(request, number):
    lot = get_object_or_404(Lot, number=number)
    rows = [
        {name: None if value in (None, "") else str(value) for name, value in zip(LINE_FIELDS, row, strict=True)}
        for row in _line_rows(lot)
    ]
    return JsonResponse({"lot": lot.code, "lines": rows})
