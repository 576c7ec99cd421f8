"""What was said of a drawer by mistake, taken back while nothing else was done with it: bought, counted, come."""

from decimal import Decimal

from django.db import transaction

from core.money import ZERO
from stations.common import clock
from stations.common.locking import lock_row
from stations.common.refusals import Refused, reason
from stations.ledger.models import Account, LedgerEntry, Posting
from stations.ledger.services import reverse_posting
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.stock import drawer
from stations.stock.models import OrderLine, PartOrder, StockCount, StockItem, StockPurchase

ORDER, STOCK = HistoryEntry.Subject.ORDER, HistoryEntry.Subject.STOCK


def last_purchase(item: StockItem) -> StockPurchase | None:
    """What was bought into it last, where it can still be taken back."""
    row = StockPurchase.objects.filter(item=item, undone_at=None).select_related("who", "posting").last()
    return row if row and row.after == item.quantity and not _posted_since(item, row.posting) else None


def last_count(item: StockItem) -> StockCount | None:
    """How it was counted last, where that changed something and can still be taken back."""
    row = StockCount.objects.filter(item=item, undone_at=None).select_related("who", "posting").first()
    if row is None or not row.difference or row.counted != item.quantity:
        return None
    return None if _posted_since(item, row.posting) else row


@transaction.atomic
def not_bought(person: Person, purchase: StockPurchase, why: str) -> None:
    """It was not bought, or not so much, or for another sum: it is out of the drawer and out of the books."""
    require(person, "add stock")
    item, why = drawer.hold_row(purchase.item), reason(why)
    found = last_purchase(item)
    if found is None or found.pk != purchase.pk:
        raise Refused(f"Something else was done with it since: {item.amount} are there. Count it instead.")
    _refuse_held(item, item.quantity - found.amount)
    _undo(person, found.posting, why)
    StockPurchase.objects.filter(pk=found.pk).update(undone_at=clock.now(), posting=None)
    StockItem.objects.filter(pk=item.pk).update(quantity=item.quantity - found.amount)
    words = f"Not bought after all: {item.words(found.amount)}, {found.paid}; {why}"
    history.record(person, "stock.not_bought", STOCK, item.pk, words, amount=found.amount, paid=found.paid, why=why)


@transaction.atomic
def not_counted(person: Person, count: StockCount, why: str) -> None:
    """It was counted wrong: what was there before, and what it cost, is there again."""
    require(person, "count a drawer")
    item, why = drawer.hold_row(count.item), reason(why)
    found = last_count(item)
    if found is None or found.pk != count.pk:
        raise Refused(f"Something else was done with it since: {item.amount} are there. Count it again instead.")
    _refuse_held(item, found.expected)
    _undo(person, found.posting, why)
    StockCount.objects.filter(pk=found.pk).update(undone_at=clock.now(), cost=ZERO, posting=None)
    StockItem.objects.filter(pk=item.pk).update(quantity=found.expected, in_use=True)
    words = f"Counted wrong: {item.words(found.expected)} are there, not {item.words(found.counted)}; {why}"
    history.record(person, "stock.not_counted", STOCK, item.pk, words, expected=found.expected, why=why)


@transaction.atomic
def not_come(person: Person, order: PartOrder, why: str) -> None:
    """The parcel did not come, or not with that in it: its drawers are as they were, and it can be taken in again."""
    require(person, "take a parcel in")
    order, why = lock_row(PartOrder.objects.select_related("seller", "posting"), order), reason(why)
    if order.arrived_at is None:
        raise Refused("Nobody said that it came.")
    if here := order.rests.exclude(arrived_at=None).first():
        raise Refused(f"The rest of it came with {here.code}: take that back first.")
    for line in order.lines.select_related("item").order_by("item_id"):
        item, came = drawer.hold_row(line.item), line.came or ZERO
        if item.quantity < came or _posted_since(item, order.posting):
            raise Refused(f"Something else was done with {item.name} since: count that drawer instead.")
        _refuse_held(item, item.quantity - came)
        StockItem.objects.filter(pk=item.pk).update(quantity=item.quantity - came)
        if came:
            words = f"{item.words(came)} did not come with {order.code} after all; {why}"
            history.record(person, "stock.not_come", STOCK, item.pk, words, order=order.pk, why=why)
    _undo(person, order.posting, why)
    OrderLine.objects.filter(order=order).update(came=None, cost=ZERO)
    order.rests.filter(called_off="").update(called_off=f"{order.code} did not come: it is all in that again")
    PartOrder.objects.filter(pk=order.pk).update(arrived_at=None, arrived_by=None, landed=ZERO, posting=None, rest="")
    history.record(person, "stock.not_come", ORDER, order.pk, f"Not taken in after all: {why}", why=why)


def _posted_since(item: StockItem, posting: Posting | None) -> bool:
    """What was posted and taken back since is as if it had not been."""
    if posting is None:
        return False
    entries = LedgerEntry.objects.filter(account=Account.STOCK, account_id=item.pk, posting__gt=posting.pk)
    return entries.filter(posting__reversed_by=None).exclude(posting__reverses__gt=posting.pk).exists()


def _refuse_held(item: StockItem, left: Decimal) -> None:
    if item.reserved > left:
        raise Refused(f"{item.words(item.reserved)} of it are held: {drawer.held_words(item)}. Let that go first.")


def _undo(person: Person, posting: Posting | None, why: str) -> None:
    if posting is not None:
        reverse_posting(person, posting, why)
