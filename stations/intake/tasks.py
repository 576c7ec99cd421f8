"""What intake has to do: record what is still open of each unit."""

from collections.abc import Sequence

from core.flow.facts import FlowFacts
from core.flow.rules.intake import at_intake
from core.flow.task import Task
from stations.intake.facts import intake_flow
from stations.units import tasks
from stations.units.models import Unit


@tasks.given.add("intake")
def intake_tasks(units: list[Unit]) -> dict[int, Sequence[Task]]:
    """Of units that are not assessed: two queries for all."""
    new = [unit for unit in units if unit.assessed_at is None]
    flow = intake_flow(new) if new else {}
    found: dict[int, Sequence[Task]] = {}
    for unit in new:
        stands = at_intake(FlowFacts(intake=flow[unit.pk])) if unit.pk in flow else None
        if stands is not None:
            title = stands.next_step[:1].upper() + stands.next_step[1:]
            found[unit.pk] = [Task(unit.number, "intake", title, stands.minutes, kind="intake")]
    return found
