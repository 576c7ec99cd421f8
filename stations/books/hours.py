"""Where the time went: minutes on record by kind of work, by person and by what became of the units."""

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from decimal import Decimal
from typing import Any, TypeVar

from django.db.models import F, QuerySet, Sum

from core.books.hours import Became
from core.books.tax import Period
from core.flow.stage import Stage
from core.money import ZERO
from core.workshop.learning import Learned, learned
from stations.common import clock
from stations.common.paging import First, first_of
from stations.people.models import Person
from stations.units.models import Unit
from stations.workshop.models import Job, LabourEntry

_SHOWN = 12


@dataclass(frozen=True)
class Spent:
    """Minutes of one sort, what they were booked at, and `share` of all of them, 0 to 1."""

    name: str
    minutes: int
    cost: Decimal
    share: float


@dataclass(frozen=True)
class KindOfWork(Spent):
    """With how long jobs of the kind took that were done in these days, of what was estimated; None for none."""

    took: Learned | None


@dataclass(frozen=True)
class OnUnit:
    unit: Unit
    minutes: int


@dataclass(frozen=True)
class Hours:
    """`minutes` in all, and the same by kind of work, by person, by what became of the units, and on which units."""

    minutes: int
    kinds: list[KindOfWork]
    people: list[Spent]
    became: list[Spent]
    units: First[OnUnit]

    def share_of(self, became: Became) -> float:
        return next((one.share for one in self.became if one.name == became), 0.0)

    @property
    def sold(self) -> float:
        return self.share_of(Became.SOLD)

    @property
    def lost(self) -> float:
        return self.share_of(Became.LOST)


def hours(period: Period) -> Hours:
    """Seven queries, however much was worked; one more where it was on many units."""
    begins, ends = clock.begin_of(period.first), clock.begin_of(period.after)
    rows = LabourEntry.objects.filter(started_at__gte=begins, started_at__lt=ends, minutes__gt=0).order_by()
    kinds, people, stages = _summed(rows, "job__kind"), _summed(rows, "person"), _summed(rows, "job__unit__stage")
    whole = sum(minutes for minutes, _ in kinds.values())
    took = _took(Job.objects.was_done().filter(done_at__gte=begins, done_at__lt=ends))
    names = {person.pk: person.name for person in Person.objects.filter(pk__in=people)}
    became: dict[str, tuple[int, Decimal]] = defaultdict(lambda: (0, ZERO))
    for stage, (minutes, cost) in stages.items():
        name = Became.of(Stage(stage)).value
        became[name] = became[name][0] + minutes, became[name][1] + cost
    return Hours(
        whole,
        _longest(KindOfWork(kind, *sums, sums[0] / whole, took.get(kind)) for kind, sums in kinds.items()),
        _longest(Spent(names[person], *sums, sums[0] / whole) for person, sums in people.items()),
        _longest(Spent(name, *sums, sums[0] / whole) for name, sums in became.items()),
        _on_units(rows),
    )


def _summed(rows: "QuerySet[LabourEntry]", by: str) -> dict[Any, tuple[int, Decimal]]:
    """Minutes and what they were booked at: one query."""
    sums = rows.values_list(by).annotate(minutes_=Sum("minutes"), cost_=Sum("cost"))
    return {key: (minutes, cost) for key, minutes, cost in sums}


S = TypeVar("S", bound=Spent)


def _longest(spent: Iterable[S]) -> list[S]:
    """The longest first."""
    return sorted(spent, key=lambda one: (-one.minutes, one.name))


def _took(jobs: "QuerySet[Job]") -> dict[str, Learned]:
    """By kind, how long jobs took of what was estimated for each: one query."""
    rows = jobs.order_by().values_list("kind", "estimate_minutes").annotate(took=Sum("labour__minutes"), job=F("pk"))
    ratios: dict[str, list[float]] = defaultdict(list)
    for kind, estimate, took, _ in rows:
        if took and estimate:
            ratios[kind].append(took / estimate)
    return {kind: learned(some) for kind, some in ratios.items()}


def _on_units(rows: "QuerySet[LabourEntry]") -> First[OnUnit]:
    """Those with most minutes on them: two queries, one more where they are more than are shown."""
    sums = rows.values_list("job__unit").annotate(minutes_=Sum("minutes")).order_by("-minutes_", "job__unit")
    found = first_of(sums, _SHOWN)
    units = Unit.objects.select_related("lot").in_bulk([pk for pk, _ in found])
    return First([OnUnit(units[pk], minutes) for pk, minutes in found], found.count)
