"""A day as its page shows it: what ran, what is in hand, what is to come, and what was promised."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime, timedelta
from enum import StrEnum

from core.flow.dayplan.problem import DAY, Span
from core.flow.dayplan.reasons import GOES_ON
from core.flow.dayplan.reasons import clock as minutes_as_clock
from stations.common import clock
from stations.common.paging import First, first_of
from stations.common.refusals import shortened
from stations.common.typed import whole_number
from stations.day import planning
from stations.day.gather import daylight, minute_of, workers_of
from stations.day.models import LEFT_TITLE, Arrival, PlannedTask, PlanOfDay, Promise, Record, Wish
from stations.people import shop_settings
from stations.people.models import Person
from stations.queue.models import QueuedWork
from stations.units.models import Unit
from stations.units.tasks import tasks_of
from stations.workshop.models import LabourEntry

# A task is under way late when it begins or ends so many minutes after it was to.
SLIPPED = 10
# So many of what was promised, and of what should have come before, are listed.
MOST = 20


class State(StrEnum):
    """How a row of the day stands."""

    DONE = "done"
    HAND = "hand"
    COMES = "comes"


@dataclass(frozen=True)
class Row:
    """One task of the day: planned, begun, or both. Minutes are of the day."""

    number: int
    title: str
    kind: str
    unit: Unit
    person: Person
    start: int
    until: int
    alone: int
    state: State
    why: str
    planned: PlannedTask | None = None
    record: Record | None = None
    before: int | None = None
    promised: int | None = None
    needs: tuple[str, ...] = ()
    code: str = ""

    @property
    def end(self) -> int:
        return self.until + self.alone

    @property
    def minutes(self) -> int:
        return self.until - self.start

    @property
    def late(self) -> bool:
        return self.promised is not None and self.end > self.promised

    @property
    def is_going(self) -> bool:
        """It was begun here, and did not end."""
        return self.record is not None and self.record.ended_at is None

    @property
    def in_hand(self) -> bool:
        return self.state is State.HAND

    @property
    def done(self) -> bool:
        return self.state is State.DONE

    @property
    def waits(self) -> bool:
        """It is still to be begun."""
        return self.state is State.COMES

    @property
    def glyph(self) -> str:
        return {State.DONE: "pass", State.HAND: "now", State.COMES: "todo"}[self.state]

    @property
    def at(self) -> str:
        return minutes_as_clock(self.start)

    @property
    def was_at(self) -> str:
        return "" if self.before is None else minutes_as_clock(self.before)

    @property
    def slip(self) -> int:
        """Minutes it ended, or runs, after the plan said it would; 0 within SLIPPED."""
        if self.record is None or self.record.planned_at is None:
            return 0
        planned = self.record.planned_at + timedelta(minutes=self.record.planned_minutes)
        late = (self.record.ended_at or clock.now()) - planned
        minutes = int(late.total_seconds() // 60)
        return minutes if minutes >= SLIPPED else 0


@dataclass(frozen=True)
class DayView:
    """Everything the page of a day shows."""

    day: date
    now: int | None
    plan: PlanOfDay | None
    asked: QueuedWork | None
    rows: tuple[Row, ...]
    people: tuple[tuple[Person, tuple[Span, ...]], ...]
    arrivals: tuple[Arrival, ...]
    # Parcels of days before that did not come; and promises nobody said anything of, those too where it is today.
    overdue: First[Arrival]
    promises: First[Promise]
    settled: tuple[Promise, ...]
    sun: Span | None
    # By the code of their rows.
    wishes: dict[str, Wish]

    @property
    def set_aside(self) -> list[Wish]:
        """What was wished of tasks that the plan is without: kept off it, or pinned where it has no room for them."""
        left = {(number, title) for number, title, _ in self.plan.left} if self.plan else set()
        return [
            wish
            for wish in self.wishes.values()
            if wish.forbidden or (wish.unit.number, shortened(wish.title, LEFT_TITLE)) in left
        ]

    @property
    def expected(self) -> tuple[Arrival, ...]:
        return (*self.overdue, *self.arrivals)

    @property
    def hands(self) -> int:
        """Minutes of hands of the whole day."""
        return sum(row.minutes for row in self.rows)

    @property
    def outside(self) -> list[Row]:
        """Tasks to come outside the hours of whoever does them, which were changed since the plan was made."""
        hours = {person.pk: spans for person, spans in self.people}
        return [
            row
            for row in self.rows
            if row.waits
            and not all(
                any(a <= minute < b for a, b in hours.get(row.person.pk, ())) for minute in range(row.start, row.until)
            )
        ]

    @property
    def next_of(self) -> list[tuple[Person, Row]]:
        """For each person what is in hand, or comes next."""
        found = []
        for person, _ in self.people:
            own = [row for row in self.rows if row.person == person and row.state is not State.DONE]
            if own:
                found.append((person, min(own, key=lambda row: (row.state is not State.HAND, row.start))))
        return found

    @property
    def hand(self) -> Row | None:
        """What is in hand, by whoever began last."""
        going = [row for row in self.rows if row.state is State.HAND]
        return max(going, key=lambda row: row.start, default=None)


def day_view(day: date) -> DayView:
    """In a number of queries that does not grow with tasks."""
    settings, who = shop_settings.settings(), workers_of(day)
    plan = planning.newest(day)
    planned = planning.tasks_of(plan)
    records = planning.going_on(day)
    now = minute_of(clock.now(), day)
    rows = _rows(day, planned, records, now)
    sun, (begin, end) = daylight(settings, day), clock.span_of(day)
    wishes = Wish.objects.filter(day=day).select_related("unit", "person", "by")
    is_today, promises = day == clock.today(), Promise.objects.filter(kept=None, by__lt=end).select_related("unit")
    late = Arrival.objects.filter(day__lt=day, came_at=None).select_related("unit")
    return DayView(
        day,
        now if 0 <= now <= DAY else None,
        plan,
        planning.being_planned(day),
        rows,
        tuple(sorted(who.values(), key=lambda one: (one[0].name, one[0].pk))),
        tuple(Arrival.objects.filter(day=day).select_related("unit")),
        first_of(late if is_today else late.none(), MOST),
        first_of(promises if is_today else promises.filter(by__gte=begin), MOST),
        tuple(Promise.objects.filter(kept__isnull=False, by__gte=begin, by__lt=end).select_related("unit")),
        sun,
        {f"{wish.unit_id}:{wish.code}": wish for wish in wishes},
    )


def _rows(day: date, planned: Sequence[PlannedTask], records: Sequence[Record], now: int) -> tuple[Row, ...]:
    known = {(record.unit_id, record.code): record for record in records}
    gone = _settled(planned, known)
    clocks = set(
        LabourEntry.objects.filter(
            job__unit__in=[task.unit_id for task in planned], running_for__isnull=False
        ).values_list("job", flat=True)
    )
    found = []
    for task in planned:
        record = known.pop((task.unit_id, task.code), None)
        found.append(_row(day, task, record, (task.unit_id, task.code) in gone, _runs(task, clocks), now))
    # What was begun by an earlier plan and is in none any more.
    found.extend(_row(day, None, record, False, False, now) for record in known.values())
    found.sort(key=lambda row: (row.start, row.until, row.unit.number, row.code))
    return tuple(_numbered(found))


def _runs(task: PlannedTask, clocks: set[int]) -> bool:
    """It is in hand by a labour clock: the one the plan saw, which still runs on its job."""
    job = whole_number(task.code.removeprefix("job:").partition(":")[0].partition("/")[0])
    return task.why == GOES_ON and job in clocks


def _numbered(rows: Iterable[Row]) -> list[Row]:
    return [replace(row, number=number) for number, row in enumerate(rows, 1)]


def _settled(planned: Sequence[PlannedTask], known: dict) -> set[tuple[int, str]]:
    """Planned tasks that were done at their own station without being begun here: they are none any more."""
    ids = {task.unit_id for task in planned}
    units = Unit.objects.filter(pk__in=ids).select_related("lot", "line", "model")
    told = tasks_of(units.prefetch_related("findings", "contents"))
    open_ = {(unit_id, task.code) for unit_id, tasks in told.items() for task in tasks}
    return {
        (task.unit_id, task.code)
        for task in planned
        if (task.unit_id, task.code) not in open_ and (task.unit_id, task.code) not in known
    }


def _row(day: date, task: PlannedTask | None, record: Record | None, settled: bool, runs: bool, now: int) -> Row:
    source = record or task
    assert source is not None  # one of the two is always there
    if record is not None:
        start = minute_of(record.begun_at, day)
        until = minute_of(record.ended_at, day) if record.ended_at else max(now, start + record.planned_minutes)
        state = State.DONE if record.ended_at else State.HAND
    else:
        assert task is not None
        start = minute_of(task.start, day)
        until = max(now, start + task.minutes) if runs else start + task.minutes
        state = State.DONE if settled else State.HAND if runs else State.COMES
    return Row(
        0,
        source.title,
        source.kind,
        source.unit,
        source.person,
        start,
        max(until, start + 1),
        source.alone,
        state,
        task.why if task else "",
        task,
        record,
        minute_of(task.before, day) if task and task.before and record is None else None,
        minute_of(task.promised, day) if task and task.promised else None,
        tuple(f"{source.unit_id}:{need}" for need in (task.needs if task else ())),
        f"{source.unit_id}:{source.code}",
    )


@dataclass(frozen=True)
class Slip:
    """How tasks of a kind went against what was planned for them."""

    kind: str
    count: int
    planned: int
    took: int

    @property
    def in_100(self) -> int:
        return round(100 * self.took / self.planned) if self.planned else 100


def slips(since: datetime) -> list[Slip]:
    """By kind of task, what the plans promised and what happened since: one query."""
    found: dict[str, list[int]] = {}
    rows = Record.objects.filter(ended_at__isnull=False, begun_at__gte=since).order_by("-id")
    for kind, planned, begun, ended in rows.values_list("kind", "planned_minutes", "begun_at", "ended_at")[:2000]:
        each = found.setdefault(kind, [0, 0, 0])
        each[0] += 1
        each[1] += planned
        each[2] += max(1, round((ended - begun).total_seconds() / 60)) if ended else 0
    return sorted((Slip(kind, *each) for kind, each in found.items()), key=lambda one: -abs(one.took - one.planned))
