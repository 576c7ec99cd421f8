"""One drawer: what lies in it, what of that is held, and what it costs to take some of it."""

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal

from core.machine.quantities import QuantityError
from core.stock.costing import issue_cost
from core.stock.measure import read_amount
from stations.common.locking import lock_row
from stations.common.refusals import Refused
from stations.common.registry import Registry
from stations.ledger.models import Account
from stations.ledger.selectors import balance
from stations.people.models import Person
from stations.stock.models import StockItem


@dataclass(frozen=True)
class Held:
    """So much of an item is held, by whom, in words and with the address of it."""

    amount: Decimal
    by: str
    address: str


# Who holds something of these items, by item: rooms further on answer, in a fixed number of queries.
holders: Registry[Callable[[Iterable[int]], Mapping[int, list[Held]]]] = Registry("who holds parts")


@dataclass(frozen=True)
class Freed:
    """Something that waited and can go on, in words and with its address."""

    words: str
    address: str


@dataclass(frozen=True)
class Unpriced:
    """So much of an item came in and nobody knows yet what it cost, and why, in words."""

    amount: Decimal
    words: str


# Of which items that is so, by item: rooms further on answer, in a fixed number of queries.
not_priced: Registry[Callable[[Iterable[int]], Mapping[int, list[Unpriced]]]] = Registry("what is not priced yet")

# Who is told that parts came into drawers, and says what can go on now: rooms further on answer.
arrivals: Registry[Callable[[Person, Sequence[StockItem]], list[Freed]]] = Registry("what a parcel frees")

# Who holds the rows that what comes in under these names will change: units are locked before drawers.
waiting: Registry[Callable[[Sequence[str]], None]] = Registry("who waits for parts")


def hold_waiting(names: Sequence[str]) -> None:
    """Lock what waits for parts called so, before the drawers they come into."""
    for hold in waiting.values():
        hold(names)


def came(person: Person, items: Sequence[StockItem]) -> list[Freed]:
    """Tell everybody who may have waited for these that they are in their drawers; answers what can go on."""
    return [one for told in arrivals.values() for one in told(person, items)]


def held(items: Iterable[StockItem]) -> dict[int, list[Held]]:
    """Everything that is held of these items."""
    ids = [item.pk for item in items]
    found: dict[int, list[Held]] = {pk: [] for pk in ids}
    for holder in holders.values():
        for pk, rows in holder(ids).items():
            found[pk] += rows
    return found


def unpriced(items: Iterable[StockItem]) -> dict[int, list[Unpriced]]:
    """Of these items, what nobody knows the cost of yet. Nothing is taken of that, so it lies there still."""
    ids = [item.pk for item in items]
    found: dict[int, list[Unpriced]] = {pk: [] for pk in ids}
    for answer in not_priced.values():
        for pk, rows in answer(ids).items():
            found[pk] += rows
    return found


def refuse_unpriced(item: StockItem, taken: Decimal, field: str | None = None) -> Decimal:
    """Refused where so much of it can’t go without some that nobody knows the cost of; answers how much that is."""
    rows = unpriced([item])[item.pk]
    amount = min(sum((row.amount for row in rows), Decimal(0)), item.quantity)
    if rows and taken > item.quantity - amount:
        why = "; ".join(row.words for row in rows)
        said = f"What {item.words(amount)} of them cost is not known" if item.in_pieces else "What it cost is not known"
        raise Refused(f"{said}: {why}. That comes first.", field)
    return amount


def held_words(item: StockItem) -> str:
    """Who holds what of it, in a sentence; empty when nobody does."""
    rows = held([item])[item.pk]
    return "; ".join(f"{item.words(row.amount)} held for {row.by}" for row in rows)


# Where pieces of an item went that are not back, in words: rooms further on answer.
went_into: Registry[Callable[[StockItem], list[str]]] = Registry("where parts went")


def used_in(item: StockItem) -> list[str]:
    """Where pieces of it are in use, so that it is looked at when they turn out otherwise."""
    return [words for answer in went_into.values() for words in answer(item)]


def hold_row(item: StockItem) -> StockItem:
    """The item as it is now, locked."""
    return lock_row(StockItem.objects.all(), item)


def typed_amount(item: StockItem, typed: str, field: str = "quantity") -> Decimal:
    """An amount of this item as it was typed; above nothing. Raises Refused, in words."""
    try:
        amount = read_amount(typed, item.counted_in)
    except QuantityError as problem:
        raise Refused(str(problem), field) from problem
    if not amount:
        raise Refused(_at_least(item), field)
    return amount


def _at_least(item: StockItem) -> str:
    return "At least one." if item.in_pieces else "More than nothing."


def take(item: StockItem, amount: Decimal, own: Decimal = Decimal(0), field: str | None = "quantity") -> Decimal:
    """Take some of a locked item; answers its cost. `own` is what of it was held for the taker.

    What is free and what is one's own can be taken; beyond that it is refused with the name of who holds it.
    """
    if amount <= 0:
        raise Refused(_at_least(item), field)
    there = item.free + own
    if amount > there:
        where = f"in drawer {item.drawer or '–'}"
        others = item.reserved - own
        said = f": {held_words(item)}" if others else ""
        only = f"Only {item.words(there)} {'free ' if others else ''}{where}"
        raise Refused(f"{only}, {item.words(amount)} wanted{said}.", field)
    unknown = refuse_unpriced(item, amount, field)
    cost = issue_cost(item.quantity, balance(Account.STOCK, item.pk), amount, unknown)
    item.quantity, item.reserved = item.quantity - amount, item.reserved - min(own, amount)
    StockItem.objects.filter(pk=item.pk).update(quantity=item.quantity, reserved=item.reserved)
    return cost


def put(item: StockItem, amount: Decimal) -> None:
    """Put some into a locked item; what it costs is posted by whoever puts it there."""
    item.quantity += amount
    if item.quantity >= 10**9:
        raise Refused("No drawer holds that much.", "quantity")
    # One that was put away is one we go on with again.
    StockItem.objects.filter(pk=item.pk).update(quantity=item.quantity, in_use=True)
