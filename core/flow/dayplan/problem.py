"""What a day is planned from, and a plan of it. Times are minutes since midnight, money is whole cents."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property

from core.flow.dayplan import DayPlanError

MOST_TASKS, MOST_PEOPLE = 400, 40
DAY = 24 * 60
# What is lost with each task that is taken over from whoever has it in hand: looking where they are. Common practice,
# no source.
TAKE_OVER_MINUTES = 10
Span = tuple[int, int]


def joined(spans: Iterable[Span]) -> list[Span]:
    """Spans that touch or lie over one another as one, in order."""
    found: list[Span] = []
    for begin, end in sorted(spans):
        if found and begin <= found[-1][1]:
            found[-1] = (found[-1][0], max(found[-1][1], end))
        else:
            found.append((begin, end))
    return found


@dataclass(frozen=True)
class Worker:
    """Somebody who works today, in `hours` that do not overlap, in order; between the first and the last of them this
    person is somewhere in the house."""

    id: int
    name: str
    hours: tuple[Span, ...]

    def __post_init__(self) -> None:
        ends = [moment for span in self.hours for moment in span]
        if not ends or ends != sorted(ends) or not 0 <= ends[0] < ends[-1] <= DAY:
            raise DayPlanError(f"{self.name}: hours within the day, in order, the end after the begin.")

    @property
    def in_house(self) -> Span:
        return self.hours[0][0], self.hours[-1][1]

    def minutes_from(self, moment: int) -> int:
        """Minutes of the day that are left from then on."""
        return sum(max(0, end - max(begin, moment)) for begin, end in self.hours)


@dataclass(frozen=True)
class Begun:
    """A task that goes on, or ran today: by whom, since when, and when its hands-on part ends or ended."""

    who: int
    start: int
    until: int


@dataclass(frozen=True)
class DayTask:
    """One thing to do.

    `minutes` of hands, then `alone` by itself, with somebody near where `near`: then never while nobody is in. `needs`
    are keys of tasks that end first, what runs by itself included. `who` may do it (None: anybody). `place` is the name
    of what it takes up from its begin to its end. `windows` are when it may run from begin to end (empty: at any time),
    `earliest` when it can begin. `promised` is when it has to be ended and `price`, in cents, what breaking that costs;
    `releases` is what having done it is worth. `pinned_who` and `pinned_at` are an owner's wishes. `holder` has it in
    hand, in or not: whoever else does it takes it over.
    """

    key: str
    unit: int
    title: str
    minutes: int
    alone: int = 0
    near: bool = False
    needs: tuple[str, ...] = ()
    who: frozenset[int] | None = None
    place: str = ""
    earliest: int = 0
    windows: tuple[Span, ...] = ()
    promised: int | None = None
    price: int = 0
    releases: int = 0
    pinned_who: int | None = None
    pinned_at: int | None = None
    begun: Begun | None = None
    holder: int | None = None
    holder_name: str = ""

    def __post_init__(self) -> None:
        if self.minutes < 1 or self.alone < 0 or self.releases < 0 or self.price < 0:
            raise DayPlanError(f"{self.title}: at least a minute of hands; nothing else below 0.")

    @property
    def span(self) -> int:
        """From its begin to the end of what runs by itself."""
        return self.minutes + self.alone


@dataclass(frozen=True)
class Day:
    """Planned from `now` on; `hourly` is what an hour of hands costs, in cents; `room` how many each place takes."""

    now: int
    workers: tuple[Worker, ...]
    tasks: tuple[DayTask, ...]
    hourly: int = 0
    room: tuple[tuple[str, int], ...] = ()

    def __post_init__(self) -> None:
        if len(self.workers) > MOST_PEOPLE or len(self.tasks) > MOST_TASKS:
            raise DayPlanError(f"{MOST_PEOPLE} people and {MOST_TASKS} tasks at most.")
        if len({task.key for task in self.tasks}) < len(self.tasks):
            raise DayPlanError("A task stands there twice.")
        if len({worker.id for worker in self.workers}) < len(self.workers):
            raise DayPlanError("Somebody stands there twice.")
        if self.hourly < 0 or any(room < 1 for _, room in self.room):
            raise DayPlanError("An hour costs nothing or more; a place takes at least one.")

    @cached_property
    def by_key(self) -> dict[str, DayTask]:
        return {task.key: task for task in self.tasks}

    @cached_property
    def places(self) -> dict[str, int]:
        return dict(self.room)

    @cached_property
    def near(self) -> tuple[Span, ...]:
        """When somebody is in the house: spans that touch are one."""
        return tuple(joined(worker.in_house for worker in self.workers))

    def windows_of(self, task: DayTask) -> tuple[Span, ...] | None:
        """When the task may run from begin to end; None where nothing is said of that."""
        if task.near and task.alone:
            given = task.windows or ((0, DAY),)
            return tuple(
                (max(begin, a), min(end, b))
                for begin, end in given
                for a, b in self.near
                if max(begin, a) < min(end, b)
            )
        return task.windows or None

    def may(self, task: DayTask, worker: int) -> bool:
        """Whether somebody can, and by the owner's wish is to, do it."""
        if task.pinned_who is not None:
            return worker == task.pinned_who
        return task.who is None or worker in task.who


@dataclass(frozen=True)
class Placed:
    """A task of a plan: who begins it when."""

    task: DayTask
    who: int
    start: int

    @property
    def until(self) -> int:
        """The end of its hands-on part."""
        return self.task.begun.until if self.task.begun else self.start + self.task.minutes

    @property
    def end(self) -> int:
        """The end of what runs by itself."""
        return self.until + self.task.alone

    @property
    def taken_over(self) -> bool:
        """Somebody else has it in hand until then."""
        return self.task.begun is None and self.task.holder not in {None, self.who}

    @property
    def late(self) -> bool:
        return self.task.promised is not None and self.end > self.task.promised


@dataclass(frozen=True)
class DayPlan:
    """What is done in order of its begin, what is left for another day, and the figures: cents released, minutes nobody
    has anything to do, cents of promises broken. No plan is worth more than `bound` (in cents)."""

    day: Day
    placed: tuple[Placed, ...]
    released: int
    idle: int
    broken: int
    bound: float

    @property
    def left(self) -> tuple[DayTask, ...]:
        there = {one.task.key for one in self.placed}
        return tuple(task for task in self.day.tasks if task.key not in there)

    @property
    def worth(self) -> float:
        """Released less idle minutes, broken promises and what is taken over, in cents."""
        return self.released - self._lost

    @property
    def most(self) -> float:
        """What no plan can release more than: the bound, with what this one loses added back."""
        return self.bound + self._lost

    @property
    def _lost(self) -> float:
        minutes = self.idle + TAKE_OVER_MINUTES * sum(one.taken_over for one in self.placed)
        return minutes * self.day.hourly / 60 + self.broken

    @property
    def gap(self) -> float | None:
        """How far at most it is from the best there can be, as a share of that; None where that is 0."""
        return None if abs(self.bound) < 0.5 else max(0.0, self.bound - self.worth) / abs(self.bound)

    @property
    def hands(self) -> int:
        """Minutes of hands."""
        return sum(one.until - one.start for one in self.placed)


def figures(day: Day, placed: Sequence[Placed]) -> tuple[int, int, int]:
    """(released, idle minutes from now on, broken) of a plan."""
    released = sum(one.task.releases for one in placed)
    at_work = {one.task.key: one for one in placed}
    busy = sum(max(0, one.until - max(day.now, one.start)) for one in placed)
    idle = sum(worker.minutes_from(day.now) for worker in day.workers) - busy
    broken = sum(
        task.price
        for task in day.tasks
        if task.promised is not None and (task.key not in at_work or at_work[task.key].late)
    )
    return released, max(0, idle), broken
