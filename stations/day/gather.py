"""What a day is planned from: tasks of every station, who works when, what is promised, comes, runs and was wished."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime, time, timedelta
from decimal import Decimal
from itertools import accumulate, pairwise

from django.db.models import Q, prefetch_related_objects
from django.utils import timezone

from core.flow.dayplan.problem import DAY, Begun, Day, DayTask, Span, Worker
from core.flow.task import Task
from core.workshop.care.daylight import Place, heights
from core.workshop.learning import Learned, learned
from stations.common import clock
from stations.day.models import Arrival, HoursOfDay, Promise, Record, Wish, WorkingHours
from stations.people import shop_settings
from stations.people.models import Person, ShopSettings
from stations.people.permissions import may
from stations.selling.to_come import worth_to_us
from stations.units.models import Unit
from stations.units.selectors import strongest
from stations.units.tasks import tasks_of
from stations.workshop.models import Job, LabourEntry

MOST_UNITS, MOST_OF_A_UNIT, MOST_TASKS = 80, 12, 200
# Of one kind of task, the newest count.
NEWEST = 40
# A task that was open for longer was interrupted. Common practice, no source.
LONGEST = 240.0
# What somebody has to be allowed to, to do a task of a kind (its first word).
NEEDS_LEAVE = {
    "intake": "record findings",
    "job": "work through a recipe",
    "test": "record test results",
    "grade": "grade a unit",
    "list": "list a unit",
    "pack": "send a parcel",
    "make": "end a hold",
    "decide": "decide what becomes of a unit",
}


@dataclass(frozen=True)
class Gathered:
    """A day to plan, with what its tasks are of: those as their stations estimate them. `beside`: how many units with
    something to do are not in it, since others bring more for their minutes."""

    day: date
    problem: Day
    tasks: dict[str, Task]
    units: dict[int, Unit]
    beside: int = 0


def minute_of(moment: datetime, day: date) -> int:
    """Minutes from that day’s midnight by the clock on the wall, also on a day with an hour more or less; below 0 and
    above DAY for other days."""
    local = timezone.localtime(moment)
    return (local.date() - day).days * DAY + _of_time(local.time())


def moment_of(minute: int, day: date) -> datetime:
    return clock.begin_of(day) + timedelta(minutes=minute)


def _of_time(at: time) -> int:
    return at.hour * 60 + at.minute


def workers_of(day: date) -> dict[int, tuple[Person, tuple[Span, ...]]]:
    """Who works on a day, and in which hours, never past closing: three queries."""
    usual = WorkingHours.objects.filter(weekday=day.weekday(), person__is_active=True)
    said = HoursOfDay.objects.filter(day=day, person__is_active=True)
    rows: dict[int, WorkingHours | HoursOfDay] = {row.person_id: row for row in usual.select_related("person")}
    rows |= {row.person_id: row for row in said.select_related("person")}
    prefetch_related_objects([row.person for row in rows.values()], "roles")
    closes = shop_settings.settings().closes_at
    last = _of_time(closes) if closes else DAY
    found = {}
    for _, row in sorted(rows.items()):
        ends = [row.begins, row.break_from, row.break_until, row.ends]
        moments = [min(_of_time(at), last) for at in ends if at is not None]
        spans = [(a, b) for a, b in zip(moments[::2], moments[1::2], strict=True) if a < b]
        if spans:
            found[row.person_id] = (row.person, tuple(spans))
    return found


def to_do():
    """Units there is something to do at."""
    return Unit.objects.filter(Q(pull__isnull=False) | Q(stage="sold"))


def candidates(also: Iterable[int] = ()) -> list[Unit]:
    """Units there is something to do at, the strongest by worth for their minutes first, and those of `also`, at most
    MOST_UNITS: three queries and what hangs on them."""
    rows = to_do().select_related("lot", "line", "model").prefetch_related("findings", "contents")
    rows = rows.annotate(worth=worth_to_us())
    first = list(rows.filter(pk__in=list(also)))
    there = {unit.pk for unit in first}
    sold = list(rows.filter(stage="sold").exclude(pk__in=there).order_by("stage_since")[:MOST_UNITS])
    there |= {unit.pk for unit in sold}
    rest = strongest(rows.exclude(pk__in=there).exclude(stage="sold"), MOST_UNITS)
    rest.sort(key=lambda unit: (-(unit.pull or 0), unit.number))
    return list[Unit]([*first, *sold, *rest])[:MOST_UNITS]


def ratios() -> dict[str, Learned]:
    """How tasks of each kind went against their estimates: one query."""
    found: dict[str, list[float]] = {}
    rows = Record.objects.filter(ended_at__isnull=False).order_by("-id")
    for kind, estimate, begun, ended in rows.values_list("kind", "estimate", "begun_at", "ended_at")[:2000]:
        took = (ended - begun).total_seconds() / 60 if ended else 0.0
        if estimate and 0.5 <= took <= LONGEST and len(found.setdefault(kind, [])) < NEWEST:
            found[kind].append(took / estimate)
    return {kind: learned(each) for kind, each in found.items()}


def daylight(settings: ShopSettings, day: date) -> Span | None:
    """From when until when the sun is up, in minutes of the day; None where nobody said where the shop is, or it does
    not rise or set."""
    if settings.latitude is None or settings.longitude is None:
        return None
    place = Place(float(settings.latitude), float(settings.longitude))
    up = [at * 10 for at, height in enumerate(heights(place, moment_of(0, day), DAY)) if height > 0]
    return (up[0], min(DAY, up[-1])) if up and up[-1] > up[0] else None


def gather(day: date, now: datetime | None = None) -> Gathered:
    """Everything a day is planned from; in a number of queries that does not grow with units."""
    return _Gathering(day, now or clock.now()).all()


class _Gathering:
    """One day, read once."""

    def __init__(self, day: date, now: datetime) -> None:
        self.day, self.now = day, now
        self.settings, self.who = shop_settings.settings(), workers_of(day)
        records = list(Record.objects.filter(day=day))
        self.going = {(record.unit_id, record.code): record for record in records if record.ended_at is None}
        self.ended = {(record.unit_id, record.code) for record in records if record.ended_at is not None}
        self.wishes = {f"{wish.unit_id}:{wish.code}": wish for wish in Wish.objects.filter(day=day)}
        self.promises: dict[int, Promise] = {}
        for promise in Promise.objects.filter(kept=None, by__lt=moment_of(DAY, day)).order_by("-by"):
            self.promises[promise.unit_id] = promise
        self.arrivals = tuple(Arrival.objects.filter(day=day))
        also = {record.unit_id for record in records} | {wish.unit_id for wish in self.wishes.values()}
        self.units = candidates(also | set(self.promises))
        here = [unit.pk for unit in self.units]
        self.beside = to_do().exclude(pk__in=here).count() if len(here) >= MOST_UNITS else 0
        self.expected = _expected(self.units, self.arrivals, day)
        self.clocks = _clocks(self.units, day)
        self.known, self.sun = ratios(), daylight(self.settings, day)
        self.room = {"bench": self.settings.benches, "tub": self.settings.tubs}
        self.allowed = _allowed(self.who)
        self.holders: dict[int, str] = {}

    def all(self) -> Gathered:
        found: dict[str, Task] = {}
        planned: list[DayTask] = []
        told = tasks_of(self.units)
        self.holders = _names({task.holder for tasks in told.values() for task in tasks if task.holder})
        for unit in self.units:
            # What was said to be done is not planned again, though its own station may not have heard of it.
            raw = [task for task in told.get(unit.pk, ()) if (unit.pk, task.code) not in self.ended]
            tasks = [replace(task, minutes=_minutes(task, self.known)) for task in raw]
            shares = _shares(unit, tasks)
            self.beside += bool(tasks) and len(planned) >= MOST_TASKS
            for place, task in enumerate(tasks[:MOST_OF_A_UNIT]):
                wish = self.wishes.get(f"{unit.pk}:{task.code}")
                if len(planned) >= MOST_TASKS or (wish and wish.forbidden) or self.room.get(task.place) == 0:
                    # What needs it does not come today either.
                    break
                last = place == len(tasks) - 1 or task.kind == "pack and send"
                promise = self.promises.get(unit.pk) if last else None
                key = f"{unit.number}:{task.code}"
                found[key] = raw[place]
                before = tasks[place - 1] if place else None
                planned.append(self._task(key, unit, task, before, shares[place], wish, promise))
        workers = tuple(Worker(pk, person.name, spans) for pk, (person, spans) in self.who.items())
        problem = Day(
            max(0, minute_of(self.now, self.day)),
            workers,
            tuple(planned),
            int(self.settings.labour_rate * 100),
            tuple((name, count) for name, count in self.room.items() if count > 0),
        )
        by_number = {unit.number: unit for unit in self.units}
        return Gathered(self.day, problem, found, by_number, self.beside)

    def _task(
        self,
        key: str,
        unit: Unit,
        task: Task,
        before: Task | None,
        share: int,
        wish: Wish | None,
        promise: Promise | None,
    ) -> DayTask:
        earliest = self.expected.get(unit.pk, 0) if task.kind.startswith("job") else 0
        return DayTask(
            key,
            unit.number,
            task.title,
            task.minutes,
            task.alone_minutes,
            task.near,
            tuple(f"{unit.number}:{code}" for code in task.needs),
            self.allowed.get(task.kind.split(" ")[0]),
            task.place if task.place in self.room else "",
            max(_ready(task, self.day), earliest),
            (self.sun,) if task.daylight and self.sun else (),
            minute_of(promise.by, self.day) if promise else None,
            int(promise.price * 100) if promise else 0,
            share,
            wish.person_id if wish and wish.person_id in self.who else None,
            _of_time(wish.at) if wish and wish.at else None,
            self._begun(unit, task, before),
            task.holder,
            self.holders.get(task.holder, "") if task.holder else "",
        )

    @staticmethod
    def _is_first_of(running: LabourEntry, task: Task, before: Task | None) -> bool:
        """The first of the tasks of the job that the clock runs on."""
        own = f"job:{running.job_id}"

        def of_job(one: Task) -> bool:
            return one.code.split("/")[0] == own or one.code.startswith(f"{own}:")

        return of_job(task) and (before is None or not of_job(before))

    def _begun(self, unit: Unit, task: Task, before: Task | None) -> Begun | None:
        """A task that goes on: by its record, or by the clock that runs on its job."""
        record, running = self.going.get((unit.pk, task.code)), self.clocks.get(unit.pk)
        if record is not None:
            who, since = record.person_id, record.begun_at
        elif running is not None and self._is_first_of(running, task, before):
            who, since = running.person_id, running.started_at
        else:
            return None
        now = minute_of(self.now, self.day)
        opens = min((spans[0][0] for _, spans in self.who.values()), default=0)
        # A clock that was left running began no earlier than the day; what takes longer takes at least until now.
        start = min(max(opens, minute_of(since, self.day)), max(0, now))
        return Begun(who, start, max(start + task.minutes, now + 1))


def _minutes(task: Task, known: dict[str, Learned]) -> int:
    """As learned from what tasks of its kind took."""
    return known[task.kind].minutes(task.minutes) if task.kind in known else max(1, task.minutes)


def _shares(unit: Unit, tasks: Sequence[Task]) -> list[int]:
    """What a unit is to bring in cents, over its tasks by their minutes and what is ahead after them: it adds up."""
    whole = int(Decimal(unit.worth or 0) * 100)  # type: ignore[attr-defined]
    minutes = sum(task.minutes for task in tasks) + unit.minutes_ahead
    ends = [0, *accumulate(task.minutes for task in tasks)]
    return [whole * b // minutes - whole * a // minutes for a, b in pairwise(ends)] if minutes else []


def _ready(task: Task, day: date) -> int:
    return max(0, minute_of(task.ready, day)) if task.ready else 0


def _allowed(who: dict[int, tuple[Person, tuple[Span, ...]]]) -> dict[str, frozenset[int]]:
    return {
        first: frozenset(pk for pk, (person, _) in who.items() if may(person, leave))
        for first, leave in NEEDS_LEAVE.items()
    }


def _names(people: set[int]) -> dict[int, str]:
    """Their names: one query, none for nobody."""
    return {person.pk: person.name for person in Person.objects.filter(pk__in=people)} if people else {}


def _expected(units: Sequence[Unit], arrivals: Sequence[Arrival], day: date) -> dict[int, int]:
    """By unit whose job waits for a parcel of this day, the minute it comes: one query."""
    if not arrivals:
        return {}
    waiting = Job.objects.filter(unit__in=[unit.pk for unit in units], done_at=None, waiting_until=day)
    found: dict[int, int] = {}
    for unit_id in waiting.exclude(waiting_for="").values_list("unit_id", flat=True):
        times = [_of_time(one.at) for one in arrivals if one.came_at is None and one.unit_id in {None, unit_id}]
        if times:
            found[unit_id] = max(times)
    return found


def _clocks(units: Sequence[Unit], day: date) -> dict[int, LabourEntry]:
    """By unit, a labour clock that runs on it since this day: one query. One that was left running says nothing."""
    rows = LabourEntry.objects.filter(job__unit__in=[unit.pk for unit in units], running_for__isnull=False)
    rows = rows.filter(started_at__gte=moment_of(0, day))
    rows = rows.select_related("job")
    return {row.job.unit_id: row for row in rows}
