"""A unit as the rules of what fits see it: what its model offers, what is in it, what became of it."""

from collections import Counter
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import replace
from decimal import Decimal

from django.db import transaction

from core.catalogue.fit.answers import Answer, Verdict
from core.catalogue.fit.filling import CannotFill, Stick, wrongly_filled
from core.catalogue.fit.kinds import Region
from core.catalogue.fit.machine import Fitted, Machine
from core.catalogue.fit.needs import Needs
from core.catalogue.fit.offers import Offers
from core.catalogue.fit.paths import Converter, Ways
from core.catalogue.fit.rules import judge
from core.catalogue.fit.schema import FitError, answered, groups_of, sheet_data, sheet_from
from core.catalogue.fit.within import with_added
from core.machine.approach import Approach
from core.machine.mains import Mains
from core.machine.names import as_seen
from stations.catalogue.fit_sheets import needs_of, offers_of, offers_of_each, read, sheets_of, tried_in
from stations.catalogue.models import PartSheet
from stations.common.refusals import Refused
from stations.common.registry import Registry
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.people.screens import save_versioned
from stations.stock.models import PartOffer, StockItem
from stations.units.models import Part, Unit, UnitFit

# What jumpers of a unit are set to now, by "part jumper" in small letters: rooms further on answer, in one query.
set_to: Registry[Callable[[Unit], Mapping[str, str]]] = Registry("how a unit is set")
_REGIONS = {Mains.V220_240: Region.V230_50, Mains.V100_120: Region.V115_60}


def unit_offers(unit: Unit) -> Offers:
    """What the model offers, with the groups that are the unit’s own in their place: two queries."""
    return _with_own(offers_of(unit.model), UnitFit.objects.filter(unit=unit).first())


def _with_own(offers: Offers, own: UnitFit | None) -> Offers:
    if own is None or not own.offers:
        return offers
    mine = sheet_from(Offers, own.offers)
    return replace(offers, **{name: getattr(mine, name) for name in own.offers if name in groups_of(Offers)})


def machine_of(unit: Unit) -> Machine:
    """The unit with all that is in it, and the converters there are: eight queries, however much that is."""
    own = UnitFit.objects.filter(unit=unit).first()
    offers = _with_own(offers_of(unit.model), own)
    jumpers = {name: at for told in set_to.values() for name, at in told(unit).items()}
    parts = list(unit.parts.order_by("id"))
    sheets = sheets_of(part.name for part in parts)
    called = Counter(part.name for part in parts)
    fitted = [
        _as_set(Fitted(part.name, Needs(), part.slot, called[part.name] > 1), sheets.get(as_seen(part.name)), jumpers)
        for part in parts
    ]
    for one in fitted:
        offers = with_added(offers, one.name, one.needs)
    return Machine(
        offers,
        tuple(fitted),
        own.whole if own else None,
        Approach(unit.approach) if unit.approach else None,
        frozenset(own.stretched if own else ()),
        region=region_of(unit),
        ways=ways(),
    )


def region_of(unit: Unit) -> str:
    """Mains and picture standard of the unit; empty where its mains are not known, or both."""
    region = _REGIONS.get(Mains(unit.mains_variant))
    return region.value if region else ""


def _as_set(fitted: Fitted, sheet: PartSheet | None, jumpers: Mapping[str, str]) -> Fitted:
    """A part as its sheet and the settings of the unit have it."""
    needs = needs_of(sheet) if sheet else Needs()
    if needs.uses is not None:
        uses = [replace(use, now=jumpers.get(f"{fitted.label} {use.name}".lower(), use.now)) for use in needs.uses]
        needs = replace(needs, uses=tuple(uses))
    return replace(fitted, needs=needs)


def ways() -> Ways:
    """Every converter with what it costs to get: nothing for one that lies in a drawer. Three queries."""
    sheets = list(PartSheet.objects.filter(converts=True))
    names = [sheet.name for sheet in sheets]
    here: dict[str, StockItem] = {}
    for item in StockItem.objects.filter(name__in=names).exclude(condition="faulty"):
        if item.free >= 1:
            here.setdefault(as_seen(item.name), item)
    offers: dict[str, PartOffer] = {}
    for offer in PartOffer.objects.filter(want__in=names).select_related("seller").order_by("-each"):
        offers[as_seen(offer.want)] = offer
    found = []
    for sheet in sheets:
        lies, sold = here.get(as_seen(sheet.name)), offers.get(as_seen(sheet.name))
        price = Decimal(0) if lies else sold.each if sold else None
        where = f"drawer {lies.drawer or '–'}" if lies else str(sold.seller) if sold else "nobody known has one"
        needs = needs_of(sheet)
        chips = "; ".join(
            f"{chip.name} {chip.version or 'not read'}, newest known {chip.newest or 'not known'}"
            + (f" of {chip.newest_on}" if chip.newest_on else "")
            for chip in needs.firmware or ()
        )
        for way in needs.converts or ():
            found.append(Converter(sheet.name, way, price, lies is not None, where, chips))
    return Ways(found)


def verdict_of(machine: Machine, unit: Unit, sheet: PartSheet | None) -> Verdict:
    """What the rules say of a part on a unit, with what was tried in machines of its model."""
    needs = needs_of(sheet) if sheet else Needs()
    tried = tried_in(unit.model, sheet).get(sheet.pk, ()) if sheet else ()
    return judge(replace(machine, tried=tried) if tried else machine, needs)


def verdicts_of(machine: Machine, unit: Unit, sheets: list[PartSheet]) -> list[Verdict]:
    """The same for many: one query."""
    tried = tried_in(unit.model)
    return [
        judge(replace(machine, tried=tried[sheet.pk]) if sheet.pk in tried else machine, needs_of(sheet))
        for sheet in sheets
    ]


def rails_of_each(units: Sequence[Unit]) -> dict[int, dict[Decimal, Decimal | None] | None]:
    """Of each unit, what each rail of the supply gives, by its volts; None where nobody recorded the rails: two queries
    for all."""
    own = {row.unit_id: row for row in UnitFit.objects.filter(unit__in=[unit.pk for unit in units])}
    models = offers_of_each({unit.model_id for unit in units if unit.model_id})
    found = {}
    for unit in units:
        rails = _with_own(models.get(unit.model_id or 0, Offers()), own.get(unit.pk)).rails
        found[unit.pk] = None if rails is None else {rail.volts: rail.amps for rail in rails}
    return found


def look_for(unit: Unit, named: Iterable[str]) -> list[str]:
    """What to look for in it by what its model offers, beside what is `named` on its list: two queries."""
    offers = unit_offers(unit)
    banks = dict.fromkeys(module.bank or module.name for module in offers.modules or ())
    found = [f"chip in {socket.name}" for socket in offers.sockets or ()]
    found += [f"memory, {bank}" for bank in banks]
    found += [f"drive, {bay.name} bay" for bay in offers.bays or ()]
    found += [f"card, slot {slot.name}" for slot in offers.slots or ()]
    there = set(map(as_seen, named))
    return [name for name in found if as_seen(name) not in there]


# Findings about a part that is in already that speak of a clash, though they could be put right.
_PUT_RIGHT = frozenset({"interrupt", "DMA", "addresses", "place on the bus", "termination"})


def clashes_in(machine: Machine) -> list[tuple[str, str, str]]:
    """Of what is in a machine and does not fit the rest of it: (part, rule, why with its numbers)."""
    found = []
    for place, fitted in enumerate(machine.fitted):
        rest = replace(machine, fitted=(*machine.fitted[:place], *machine.fitted[place + 1 :]))
        for finding in judge(rest, fitted.needs).findings:
            rail = finding.at.startswith("rail:") or finding.at == "supply"
            if finding.answer is Answer.NOT or (finding.answer is Answer.WITH and (rail or finding.rule in _PUT_RIGHT)):
                found.append((fitted.label, finding.rule, finding.does))
    return [*found, *_misfilled(machine)]


def _misfilled(machine: Machine) -> list[tuple[str, str, str]]:
    """Modules that sit against the rules of the board; nothing where those are not known."""
    sticks = [Stick(str(at), module, fitted.at) for at, (fitted, module) in enumerate(machine.modules_in)]
    if machine.board is None or not machine.offers.modules or not sticks:
        return []
    try:
        return [("memory", "filling", words) for words in wrongly_filled(machine.board, machine.offers.modules, sticks)]
    except CannotFill:
        return []


def _hold_own(unit: Unit) -> UnitFit:
    """What is the unit’s own, held until the transaction ends; begun where there was nothing."""
    own, _ = UnitFit.objects.get_or_create(unit=unit)
    return UnitFit.objects.select_for_update().get(pk=own.pk)


@transaction.atomic
def say_whole(person: Person, unit: Unit, whole: bool) -> None:
    """All that is in it is written down, or not any more."""
    require(person, "record parts")
    own = _hold_own(unit)
    save_versioned(own, own.version, {"whole": whole})
    words = "All that is in it is written down" if whole else "Not all that is in it is written down"
    history.record(person, "units.say_whole", HistoryEntry.Subject.UNIT, unit.pk, words, whole=whole)


def note_pins(person: Person, unit: Unit, part: Part) -> None:
    """A part went into a socket: thicker pins spread it for good."""
    sheet = sheets_of([part.name]).get(as_seen(part.name))
    thick = any(one.thick_pins for one in needs_of(sheet).processors or ()) if sheet else False
    if thick and part.slot:
        _stretch(person, unit, part.slot, True)


@transaction.atomic
def say_stretched(person: Person, unit: Unit, socket: str, stretched: bool) -> None:
    """A board with thicker pins has sat in a socket, or it turned out that none has."""
    require(person, "record facts")
    _stretch(person, unit, socket, stretched)


def _stretch(person: Person, unit: Unit, socket: str, stretched: bool) -> None:
    if not socket:
        raise Refused("Say which socket.", "socket")
    own = _hold_own(unit)
    sockets = {*own.stretched} | {socket.lower()} if stretched else {*own.stretched} - {socket.lower()}
    save_versioned(own, own.version, {"stretched": sorted(sockets)})
    words = f"Socket {socket}: {'stretched by thicker pins' if stretched else 'not stretched'}"
    history.record(person, "units.stretch", HistoryEntry.Subject.UNIT, unit.pk, words, socket=socket)


def own_groups(unit: Unit) -> list[tuple[str, str]]:
    """Groups of which this very unit has its own, otherwise than its model: name and what it is called."""
    own = UnitFit.objects.filter(unit=unit).first()
    return [(name, label) for name, (_, label) in groups_of(Offers).items() if own and name in own.offers]


@transaction.atomic
def as_its_model(person: Person, unit: Unit, group: str) -> None:
    """Of this group the unit is as its model again."""
    require(person, "record facts")
    own = UnitFit.objects.select_for_update().filter(unit=unit).first()
    if own is None or group not in own.offers:
        raise Refused("It is as its model there.")
    save_versioned(own, own.version, {"offers": {name: rows for name, rows in own.offers.items() if name != group}})
    words = f"{groups_of(Offers)[group][1].capitalize()}: as its model again"
    history.record(person, "units.as_its_model", HistoryEntry.Subject.UNIT, unit.pk, words, group=group)


@transaction.atomic
def answer_unit(person: Person, unit: Unit, group: str, name: str, key: str, typed: str) -> None:
    """One field of this very unit, where it is otherwise than its model or the model is not known."""
    require(person, "record facts")
    own = _hold_own(unit)
    offers = unit_offers(unit)
    try:
        after = answered(offers, group, name, key, typed)
    except FitError as problem:
        raise Refused(f"{problem}.", "answer") from problem
    data = {**own.offers, group: sheet_data(after)[group]}
    read(Offers, sheet_data(replace(offers, **{group: getattr(after, group)})))
    save_versioned(own, own.version, {"offers": data})
    words = f"{name}: {key} {typed}"
    history.record(person, "units.answer_unit", HistoryEntry.Subject.UNIT, unit.pk, words, group=group)
