"""A day for two: hours, a promise, a parcel, a task pinned, one that slipped; units to go on with, stop, ask again."""

from datetime import datetime, time, timedelta
from decimal import Decimal

from django.utils import timezone

from core.catalogue.recipes import JobKind
from demo.days import Hand
from stations.common import clock
from stations.day import planning, services
from stations.day.gather import moment_of
from stations.day.services import Hours
from stations.people.models import Person
from stations.units.models import Content, Unit
from stations.workshop import services as workshop
from stations.workshop import stop_or_go
from stations.workshop.models import Job
from stations.workshop.new_job import NewJob

# After this hour the demo plans the next day: there is little left of this one.
LATE = 15
SLIPPED = 25


def planned(runa: Person, tobin: Person, now: datetime) -> None:
    for person, begins, ends in ((runa, time(8), time(17)), (tobin, time(8, 30), time(16))):
        for weekday in range(7):
            services.say_hours(runa, person, weekday, Hours(begins, ends, time(12, 30), time(13)))
    _in_hand(runa, tobin, now)
    hour = timezone.localtime(now).hour
    today = clock.day_of(now)
    day = today if hour < LATE else today + timedelta(days=1)
    _waiting(tobin, now, day)
    services.promise(runa, Unit.objects.get(number=113), moment_of(16 * 60, day), "the van at four", Decimal(12))
    services.expect(runa, day, time(11), "latches and feet")
    with clock.at(moment_of(8 * 60, day) if hour >= 8 or day > today else now):
        planning.make({"day": day.isoformat(), "by": runa.pk})
    plan = planning.newest(day)
    tasks = planning.tasks_of(plan)
    later = [
        task
        for task in tasks
        if task.start > max(now, moment_of(13 * 60, day)) and task.kind.startswith(("job", "test"))
    ]
    if later:
        services.wish(runa, later[-1], tobin, None)
    if day == today and hour >= 8:
        _so_far(tobin, tasks, now)
        planning.make({"day": day.isoformat(), "by": runa.pk})


def _so_far(person: Person, tasks, now: datetime) -> None:
    """What one of them did this morning, the first of it slower than planned."""
    moment = None
    for number, task in enumerate(one for one in tasks if one.person_id == person.pk and one.why != "goes on"):
        begun = max(task.start, moment or task.start)
        ended = begun + timedelta(minutes=task.minutes + (SLIPPED if number == 0 else 0))
        if ended > now or number == 3:
            break
        with clock.at(begun):
            record = services.begin(person, task)
        with clock.at(ended):
            services.end(person, record, "the screws were worn" if number == 0 else "")
        moment = ended


def _waiting(tobin: Person, now: datetime, day) -> None:
    """A job that can be gone on with when the parcel is there."""
    unit = Unit.objects.get(number=134)
    data = NewJob(
        kind=JobKind.REPAIR.value,
        title="New feet",
        estimate_minutes=20,
        reversible=True,
        waiting_for="feet, with the parcel",
        waiting_until=day,
    )
    # Of today, also just after midnight: what waits until a day that has come waits no longer.
    begun = max(now - timedelta(minutes=30), clock.begin_of(clock.day_of(now)))
    Hand(tobin, begun, "feet").do(workshop.open_job, unit, data)


def _in_hand(runa: Person, tobin: Person, now: datetime) -> None:
    """The clock of one runs on what pays to go on with; another unit is asked about again soon."""
    latches = _fit(Hand(runa, now - timedelta(minutes=20), "latches"), 136, "drive latches", 15)
    if latches is not None:
        with clock.at(now - timedelta(minutes=9)):
            workshop.start_clock(runa, latches)
    hand = Hand(tobin, now - timedelta(minutes=20), "badge")
    badge = _fit(hand, 123, "front badge", 10)
    if badge is not None:
        hand.do(workshop.log_labour, badge, 1)
        with clock.at(now):
            stop_or_go.decide(tobin, badge.unit, "go")


def _fit(hand: Hand, number: int, name: str, minutes: int) -> Job | None:
    """A job that fits what is missing."""
    missing = Content.objects.filter(unit__number=number, presence="missing", name=name).select_related("unit").first()
    if missing is None:
        return None
    data = NewJob(
        kind=JobKind.REPAIR.value,
        title=f"Fit the missing {name}",
        estimate_minutes=minutes,
        source=f"content:{missing.pk}",
    )
    return hand.do(workshop.open_job, missing.unit, data)
