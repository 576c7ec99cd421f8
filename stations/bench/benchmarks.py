"""Benchmarks before and after."""

from collections import defaultdict
from dataclasses import dataclass
from decimal import Decimal, InvalidOperation

from django.db import transaction

from core.bench.comparison import Compared, compare, read_time
from stations.bench.models import Benchmark
from stations.common import clock
from stations.common.refusals import Refused, within
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.units.models import Unit

MOST_RUNS = 30


def read_runs(text: str, *, scores: bool = False) -> list[float]:
    """Runs as typed: "15.2; 15.0; 15.4", or "1:03; 1:05" for a minute and seconds. Raises Refused at the field."""
    runs = []
    for word in text.replace(";", " ").split():
        if ":" in word:
            seconds = read_time(word)
            if seconds is None or scores:
                said = "A score is a plain number" if scores else "Type minutes and seconds like 1:03"
                raise Refused(f"“{word}” can’t be read. {said}.", "values")
            word = str(seconds)
        try:
            value = Decimal(word.replace(",", "."))
        except InvalidOperation as problem:
            raise Refused(f"“{word}” is no number. Type the runs like this: 15.2; 15.0; 15.4.", "values") from problem
        if not value.is_finite() or not 0 < value < 10**9:
            raise Refused("Every run is above 0.", "values")
        runs.append(float(value))
    if not 1 <= len(runs) <= MOST_RUNS:
        raise Refused(f"From 1 to {MOST_RUNS} runs.", "values")
    return runs


@dataclass(frozen=True)
class BenchmarkRuns:
    """Several runs of one test at one setting, `values` as typed; seconds, or scores where more is better."""

    name: str
    values: str
    moment: str
    setting: str = ""
    by_hand: bool = False
    scores: bool = False
    changed: str = ""


@transaction.atomic
def record_benchmark(person: Person, unit: Unit, ran: BenchmarkRuns) -> Benchmark:
    """Keep several runs of one test at one setting."""
    require(person, "record benchmarks")
    runs = read_runs(ran.values, scores=ran.scores)
    changed = within(ran.changed.strip(), 160, "changed")
    if changed and ran.moment == Benchmark.Moment.BEFORE:
        raise Refused("What was changed is said with the runs after it.", "changed")
    made = Benchmark.objects.create(unit=unit, when=clock.now(), who=person, **{**vars(ran), "values": runs})
    history.record(
        person,
        "bench.record_benchmark",
        HistoryEntry.Subject.UNIT,
        unit.pk,
        f"Benchmark {made}: {', '.join(f'{r:g}' for r in runs)}",
    )
    return made


@dataclass(frozen=True)
class BeforeAfter:
    name: str
    setting: str
    before: list[float]
    after: list[float]
    scores: bool
    compared: Compared | None
    changed: list[str]
    # Settings at which the same test was run on the other side only.
    elsewhere: list[str]


def benchmarks_of(unit: Unit) -> list[BeforeAfter]:
    """Each test at each setting with its runs on both sides; only like is compared with like, and it is said where the
    other side was run otherwise. One query."""
    sides: dict[tuple, dict[str, list[float]]] = defaultdict(lambda: {"before": [], "after": []})
    changed: dict[str, list[str]] = defaultdict(list)
    for row in unit.benchmarks.all():
        changed[row.name.strip().lower()] += [row.changed] if row.changed else []
        sides[row.name.strip().lower(), row.setting.strip().lower(), row.scores, row.by_hand][row.moment] += row.values
    found = []
    for (name, setting, scores, by_hand), runs in sides.items():
        both = runs["before"] and runs["after"]
        compared = compare(runs["before"], runs["after"], by_hand, scores) if both else None
        wanted = "after" if runs["before"] else "before"
        elsewhere = [
            other or "no setting said"
            for (of, other, as_scores, _), there in sides.items()
            if of == name and (other, as_scores) != (setting, scores) and there[wanted] and not both
        ]
        found.append(
            BeforeAfter(name, setting, runs["before"], runs["after"], scores, compared, changed[name], elsewhere)
        )
    return found
