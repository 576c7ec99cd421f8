"""A unit as it is now: what its model says, less what is recorded as missing, with what was found on it."""

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from datetime import datetime

from django.db.models import prefetch_related_objects

from core.bench.checks import MACHINES, BenchFacts
from core.bench.left_out import Inside, left_out
from core.intake.completeness import Presence
from core.intake.condition import FindingKind
from core.intake.storage import Storage, may_hold_data
from core.machine.mains import Adapter, Polarity, read_plate
from core.machine.supply import Battery, Supply
from stations.catalogue.weaknesses import KnownToFail, Thing, known_to_fail, weaknesses_of
from stations.units.models import Content, Finding, Part, Unit

# What things are called on lists of contents, in small letters.
KEYBOARDS = {"keyboard", "keyboard lead"}
CELLS = {"battery", "battery pack", "cell", "backup battery", "clock battery"}
TUBES = {"crt", "picture tube", "tube"}
SUPPLIES = {"power supply", "supply", "psu"}
DISKS = {"hard disk", "hard drive", "fixed disk", "solid-state disk", "disk module", "memory card", "storage"}
DRIVES = DISKS | {"drive", "disk drive", "diskette drive", "floppy drive", "tape drive", "optical drive"}


def wanted_adapter(unit: Unit) -> Adapter | None:
    """What adapter it wants (or, for an adapter itself, what its plate says): recorded on it, or else by its model."""
    alternating = {Supply.EXTERNAL_AC.value: True, Supply.EXTERNAL_DC.value: False}.get(unit.supply)
    if unit.adapter_volts and unit.adapter_amps and alternating is not None:
        polarity = Polarity.NONE if alternating else Polarity(unit.adapter_polarity)
        return Adapter(unit.adapter_volts, unit.adapter_amps, alternating, polarity)
    return read_plate(unit.model.adapter) if unit.model and unit.model.adapter else None


def bench_facts(unit: Unit) -> BenchFacts:
    """What the bench needs to know of this unit: two queries."""
    return facts_of_each([unit])[unit.pk]


def facts_of_each(units: Sequence[Unit]) -> dict[int, BenchFacts]:
    """The same of several: two queries for all, and one for models that were not read yet."""
    prefetch_related_objects(units, "model")
    kinds: dict[int, set[str]] = defaultdict(set)
    for unit_id, kind in Finding.objects.filter(unit__in=units, status=Finding.Status.OPEN).values_list("unit", "kind"):
        kinds[unit_id].add(kind)
    contents: dict[int, list[Content]] = defaultdict(list)
    for content in Content.objects.filter(unit__in=units):
        contents[content.unit_id].append(content)
    return {unit.pk: facts_with(unit, kinds[unit.pk], contents[unit.pk]) for unit in units}


def facts_with(unit: Unit, kinds: set[str], contents: Iterable[Content]) -> BenchFacts:
    """The same from what was read already: `kinds` of open findings, and its contents."""
    names = [(content.name.strip().lower(), content.presence == Presence.MISSING) for content in contents]
    missing = {name for name, is_gone in names if is_gone}
    there = {name for name, is_gone in names if not is_gone}
    adapter = wanted_adapter(unit)
    battery, supply, drives = Battery(unit.battery), Supply(unit.supply), unit.drives
    # Of two, the one that is gone says nothing of the other.
    if missing & CELLS and not there & CELLS and battery is not Battery.NONE:
        battery = Battery.OUT
    if missing & SUPPLIES and supply in {Supply.LINEAR, Supply.SWITCHING, Supply.UNKNOWN}:
        supply = Supply.NONE
    if drives is not None:
        drives = max(0, drives - len(missing & DRIVES))
    return BenchFacts(
        supply=supply,
        battery=battery,
        picture_tube=False if missing & TUBES else unit.picture_tube,
        drives=drives,
        keyboard=False if missing & KEYBOARDS else unit.keyboard,
        mains_known=unit.mains_known,
        adapter_volts=unit.adapter_volts or (adapter.volts if adapter else None),
        leak_found=FindingKind.LEAK in kinds,
        rework_found=FindingKind.REWORK in kinds,
        swollen_found=FindingKind.SWOLLEN in kinds,
        cell_found=FindingKind.CELL in kinds,
        form_factor=unit.form_factor,
        approach=unit.approach,
        model=str(unit.model) if unit.model else "",
        needs_cell=bool(unit.model and unit.model.needs_cell),
        missing=tuple(sorted(missing)),
    )


def left_out_of(unit: Unit, contents: Iterable[Content]) -> list[str]:
    """Where a caution is not asked for, since what it is about is recorded as not there, against its model or what was
    ticked; no query once model and contents are loaded. What is recorded as missing is gone by both."""
    said = [(content.name.strip().lower(), content.presence) for content in contents]
    missing = {name for name, presence in said if presence == Presence.MISSING}
    there = {name for name, presence in said if presence == Presence.PRESENT}
    model = unit.model
    of_model = Inside(
        bool(model and model.picture_tube and not missing & TUBES),
        Battery(model.battery) if model and not missing & CELLS else Battery.UNKNOWN,
        Supply(model.supply) if model and not missing & SUPPLIES else Supply.UNKNOWN,
    )
    here = Inside(unit.picture_tube, Battery(unit.battery), Supply(unit.supply))
    return left_out(of_model, here, bool(there & TUBES), bool(there & CELLS))


def fails_in(unit: Unit) -> list[KnownToFail]:
    """What is known to go wrong with this machine and the parts in it: two queries."""
    return fails_in_each([unit])[unit.pk]


def fails_in_each(units: Sequence[Unit]) -> dict[int, list[KnownToFail]]:
    """The same of several: two queries for all."""
    things = {unit.pk: [Thing(serial=unit.serial)] for unit in units}
    rows = Part.objects.filter(unit__in=list(things)).order_by("id")
    for unit_id, *said in rows.values_list("unit_id", "name", "serial", "revision"):
        things[unit_id].append(Thing(*said))
    known = weaknesses_of({unit.model_id for unit in units if unit.model_id})
    return {unit.pk: known_to_fail(unit.model_id, things[unit.pk], known) for unit in units}


def not_there(units: list[Unit]) -> dict[int, dict[Presence, set[str]]]:
    """What is missing of units, and what nobody has looked for, by the names of their contents: one query."""
    found: dict[int, dict[Presence, set[str]]] = {unit.pk: {} for unit in units}
    rows = Content.objects.filter(unit_id__in=list(found), presence__in=[Presence.MISSING, Presence.UNSEEN])
    for unit_id, presence, name in rows.values_list("unit_id", "presence", "name"):
        found[unit_id].setdefault(Presence(presence), set()).add(name.strip().lower())
    return found


def data_left(units: list[Unit], gaps: Mapping[int, Mapping[Presence, set[str]]] | None = None) -> dict[int, str]:
    """For each unit why it may still hold somebody's data, in words, empty when it does not: one query, or none where
    it is told what is not there."""
    gaps = not_there(units) if gaps is None else gaps
    return {unit.pk: may_hold_data(storage_of(unit, gaps[unit.pk].get(Presence.MISSING, set()))) for unit in units}


def storage_of(unit: Unit, missing: set[str]) -> Storage:
    """The storage that is in a unit now."""
    drives: int | None = unit.drives
    if drives is None and unit.form_factor not in MACHINES | {"drive"}:
        drives = 0
    if drives is not None:
        drives = max(0, drives - len(missing & DRIVES))
    disk_gone = bool(missing & DISKS)
    cleared: datetime | None = unit.data_cleared_at
    return Storage(unit.data_on_board, drives, disk_gone, unit.storage_added_at, cleared)
