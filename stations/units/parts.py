"""Parts that are told apart: found in a machine, bought, moved with their cost and their data, gone."""

from collections.abc import Iterable
from dataclasses import asdict, dataclass, replace
from datetime import date, datetime
from decimal import Decimal

from django.db import transaction
from django.db.models import F, Max

from core.flow.stage import Stage
from core.intake.completeness import Presence
from core.stock.costing import leaving_cost
from core.stock.parts import Condition, PartKind
from stations.common import clock
from stations.common.happened import moment_on
from stations.common.locking import lock_row
from stations.common.refusals import Refused, within
from stations.ledger.models import Account, EntryKind
from stations.ledger.selectors import balance, balances
from stations.ledger.services import Leg, post
from stations.people import history, shop_settings
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.people.screens import save_versioned
from stations.stock import drawer
from stations.stock.models import StockItem
from stations.stock.services import Sort, item_of
from stations.units import fitting, stages
from stations.units.models import Content, Part, PartMove, Unit

UNIT, PART, STOCK = HistoryEntry.Subject.UNIT, HistoryEntry.Subject.PART, HistoryEntry.Subject.STOCK


@dataclass(frozen=True)
class Described:
    """What a part is; None and empty for what nobody knows."""

    kind: PartKind
    name: str
    serial: str = ""
    revision: str = ""
    setting: str = ""
    condition: Condition = Condition.UNTESTED
    worth: Decimal | None = None
    original: bool | None = None
    keeps_data: bool | None = None
    doubt: str = ""


@dataclass(frozen=True)
class Place:
    """Where a part goes: into a unit, at a slot, there perhaps for a thing on its list (`right`: the one that belongs
    there, None where nobody said); or without a unit into a drawer."""

    unit: Unit | None = None
    slot: str = ""
    content: Content | None = None
    right: bool | None = None
    drawer: str = ""

    @property
    def words(self) -> str:
        if self.unit is None:
            return f"drawer {self.drawer or '–'}"
        return f"{self.unit.tag}{', ' + self.slot if self.slot else ''}"


@dataclass(frozen=True)
class Worths:
    """What a part is worth, and all that is in the machine with it, before it leaves: base currency."""

    part: Decimal
    whole: Decimal


@transaction.atomic
def record_part(person: Person, place: Place, described: Described) -> Part:
    """A part was found in a machine: its cost is part of what the machine carries, and stays there."""
    require(person, "record parts")
    if place.unit is None:
        raise Refused("Say in which machine it is.")
    unit = _changeable(place.unit)
    part = new_part(described, came_from=unit)
    content = _content(place, unit)
    Part.objects.filter(pk=part.pk).update(unit=unit, slot=within(place.slot, 40, "slot"), content=content)
    part.refresh_from_db()
    note_move(person, part, PartMove.Kind.FOUND, "found", place.words, to_unit=unit)
    fitting.note_pins(person, unit, part)
    history.record(person, "units.record_part", UNIT, unit.pk, f"In it: {part.name}, {part.code}", part=part.pk)
    stages.refresh(unit)
    return part


@transaction.atomic
def buy_part(person: Person, described: Described, paid: Decimal, to_drawer: str, on: date | None = None) -> Part:
    """A part was bought by itself, today or on a day before: it has its own cost, in a drawer."""
    require(person, "add stock")
    if paid < 0:
        raise Refused("This may not be below 0.", "paid")
    when = moment_on(on)
    part = new_part(described, drawer=within(to_drawer, 20, "drawer"))
    legs = [Leg(Account.PART, part.pk, EntryKind.PURCHASE, paid), Leg(Account.CASH, 0, EntryKind.PURCHASE, -paid)]
    posting = post(person, f"Bought {part.name}, {part.code}", legs, clock.day_of(when))
    there = Place(drawer=part.drawer).words
    note_move(person, part, PartMove.Kind.BOUGHT, "bought", there, cost=paid, posting=posting, when=when)
    return part


@transaction.atomic
def single_out(person: Person, item: StockItem, described: Described) -> Part:
    """One piece of a drawer gets a record of its own, at the average it cost."""
    require(person, "record parts")
    item = drawer.hold_row(item)
    if not item.in_pieces:
        raise Refused(f"{item.name} is kept in {item.counted_in.label}: there are no pieces of it.")
    cost = drawer.take(item, Decimal(1), field=None)
    keeps = described.keeps_data if described.keeps_data is not None else (item.keeps_data or None)
    part = new_part(described, drawer=item.drawer, keeps_data=keeps)
    legs = [
        Leg(Account.STOCK, item.pk, EntryKind.TRANSFER, -cost),
        Leg(Account.PART, part.pk, EntryKind.TRANSFER, cost),
    ]
    posting = post(person, f"{part.code} out of {item.name}", legs)
    there = Place(drawer=part.drawer).words
    note_move(person, part, PartMove.Kind.SINGLED, item.name, there, cost=cost, posting=posting)
    history.record(
        person, "units.single_out", STOCK, item.pk, f"One got a record of its own: {part.code}", part=part.pk
    )
    return part


@transaction.atomic
def put_with_others(person: Person, part: Part, sort: Sort) -> StockItem:
    """A part in a drawer goes in with others of its kind: its record ends, its cost joins the average."""
    require(person, "record parts")
    part = hold_part(part)
    if not part.in_stock:
        raise Refused("Take it out of its machine first.")
    keeps = bool(part.data_words) and part.keeps_data is not False
    item = item_of(Sort(sort.name, sort.condition, sort.drawer, modern=sort.modern, keeps_data=keeps))
    cost = balance(Account.PART, part.pk)
    drawer.put(item, Decimal(1))
    legs = [
        Leg(Account.PART, part.pk, EntryKind.TRANSFER, -cost),
        Leg(Account.STOCK, item.pk, EntryKind.TRANSFER, cost),
    ]
    posting = post(person, f"{part.code} in with {item.name}", legs)
    words = f"in with {item.name}, drawer {item.drawer or '–'}"
    Part.objects.filter(pk=part.pk).update(gone_at=clock.now(), gone_words=words)
    note_move(person, part, PartMove.Kind.JOINED, Place(drawer=part.drawer).words, words, cost=cost, posting=posting)
    return item


@transaction.atomic
def change_part(person: Person, part: Part, seen_version: int, described: Described, slot: str, to_drawer: str) -> None:
    """What is known of a part, and where exactly it sits."""
    require(person, "record parts")
    if part.gone_at:
        raise Refused(f"It is gone: {part.gone_words}.")
    changes = asdict(described) | {"slot": slot if part.unit_id else "", "drawer": "" if part.unit_id else to_drawer}
    was = Part.objects.get(pk=part.pk).condition
    told = {name: value for name, value in changes.items() if name != "condition"}
    history.changed(person, "units.change_part", PART, part.pk, "Put right", part, told)
    save_versioned(part, seen_version, changes)
    if was != part.condition:
        words = f"{Condition(part.condition).label}, not {Condition(was).label}"
        history.record(person, "units.change_part", PART, part.pk, words, was=str(was), now=str(part.condition))
    if part.unit_id:
        stages.refresh(Unit.objects.get(pk=part.unit_id))


@transaction.atomic
def move_part(
    person: Person,
    part: Part,
    to: Place,
    why: str = "",
    worths: Worths | None = None,
    seen_since: datetime | None = None,
) -> PartMove:
    """Take a part to another place, with its cost, its data and its line on the lists of both machines. `seen_since`:
    since when it lay where the person saw it; moved meanwhile, it is refused with where it is.

    Out of a machine it was found in it takes its part of what the machine carries, by relative value; what was fitted
    here leaves at the cost it came with.
    """
    require(person, "move parts")
    for pk in sorted({pk for pk in (part.unit_id, to.unit.pk if to.unit else None) if pk}):
        lock_row(Unit.objects.all(), Unit(pk=pk))
    part = hold_part(part)
    if part.gone_at:
        raise Refused(f"It is gone: {part.gone_words}.")
    if seen_since is not None and part.since != seen_since:
        raise Refused(f"Somebody moved it meanwhile: it is in {_place_of(part)} now. Look again.")
    source = _changeable(part.unit, out=True) if part.unit else None
    target = _changeable(to.unit) if to.unit else None
    if source is not None and source.its_buyers and target is not None and target != source:
        raise Refused(f"{source.tag} is its buyer’s: nothing is taken out of it for another.", "unit")
    if source is not None and source == target:
        raise Refused(f"It is in {source.tag} already. Where in it is changed at the part.", "unit")
    if target is not None and part.data_words and not part.holds_data:
        raise Refused(
            "Nobody said whether it keeps data in itself. Say so first: it goes wherever the part goes.", "keeps"
        )
    cost = _leaving(part, source, worths) if source else balance(Account.PART, part.pk)
    posting = post(person, f"{part.name}, {part.code}, to {to.words}", _legs(part, source, target, cost))
    before, now = _place_of(part), clock.now()
    content = _content(to, target) if target else None
    changes = {
        "unit": target,
        "slot": within(to.slot, 40, "slot") if target else "",
        "content": content,
        "drawer": "" if target else within(to.drawer, 20, "drawer"),
        "since": now,
        "sanitised_at": _sanitised(part),
    }
    if source:
        _leave(part, source)
    Part.objects.filter(pk=part.pk).update(**changes)
    part.refresh_from_db()
    storage_before = target.storage_added_at if target else None
    if target and part.holds_data:
        # Whatever was sanitised before: this storage was not.
        Unit.objects.filter(pk=target.pk).update(storage_added_at=now)
    sides = {"from_unit": source, "to_unit": target, "storage_before": storage_before}
    given = {"cost": cost, "posting": posting, "why": why, "when": now}
    move = note_move(person, part, PartMove.Kind.MOVED, before, to.words, **given, **sides)
    reason = f"; {why}" if why else ""
    if source:
        words = f"{part.name}, {part.code}, went to {to.words}{reason}"
        history.record(person, "units.move_part", UNIT, source.pk, words, part=part.pk, cost=cost)
    if target:
        fitting.note_pins(person, target, part)
        data = ": it keeps data and was not sanitised" if part.holds_data else ""
        words = f"{part.name}, {part.code}, came from {before}{data}{reason}"
        history.record(person, "units.move_part", UNIT, target.pk, words, part=part.pk, cost=cost)
    stages.refresh(*filter(None, (source, target)))
    return move


@transaction.atomic
def swap_parts(
    person: Person, one: Part, other: Part, why: str = "", worths: tuple[Worths | None, Worths | None] = (None, None)
) -> None:
    """Two parts change places, each with its own cost; both machines' lists stay filled."""
    places = [replace(_place(leaves), right=is_right(comes)) for leaves, comes in ((one, other), (other, one))]
    if places[0].unit is None or places[1].unit is None or places[0].unit == places[1].unit:
        raise Refused("A swap is between two machines.")
    move_part(person, one, Place(drawer="swap"), why, worths[0])
    move_part(person, other, places[0], why, worths[1])
    move_part(person, hold_part(one), places[1], why)


@transaction.atomic
def part_gone(person: Person, part: Part, reason: str) -> None:
    """A part in a drawer is lost, broken or thrown away: its cost is a loss."""
    require(person, "write a part off")
    if not reason:
        raise Refused("Say what became of it.", "reason")
    part = hold_part(part)
    if not part.in_stock:
        raise Refused("Take it out of its machine first." if part.unit_id else f"It is gone: {part.gone_words}.")
    cost = balance(Account.PART, part.pk)
    legs = [Leg(Account.PART, part.pk, EntryKind.WRITE_OFF, -cost), Leg(Account.LOSS, 0, EntryKind.WRITE_OFF, cost)]
    posting = post(person, f"{part.code} gone: {reason}", legs)
    Part.objects.filter(pk=part.pk).update(gone_at=clock.now(), gone_words=within(reason, 160, "reason"))
    note_move(
        person, part, PartMove.Kind.GONE, Place(drawer=part.drawer).words, reason[:80], cost=cost, posting=posting
    )


@transaction.atomic
def say_data(person: Person, part: Part, keeps: bool) -> None:
    """Whether it keeps data in itself: looked at, and said."""
    require(person, "record parts")
    Part.objects.filter(pk=part.pk).update(keeps_data=keeps)
    words = "It keeps data in itself" if keeps else "It keeps no data in itself"
    history.record(person, "units.say_data", PART, part.pk, words, keeps=keeps)


@transaction.atomic
def no_doubt(person: Person, part: Part) -> None:
    """What spoke against the print on it was looked at: it is what it says."""
    require(person, "test a part")
    if not part.doubt:
        raise Refused("Nothing speaks against it.")
    Part.objects.filter(pk=part.pk).update(doubt="")
    history.record(person, "units.no_doubt", PART, part.pk, f"It is what it says; it was doubted: {part.doubt}")


@transaction.atomic
def sanitise_part(person: Person, part: Part, verified: str) -> None:
    """A part was sanitised by itself, and how that was verified."""
    require(person, "record sanitising")
    if not verified:
        raise Refused("Say how it was verified: what was read back, what is left of it.", "verified")
    part = hold_part(part)
    if part.unit_id:
        raise Refused("It is in a machine: record sanitising there, for all that is in it.", "verified")
    Part.objects.filter(pk=part.pk).update(sanitised_at=clock.now())
    history.record(person, "units.sanitise_part", PART, part.pk, f"Sanitised; verified: {verified}")


@transaction.atomic
def not_sanitised(person: Person, part: Part, why: str) -> None:
    """The sanitising does not hold: data were found, or it was another part."""
    require(person, "record sanitising")
    part = hold_part(part)
    if part.sanitised_at is None:
        raise Refused("It is not recorded as sanitised.")
    if not why:
        raise Refused("Say what was found.", "why")
    Part.objects.filter(pk=part.pk).update(sanitised_at=None)
    words = f"Sanitising does not hold: {within(why, 160, 'why')}"
    history.record(person, "units.not_sanitised", PART, part.pk, words, why=why)
    if part.unit_id:
        stages.refresh(Unit.objects.get(pk=part.unit_id))


def scrapped_with(person: Person, unit: Unit) -> None:
    """Parts that were left in a machine that is taken apart are gone with it; what they cost is in what was kept."""
    for part in list(unit.parts.all()):
        words = f"not kept when {unit.tag} was taken apart"
        Part.objects.filter(pk=part.pk).update(unit=None, slot="", content=None, gone_at=clock.now(), gone_words=words)
        note_move(person, part, PartMove.Kind.GONE, _place_of(part), words, from_unit=unit)


def hold_part(part: Part) -> Part:
    """The part as it is now, locked."""
    return lock_row(Part.objects.select_related("unit__lot", "content"), part)


def fitted_cost(part: Part) -> Decimal | None:
    """The cost a part came into its machine with; None where it was found there."""
    return fitted_costs([part]).get(part.pk)


def fitted_costs(found: Iterable[Part]) -> dict[int, Decimal]:
    """By part, the cost it came into its machine with; nothing for one that was found there. One query."""
    moves = PartMove.objects.filter(part__in=list(found), to_unit=F("part__unit")).exclude(kind=PartMove.Kind.FOUND)
    return {move.part_id: move.cost for move in moves.order_by("id")}


def say_worth_first(units: Iterable[Unit]) -> set[int]:
    """Of which units (by key) a part found there takes some of the cost along when it leaves. One query."""
    ours = [unit.pk for unit in units if not unit.its_buyers]
    return {pk for pk, carried in balances(Account.UNIT, ours).items() if carried > 0}


def new_part(described: Described, **more) -> Part:
    """A record for a part, with the next number; the caller says where it is and how it came there."""
    if not described.name:
        raise Refused("Say what part it is.", "name")
    shop_settings.take_turns()
    number = (Part.objects.aggregate(last=Max("number"))["last"] or 0) + 1
    return Part.objects.create(number=number, since=clock.now(), **(asdict(described) | more))


def _changeable(unit: Unit, out: bool = False) -> Unit:
    """The unit, locked, if parts of it may be changed now; `out` when one leaves it."""
    unit = lock_row(Unit.objects.select_related("lot", "line"), unit)
    if unit.closed_to_work or unit.stage == Stage.LISTED:
        raise Refused(f"{unit.tag} is {unit.get_stage_display()}: what is in it is not changed now.", "unit")
    if out and not unit.ours:
        raise Refused(f"{unit.tag} belongs to {unit.owner_name}: nothing is taken out of it for another.", "unit")
    return unit


def _content(place: Place, unit: Unit | None) -> Content | None:
    """The line of the unit's list a part answers to, now ticked off."""
    content = place.content
    if content is None or unit is None:
        return None
    if content.unit_id != unit.pk:
        raise Refused("That is on the list of another machine.", "content")
    if Part.objects.filter(content=content).exists():
        raise Refused(f"There is a {content.name} in it already.", "content")
    stays = place.right is None and content.presence == Presence.NOT_ORIGINAL
    presence = Presence.NOT_ORIGINAL if stays or place.right is False else Presence.PRESENT
    Content.objects.filter(pk=content.pk).update(presence=presence)
    return content


def _leave(part: Part, unit: Unit) -> None:
    """What a machine lacks once a part is out of it."""
    if part.content_id:
        Content.objects.filter(pk=part.content_id).update(presence=Presence.MISSING)
    came = part.moves.filter(to_unit=unit).order_by("-id").first()
    if came and unit.storage_added_at == came.when:
        Unit.objects.filter(pk=unit.pk).update(storage_added_at=came.storage_before)


def _sanitised(part: Part) -> datetime | None:
    """When its data were cleared: by itself, or with the machine it has been in since before that."""
    cleared = part.unit.data_cleared_at if part.unit else None
    if cleared and cleared >= part.since:
        return max(filter(None, (cleared, part.sanitised_at)))
    return part.sanitised_at


def _leaving(part: Part, source: Unit, worths: Worths | None) -> Decimal:
    came_with, carried = fitted_cost(part), balance(Account.UNIT, source.pk)
    if source.its_buyers:
        # What was in it when it was sold was sold with it.
        return came_with if came_with is not None and source.is_since_away(part.since) else Decimal(0)
    if came_with is None and carried > 0 and worths is None:
        raise Refused(f"{source.tag} carries {carried}: say what the part is worth of all that is in it.", "worth")
    try:
        return leaving_cost(
            carried, worths.part if worths else Decimal(0), worths.whole if worths else Decimal(1), came_with
        )
    except ValueError as problem:
        raise Refused(str(problem), "worth") from problem


def _legs(part: Part, source: Unit | None, target: Unit | None, cost: Decimal) -> list[Leg]:
    kind = EntryKind.PART_ISSUED if target else EntryKind.PART_RECOVERED
    out = (
        Leg(Account.UNIT, source.pk, EntryKind.PART_RECOVERED, -cost, source.lot_id)
        if source
        else Leg(Account.PART, part.pk, kind, -cost)
    )
    into = Leg(Account.UNIT, target.pk, kind, cost, target.lot_id) if target else Leg(Account.PART, part.pk, kind, cost)
    return [] if source is None and target is None else [out, into]


def _place(part: Part) -> Place:
    return Place(part.unit, part.slot, part.content, drawer=part.drawer)


def is_right(part: Part) -> bool | None:
    """Whether it is an original one, as was said where it is now or else of the part itself; None: nobody said."""
    if part.content and part.content.presence == Presence.NOT_ORIGINAL:
        return False
    return part.original


def _place_of(part: Part) -> str:
    return _place(part).words


def back_with_others(person: Person, part: Part, item: StockItem) -> None:
    """A part that was one of a drawer's until it was fitted lies among them again: its record ends."""
    part, before = hold_part(part), _place_of(part)
    words = f"back in drawer {item.drawer or '–'}"
    if part.unit:
        _leave(part, part.unit)
    Part.objects.filter(pk=part.pk).update(unit=None, slot="", content=None, gone_at=clock.now(), gone_words=words)
    note_move(person, part, PartMove.Kind.JOINED, before, words)


def note_move(person: Person, part: Part, kind: PartMove.Kind, origin: str, goal: str, **given) -> PartMove:
    """A line in the record of the part."""
    given = {"when": clock.now(), **given, "why": within(given.get("why", ""), 160, "why")}
    move = PartMove.objects.create(
        part=part, kind=kind, from_words=origin[:80], to_words=goal[:80], who=person, **given
    )
    why = f": {move.why}" if move.why else ""
    words = f"{move.get_kind_display()}, {origin} to {goal}{why}" if origin else f"{move.get_kind_display()}"
    history.record(person, "units.note_move", PART, part.pk, words, move=move.pk, cost=move.cost)
    return move
