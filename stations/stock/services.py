"""What is done at the drawers: bought into, counted, sorted by condition, looked after."""

from collections.abc import Iterable
from dataclasses import dataclass
from decimal import Decimal

from django.db import transaction

from core.stock.costing import counted_cost
from core.stock.measure import Measure
from core.stock.parts import Condition
from stations.catalogue import fit_sheets
from stations.catalogue.models import MachineModel
from stations.common import clock
from stations.common.refusals import Refused, within
from stations.ledger.models import Account, EntryKind
from stations.ledger.selectors import balance
from stations.ledger.services import Leg, post
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.people.screens import save_versioned
from stations.stock import drawer
from stations.stock.drawer import Freed
from stations.stock.models import StockCount, StockItem, StockPurchase

STOCK = HistoryEntry.Subject.STOCK


@dataclass(frozen=True)
class Sort:
    """What goes into a drawer: a kind of part in a condition, and for one not seen before where and in what."""

    name: str
    condition: str = Condition.NEW.value
    drawer: str = ""
    measure: str = Measure.PIECE.value
    modern: bool = False
    keeps_data: bool = False


@dataclass(frozen=True)
class Stocked:
    """What was put in a drawer, and what waited for it."""

    item: StockItem
    freed: tuple[Freed, ...] = ()


def item_of(sort: Sort) -> StockItem:
    """The drawer of this sort, locked; a new one where there is none. A drawer with one piece that may hold data is
    treated as if all of them might."""
    known = {"name": within(sort.name, 80, "name"), "condition": sort.condition}
    first = {"drawer": within(sort.drawer, 20, "drawer"), "measure": sort.measure, "modern": sort.modern}
    item, made = StockItem.objects.get_or_create(**known, defaults={**first, "keeps_data": sort.keeps_data})
    item = drawer.hold_row(item)
    if not made and sort.measure != item.measure:
        raise Refused(f"{item.name} is kept in {item.counted_in.label} here.", "measure")
    if sort.keeps_data and not item.keeps_data:
        StockItem.objects.filter(pk=item.pk).update(keeps_data=True)
        item.keeps_data = True
    return item


@transaction.atomic
def buy_stock(person: Person, item: StockItem, amount: Decimal | int, paid: Decimal, document: str = "") -> None:
    """Put what was bought in the drawer; what it cost in all is paid from cash."""
    require(person, "add stock")
    if amount <= 0:
        raise Refused("At least one.", "quantity")
    if paid < 0:
        raise Refused("This may not be below 0.", "paid")
    item = drawer.hold_row(item)
    drawer.put(item, Decimal(amount))
    legs = [Leg(Account.STOCK, item.pk, EntryKind.PURCHASE, paid), Leg(Account.CASH, 0, EntryKind.PURCHASE, -paid)]
    words = f"Bought {item.words(Decimal(amount))} {item.name}"
    StockPurchase.objects.create(
        item=item,
        amount=amount,
        paid=paid,
        after=item.quantity,
        posting=post(person, document or words, legs),
        when=clock.now(),
        who=person,
    )
    history.record(person, "stock.buy_stock", STOCK, item.pk, f"{words}, {paid}", amount=Decimal(amount), paid=paid)


@transaction.atomic
def stock_part(person: Person, sort: Sort, amount: Decimal | int | str, paid: Decimal) -> Stocked:
    """Put bought parts in a drawer, as typed in its measure; more of a part that is here already adds to it. Answers
    what can go on now."""
    require(person, "add stock")
    drawer.hold_waiting([sort.name])
    item = item_of(sort)
    buy_stock(person, item, drawer.typed_amount(item, str(amount)), paid)
    return Stocked(drawer.hold_row(item), tuple(drawer.came(person, [item])))


@dataclass(frozen=True)
class ItemDetails:
    """What a sort of part is called, where it lies, what it is counted in, when more is ordered and up to how many;
    None where no more is."""

    name: str
    drawer: str
    measure: str
    reorder_at: Decimal | None
    reorder_to: Decimal | None
    modern: bool
    keeps_data: bool


@transaction.atomic
def change_item(
    person: Person, item: StockItem, seen_version: int, said: ItemDetails, fits: Iterable[MachineModel]
) -> None:
    """What it is called, where it lies, when more is ordered, what it fits. What it is counted in stays once anything
    went in or out."""
    require(person, "add stock")
    locked = drawer.hold_row(item)
    if StockItem.objects.filter(name=said.name, condition=locked.condition).exclude(pk=item.pk).exists():
        raise Refused(f"There is a {said.name}, {locked.get_condition_display()}, already.", "name")
    moved = locked.quantity or locked.receipts.exists() or balance(Account.STOCK, item.pk)
    if said.measure != locked.measure and (moved or locked.order_lines.exists()):
        raise Refused(f"There is stock of it in {locked.counted_in.label}: that stays.", "measure")
    save_versioned(item, seen_version, vars(said))
    item.fits.set(fits)
    if said.name != locked.name:
        fit_sheets.called_anew(locked.name, said.name)
        words = f"Called {said.name}, was {locked.name}"
        history.record(person, "stock.change_item", HistoryEntry.Subject.STOCK, item.pk, words)


@transaction.atomic
def count(person: Person, item: StockItem, counted: Decimal, reason: str) -> StockCount:
    """A drawer was counted. What is not there leaves the books at the average, as a loss; what is found costs nothing,
    so the average falls. Never below what is held for jobs."""
    require(person, "count a drawer")
    item = drawer.hold_row(item)
    if counted < 0:
        raise Refused("A count may not be below 0.", "counted")
    if counted < item.reserved:
        said = f"{item.words(item.reserved)} of it are held: {drawer.held_words(item)}. Let that go first."
        raise Refused(said, "counted")
    if counted != item.quantity and not reason:
        raise Refused(f"The books say {item.amount}. Say how the difference came about.", "reason")
    expected = item.quantity
    cost = counted_cost(item.quantity, balance(Account.STOCK, item.pk), counted)
    StockItem.objects.filter(pk=item.pk).update(quantity=counted)
    legs = [Leg(Account.STOCK, item.pk, EntryKind.WRITE_OFF, -cost), Leg(Account.LOSS, 0, EntryKind.WRITE_OFF, cost)]
    words = f"Counted {item.words(counted)}, {item.words(expected)} in the books"
    posting = post(person, f"{item.name}: {words}; {reason}", legs)
    row = StockCount.objects.create(
        item=item,
        expected=expected,
        counted=counted,
        reason=within(reason, 160, "reason"),
        cost=cost,
        posting=posting,
        when=clock.now(),
        who=person,
    )
    said = f"; {reason}" if reason else ""
    history.record(person, "stock.count", STOCK, item.pk, words + said, counted=counted, expected=expected, cost=cost)
    return row


@transaction.atomic
def correct_condition(
    person: Person, item: StockItem, amount: Decimal, condition: Condition, reason: str, to_drawer: str = ""
) -> StockItem:
    """Some of a drawer turned out otherwise: faulty ones are good, good ones faulty. They go to the drawer of what they
    are, with what they cost on average. Where others of it are in use says `drawer.used_in`."""
    require(person, "correct a condition")
    if not reason:
        raise Refused("Say how that was found out.", "reason")
    if item.condition == condition:
        raise Refused(f"They are {condition.label} already.", "condition")
    item = drawer.hold_row(item)
    cost = drawer.take(item, amount)
    sort = Sort(item.name, condition.value, to_drawer or item.drawer, item.measure, item.modern, item.keeps_data)
    other = item_of(sort)
    drawer.put(other, amount)
    legs = [
        Leg(Account.STOCK, item.pk, EntryKind.TRANSFER, -cost),
        Leg(Account.STOCK, other.pk, EntryKind.TRANSFER, cost),
    ]
    words = f"{item.words(amount)} {item.name} are {condition.label}, not {item.get_condition_display()}: {reason}"
    post(person, words, legs)
    for row in (item, other):
        history.record(person, "stock.correct_condition", STOCK, row.pk, words, amount=amount, cost=cost)
    return other
