"""What a machine counted, showed and scored before the first change, and afterwards."""

from django.db import transaction

from stations.common import clock
from stations.common.locking import lock_row
from stations.common.refusals import Refused
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.people.screens import save_versioned
from stations.units.models import Unit
from stations.workshop.models import StateAsFound


@transaction.atomic
def record_state(
    person: Person, unit: Unit, state: StateAsFound | None, seen_version: int, what: str, found: str, after: str
) -> None:
    """Record how something was when it came, or what became of it."""
    require(person, "record the state as found")
    unit = lock_row(Unit.objects.all(), unit)
    if unit.as_found.filter(what=what).exclude(pk=state.pk if state else 0).exists():
        raise Refused(f"“{what}” is recorded already.", "what")
    changes = {"what": what, "found": found, "after": after}
    if state and not history.says_otherwise(state, changes):
        return
    if state is None:
        StateAsFound.objects.create(
            unit=unit, seen_at=clock.now(), seen_by=person, after_at=clock.now() if after else None, **changes
        )
    else:
        since = state.after_at if after == state.after else clock.now()
        save_versioned(state, seen_version, changes | {"after_at": since if after else None})
    words = f"{what}: {found} as found" + (f", {after} afterwards" if after else "")
    history.record(person, "workshop.record_state", HistoryEntry.Subject.UNIT, unit.pk, words)


def wanted(unit: Unit) -> bool:
    """Whether to ask for it: work is open, nothing was changed yet, and nobody said how it was found."""
    jobs = list(unit.jobs.all())
    begun = any(job.was_done for job in jobs)
    return any(job.is_open for job in jobs) and not begun and not unit.as_found.exists()
