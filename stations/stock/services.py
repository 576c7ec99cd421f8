"""What is done at the drawers: bought into, counted, sorted by condition, looked after."""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from datetime import date
from decimal import Decimal

from django.db import transaction

from core.stock.costing import counted_cost
from core.stock.measure import Measure
from core.stock.parts import Condition
from stations.catalogue import fit_sheets
from stations.catalogue.models import MachineModel
from stations.common import clock
from stations.common.happened import day_said, moment_on
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
from stations.stock.models import OrderLine, StockCount, StockItem, StockPurchase

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
    """The drawer of this sort, locked; a new one where there is none, and one that was put away is in use again. A
    drawer with one piece that may hold data is treated as if all of them might."""
    known = {"name": within(sort.name, 80, "name"), "condition": sort.condition}
    first = {"drawer": within(sort.drawer, 20, "drawer"), "measure": sort.measure, "modern": sort.modern}
    item, made = StockItem.objects.get_or_create(**known, defaults={**first, "keeps_data": sort.keeps_data})
    item = drawer.hold_row(item)
    if not made and sort.measure != item.measure:
        raise Refused(f"{item.name} is kept in {item.counted_in.label} here.", "measure")
    keeps_data = item.keeps_data or sort.keeps_data
    if keeps_data != item.keeps_data or not item.in_use:
        StockItem.objects.filter(pk=item.pk).update(keeps_data=keeps_data, in_use=True)
        item.keeps_data, item.in_use = keeps_data, True
    return item


@transaction.atomic
def buy_stock(
    person: Person,
    item: StockItem,
    amount: Decimal | int,
    paid: Decimal,
    document: str = "",
    on: date | None = None,
) -> None:
    """Put what was bought, today or on a day before, in the drawer; what it cost in all is paid from cash."""
    require(person, "add stock")
    if amount <= 0:
        raise Refused("At least one.", "quantity")
    if paid < 0:
        raise Refused("This may not be below 0.", "paid")
    when = moment_on(on)
    item = drawer.hold_row(item)
    drawer.put(item, Decimal(amount))
    legs = [Leg(Account.STOCK, item.pk, EntryKind.PURCHASE, paid), Leg(Account.CASH, 0, EntryKind.PURCHASE, -paid)]
    words = f"Bought {item.words(Decimal(amount))} {item.name}"
    StockPurchase.objects.create(
        item=item,
        amount=amount,
        paid=paid,
        after=item.quantity,
        posting=post(person, document or words, legs, clock.day_of(when)),
        when=when,
        who=person,
    )
    history.record(
        person, "stock.buy_stock", STOCK, item.pk, f"{words}, {paid}{day_said(when)}", amount=Decimal(amount), paid=paid
    )


@transaction.atomic
def stock_part(
    person: Person,
    sort: Sort,
    amount: Decimal | int | str,
    paid: Decimal,
    on: date | None = None,
    another: bool = False,
) -> Stocked:
    """Put bought parts in a drawer, as typed in its measure; more of a part that is here already adds to it, as many
    for as much on the same day only where it is said that they are `another` lot. Answers what can go on now."""
    require(person, "add stock")
    drawer.hold_waiting([sort.name])
    item = item_of(sort)
    typed = drawer.typed_amount(item, str(amount))
    if not another:
        _refuse_the_same(item, typed, paid, on or clock.today())
    buy_stock(person, item, typed, paid, on=on)
    return Stocked(drawer.hold_row(item), tuple(drawer.came(person, [item])))


def _refuse_the_same(item: StockItem, amount: Decimal, paid: Decimal, on: date) -> None:
    """Two people may have typed one invoice."""
    begin, end = clock.span_of(on)
    same = item.purchases.filter(amount=amount, paid=paid, when__gte=begin, when__lt=end, undone_at=None)
    if before := same.select_related("who").first():
        words = f"{before.who.name} put {item.words(amount)} in for {paid:.2f} on that day."
        raise Refused(f"{words} Tick the box if these are others.", "another")


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
    in_use: bool = True


@transaction.atomic
def change_item(
    person: Person,
    item: StockItem,
    seen_version: int,
    said: ItemDetails,
    fits: Iterable[MachineModel],
    together: bool = False,
) -> StockItem:
    """What it is called, where it lies, when more is ordered, what it fits; one that is empty can be put away. What it
    is counted in stays once anything went in or out. One that is there by that name already is the same one where
    `together` says so: then what lies here lies there, with what it cost. Answers the drawer it is in."""
    require(person, "add stock")
    same = StockItem.objects.filter(name=said.name, condition=item.condition).exclude(pk=item.pk).first()
    held = {row.pk: drawer.hold_row(row) for row in sorted(filter(None, (item, same)), key=lambda row: row.pk)}
    locked = held[item.pk]
    if same is not None:
        if not together:
            words = (
                f"There is a {same.name}, {same.get_condition_display()}, already. Tick the box if they are the same."
            )
            raise Refused(words, "together")
        return _put_together(person, locked, held[same.pk], seen_version)
    moved = locked.quantity or locked.receipts.exists() or balance(Account.STOCK, item.pk)
    if said.measure != locked.measure and (moved or locked.order_lines.exists()):
        raise Refused(f"There is stock of it in {locked.counted_in.label}: that stays.", "measure")
    if not said.in_use:
        if locked.quantity:
            raise Refused(f"{locked.amount} are there. Only an empty drawer is put away.", "in_use")
        _refuse_on_order(locked, "in_use")
        said = replace(said, reorder_at=None, reorder_to=None)
    told = {name: value for name, value in vars(said).items() if name not in {"name", "in_use"}}
    history.changed(person, "stock.change_item", STOCK, item.pk, "Put right", item, told)
    save_versioned(item, seen_version, vars(said))
    fitted, fits = set(item.fits.all()), set(fits)
    item.fits.set(fits)
    if fits != fitted:
        words = f"Fits {', '.join(sorted(map(str, fits))) or 'nothing that is said'}"
        history.record(person, "stock.change_item", STOCK, item.pk, words)
    if said.name != locked.name:
        fit_sheets.called_anew(locked.name, said.name)
        words = f"Called {said.name}, was {locked.name}"
        history.record(person, "stock.change_item", STOCK, item.pk, words)
    if said.in_use != locked.in_use:
        words = "In use again" if said.in_use else "Put away: there will be no more of it"
        history.record(person, "stock.change_item", STOCK, item.pk, words)
    return item


def _refuse_on_order(item: StockItem, field: str) -> None:
    line = OrderLine.objects.filter(item=item, order__arrived_at=None, order__called_off="").first()
    if line is not None:
        raise Refused(f"{item.words(line.quantity)} of it are on order, {line.order.code}. Take that in first.", field)


def _put_together(person: Person, item: StockItem, other: StockItem, seen_version: int) -> StockItem:
    """What lies in the one lies in the other, with what it cost; the one is put away, and its story stays."""
    if item.measure != other.measure:
        raise Refused(f"{other.name} is kept in {other.counted_in.label}, this in {item.counted_in.label}.", "together")
    if item.reserved:
        said = f"{item.words(item.reserved)} of it are held: {drawer.held_words(item)}. Let that go first."
        raise Refused(said, "together")
    _refuse_on_order(item, "together")
    amount = item.quantity
    save_versioned(item, seen_version, {"reorder_at": None, "reorder_to": None})
    if amount:
        cost = drawer.take(item, amount, field="together")
        drawer.put(other, amount)
        legs = [
            Leg(Account.STOCK, item.pk, EntryKind.TRANSFER, -cost),
            Leg(Account.STOCK, other.pk, EntryKind.TRANSFER, cost),
        ]
        post(person, f"{item.name} is {other.name}", legs)
    flags = {"modern": item.modern or other.modern, "keeps_data": item.keeps_data or other.keeps_data}
    StockItem.objects.filter(pk=other.pk).update(in_use=True, **flags)
    StockItem.objects.filter(pk=item.pk).update(in_use=False)
    other.fits.add(*item.fits.all())
    fit_sheets.called_anew(item.name, other.name)
    words = f"{item.words(amount)} of {item.name} put together with {other.name}"
    for row in (item, other):
        history.record(person, "stock.put_together", STOCK, row.pk, words, amount=amount)
    return drawer.hold_row(other)


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
    unknown = drawer.refuse_unpriced(item, expected - counted, "counted")
    cost = counted_cost(expected, balance(Account.STOCK, item.pk), counted, unknown)
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
