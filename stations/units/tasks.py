"""What there is to do at units, as each station says: tasks for the plan of a day."""

from collections.abc import Callable, Iterable, Mapping, Sequence

from core.flow.stage import State
from core.flow.task import Task, one_after_another
from stations.common.registry import Registry
from stations.units.models import Unit

# Who answers for which tasks: for a list of units, by unit id, in the order they are done and in a number of queries
# that does not grow with the list.
given: Registry[Callable[[list[Unit]], Mapping[int, Sequence[Task]]]] = Registry("tasks of units")
# The order of the work: what is opened in the workshop is done before what tests it.
ORDER = ("intake", "workshop", "bench", "selling")


def tasks_of(units: Iterable[Unit]) -> dict[int, tuple[Task, ...]]:
    """By unit id, what can be done at each, one after another; nothing for one that waits or where nothing is left.

    A unit on hold, or that wants a decision, has that first.
    """
    at_work = [unit for unit in units if unit.state in {State.MOVING, State.HOLD, State.DECISION} or _to_send(unit)]
    told = [given[name](at_work) for name in ORDER]
    found: dict[int, tuple[Task, ...]] = {}
    for unit in at_work:
        tasks = [task for of_station in told for task in of_station.get(unit.pk, ())]
        # What holds a unit that has jobs is dealt with by them; what comes of a decision nobody knows.
        if unit.state == State.HOLD and unit.pk not in told[ORDER.index("workshop")]:
            tasks = [_first(unit, "make safe"), *tasks]
        elif unit.state == State.DECISION:
            tasks = [_first(unit, "decide")]
        if tasks:
            found[unit.pk] = one_after_another(tasks)
    return found


def _first(unit: Unit, kind: str) -> Task:
    title = unit.next_step or unit.stage_reason
    return Task(unit.number, kind, title[:1].upper() + title[1:], max(1, unit.next_minutes), kind=kind)


def _to_send(unit: Unit) -> bool:
    return unit.stage == "sold"
