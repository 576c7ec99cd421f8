"""Starts and fixes: what the machine did since it was repaired, and what speaks against it now."""

from collections import Counter, defaultdict
from collections.abc import Collection, Iterator, Mapping
from dataclasses import dataclass
from datetime import datetime
from itertools import zip_longest

from core.bench.assurance import (
    Condition,
    Fate,
    Fix,
    FixStatus,
    Sureness,
    Trial,
    depends_on,
    fate,
    fix_status,
    how_sure,
    refuted,
)
from core.bench.proof import Since, proof
from stations.bench.models import FaultCase, StartTrial
from stations.common import clock
from stations.units.models import Unit

# Faults of a symptom that are learned from. Common practice, no source.
NEWEST = 500


def trials_of(unit: Unit) -> list[Trial]:
    """Every start of the unit in the order of time."""
    return [_trial(start) for start in unit.starts.all()]


def _trial(start: StartTrial) -> Trial:
    flags = {c for c, there in ((Condition.COLD, start.cold is True), (Condition.CLOSED, start.closed)) if there}
    return Trial(start.when, frozenset(flags), start.passed)


def fixes_of(unit: Unit, trials: list[Trial]) -> list[tuple[FaultCase, FixStatus]]:
    """Every fix made on the unit and where it stands."""
    closed = unit.faults.filter(closed_at__isnull=False).exclude(fix="")
    return [(case, fix_status(_closed(case), trials)) for case in closed]


def hangs_on(trials: list[Trial]) -> str:
    return depends_on(trials)


def _closed(case: FaultCase) -> datetime:
    """When a fault was closed; those asked for here all are."""
    if case.closed_at is None:
        raise ValueError(f"{case} is still looked for.")
    return case.closed_at


def _symptom(case: FaultCase) -> str:
    """What a buyer may read of a fault: what it did. What was typed of it is for colleagues."""
    words = str(case.get_symptom_display())
    return words[:1].lower() + words[1:]


def unconfirmed_fixes(units: list[Unit]) -> dict[int, list[str]]:
    """Fixes that are not confirmed yet, in words, by unit: two queries for all, one where nothing was fixed."""
    ids = [unit.pk for unit in units]
    fixed = list(FaultCase.objects.filter(unit_id__in=ids, closed_at__isnull=False).exclude(fix=""))
    starts: dict[int, list[Trial]] = defaultdict(list)
    for start in StartTrial.objects.filter(unit_id__in=[case.unit_id for case in fixed]) if fixed else ():
        starts[start.unit_id].append(_trial(start))
    found: dict[int, list[str]] = defaultdict(list)
    for case in fixed:
        status = fix_status(_closed(case), starts[case.unit_id])
        if status.fix is not Fix.CONFIRMED:
            found[case.unit_id].append(f"{_symptom(case)} ({status.fix.value})")
    return found


def causes_found(symptom: str) -> dict[str, int]:
    """What this symptom turned out to be in faults the shop has closed, how often: the newest, but for those whose fix
    did not hold. Three queries, two where none was closed."""
    units = FaultCase.objects.filter(symptom=symptom, closed_at__isnull=False).exclude(cause="").order_by("-id")
    found: Counter[str] = Counter()
    for one in _followed(set(units.values_list("unit_id", flat=True)[:NEWEST])):
        case = one.case
        held = not case.fix or not refuted(_closed(case), one.trials, one.again)
        if case.symptom == symptom and case.cause and held:
            found[case.cause] += 1
    return dict(found)


@dataclass(frozen=True)
class Followed:
    """A fault that is closed, the starts of its machine until the next one there, and whether that showed the same
    symptom; None while there was none."""

    case: FaultCase
    trials: list[Trial]
    again: bool | None


def _followed(ids: Collection[int]) -> Iterator[Followed]:
    """The closed faults of units: two queries, one where there are none."""
    cases: dict[int, list[FaultCase]] = defaultdict(list)
    for case in FaultCase.objects.filter(unit_id__in=ids).order_by("id"):
        cases[case.unit_id].append(case)
    starts: dict[int, list[StartTrial]] = defaultdict(list)
    for start in StartTrial.objects.filter(unit_id__in=ids) if ids else ():
        starts[start.unit_id].append(start)
    for unit_id, of_unit in cases.items():
        for case, after in zip_longest(of_unit, of_unit[1:]):
            if case.closed_at is not None:
                trials = [_trial(start) for start in starts[unit_id] if after is None or start.when < after.opened_at]
                yield Followed(case, trials, None if after is None else after.symptom == case.symptom)


def closed_faults() -> list[Followed]:
    """The faults of the units of which the newest were closed, and what came after each: three queries."""
    units = FaultCase.objects.filter(closed_at__isnull=False).order_by("-id")
    return list(_followed(set(units.values_list("unit_id", flat=True)[:NEWEST])))


def fate_of(one: Followed) -> Fate:
    """What became of its repair."""
    return fate(_closed(one.case), one.trials, one.again)


@dataclass(frozen=True)
class SinceTheRun:
    """What speaks against a unit since its plan was passed, and what was mended of it since its newest run ended: by
    that it is another machine, and what the run said of it, good or bad, is said of the one before."""

    against: tuple[str, ...] = ()
    mended: tuple[str, ...] = ()


def since_the_run(units: list[Unit], ended: Mapping[int, datetime | None]) -> dict[int, SinceTheRun]:
    """Of units of which there is something to say: against them speak a fault that is looked for, a fix that failed
    again, a start that failed, a journey out and back. `ended` is when the newest run of each was finished,
    None for one that is still open. Two queries for all."""
    ids = [unit.pk for unit in units]
    open_faults, fixed = defaultdict(list), defaultdict(list)
    for case in FaultCase.objects.filter(unit_id__in=ids):
        if case.closed_at is None:
            open_faults[case.unit_id].append(Since(case.opened_at, f"fault: {_symptom(case)}"))
        elif case.fix:
            fixed[case.unit_id].append(case)
    starts: dict[int, list[StartTrial]] = defaultdict(list)
    for start in StartTrial.objects.filter(unit_id__in=ids):
        starts[start.unit_id].append(start)
    back = {unit.pk: unit.came_back_at for unit in units if unit.came_back_at}
    concerned = {*open_faults, *fixed, *starts, *back}
    since: dict[int, SinceTheRun] = {}
    for unit_id in concerned:
        trials = [_trial(start) for start in starts[unit_id]]
        failed_fixes = [
            Since(_closed(case), f"the repair did not hold: {_symptom(case)}")
            for case in fixed[unit_id][-1:]
            if fix_status(_closed(case), trials).fix is Fix.FAILED
        ]
        failed_starts = [
            Since(s.when, f"a start failed on {clock.day_of(s.when):%d %B}") for s in starts[unit_id] if not s.passed
        ]
        travelled = [
            Since(moment, f"it was away until {clock.day_of(moment):%d %B}")
            for moment in filter(None, [back.get(unit_id)])
        ]
        run_ended = ended.get(unit_id)
        found = proof(run_ended, failed_starts, open_faults[unit_id], failed_fixes, travelled)
        mended = [
            f"mended since the last test: {_symptom(case)}"
            for case in fixed[unit_id]
            if run_ended is not None and _closed(case) > run_ended
        ]
        since[unit_id] = SinceTheRun(tuple(found.against), tuple(dict.fromkeys(mended)))
    return since


def sureness_of(unit: Unit) -> Sureness:
    """What its starts allow to be claimed; those before the last fix are of another machine."""
    fixed = unit.faults.filter(closed_at__isnull=False).exclude(fix="").order_by("closed_at").last()
    starts = unit.starts.filter(when__gt=fixed.closed_at) if fixed else unit.starts.all()
    return how_sure([start.passed for start in starts])
