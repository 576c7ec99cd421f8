"""One task after another, each as early as it can be: a plan to begin with, and what draws a found one together."""

from bisect import insort
from collections.abc import Mapping, Sequence

from core.flow.dayplan.problem import DAY, Day, DayTask, Placed, Span


class Timeline:
    """Who and what is taken when, while tasks are placed."""

    def __init__(self, day: Day) -> None:
        self.day = day
        self.placed: dict[str, Placed] = {}
        self._of: dict[int, list[Span]] = {worker.id: [] for worker in day.workers}
        self._hours: dict[int, tuple[Span, ...]] = {worker.id: worker.hours for worker in day.workers}
        self._in: dict[str, list[Span]] = {place: [] for place in day.places}

    def put(self, one: Placed) -> None:
        self.placed[one.task.key] = one
        if one.who in self._of:
            insort(self._of[one.who], (one.start, one.until))
        if one.task.place in self._in:
            self._in[one.task.place].append((one.start, one.end))

    def earliest(self, task: DayTask, who: int) -> int | None:
        """When this person can begin it at the earliest; None for not today, or before what it needs is placed."""
        day = self.day
        after = [self.placed[need].end for need in task.needs if need in self.placed]
        if any(need in day.by_key and need not in self.placed for need in task.needs):
            return None
        first = max([day.now, task.earliest, *after])
        if task.pinned_at is not None:
            return task.pinned_at if task.pinned_at >= first and self._free(task, who, task.pinned_at) else None
        windows = day.windows_of(task)
        moments = {first}
        moments.update(end for _, end in self._of[who])
        moments.update(begin for begin, _ in self._hours[who])
        moments.update(end for _, end in self._in.get(task.place, ()))
        moments.update(begin for begin, _ in windows or ())
        return next(
            (moment for moment in sorted(moments) if moment >= first and self._free(task, who, moment, windows)), None
        )

    def _free(self, task: DayTask, who: int, start: int, windows: tuple[Span, ...] | None = None) -> bool:
        until, end = start + task.minutes, start + task.span
        if not any(a <= start and until <= b for a, b in self._hours[who]):
            return False
        windows = windows if windows is not None else self.day.windows_of(task)
        if windows is not None and not any(a <= start and end <= b for a, b in windows):
            return False
        if any(a < until and start < b for a, b in self._of[who]):
            return False
        room = self.day.places.get(task.place)
        return room is None or self._most_at_once(task.place, start, end) < room

    def _most_at_once(self, place: str, start: int, end: int) -> int:
        there = [span for span in self._in[place] if span[0] < end and start < span[1]]
        return max((sum(a <= moment < b for a, b in there) for moment in {max(start, a) for a, _ in there}), default=0)


def begun_of(day: Day) -> list[Placed]:
    """What goes on or ran already: it stays as it is."""
    return [Placed(task, task.begun.who, task.begun.start) for task in day.tasks if task.begun]


def in_order(day: Day, order: Sequence[str], given: Mapping[str, int] | None = None) -> list[Placed]:
    """Each task of `order` at its earliest, by whoever can begin first (or by the one `given`); what does not fit is
    left out, and what needs it."""
    timeline = Timeline(day)
    for one in begun_of(day):
        timeline.put(one)
    for key in order:
        task = day.by_key[key]
        if key in timeline.placed:
            continue
        people = [given[key]] if given else [one.id for one in day.workers if day.may(task, one.id)]
        starts = [
            (start, who == task.holder, who) for who in people if (start := timeline.earliest(task, who)) is not None
        ]
        if starts:
            start, _, who = min(starts)
            timeline.put(Placed(task, who, start))
    return list(timeline.placed.values())


def by_worth(day: Day) -> list[str]:
    """Keys in a good order: what is promised, then most for its minutes, what runs by itself first; always after what
    it needs."""
    followers: dict[str, list[str]] = {task.key: [] for task in day.tasks}
    open_needs = {}
    for task in day.tasks:
        needs = [need for need in task.needs if need in day.by_key]
        open_needs[task.key] = len(needs)
        for need in needs:
            followers[need].append(task.key)
    urgent = _urgent(day, followers)

    def rank(key: str) -> tuple[float, ...]:
        task = day.by_key[key]
        return (urgent[key], -(task.releases + (task.releases if task.alone else 0)) / task.minutes)

    ready = [key for key, count in open_needs.items() if not count]
    order: list[str] = []
    while ready:
        key = min(ready, key=rank)
        ready.remove(key)
        order.append(key)
        for follower in followers[key]:
            open_needs[follower] -= 1
            if not open_needs[follower]:
                ready.append(follower)
    return order


def _urgent(day: Day, followers: Mapping[str, list[str]]) -> dict[str, int]:
    """Of each task the earliest promise that waits for it."""
    found: dict[str, int] = {}

    def of(key: str, above: frozenset[str] = frozenset()) -> int:
        if key not in found:
            task = day.by_key[key]
            own = DAY if task.promised is None else task.promised
            found[key] = min([own, *(of(one, above | {key}) for one in followers[key] if one not in above)])
        return found[key]

    for task in day.tasks:
        of(task.key)
    return found


def earliest_of(day: Day) -> dict[str, int | None]:
    """When each task could begin if nothing else were in its way; None where it can’t be done on this day, as what it
    needs takes too long, or nobody is in then."""
    found: dict[str, int | None] = {one.task.key: one.start for one in begun_of(day)}
    ends = {one.task.key: one.end for one in begun_of(day)}
    for key in by_worth(day):
        if key in found:
            continue
        task = day.by_key[key]
        needs = [need for need in task.needs if need in day.by_key]
        if any(found.get(need) is None for need in needs):
            found[key] = None
            continue
        first = max([day.now, task.earliest, *(ends[need] for need in needs)])
        found[key] = _first_moment(day, task, first)
        ends[key] = (found[key] or 0) + task.span
    return found


def _first_moment(day: Day, task: DayTask, first: int) -> int | None:
    windows = day.windows_of(task)
    inside = windows if windows is not None else ((0, 2 * DAY),)
    moments = [
        max(first, begin, opens)
        for worker in day.workers
        if day.may(task, worker.id)
        for opens, closes in worker.hours
        for begin, end in inside
        if max(first, begin, opens) + task.minutes <= closes and max(first, begin, opens) + task.span <= end
    ]
    if task.pinned_at is not None:
        return task.pinned_at if moments and task.pinned_at >= min(moments) else None
    return min(moments, default=None)
