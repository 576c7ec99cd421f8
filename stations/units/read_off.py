"""What can be read off a unit: the calculators at intake, and the readings kept as facts."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date

from django.db import transaction
from django.db.models import F

from core.intake.approval import ApprovalError, read_approval
from core.intake.chips import ChipsError, display_modes, memory_of, read_chips, read_modules, size_words
from core.intake.datecode import DateCodeError, OutOfPlace, PartDate, board_date, out_of_place, read_date_code
from core.intake.serial import read_serial
from core.intake.signal import nearest_signals
from core.machine.mains import Mains, SuffixRule, compare_adapters, read_plate, variant_by_number
from stations.catalogue.models import MachineModel, SerialPattern, VariantRule
from stations.common import clock
from stations.common.refusals import Refused, within
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.units import stages
from stations.units.models import Unit, UnitFact

Kind = UnitFact.Kind


@dataclass(frozen=True)
class Reading:
    """One possible reading of what was typed: in words, why it is likelier or not, its day if it is a date, and the
    mains it says the unit wants if it is a mains variant."""

    words: str
    why: str = ""
    dated: date | None = None
    mains: Mains | None = None


def readings(kind: str, typed: str, model: MachineModel | None = None) -> tuple[Reading, ...]:
    """Every possible reading, the likelier first. Raises Refused, at "typed", when there is none."""
    if kind not in _READERS:
        raise Refused("Say what kind of thing it is.", "kind")
    if not typed.strip():
        raise Refused("Type what stands there.", "typed")
    try:
        return _READERS[Kind(kind)](typed.strip(), model)
    except (DateCodeError, ChipsError, ApprovalError, ValueError) as problem:
        raise Refused(str(problem), "typed") from problem


def _years(model: MachineModel | None) -> tuple[int | None, int | None]:
    return (model.year_from, model.year_to) if model else (None, None)


def _date_code(typed: str, model: MachineModel | None) -> tuple[Reading, ...]:
    return tuple(
        Reading(
            f"{r.words} ({_span(r.monday, r.sunday)}), read {r.form}" if r.week else r.words.capitalize(),
            r.why,
            r.monday,
        )
        for r in read_date_code(typed, _years(model), clock.today().year)
    )


def _span(monday: date, sunday: date) -> str:
    first = f"{monday:%-d %b %Y}" if monday.year != sunday.year else f"{monday:%-d %b}"
    return f"{first} – {sunday:%-d %b %Y}"


def _serial(typed: str, model: MachineModel | None) -> tuple[Reading, ...]:
    patterns = SerialPattern.objects.all()
    if model:
        patterns = patterns.filter(maker=model.maker)
    found = []
    for row in patterns:
        if row.model_id and (model is None or row.model_id != model.pk):
            continue
        reading = read_serial(row.pattern, typed, _years(model), clock.today().year)
        if reading is None:
            continue
        rest = ", ".join(f"{name} {value}" for name, value in reading.fields.items() if name not in {"year", "week"})
        for year, monday, off, why in reading.readings:
            week = f"week {monday.isocalendar().week} of " if monday else ""
            found.append((off or 0, Reading(f"{row.maker}: {week}{year}{', ' + rest if rest else ''}", why, monday)))
        if not reading.readings:
            found.append((0, Reading(f"{row.maker}: {rest}", row.note)))
    if not found:
        raise Refused("No pattern of the bank fits this serial. Add the maker’s pattern to the model bank.", "typed")
    return tuple(reading for _, reading in sorted(found, key=lambda pair: pair[0]))


def _memory(typed: str, model: MachineModel | None) -> tuple[Reading, ...]:
    try:
        chips = read_chips(typed)
    except ChipsError:
        return (Reading(size_words(read_modules(typed)), "added up"),)
    return tuple(Reading(f"{size_words(r.size)}{' with parity' if r.parity else ''}", r.why) for r in memory_of(chips))


def _display(typed: str, model: MachineModel | None) -> tuple[Reading, ...]:
    size = read_modules(typed)
    best: dict[tuple[int, int], int] = {}
    for mode in display_modes(size):
        if mode.fits:
            best[mode.width, mode.height] = mode.bits
    words = [f"{w}×{h} at {bits} bit" for (w, h), bits in best.items()]
    return (Reading(f"{size_words(size)}: {', '.join(words) or 'no usual picture fits'}", "the deepest of each"),)


def _approval(typed: str, model: MachineModel | None) -> tuple[Reading, ...]:
    found = read_approval(typed)
    return (Reading(f"grantee {found.grantee}, product {found.product}", "47 CFR 2.926"),)


def _signal(typed: str, model: MachineModel | None) -> tuple[Reading, ...]:
    try:
        line, field = (float(part.replace(",", ".")) for part in typed.replace("/", " ").split())
    except ValueError as problem:
        raise Refused("Type the line rate in kHz and the field rate in Hz: 15.6 50.", "typed") from problem
    return tuple(
        Reading(signal.name, f"{off:.1f} % off; {signal.source}") for signal, off in nearest_signals(line, field)
    )


def _variant(typed: str, model: MachineModel | None) -> tuple[Reading, ...]:
    if not (typed.isascii() and typed.isdecimal()):
        raise Refused("Type the number without letters.", "typed")
    rules = VariantRule.objects.filter(maker=model.maker) if model else VariantRule.objects.all()
    found = []
    for row in rules:
        variant = variant_by_number(SuffixRule(row.base, {0: Mains(row.at_base), 1: Mains(row.at_next)}), int(typed))
        if variant:
            found.append(Reading(f"{row.maker}: {variant.label}", f"base number {row.base}", mains=variant))
    if not found:
        raise Refused("No rule of the bank says what this number means. Add it to the model bank.", "typed")
    return tuple(found)


def _adapter(typed: str, model: MachineModel | None) -> tuple[Reading, ...]:
    offered = read_plate(typed)
    if not model or not model.adapter:
        raise Refused("The model bank does not say which adapter this model wants. Add it there.", "typed")
    found = compare_adapters(read_plate(model.adapter), offered)
    lead = {True: "May be used.", False: "DO NOT USE.", None: "Not known yet, so not used."}[found.may]
    return (Reading(f"{lead} {found.words}", f"the model wants {model.adapter}; this one gives {offered.words}"),)


_READERS: dict[Kind, Callable[[str, MachineModel | None], tuple[Reading, ...]]] = {
    Kind.DATE_CODE: _date_code,
    Kind.SERIAL: _serial,
    Kind.MEMORY: _memory,
    Kind.DISPLAY: _display,
    Kind.APPROVAL: _approval,
    Kind.SIGNAL: _signal,
    Kind.VARIANT: _variant,
    Kind.ADAPTER: _adapter,
}


@transaction.atomic
def keep_fact(person: Person, unit: Unit, kind: str, typed: str, choice: int, on_what: str, repair: bool) -> UnitFact:
    """Keep one reading (by its place in the list) as a fact on the unit."""
    require(person, "record facts")
    found = readings(kind, typed, unit.model)
    if not 0 <= choice < len(found):
        raise Refused("Choose one of the readings.")
    reading = found[choice]
    fact = UnitFact.objects.create(
        unit=unit,
        kind=kind,
        on_what=within(on_what, 60, "on_what"),
        typed=within(typed.strip(), 80, "typed"),
        reading=within(reading.words, 160, "typed"),
        dated=reading.dated,
        repair=repair,
        when=clock.now(),
        who=person,
    )
    history.record(
        person,
        "units.keep_fact",
        HistoryEntry.Subject.UNIT,
        unit.pk,
        f"Read off{' ' + on_what if on_what else ''}: {fact}",
    )
    if reading.mains and Unit.objects.filter(pk=unit.pk, mains_variant=Mains.UNKNOWN).update(
        mains_variant=reading.mains, version=F("version") + 1
    ):
        stages.refresh(unit)
    return fact


@transaction.atomic
def drop_fact(person: Person, fact: UnitFact) -> None:
    require(person, "record facts")
    history.record(person, "units.drop_fact", HistoryEntry.Subject.UNIT, fact.unit_id, f"No longer holds: {fact}")
    fact.delete()


@dataclass(frozen=True)
class Dating:
    """What the dated facts of a unit say together: the machine's own date, the board's, and what is out of place."""

    machine: date | None
    board: date | None
    places: dict[int, OutOfPlace]


def dating_of(unit: Unit, facts: list[UnitFact]) -> Dating:
    """The machine's date is its serial's, or else its board's; every dated part stands against it.

    A chip from after the model's last year can't date the board: it came later.
    """
    machine = next((f.dated for f in facts if f.kind == Kind.SERIAL and f.dated), None)
    codes = [f for f in facts if f.kind == Kind.DATE_CODE and f.dated]
    parts = [PartDate(f.on_what or f.typed, f.dated, f.repair) for f in codes if f.dated]
    last = (unit.model.year_to or unit.model.year_from) if unit.model else None
    board = board_date([part for part in parts if last is None or part.monday.isocalendar().year <= last])
    against = machine or board
    places = out_of_place(parts, against) if against else ()
    return Dating(machine, board, {f.pk: place for f, place in zip(codes, places, strict=False)})
