"""What a seller does: grade, price, write, list, sell, send."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from django.db import transaction

from core.buying.odds import LineOutcome
from core.money import ZERO
from core.selling.grade import Grade
from core.selling.grade import grade as work_out_grade
from core.selling.listing import ListingFacts, blocks
from core.selling.warranty import Promised
from stations.bench.models import TestRun
from stations.buying.plans import record_outcome
from stations.common import clock
from stations.common.happened import day_said, moment_on
from stations.common.locking import lock_row
from stations.common.refusals import Refused, reason, within
from stations.common.registry import Registry
from stations.ledger.services import move_posting, post
from stations.people import history, shop_settings
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.people.screens import save_versioned
from stations.selling import bundles, graded, holding, market, payments, placing, price_steps, selectors, wording
from stations.selling.as_recorded import listing_facts
from stations.selling.dues import dues_of, legs_of
from stations.selling.models import Bundle, Channel, Comparable, Listing, Sale, UnitGrade
from stations.units import busy, costs, stages
from stations.units.models import Unit
from stations.units.selectors import completeness_of
from stations.units.tried import was_tried
from stations.workshop import upgrade_parts

UNIT, CHANNEL = HistoryEntry.Subject.UNIT, HistoryEntry.Subject.CHANNEL
# What a buyer is promised at a sale, by its grade; a kind of promise has one owner.
promises: Registry[Callable[[str], Promised]] = Registry("what buyers are promised")


@transaction.atomic
def grade_unit(person: Person, unit: Unit, seen: str = "") -> UnitGrade:
    """Set the grade that the record gives today, which is refused where another one was `seen`. Only what is tested (or
    a donor) can be more than untested."""
    require(person, "grade a unit")
    unit = lock_row(Unit.objects.all(), unit)
    stages.refuse_gone(unit, "its grade")
    if unit.assessed_at is None:
        raise Refused("Intake is not finished: there is nothing to grade yet.")
    if TestRun.objects.filter(open_for=unit).exists():
        raise Refused("A test run is going on. Finish or end it first.")
    if unit.jobs.filter(done_at=None).exists():
        raise Refused("A job is open. Finish it first.")
    evidence = selectors.evidence_of(unit)
    result = work_out_grade(evidence)
    if seen and seen != result.grade.value:
        raise Refused(f"The record gives {result.grade.label} by now: look at it again.")
    if result.grade is Grade.PARTS:
        record_outcome(unit.line, unit.number, LineOutcome.PARTS, tested=was_tried(unit))
    given = UnitGrade.objects.create(
        unit=unit,
        grade=result.grade.value,
        before_caps=result.before_caps.value,
        total=result.total,
        evidence=graded.to_keep(evidence),
        when=clock.now(),
        who=person,
    )
    caps = f"; capped by: {', '.join(cap.reason for cap in result.caps)}" if result.caps else ""
    history.record(
        person,
        "selling.grade_unit",
        UNIT,
        unit.pk,
        f"Graded {result.grade.label}{'' if result.is_untested else f', {result.total} of 100'}{caps}",
        grade=result.grade.value,
        total=result.total,
    )
    stages.refresh(unit)
    return given


@transaction.atomic
def add_channel(person: Person, channel: Channel) -> Channel:
    """Set up where things are sold; what a marketplace does by itself is done in the name of who connected it."""
    require(person, "add a channel")
    if channel.kind == Channel.Kind.MARKET:
        require(person, "connect a marketplace")
    channel.set_up_by = person
    channel.save(force_insert=True)
    history.record(person, "selling.add_channel", CHANNEL, channel.pk, f"{channel.name} added")
    if channel.is_shop:
        placing.take_over(channel)
    return channel


@dataclass(frozen=True)
class ChannelDetails:
    """A channel: its fee in percent of the price and a fixed one in the shop's money, the longest title and text it
    takes; of a marketplace the address where it answers and the key it knows us by."""

    name: str
    kind: str
    fee_percent: Decimal
    fee_fixed: Decimal
    title_length: int
    text_length: int
    price_ends: str
    address: str
    key: str
    in_use: bool


@transaction.atomic
def change_channel(person: Person, channel: Channel, seen_version: int, said: ChannelDetails) -> Channel:
    """What stands there already stays; how it is served can only change while nothing does."""
    require(person, "add a channel")
    connects = {name for name in ("kind", "address", "key") if getattr(said, name) != getattr(channel, name)}
    if connects:
        require(person, "connect a marketplace")
        if "kind" in connects and channel.placements.exclude(stands=False).exists():
            raise Refused("Something is on offer there. Take it off first.", "kind")
    if channel.in_use and not said.in_use:
        placing.refuse_left_there(channel)
    history.changed(person, "selling.change_channel", CHANNEL, channel.pk, channel.name, channel, vars(said))
    save_versioned(channel, seen_version, vars(said) | ({"set_up_by": person} if connects else {}))
    if "kind" in connects:
        # Who pays us for what was sold there is another.
        sold = Unit.objects.select_for_update().filter(sale__channel=channel, sale__closed_at=None).order_by("pk")
        stages.refresh(*sold)
    if "kind" in connects and channel.is_shop:
        placing.take_over(channel)
    return channel


@transaction.atomic
def add_comparable(person: Person, comparable: Comparable, another: bool = False) -> None:
    """What the like of one of ours fetched elsewhere; one just like it counts once more only where it is `another`."""
    require(person, "add comparables")
    alike = {name: getattr(comparable, name) for name in ("model", "sold_on", "price", "currency")}
    if not another and Comparable.objects.filter(**alike).exists():
        raise Refused("That sale is here: the same model, day and price. Tick the box if this is another.", "another")
    comparable.save(force_insert=True)


@transaction.atomic
def drop_comparable(person: Person, comparable: Comparable) -> None:
    """It was none, or stands there twice. Our own sales go with their sale."""
    require(person, "add comparables")
    if comparable.own:
        raise Refused("It is a sale of ours: it goes when the sale is called off.")
    Comparable.objects.filter(pk=comparable.pk).delete()
    words = f"Taken off what is compared with: {comparable}"
    history.record(person, "selling.drop_comparable", HistoryEntry.Subject.SHOP, 0, words)


def draft_of(unit: Unit) -> Listing:
    """The unit's listing, made as an empty draft when there is none."""
    listing = selectors.listing_of(unit)
    if listing.channel_id is None:
        raise Refused("No channel is set up to sell through. Add one under Selling, Channels.")
    if listing.pk is None:
        listing, _ = Listing.objects.get_or_create(unit=unit, defaults={"channel": listing.channel})
    return listing


@transaction.atomic
def set_price(
    person: Person, unit: Unit, seen_version: int, channel: Channel, asking: Decimal, reason: str = ""
) -> Listing:
    """Set what is asked. Under the floor of full cost only with a reason."""
    require(person, "set a price")
    if asking <= 0:
        raise Refused("Ask more than 0.", "asking")
    listing = draft_of(unit)
    if listing.status == Listing.Status.SOLD:
        raise Refused("It is sold; the price can’t change.")
    stages.refuse_gone(unit, "its price")
    costs.refuse_not_shared(unit, "asking")
    books = market.unit_books(unit)
    try:
        _, floor = books.floors(channel)
    except ValueError as problem:
        raise Refused(str(problem), "channel") from problem
    if asking < floor and not reason:
        raise Refused(
            f"The floor is {floor}: under it the unit doesn’t earn back its cost. Say why, or ask more.",
            "below_floor_reason",
        )
    if reason == listing.below_floor_reason and not _under_a_floor(books, asking, floor):
        # Why it was under the floor is no leave for the next time.
        reason = ""
    new = {"asking": asking, "channel": channel, "floor": floor, "below_floor_reason": reason}
    changed = history.says_otherwise(listing, new)
    save_versioned(listing, seen_version, new)
    if changed:
        words = f"Priced at {asking}, floor {floor}"
        history.record(person, "selling.set_price", UNIT, unit.pk, words, asking=asking, floor=floor)
    # How long it stands at a price is learned from: the same price goes on.
    if listing.is_live and {"asking", "channel"} & set(changed):
        price_steps.begin(unit, listing)
    stages.refresh(unit)
    return listing


def _under_a_floor(books: market.UnitBooks, asking: Decimal, floor: Decimal) -> bool:
    """Whether so little is asked that somewhere it doesn't earn back its cost: here, or where it is offered as well."""
    floors = [floor]
    for row in books.unit.placements.filter(chosen=True).select_related("channel"):
        try:
            floors.append(books.floors(row.channel)[1])
        except ValueError:
            # No price does there.
            return True
    return asking < max(floors)


@transaction.atomic
def save_text(person: Person, unit: Unit, seen_version: int, title: str, text: str) -> None:
    """Keep the words of a listing that was begun."""
    require(person, "write a listing")
    stages.refuse_gone(unit, "what was said of it")
    listing = Listing.objects.filter(unit=unit).first()
    if listing is None:
        raise Refused("Set a price, or write the words from the record, first.")
    new = {"title": title, "text": text}
    history.changed(person, "selling.save_text", UNIT, unit.pk, "Listing", listing, new)
    save_versioned(listing, seen_version, new)
    stages.refresh(unit)


@transaction.atomic
def write_from_facts(person: Person, unit: Unit, seen_version: int | None = None) -> Listing:
    """Write title and text anew from the record; not over words that somebody wrote since they were seen."""
    listing = draft_of(unit)
    _refuse_unseen(listing, seen_version)
    return wording.write_from_facts(person, unit, listing)


def _refuse_unseen(listing: Listing | None, seen_version: int | None) -> None:
    if listing is not None and seen_version is not None and listing.version != seen_version:
        raise Refused("Somebody else changed its price or its words meanwhile: look at them first.")


@transaction.atomic
def publish(person: Person, unit: Unit, seen_version: int | None = None) -> Listing:
    """Put the unit on offer, with price and words as they were seen. Refused with everything that blocks it."""
    require(person, "list a unit")
    unit = lock_row(Unit.objects.all(), unit)
    listing = Listing.objects.filter(unit=unit).first()
    blocked = selectors.blocks_of(unit)
    if blocked:
        raise Refused("Not yet: " + "; ".join(block.words for block in blocked) + ".")
    if listing is None or listing.status == Listing.Status.SOLD:
        raise Refused("It is sold, or has no price yet.")
    _refuse_unseen(listing, seen_version)
    if not listing.channel.in_use:
        raise Refused(f"It is priced for {listing.channel}, and we don’t sell there any more. Price it for another.")
    if not listing.text:
        listing = write_from_facts(person, unit)
    Listing.objects.filter(pk=listing.pk).update(status=Listing.Status.LIVE, published_at=clock.now())
    for channel in {listing.channel, *Channel.objects.filter(kind=Channel.Kind.SHOP, in_use=True)}:
        if not unit.placements.filter(channel=channel).exists():
            placing.place(unit, channel)
    price_steps.begin(unit, listing)
    history.record(person, "selling.publish", UNIT, unit.pk, f"Listed at {listing.asking} on {listing.channel}")
    stages.refresh(unit)
    return listing


@transaction.atomic
def end_listing(person: Person, unit: Unit, reason: str) -> None:
    require(person, "end a listing")
    unit = lock_row(Unit.objects.all(), unit)
    ended = Listing.objects.filter(unit=unit, status=Listing.Status.LIVE).update(status=Listing.Status.ENDED)
    if not ended:
        raise Refused("It is not on offer.")
    price_steps.end(unit)
    if held := holding.reserved(unit):
        holding.end_reservation(held, "the listing ended")
    bundles.end_with(unit, "one of them is not on offer any more")
    reason = within(reason, 300, "reason")
    history.record(person, "selling.end_listing", UNIT, unit.pk, f"Listing ended{': ' + reason if reason else ''}")
    stages.refresh(unit)


@transaction.atomic
def sell(
    person: Person,
    unit: Unit,
    price: Decimal,
    buyer: str,
    postage: Decimal | None,
    *,
    channel: Channel | None = None,
    fee: Decimal | None = None,
    remote: str = "",
    bundle: Bundle | None = None,
    on: date | None = None,
) -> Sale:
    """Record the sale and post it: price in, fee, postage and tax out. A unit sells once.

    `channel`: where, if not where it was priced for; `fee` as a marketplace states it, else by the channel’s terms;
    `postage` None: as those like it took; `on`: the day it was sold, if that is past.
    """
    require(person, "record a sale")
    unit = lock_row(Unit.objects.all(), unit)
    listing, facts = _for_sale(unit)
    held = holding.reserved(unit)
    if held and held.buyer.casefold() != buyer.strip().casefold():
        raise Refused(f"It is held for {held.buyer}. Let it go first, or sell it to {held.buyer}.", "buyer")
    sold_at = moment_on(on, unit.lot.bought_on, "bought")
    channel = channel or listing.channel
    owing = dues_of(unit, price, channel, clock.day_of(sold_at), fee, postage)
    grade = facts.grade.value if facts.grade else ""
    promised = promises["terms of sale"](grade)
    sale = Sale.objects.create(
        unit=unit,
        open_for=unit,
        channel=channel,
        remote=remote,
        bundle=bundle,
        price=price,
        buyer=buyer,
        sold_at=sold_at,
        grade=grade,
        warranty_days=promised.warranty,
        withdrawal_days=promised.withdrawal,
        told=wording.told_at_sale(unit, facts),
        **vars(owing),
    )
    # Who bought it is wiped one day, and the book is for ever.
    sale.posting = post(person, f"{unit.tag} sold", legs_of(sale), clock.day_of(sold_at))
    sale.comparable = _teaches(sale, wording.kinds_said(facts))
    sale.save()
    Listing.objects.filter(pk=listing.pk).update(status=Listing.Status.SOLD)
    price_steps.sold(unit, sold_at, None if bundle else price)
    if held:
        holding.end_reservation(held, "sold")
    bundles.end_with(unit, "one of them was sold", but=bundle)
    if owing.owners_part:
        words = f"{owing.owners_part} of the sale is owed to {unit.owner_name}"
        history.record(person, "selling.sell", UNIT, unit.pk, words)
    words = f"Sold for {price}, fee {owing.fee}, postage {owing.postage}, tax {owing.tax}{day_said(sold_at)}"
    history.record(person, "selling.sell", UNIT, unit.pk, words)
    stages.refresh(unit)
    return sale


def _for_sale(unit: Unit) -> tuple[Listing, ListingFacts]:
    """Its listing and what a buyer is told, where nothing speaks against selling it now; else raises Refused."""
    listing = Listing.objects.filter(unit=unit).select_related("channel").first()
    if listing is None or listing.status != Listing.Status.LIVE:
        raise Refused("It is not on offer; only what is listed can be sold.")
    facts = listing_facts(unit)
    if blocked := blocks(facts):
        raise Refused(f"Not for sale now: {blocked[0].words}. Put that right, or end the listing.")
    if going_on := busy.what(unit):
        raise Refused(f"Not for sale now: {going_on[0]}. Finish that first.")
    return listing, facts


def _teaches(sale: Sale, said: list[str]) -> Comparable | None:
    """What it says of what the like of it fetches; of a thing without a model nothing."""
    unit = sale.unit
    if not unit.model_id:
        return None
    return Comparable.objects.create(
        model_id=unit.model_id,
        sold_on=clock.day_of(sale.sold_at),
        grade=sale.grade or Grade.UNTESTED.value,
        completeness=completeness_of(unit.contents.all()).percent,
        price=sale.price,
        channel=sale.channel.name,
        own=True,
        auction=False,
        postage=ZERO,
        features=upgrade_parts.features_of(unit),
        said=said,
    )


@transaction.atomic
def name_buyer(person: Person, sale: Sale, buyer: str) -> None:
    """Who bought it, and what was sold with it as a bundle, was typed wrong. Papers that were issued keep what they
    say; the story is for ever and names nobody."""
    require(person, "record a sale")
    sale, buyer = payments.hold(sale), within(buyer.strip(), 120, "buyer")
    if sale.wiped_at:
        raise Refused("Its buyer’s name and address were wiped: they are kept no longer than that.")
    if not buyer:
        raise Refused("Who bought it?", "buyer")
    if buyer == sale.buyer:
        return
    together = Sale.objects.filter(bundle=sale.bundle_id, buyer=sale.buyer) if sale.bundle_id else Sale.objects.none()
    (together | Sale.objects.filter(pk=sale.pk)).update(buyer=buyer)
    history.record(person, "selling.name_buyer", UNIT, sale.unit_id, "Its buyer is called otherwise than was typed")


@transaction.atomic
def correct_sold_on(person: Person, sale: Sale, on: date | None, why: str) -> None:
    """It was sold on another day: so it counts in the books, and among what others of its kind are compared with."""
    require(person, "record a sale")
    sale, why = payments.hold(sale), reason(why)
    if on is None:
        raise Refused("On which day was it sold?", "on")
    was, moment = clock.day_of(sale.sold_at), moment_on(on, sale.unit.lot.bought_on, "bought")
    if on == was:
        raise Refused("That is the day it has.", "on")
    settings = shop_settings.settings()
    if (then := settings.tax_on(on)) != (now := settings.tax_on(was)):
        raise Refused(
            f"It was taxed as of {now.words}; on that day it was {then.words}. Call it off and sell it again.", "on"
        )
    if sale.sent_at and on > clock.day_of(sale.sent_at):
        raise Refused(f"It was sent on {clock.day_of(sale.sent_at):%-d %B %Y}: not sold after that.", "on")
    posting = move_posting(person, sale.posting, on, why) if sale.posting else None
    Sale.objects.filter(pk=sale.pk).update(sold_at=moment, posting=posting)
    if sale.comparable_id:
        Comparable.objects.filter(pk=sale.comparable_id).update(sold_on=on)
    if sale.stands:
        price_steps.sold_on_another_day(sale.unit, moment)
    words = f"Sold on {on:%-d %B %Y}, not {was:%-d %B %Y}: {why}"
    history.record(person, "selling.correct_sold_on", UNIT, sale.unit_id, words, on=on.isoformat(), why=why)
