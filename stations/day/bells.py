"""What calls for somebody just now: what ran by itself and is over, where it is asked again whether to go on, what was
promised and nobody said it was kept."""

from dataclasses import dataclass
from datetime import datetime

from django.urls import reverse

from stations.common import clock
from stations.day.models import Promise
from stations.people.models import Person
from stations.units.models import Unit
from stations.workshop.models import StopDecision
from stations.workshop.selectors import running_clock
from stations.workshop.stop_or_go import asking
from stations.workshop.table import running

MOST = 20


@dataclass(frozen=True)
class Bell:
    """One thing that calls; `key` tells it from the others, so that a browser says it once."""

    key: str
    unit: Unit
    words: str
    address: str
    since: datetime


def bells() -> list[Bell]:
    """The longest over first; a number of queries that does not grow with what runs."""
    found = [
        Bell(
            f"{one.address} {one.until.timestamp():.0f}",
            one.unit,
            f"{one.title}: its time is over",
            one.address,
            one.until,
        )
        for one in running()
        if one.over
    ]
    for row in asking():
        if row.ask_at is not None:
            there = reverse("workshop:stop-or-go", args=[row.unit.number])
            found.append(Bell(f"ask {row.pk}", row.unit, f"{row.about}: stop or go?", there, row.ask_at))
    for late in Promise.objects.filter(kept=None, by__lte=clock.now()).select_related("unit")[:MOST]:
        found.append(Bell(f"promise {late.pk}", late.unit, f"{late.words}: promised", reverse("day:today"), late.by))
    return sorted(found, key=lambda one: one.since)[:MOST]


def minutes_left(person: Person) -> tuple[Unit, int] | None:
    """On the person's own labour clock: until it is asked again whether to go on. Two queries."""
    entry = running_clock(person)
    if entry is None:
        return None
    row = StopDecision.objects.filter(of=f"job:{entry.job_id}", ask_at__gt=clock.now()).first()
    if row is None or row.ask_at is None:
        return None
    return entry.job.unit, int((row.ask_at - clock.now()).total_seconds() // 60)
