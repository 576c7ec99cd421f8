"""What the pages of the stock read. Query counts don’t grow with rows."""

from dataclasses import dataclass
from decimal import Decimal

from django.core.paginator import Paginator
from django.db.models import F, Q

from core.stock.costing import average_cost
from core.stock.measure import Measure
from stations.catalogue.models import MachineModel
from stations.ledger.models import Account, LedgerEntry, Posting
from stations.ledger.selectors import balances
from stations.stock import drawer, orders
from stations.stock.drawer import Unpriced
from stations.stock.models import PartOrder, StockItem

MOST_FOUND = 2000


@dataclass(frozen=True)
class InStock:
    """An item as its drawer shows it: what it is worth in the books, in all and each, and what is on the way."""

    item: StockItem
    worth: Decimal
    coming: Decimal = Decimal(0)
    unpriced: tuple[Unpriced, ...] = ()

    @property
    def each(self) -> Decimal | None:
        """What one of it costs, or a hundred ml or g; None where nobody knows what any of it cost."""
        each = average_cost(self.item.quantity, self.worth, sum((row.amount for row in self.unpriced), Decimal(0)))
        return each * self.per if each is not None else None

    @property
    def per(self) -> int:
        return 100 if self.item.counted_in in {Measure.ML, Measure.GRAM} else 1

    @property
    def per_words(self) -> str:
        return f"a {self.per} {self.item.measure}" if self.per > 1 else ""

    @property
    def coming_amount(self) -> str:
        return self.item.words(self.coming) if self.coming else ""

    @property
    def to_order(self) -> Decimal | None:
        """How much to order: from what is free and on the way up to the level; None where it is above its level."""
        item = self.item
        there = item.free + self.coming
        if item.reorder_at is None or there > item.reorder_at:
            return None
        return (item.reorder_to if item.reorder_to is not None else item.reorder_at) - there

    @property
    def to_order_amount(self) -> str:
        amount = self.to_order
        return self.item.words(amount) if amount else ""


def in_stock(items: list[StockItem]) -> list[InStock]:
    """Each item with its worth, what is on the way, and of what nobody knows the cost yet: three queries for all."""
    worth = balances(Account.STOCK, [item.pk for item in items])
    coming, unpriced = orders.on_the_way(items), drawer.unpriced(items)
    return [InStock(item, worth[item.pk], coming.get(item.pk, Decimal(0)), tuple(unpriced[item.pk])) for item in items]


def find(words: str = "", fits: MachineModel | None = None, low: bool = False):
    """Items by every word of their name, or one word that is their drawer; by what they fit; or only what is at its
    level."""
    found = StockItem.objects.filter(in_use=True)
    several = words.split()
    if len(several) == 1:
        found = found.filter(Q(found_by__icontains=several[0]) | Q(drawer__iexact=several[0]))
    else:
        for word in several:
            found = found.filter(found_by__icontains=word)
    if fits is not None:
        found = found.filter(fits=fits)
    if low:
        found = found.filter(at_level=1)
    return found


def page_of(found, words: str, number: str | None, per_page: int):
    """A page of what was found. With words all of it is gone through once, by an index alone; past `MOST_FOUND` it
    is not counted on."""
    if not words:
        return Paginator(found, per_page).get_page(number)
    keys = found.order_by("found_by", "condition").values_list("pk", flat=True)[:MOST_FOUND]
    page = Paginator(list(keys), per_page).get_page(number)
    rows = StockItem.objects.in_bulk(list(page.object_list))
    page.object_list = [rows[pk] for pk in page.object_list if pk in rows]
    return page


def in_the_books(item: StockItem) -> list[tuple[Posting, Decimal]]:
    """What came to it and went from it last, newest first: two queries."""
    entries = LedgerEntry.objects.filter(account=Account.STOCK, account_id=item.pk).select_related("posting")
    return [(entry.posting, entry.amount) for entry in entries.order_by("-id")[:10]]


def open_orders():
    """Orders that have not come, the one expected first at the head; those without a day last."""
    rows = PartOrder.objects.filter(arrived_at=None, called_off="").select_related("seller", "ordered_by")
    return rows.prefetch_related("lines__item").order_by(F("expected_on").asc(nulls_last=True), "number")


def stock_with_value(items: list[StockItem]) -> list[tuple]:
    """Each item with what it is worth in the books, all of it and a piece (None: nobody knows): two queries for all."""
    worth, unpriced = balances(Account.STOCK, [item.pk for item in items]), drawer.unpriced(items)

    def each(item: StockItem) -> Decimal | None:
        return average_cost(item.quantity, worth[item.pk], sum((row.amount for row in unpriced[item.pk]), Decimal(0)))

    return [(item, worth[item.pk], each(item)) for item in items]
