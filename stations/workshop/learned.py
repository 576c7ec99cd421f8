"""Minutes as they turned out: what an assembly takes, by how long it took on machines of the same model before."""

from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from datetime import datetime

from django.db.models import Sum

from core.catalogue.assemblies import Assembly, StripDown
from core.catalogue.recipes import JobKind
from core.workshop.learning import Learned, learned
from core.workshop.stripdown.way_in import Costs, Record
from stations.people import shop_settings
from stations.units.models import Unit
from stations.workshop.models import Job, OpenedAssembly

# A step that took longer was interrupted; one that took less was noted afterwards. Common practice, no source.
SHORTEST, LONGEST = 0.2, 240.0


def of_the_kind(unit: Unit, names: Iterable[str]) -> list[OpenedAssembly]:
    """What was taken off before, on machines of the same model, or on this one when it has none: one query."""
    rows = OpenedAssembly.objects.filter(off_at__isnull=False, name__in=list(names)).select_related("opening")
    same = {"opening__unit__model": unit.model_id} if unit.model_id else {"opening__unit": unit.pk}
    return list(rows.filter(**same).order_by("opening_id", "off_at"))


def costs_of(rows: Iterable[OpenedAssembly]) -> Costs:
    """What a minute costs here, and how often each assembly was opened and broke."""
    records: dict[str, Record] = {}
    for row in rows:
        before = records.get(row.name, Record())
        records[row.name] = Record(before.opened + 1, before.broken + bool(row.broke))
    return Costs(shop_settings.settings().labour_rate, records)


def as_learned(strip: StripDown, rows: Iterable[OpenedAssembly]) -> StripDown:
    """The machine with minutes that learned from the times between steps, off and on apart."""
    off, on = _times(rows)
    return StripDown({name: _learned(assembly, off[name], on[name]) for name, assembly in strip.assemblies.items()})


@dataclass(frozen=True)
class Known:
    """A machine with its minutes as they turned out, what opening it costs, and the openings that rests on."""

    strip: StripDown
    costs: Costs
    before: Sequence[OpenedAssembly]


def known(unit: Unit, strip: StripDown) -> Known:
    """By what was opened of its model before: one query. Every way in to a machine goes by it."""
    before = of_the_kind(unit, strip.assemblies)
    return Known(as_learned(strip, before), costs_of(before), before)


def took(assembly: Assembly, rows: Iterable[OpenedAssembly], back: bool) -> Learned | None:
    """How long it took to take it off (or put it on) against the estimate of `assembly`; None without an estimate."""
    estimate = assembly.minutes_on if back else assembly.minutes_off
    times = _times(rows)[back][assembly.name]
    return learned([minutes / estimate for minutes in times]) if estimate else None


def _times(rows: Iterable[OpenedAssembly]) -> tuple[dict[str, list[float]], dict[str, list[float]]]:
    """Minutes off, and minutes on, by name, from the times between steps."""
    off: dict[str, list[float]] = defaultdict(list)
    on: dict[str, list[float]] = defaultdict(list)
    by_opening: dict[int, list[OpenedAssembly]] = defaultdict(list)
    for row in rows:
        by_opening[row.opening_id].append(row)
    for opened in by_opening.values():
        begun = opened[0].opening.opened_at
        _between([(row.name, row.off_at) for row in opened], begun, off)
        back = sorted((row.on_at, row.name) for row in opened if row.on_at)
        if back:
            _between([(name, at) for at, name in back[1:]], back[0][0], on)
    return off, on


def _between(steps: Iterable[tuple[str, datetime | None]], begun: datetime, into: dict[str, list[float]]) -> None:
    """Minutes from each step to the one before it, of those that can have been work."""
    before = begun
    for name, at in steps:
        if at is None:
            continue
        took = (at - before).total_seconds() / 60
        if SHORTEST <= took <= LONGEST:
            into[name].append(took)
        before = at


def _learned(assembly: Assembly, off: list[float], on: list[float]) -> Assembly:
    return replace(
        assembly,
        minutes_off=_minutes(assembly.minutes_off, off),
        minutes_on=_minutes(assembly.minutes_on, on),
    )


def _minutes(estimate: int, took: list[float]) -> int:
    """An estimate of 0 stays: nothing can be learned from a ratio to it."""
    return learned([minutes / estimate for minutes in took]).minutes(estimate) if estimate else 0


# So many of the newest jobs tell what cleaning and repairing a unit takes. Common practice, no source.
NEWEST = 120
_TOLD = {JobKind.CLEAN.value: "clean", JobKind.REPAIR.value: "repair"}


def minutes_of_a_unit() -> dict[str, list[float]]:
    """What cleaning and repairing a unit took, all such jobs of it together, by the newest jobs: one query."""
    jobs = Job.objects.was_done().filter(kind__in=list(_TOLD)).annotate(took=Sum("labour__minutes"))
    found: dict[str, dict[int, float]] = {name: defaultdict(float) for name in _TOLD.values()}
    for kind, unit, minutes in jobs.order_by("-done_at", "-id").values_list("kind", "unit_id", "took")[:NEWEST]:
        if minutes:
            found[_TOLD[kind]][unit] += minutes
    return {name: list(by_unit.values()) for name, by_unit in found.items()}
