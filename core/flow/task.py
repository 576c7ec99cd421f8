"""What there is to do at a unit: tasks, on which the next step, next up and the plan of a day rest."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal


@dataclass(frozen=True)
class Task:
    """One thing to do at one unit.

    `unit` is the unit's number, `code` the task's name within the unit, `minutes` are hands-on (0 where nobody knows)
    and `alone_minutes` what runs by itself afterwards; `needs` are codes of tasks of the same unit that come first;
    `unlocks` is what the unit should sell for once everything is done, in the base currency.
    """

    unit: int
    code: str
    title: str
    minutes: int = 0
    alone_minutes: int = 0
    needs: tuple[str, ...] = ()
    unlocks: Decimal = Decimal(0)


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
