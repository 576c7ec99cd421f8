"""What shall become of units: the choice that is made among their paths."""

from django.db import transaction

from core.intake.triage import Path, open_paths
from stations.common.refusals import Refused, within
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.units import stages
from stations.units.models import Unit
from stations.units.paths import may_choose, weigh_paths, with_facts


@transaction.atomic
def choose_path(person: Person, unit: Unit, path: str, reason: str = "") -> None:
    """Write down what shall become of the unit. Against what leaves most, with a reason; where nobody said what it is
    worth nothing is weighed, and each of its paths is free to choose."""
    require(person, "decide what becomes of a unit")
    if path not in set(Path):
        raise Refused("Choose one of the paths.", "path")
    unit = with_facts(Unit.objects.filter(pk=unit.pk)).get()
    if not may_choose(unit):
        raise Refused("It is not ours to decide on, or it is gone.")
    if path not in open_paths(unit.ours):
        raise Refused(f"It belongs to {unit.owner_name}: it is not ours to take for parts or to scrap.", "path")
    for weighed in weigh_paths([unit]):
        best = weighed.found.best.path
        if path != best and not reason:
            raise Refused(f"“{best.label}” should leave more. Say why not.", "reason")
    if not history.says_otherwise(unit, {"path": path, "path_reason": reason}):
        return
    Unit.objects.filter(pk=unit.pk).update(path=path, path_reason=within(reason, 200, "reason"))
    words = f"To become of it: {Path(path).label}{'; ' + reason if reason else ''}"
    history.record(person, "intake.choose_path", HistoryEntry.Subject.UNIT, unit.pk, words)
    stages.refresh(unit)


@transaction.atomic
def choose_best(person: Person, units: list[Unit]) -> int:
    """For each unit take the path that should leave most. Answers how many."""
    require(person, "decide what becomes of a unit")
    weighed = weigh_paths(units)
    for row in weighed:
        choose_path(person, row.unit, row.found.best.path.value)
    return len(weighed)
