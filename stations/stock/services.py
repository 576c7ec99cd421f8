"""Parts bought into drawers."""

from decimal import Decimal

from django.db import transaction

from stations.common.locking import lock_row
from stations.common.refusals import Refused
from stations.ledger.models import Account, EntryKind
from stations.ledger.services import Leg, post
from stations.people.models import Person
from stations.people.permissions import require
from stations.stock.models import StockItem


@transaction.atomic
def buy_stock(person: Person, item: StockItem, quantity: int, paid: Decimal, document: str = "") -> None:
    """Put bought parts in the drawer; what they cost in all is paid from cash."""
    require(person, "add stock")
    if quantity < 1:
        raise Refused("At least one.", "quantity")
    if paid < 0:
        raise Refused("This may not be below 0.", "paid")
    item = lock_row(StockItem.objects.all(), item)
    StockItem.objects.filter(pk=item.pk).update(quantity=item.quantity + quantity)
    legs = [Leg(Account.STOCK, item.pk, EntryKind.PURCHASE, paid), Leg(Account.CASH, 0, EntryKind.PURCHASE, -paid)]
    post(person, document or f"Bought {quantity} × {item.name}", legs)


@transaction.atomic
def stock_part(person: Person, part: dict, quantity: int, paid: Decimal) -> StockItem:
    """Put bought parts in a drawer; more of a part that is here already adds to it.

    `part` has name, condition, drawer and modern; the last two hold for a part not seen before.
    """
    require(person, "add stock")
    known = {name: part[name] for name in ("name", "condition")}
    keeps_data = part.get("keeps_data", False)
    first = {"drawer": part["drawer"], "modern": part["modern"], "keeps_data": keeps_data}
    item, made = StockItem.objects.get_or_create(**known, defaults=first)
    if keeps_data and not made:
        StockItem.objects.filter(pk=item.pk).update(keeps_data=True)
    buy_stock(person, item, quantity, paid)
    return item
