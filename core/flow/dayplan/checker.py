"""Goes over a plan of a day without a line of what made it: what is wrong with it, in words."""

from collections import defaultdict
from collections.abc import Sequence
from itertools import pairwise

from core.flow.dayplan.problem import Day, Placed


def problems(day: Day, placed: Sequence[Placed]) -> list[str]:
    """Every rule that a plan breaks; empty when it holds. What had begun before stays where it is and is not judged,
    but everything else keeps clear of it."""
    said: list[str] = []
    where: dict[str, Placed] = {}
    for one in placed:
        if one.task.key in where:
            said.append(f"{one.task.title} stands there twice.")
        where[one.task.key] = one
    hours = {worker.id: worker.hours for worker in day.workers}
    inside = [worker.in_house for worker in day.workers]
    for one in placed:
        task = one.task
        if task.begun is not None:
            if (one.who, one.start) != (task.begun.who, task.begun.start):
                said.append(f"{task.title} had begun, and was moved.")
            continue
        said.extend(f"{task.title}: {words}" for words in _alone(day, one, hours.get(one.who, ()), inside))
        for need in task.needs:
            if need in day.by_key and need not in where:
                said.append(f"{task.title} needs what is not planned.")
            elif need in where and where[need].end > one.start:
                said.append(f"{task.title} begins before {where[need].task.title} ends.")
    said.extend(_hands(placed))
    said.extend(_places(day, placed))
    for task in day.tasks:
        if task.begun is not None and task.key not in where:
            said.append(f"{task.title} had begun, and is gone.")
    return said


def _alone(day: Day, one: Placed, hours: Sequence[tuple[int, int]], inside: Sequence[tuple[int, int]]) -> list[str]:
    """What is wrong with a task by itself."""
    task, found = one.task, []
    minutes = range(one.start, one.start + task.minutes)
    if one.start < day.now:
        found.append("in the past.")
    if one.start < task.earliest:
        found.append("before it can be begun.")
    if task.pinned_who is not None and one.who != task.pinned_who:
        found.append("pinned to somebody else.")
    if task.pinned_who is None and task.who is not None and one.who not in task.who:
        found.append("not by somebody who can.")
    if task.pinned_at is not None and one.start != task.pinned_at:
        found.append("pinned to another time.")
    if not all(any(a <= minute < b for a, b in hours) for minute in minutes):
        found.append("outside the hours of who does it.")
    whole = (one.start, one.start + task.minutes + task.alone)
    if task.windows and not any(a <= whole[0] and whole[1] <= b for a, b in task.windows):
        found.append("outside its window.")
    if task.near and task.alone and not all(any(a <= m < b for a, b in inside) for m in range(*whole)):
        found.append("with nobody near.")
    return found


def _hands(placed: Sequence[Placed]) -> list[str]:
    """Nobody does two things at once."""
    found = []
    by_who: dict[int, list[Placed]] = defaultdict(list)
    for one in placed:
        by_who[one.who].append(one)
    for of_one in by_who.values():
        of_one.sort(key=lambda one: (one.start, one.until))
        for before, after in pairwise(of_one):
            if after.start < before.until and not (before.task.begun and after.task.begun):
                found.append(f"{after.task.title} begins while {before.task.title} is in hand.")
    return found


def _places(day: Day, placed: Sequence[Placed]) -> list[str]:
    found = []
    for place, room in day.room:
        there = [one for one in placed if one.task.place == place]
        for one in there:
            together = [other for other in there if other.start <= one.start < other.end]
            if len(together) > room and any(not other.task.begun for other in together):
                found.append(f"{one.task.title}: no room left, {place}.")
    return found
