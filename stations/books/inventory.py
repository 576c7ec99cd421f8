"""The list of the stock as it stood when a day began, thing by thing, for whoever keeps the accounts."""

from collections import defaultdict
from datetime import date
from decimal import Decimal
from typing import NamedTuple

from django.db.models import Sum

from core.books.statement import OF_SELLING, Place
from core.money import ZERO
from stations.books.statements import PLACES, sold_by
from stations.buying.models import Lot
from stations.ledger.models import Account, LedgerEntry
from stations.stock.models import StockItem
from stations.units.models import Part, Unit


class Held(NamedTuple):
    """One thing, where it stood in the books, and what it had cost by then, in base currency."""

    where: str
    tag: str
    what: str
    lot: str
    cost: Decimal


def inventory(day: date) -> list[Held]:
    """All that cost stood at, by place: together they are the stock of a statement that closes then. Six queries."""
    costs: dict[tuple[Place, int], Decimal] = defaultdict(lambda: ZERO)
    before = LedgerEntry.objects.filter(happened_on__lt=day).order_by()
    rows = before.filter(account__in=PLACES).values_list("account", "account_id", "lot_id").annotate(sum=Sum("amount"))
    for account, key, lot, amount in rows:
        place = PLACES[Account(account)]
        costs[place, lot if place is Place.LOTS else key] += amount
    held = before.filter(~sold_by(day, "account_id"), account=Account.UNIT).exclude(kind__in=OF_SELLING)
    sums = dict(held.values_list("account_id").annotate(sum=Sum("amount")))
    units = Unit.objects.select_related("lot").in_bulk(sums)
    for key, amount in sums.items():
        costs[Place(units[key].holding) if key in units else Place.OURS, key] = amount
    keys = {place: [key for at, key in costs if at is place] for place in Place}
    told = {(Place(unit.holding), pk): (str(unit.tag), unit.title, unit.lot.code) for pk, unit in units.items()}
    for pk, lot in Lot.objects.in_bulk(keys[Place.LOTS]).items():
        told[Place.LOTS, pk] = lot.code, lot.title, lot.code
    for pk, item in StockItem.objects.in_bulk(keys[Place.DRAWERS]).items():
        told[Place.DRAWERS, pk] = item.drawer, item.name, ""
    for pk, part in Part.objects.in_bulk(keys[Place.PARTS]).items():
        told[Place.PARTS, pk] = part.code, part.name, ""
    order = list(Place)
    # What is not on record any more has no words.
    found = sorted((order.index(at[0]), told.get(at, ("", "", "")), cost) for at, cost in costs.items() if cost)
    return [Held(order[place].words, *words, cost) for place, words, cost in found]
