"""What was ordered, from whom, and the parcel it comes in: taking it in puts it in drawers and frees what waited."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, datetime
from decimal import Decimal
from typing import Any

from django.db import transaction
from django.db.models import Max, Sum

from core.money import ZERO
from core.stock.parcel import ParcelLine, Rest, landed
from stations.common import clock
from stations.common.happened import day_said, moment_on, refuse_to_come
from stations.common.locking import lock_row
from stations.common.refusals import Refused, within
from stations.common.registry import Registry
from stations.ledger.models import Account, EntryKind
from stations.ledger.services import Leg, post
from stations.people import history, shop_settings
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.people.screens import save_versioned
from stations.stock import drawer
from stations.stock.drawer import Freed
from stations.stock.models import OrderLine, PartOrder, PartSeller, StockItem
from stations.stock.services import Sort, item_of

ORDER, STOCK = HistoryEntry.Subject.ORDER, HistoryEntry.Subject.STOCK
MOST_LINES = 200
# What speaks against spending so much each on parts of these names, in sentences: rooms further on answer.
doubts: Registry[Callable[[Mapping[str, Decimal]], list[str]]] = Registry("what speaks against an order")
# Who is told that these were ordered all the same.
answered: Registry[Callable[[Sequence[str]], None]] = Registry("who asked about an order")
MOST_MONEY = Decimal(10) ** 9


@dataclass(frozen=True)
class Terms:
    """On what terms something is ordered: `rate` is what one unit of the currency costs in ours."""

    expected_on: date | None = None
    currency: str = ""
    rate: Decimal = Decimal(1)
    postage: Decimal = ZERO
    duty: Decimal = ZERO
    note: str = ""
    ordered_on: date | None = None

    @property
    def said(self) -> dict[str, Any]:
        """The fields of an order; what was not said stays as it is."""
        return {name: value for name, value in vars(self).items() if name != "ordered_on" or value}


@dataclass(frozen=True)
class Ordered:
    """So much of a sort, at what one costs in the seller’s currency; `want`: what it is called among what is wanted."""

    sort: Sort
    typed: str
    each: Decimal
    want: str = ""


@dataclass(frozen=True)
class TakenIn:
    """What came of taking a parcel in."""

    order: PartOrder
    freed: tuple[Freed, ...] = field(default=())


@transaction.atomic
def order_parts(person: Person, seller: str, terms: Terms, wanted: Sequence[Ordered] = ()) -> PartOrder:
    """Begin an order with a seller, with what is ordered so far."""
    require(person, "order parts")
    if not seller:
        raise Refused("Say who sells it.", "seller")
    _check(terms)
    row, _ = PartSeller.objects.get_or_create(name=within(seller, 60, "seller"))
    shop_settings.take_turns()
    given = {"ordered_on": clock.today()} | {
        name: value for name, value in terms.said.items() if name != "currency" or value
    }
    order = PartOrder.objects.create(number=_next_number(), seller=row, ordered_by=person, **given)
    history.record(person, "stock.order_parts", ORDER, order.pk, f"Ordered from {row.name}")
    for one in wanted:
        add_to_order(person, order, one)
    return order


def doubted(priced: Mapping[str, Decimal]) -> list[str]:
    """What speaks against ordering parts of these names at so much each, base currency; each is said until it was
    ordered all the same."""
    return [words for told in doubts.values() for words in told(priced)]


def all_the_same(names: Sequence[str]) -> None:
    """These are ordered whatever was said against it: it is not asked again."""
    for told in answered.values():
        told(names)


@transaction.atomic
def add_to_order(person: Person, order: PartOrder, ordered: Ordered) -> OrderLine:
    """One more sort of part in an order that has not come; what is in it already is refused."""
    require(person, "order parts")
    order = _open(order)
    if ordered.each < 0:
        raise Refused("A price may not be below 0.", "each")
    item = item_of(ordered.sort)
    if order.lines.filter(item=item).exists():
        raise Refused(f"{item.name} is in the order already. Take it out first to change it.", "name")
    if order.lines.count() >= MOST_LINES:
        raise Refused(f"{MOST_LINES} lines at most. Begin another order.")
    amount = drawer.typed_amount(item, ordered.typed)
    if amount * ordered.each * order.rate >= MOST_MONEY:
        raise Refused("That is more than the books can hold.", "each")
    line = OrderLine.objects.create(
        order=order, item=item, quantity=amount, each=ordered.each, want=within(ordered.want, 160, "want")
    )
    words = f"{item.words(amount)} × {item.name} at {ordered.each} {order.currency}"
    history.record(person, "stock.add_to_order", ORDER, order.pk, words, item=item.pk)
    return line


@transaction.atomic
def drop_line(person: Person, line: OrderLine) -> None:
    """It is not ordered after all."""
    require(person, "order parts")
    order = _open(line.order)
    OrderLine.objects.filter(pk=line.pk).delete()
    history.record(person, "stock.drop_line", ORDER, order.pk, f"Not ordered: {line.item.name}")


@transaction.atomic
def change_terms(person: Person, order: PartOrder, seen_version: int, terms: Terms) -> None:
    """When it is expected, and what it costs beside the goods."""
    require(person, "order parts")
    _check(terms)
    _open(order)
    subject = HistoryEntry.Subject.ORDER
    history.changed(person, "stock.change_terms", subject, order.pk, order.code, order, terms.said)
    save_versioned(order, seen_version, terms.said)


@transaction.atomic
def call_off(person: Person, order: PartOrder, why: str) -> None:
    """It will not come, and why."""
    require(person, "order parts")
    if not why:
        raise Refused("Say why it will not come.", "why")
    order = _open(order)
    PartOrder.objects.filter(pk=order.pk).update(called_off=within(why, 160, "why"))
    history.record(person, "stock.call_off", ORDER, order.pk, f"Called off: {why}")


@transaction.atomic
def comes_after_all(person: Person, order: PartOrder) -> None:
    """It was called off by mistake, or comes all the same."""
    require(person, "order parts")
    order = lock_row(PartOrder.objects.all(), order)
    if not order.called_off:
        raise Refused(f"{order.code} is not called off.")
    PartOrder.objects.filter(pk=order.pk).update(called_off="")
    history.record(person, "stock.comes_after_all", ORDER, order.pk, "It comes after all")


@transaction.atomic
def take_in(person: Person, order: PartOrder, came: dict[int, str], on: date | None = None, rest: str = "") -> TakenIn:
    """The parcel is here, since today or a day before: what came of each line (by its key, as typed; nothing typed:
    all of it) goes into its drawer at landed cost, postage and duty shared by value. Where less came than was ordered,
    `rest` says what becomes of it (a Rest). Answers what can go on now."""
    require(person, "take a parcel in")
    if rest == Rest.LATER:
        # It gets a number of its own, and who gives one holds the shop first.
        shop_settings.take_turns()
    order = _open(order)
    lines = list(order.lines.select_related("item").order_by("item_id"))
    if not lines:
        raise Refused("Nothing is in this order yet.")
    arrived_at = moment_on(on, order.ordered_on, "ordered")
    drawer.hold_waiting([line.item.name for line in lines])
    items = {line.pk: drawer.hold_row(line.item) for line in lines}
    amounts = {line.pk: _came(items[line.pk], line, came.get(line.pk, "").strip()) for line in lines}
    short = [line for line in lines if amounts[line.pk] < line.quantity]
    if short and any(amounts.values()) and rest not in set(Rest):
        raise Refused("Less came than was ordered: say what becomes of the rest.", "rest")
    rest = rest if short else ""
    paid = {line.pk: line.quantity for line in short} if rest == Rest.PAID else {}
    parcel = [ParcelLine(amounts[line.pk], line.each, paid.get(line.pk)) for line in lines]
    try:
        cost = landed(parcel, order.rate, order.postage, order.duty)
    except ValueError as problem:
        raise Refused(str(problem)) from problem
    if cost.total >= MOST_MONEY:
        raise Refused("That is more than the books can hold: look at the rate, the amounts and the prices.")
    legs = []
    for line, share in zip(lines, cost.lines, strict=True):
        if amounts[line.pk]:
            drawer.put(items[line.pk], amounts[line.pk])
            legs.append(Leg(Account.STOCK, line.item_id, EntryKind.PURCHASE, share))
            words = f"{line.item.words(amounts[line.pk])} came with {order.code}, landed {share}"
            history.record(person, "stock.take_in", STOCK, line.item_id, words, order=order.pk, cost=share)
        OrderLine.objects.filter(pk=line.pk).update(came=amounts[line.pk], cost=share)
    legs.append(Leg(Account.CASH, 0, EntryKind.PURCHASE, -cost.total))
    posting = post(person, str(order), legs, clock.day_of(arrived_at))
    PartOrder.objects.filter(pk=order.pk).update(
        arrived_at=arrived_at, arrived_by=person, landed=cost.total, posting=posting, rest=rest
    )
    words = f"Taken in, landed {cost.total}{day_said(arrived_at)}"
    if rest == Rest.LATER:
        left = _rest_of(person, order, arrived_at, {line: line.quantity - amounts[line.pk] for line in short})
        words += f"; the rest comes with {left.code}"
    elif rest:
        words += f"; the rest {Rest(rest).label}"
    history.record(person, "stock.take_in", ORDER, order.pk, words, cost=cost.total)
    here = [items[line.pk] for line in lines if amounts[line.pk]]
    freed = drawer.came(person, here)
    order.refresh_from_db()
    return TakenIn(order, tuple(freed))


def _rest_of(person: Person, order: PartOrder, since: datetime, left: Mapping[OrderLine, Decimal]) -> PartOrder:
    """Another order for what comes later, waited for since the first parcel, at the same prices; its postage was paid
    with that."""
    rest = PartOrder.objects.create(
        number=_next_number(),
        seller=order.seller,
        ordered_on=clock.day_of(since),
        currency=order.currency,
        rate=order.rate,
        note=order.note,
        ordered_by=person,
        rest_of=order,
    )
    OrderLine.objects.bulk_create(
        OrderLine(order=rest, item=line.item, want=line.want, quantity=amount, each=line.each)
        for line, amount in left.items()
    )
    history.record(person, "stock.rest_of", ORDER, rest.pk, f"The rest of {order.code}")
    return rest


def _next_number() -> int:
    """Whoever asks has taken turns."""
    return (PartOrder.objects.aggregate(last=Max("number"))["last"] or 0) + 1


def _came(item: StockItem, line: OrderLine, typed: str) -> Decimal:
    """How much of a line came: what was typed, all of it where nothing was."""
    if not typed:
        return line.quantity
    return ZERO if typed.strip("0.,") == "" else drawer.typed_amount(item, typed, f"came-{line.pk}")


def on_the_way(items: Sequence[StockItem]) -> dict[int, Decimal]:
    """How much of each item is ordered and has not come: one query."""
    rows = OrderLine.objects.filter(item__in=items, order__arrived_at=None, order__called_off="")
    return dict(rows.order_by().values_list("item").annotate(total=Sum("quantity")))


def _open(order: PartOrder) -> PartOrder:
    order = lock_row(PartOrder.objects.select_related("seller"), order)
    if order.arrived_at:
        raise Refused(f"{order.code} was taken in already.")
    if order.called_off:
        raise Refused(f"{order.code} was called off: {order.called_off}.")
    return order


def _check(terms: Terms) -> None:
    if terms.rate <= 0:
        raise Refused("A rate is above 0.", "rate")
    if terms.postage < 0:
        raise Refused("Postage may not be below 0.", "postage")
    if terms.duty < 0:
        raise Refused("This may not be below 0.", "duty")
    refuse_to_come(terms.ordered_on, "ordered_on")
