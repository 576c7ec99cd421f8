"""What selling has to do: grade, clear what blocks, list, pack and send."""

from collections.abc import Sequence

from core.flow.stage import NextKind
from core.flow.task import Task
from stations.units import tasks
from stations.units.models import Unit

_KINDS = {NextKind.SELLING.value: "grade", NextKind.LISTING.value: "list", NextKind.SALE.value: "pack and send"}


@tasks.given.add("selling")
def selling_tasks(units: list[Unit]) -> dict[int, Sequence[Task]]:
    """What the next step of a unit at selling is; of one that is sold, to pack it. No query."""
    return {
        unit.pk: [
            Task(
                unit.number,
                _KINDS[unit.next_kind],
                unit.next_step[:1].upper() + unit.next_step[1:],
                max(1, unit.next_minutes),
                kind=_KINDS[unit.next_kind],
            )
        ]
        for unit in units
        if unit.next_kind in _KINDS and (unit.station == "selling" or unit.stage == "sold") and unit.stage != "listed"
    }
