"""What there is to do at a unit: tasks, on which the next step, next up and the plan of a day rest."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from decimal import Decimal


@dataclass(frozen=True)
class Task:
    """One thing to do at one unit.

    `unit` is the unit's number, `code` the task's name within the unit, `minutes` are hands-on (0 where nobody knows)
    and `alone_minutes` what runs by itself afterwards; `needs` are codes of tasks of the same unit that come first;
    `unlocks` is what comes in by the unit once everything is done and it is sold, of what is somebody else’s our part,
    in the base currency; None where nobody said.

    For the plan of a day: `kind` groups tasks whose minutes are learned together; while it is `near` somebody stays in
    the house; `daylight` is wanted from begin to end; `place` is what it takes up; `ready` when it can be begun (it
    waits, or runs by itself until then); `holder` has it in hand.
    """

    unit: int
    code: str
    title: str
    minutes: int = 0
    alone_minutes: int = 0
    needs: tuple[str, ...] = ()
    unlocks: Decimal | None = None
    kind: str = ""
    near: bool = False
    daylight: bool = False
    place: str = ""
    ready: datetime | None = None
    holder: int | None = None


def one_after_another(tasks: Iterable[Task]) -> tuple[Task, ...]:
    """The tasks with each needing the one before it, as the steps of a test plan do."""
    chain: list[Task] = []
    for task in tasks:
        chain.append(replace(task, needs=(*task.needs, chain[-1].code)) if chain else task)
    return tuple(chain)


def doable(tasks: Sequence[Task]) -> tuple[Task, ...]:
    """Those that could be begun now: nothing they need is still to do."""
    open_ = {task.code for task in tasks}
    return tuple(task for task in tasks if open_.isdisjoint(task.needs))


def hands_on(tasks: Iterable[Task]) -> int:
    """Minutes of hands that all of them take."""
    return sum(task.minutes for task in tasks)


# What is done with hands in one go is planned as one, up to so many minutes; longer work is planned in pieces. Common
# practice, no source.
LONGEST_PIECE = 60


def bundled(tasks: Sequence[Task]) -> tuple[Task, ...]:
    """Steps of a chain as somebody does them: those that follow one another without a wait as one, under the title of
    the first, and what is longer than LONGEST_PIECE in pieces. Each needs the one before."""
    found: list[Task] = []
    together = 0
    for task in tasks:
        last = found[-1] if found else None
        waits = task.ready is not None or (last is not None and (last.alone_minutes or last.place != task.place))
        if last is not None and not waits and last.minutes + task.minutes <= LONGEST_PIECE:
            together += 1
            title = f"{last.title.partition(' and ')[0]} and {together} more"
            found[-1] = replace(
                last,
                title=title,
                minutes=last.minutes + task.minutes,
                alone_minutes=task.alone_minutes,
                near=last.near or task.near,
                daylight=last.daylight or task.daylight,
            )
        else:
            together = 0
            found.extend(_pieces(task))
    return one_after_another(found)


def _pieces(task: Task) -> list[Task]:
    count = -(-task.minutes // LONGEST_PIECE)
    if count <= 1:
        return [task]
    each, rest = divmod(task.minutes, count)
    return [
        replace(
            task,
            code=task.code if number == count - 1 else f"{task.code}/{number + 1}",
            title=f"{task.title}, part {number + 1} of {count}",
            minutes=each + (number < rest),
            alone_minutes=task.alone_minutes if number == count - 1 else 0,
        )
        for number in range(count)
    ]
