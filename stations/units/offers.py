"""Offers for what is wanted, and the cheapest way to get it: which from whom, postage once a seller."""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import timedelta
from decimal import Decimal
from hashlib import sha256

from django.db import transaction
from django.urls import reverse

from core.stock.cheapest import Basket, Offer, Postage, Want, cheapest
from core.stock.parts import Condition
from stations.catalogue.models import PartSheet
from stations.common import clock
from stations.common.refusals import Refused, within
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.stock.drawer import Freed
from stations.stock.models import OrderLine, PartOffer, PartOrder, PartSeller, StockItem
from stations.stock.orders import Ordered, Terms, all_the_same, doubted, order_parts
from stations.stock.services import Sort
from stations.units.models import Content, Unit, WantedPart
from stations.units.selectors import wanted, wanted_parts

UNIT = HistoryEntry.Subject.UNIT

# What is missing on a unit, and parts that are wanted for one beside that.
Wanted = Content | WantedPart

# So many things wanted are compared at once, the weightiest first.
MOST = 200


def want_of(one: Wanted) -> str:
    """What it is called among all wanted: a keyboard of one model is none of another, a part goes by its name."""
    if isinstance(one, WantedPart):
        return one.name
    return f"{one.unit.model or one.unit.title}: {one.name}"[:160]


def wants() -> dict[str, list[Wanted]]:
    """What is wanted by what it is called, with the units that want it: two queries."""
    found: dict[str, list[Wanted]] = defaultdict(list)
    for one in [*wanted().select_related("unit__lot", "unit__model")[:MOST], *wanted_parts()[:MOST]]:
        found[want_of(one)].append(one)
    return dict(found)


def how_many(rows: Sequence[Wanted]) -> int:
    """Of one thing that is wanted."""
    return sum(one.quantity if isinstance(one, WantedPart) else 1 for one in rows)


@dataclass(frozen=True)
class Parcel:
    """What to order from one seller."""

    seller: PartSeller
    lines: tuple[tuple[PartOffer, int, Decimal], ...]
    postage: Decimal

    @property
    def total(self) -> Decimal:
        return sum((amount for _, _, amount in self.lines), self.postage)


@dataclass(frozen=True)
class BestWay:
    """The cheapest basket as parcels; `unasked` are sellers whose postage nobody knows, so left out."""

    basket: Basket
    parcels: tuple[Parcel, ...]
    unasked: tuple[PartSeller, ...]

    @property
    def within_percent(self) -> Decimal:
        return Decimal(repr(round(100 * self.basket.within, 1)))

    @property
    def mark(self) -> str:
        """What is ordered with it: another as soon as a seller, a count or a price is."""
        said = [
            (parcel.seller.pk, parcel.postage, [(offer.want, count, offer.each) for offer, count, _ in parcel.lines])
            for parcel in self.parcels
        ]
        return sha256(repr(said).encode()).hexdigest()[:32]


def best_way(budget: Decimal | None = None, within_days: int | None = None) -> BestWay | None:
    """Over all that is wanted and offered; None while nothing of it is offered by anybody whose postage is known."""
    there = wants()
    rows = [row for row in PartOffer.objects.select_related("seller") if row.want in there]
    unasked = tuple(dict.fromkeys(row.seller for row in rows if row.seller.postage is None))
    known = [row for row in rows if row.seller.postage is not None]
    if not known:
        return None
    offered = {row.want for row in known}
    wanted_now = [
        Want(name, how_many(contents), min(1000, max(content.weight for content in contents)))
        for name, contents in there.items()
        if name in offered
    ]
    offers = [Offer(row.want, row.seller.name, row.each, row.most, row.days) for row in known]
    asks = {row.seller.name: Postage(row.seller.postage or Decimal(0), row.seller.free_from) for row in known}
    basket = cheapest(wanted_now, offers, asks, budget, within_days)
    taken: dict[PartSeller, list[tuple[PartOffer, int, Decimal]]] = defaultdict(list)
    for row, count in zip(known, basket.quantities, strict=True):
        if count:
            taken[row.seller].append((row, count, row.each * count))
    parcels = tuple(Parcel(seller, tuple(lines), basket.postage[seller.name]) for seller, lines in taken.items())
    return BestWay(basket, parcels, unasked)


def doubts_of(best: BestWay) -> list[str]:
    """What speaks against ordering what the cheapest way says: parts that cost more, landed, than they add. A parcel’s
    postage is shared by value."""
    each: dict[str, Decimal] = {}
    for parcel in best.parcels:
        goods = sum((amount for _, _, amount in parcel.lines), Decimal(0))
        for offer, count, amount in parcel.lines:
            share = parcel.postage * amount / goods if goods else parcel.postage / len(parcel.lines)
            each[offer.want] = offer.each + share / count
    return doubted(each)


def with_sheets() -> list[str]:
    """Parts that have a sheet, by name: what somebody asks for one is worth knowing, wanted or not."""
    return list(PartSheet.objects.values_list("name", flat=True)[:1000])


@dataclass(frozen=True)
class Quote:
    """What a seller asks for something wanted: `each` for one, `most` pieces (None: enough), here within `days`, with
    `claim` as what is said of it; a parcel costs `postage`, and nothing from an amount of `free_from` on. Base
    currency; None is not known."""

    want: str
    seller: str
    each: Decimal
    most: int | None = None
    days: int | None = None
    claim: str = ""
    postage: Decimal | None = None
    free_from: Decimal | None = None


@transaction.atomic
def note_offer(person: Person, quote: Quote) -> PartOffer:
    """Note what somebody asks for something wanted; a seller’s newest word of postage counts. Another price of the same
    seller takes the place of the one before."""
    require(person, "change the wanted list")
    if quote.want not in {*wants(), *with_sheets()}:
        raise Refused("This is not wanted any more.", "want")
    seller, _ = PartSeller.objects.get_or_create(name=quote.seller)
    if quote.postage is not None:
        PartSeller.objects.filter(pk=seller.pk).update(postage=quote.postage, free_from=quote.free_from)
    elif seller.postage is None and quote.free_from is not None:
        raise Refused("Free from an amount, and else? Say what a parcel costs.", "postage")
    return PartOffer.objects.update_or_create(
        want=quote.want,
        seller=seller,
        defaults={
            "each": quote.each,
            "most": quote.most,
            "days": quote.days,
            "claim": quote.claim,
            "seen_at": clock.now(),
            "seen_by": person,
        },
    )[0]


@transaction.atomic
def order_best(
    person: Person, seen: str | None = None, budget: Decimal | None = None, within_days: int | None = None
) -> list[PartOrder]:
    """Order what the cheapest way says, a parcel a seller, for the drawers; expected when the slowest of it is here.
    `seen` is the mark of what the person saw: refused when another way is the cheapest by now."""
    require(person, "order parts")
    best = best_way(budget, within_days)
    if best is None or not best.parcels:
        raise Refused("Nothing of what is wanted is offered by anybody whose postage is known.")
    if seen is not None and seen != best.mark:
        raise Refused("The cheapest way is another one by now: look at it again, then order it.")
    there, made = wants(), []
    coming = set(OrderLine.objects.filter(order__arrived_at=None, order__called_off="").values_list("want", flat=True))
    for parcel in best.parcels:
        lines = []
        for offer, count, _ in parcel.lines:
            if offer.want in coming:
                raise Refused(f"{offer.want} is on its way already. Take that parcel in, or call it off first.")
            lines.append(Ordered(Sort(offer.want[:80], Condition.UNTESTED.value), str(count), offer.each, offer.want))
        days = [offer.days for offer, _, _ in parcel.lines]
        known = [day for day in days if day is not None]
        expected = clock.today() + timedelta(days=max(known)) if len(known) == len(days) else None
        order = order_parts(person, parcel.seller.name, Terms(expected, postage=parcel.postage), lines)
        for line in order.lines.select_related("item"):
            models = {content.unit.model for content in there[line.want] if content.unit.model}
            line.item.fits.add(*models)
        made.append(order)
    all_the_same([offer.want for parcel in best.parcels for offer, _, _ in parcel.lines])
    return made


def came_for_wants(person: Person, items: Sequence[StockItem]) -> list[Freed]:
    """Machines that miss what came into a drawer under the name it is wanted by: three queries, and one for each
    part that was wanted and is there now."""
    fresh = StockItem.objects.filter(pk__in=[item.pk for item in items])
    free = {item.name[:80]: item.free for item in fresh}
    found = []
    for want, rows in wants().items():
        for one in rows:
            if want[:80] not in free:
                continue
            words = f"{one.unit.tag}: its {one.name} can be fitted"
            if isinstance(one, WantedPart):
                if free[want[:80]] < one.quantity:
                    continue
                free[want[:80]] -= one.quantity
                WantedPart.objects.filter(pk=one.pk).update(got_at=clock.now())
                words = f"{one.unit.tag}: {one.name} can be fitted"
            found.append(Freed(words, reverse("workshop:unit", args=[one.unit.number])))
    return found


@transaction.atomic
def want_part(person: Person, unit: Unit, name: str, quantity: int, why: str = "") -> WantedPart:
    """So many of a kind of part are wanted for a unit; more of what is wanted for it already adds to that."""
    require(person, "change the wanted list")
    there = WantedPart.objects.select_for_update().filter(unit=unit, name=name, got_at=None).first()
    if there is not None:
        WantedPart.objects.filter(pk=there.pk).update(quantity=there.quantity + quantity)
        words = f"Wanted: {quantity} × {name} more, {there.quantity + quantity} in all"
        history.record(person, "units.want_part", UNIT, unit.pk, words)
        there.refresh_from_db()
        return there
    given = {"why": within(why, 120, "why"), "since": clock.now(), "who": person}
    history.record(person, "units.want_part", UNIT, unit.pk, f"Wanted: {quantity} × {name}")
    return WantedPart.objects.create(unit=unit, name=within(name, 80, "name"), quantity=quantity, **given)


@transaction.atomic
def drop_want(person: Person, one: WantedPart) -> None:
    """It is not wanted after all."""
    require(person, "change the wanted list")
    WantedPart.objects.filter(pk=one.pk).delete()
    history.record(person, "units.drop_want", UNIT, one.unit_id, f"Not wanted any more: {one.quantity} × {one.name}")


def got(unit: Unit, name: str) -> None:
    """A unit has the part now that was wanted for it, wherever it came from."""
    WantedPart.objects.filter(unit=unit, name=name, got_at=None).update(got_at=clock.now())


@transaction.atomic
def forget_offer(person: Person, offer: PartOffer) -> None:
    """It is gone, or was never one."""
    require(person, "change the wanted list")
    PartOffer.objects.filter(pk=offer.pk).delete()
    words = f"Offer gone: {offer.seller} asked {offer.each} for {offer.want}"
    history.record(person, "units.forget_offer", HistoryEntry.Subject.ORDER, 0, words)


def on_its_way(contents: Sequence[Wanted]) -> dict[int, PartOrder]:
    """The open order in which each of these is coming, by its key; all of one kind: one query."""
    lines = OrderLine.objects.filter(order__arrived_at=None, order__called_off="").exclude(want="")
    orders = {line.want: line.order for line in lines.select_related("order")}
    return {content.pk: orders[want] for content in contents if (want := want_of(content)) in orders}
