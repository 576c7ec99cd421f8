"""What was glued: looked at again after some days, and how often it held here."""

from datetime import timedelta

from django.db import transaction

from core.workshop.care.recondition import GLUED, WATCHED_DAYS
from stations.common import clock
from stations.common.refusals import Refused
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.units.models import Unit
from stations.workshop.models import GlueWatch, Job

MOST = 20


def is_glued(job: Job) -> bool:
    return job.recipe == GLUED


def watch(job: Job) -> None:
    """Has what a finished job glued looked at again."""
    today = clock.today()
    due = today + timedelta(days=WATCHED_DAYS)
    GlueWatch.objects.get_or_create(
        job=job, defaults={"unit": job.unit, "words": job.title, "glued_on": today, "due_on": due}
    )


def due():
    """Glue to be looked at by today, the longest due first: one query."""
    rows = GlueWatch.objects.filter(held=None, due_on__lte=clock.today())
    return rows.select_related("unit", "job")[:MOST]


def on(unit: Unit):
    """All that is glued on a unit: one query."""
    return unit.glue_watches.select_related("job", "looked_by")


@transaction.atomic
def look(person: Person, watched: GlueWatch, held: bool) -> None:
    """Somebody looked: it holds, or it came off again."""
    require(person, "finish a job")
    row = GlueWatch.objects.select_for_update().select_related("unit").get(pk=watched.pk)
    if row.held is not None:
        raise Refused("Somebody looked at it already.")
    GlueWatch.objects.filter(pk=row.pk).update(held=held, looked_at=clock.now(), looked_by=person)
    words = f"{row.words}: the glue {'holds' if held else 'came off again'}"
    history.record(person, "workshop.look", HistoryEntry.Subject.UNIT, row.unit_id, words, held=held)
    # What came off again did not do what it was for: the record of recipes learns it.
    if not held:
        Job.objects.filter(pk=row.job_id).update(worked=False)


@transaction.atomic
def not_looked(person: Person, watched: GlueWatch) -> None:
    """Nobody looked, or at another machine: it is to be looked at still, and nobody says whether it did what it was
    for where that was said to be not so."""
    require(person, "finish a job")
    row = GlueWatch.objects.select_for_update().select_related("unit").get(pk=watched.pk)
    if row.held is None:
        raise Refused("Nobody looked at it yet.")
    GlueWatch.objects.filter(pk=row.pk).update(held=None, looked_at=None, looked_by=None)
    history.record(person, "workshop.not_looked", HistoryEntry.Subject.UNIT, row.unit_id, f"{row.words}: not looked at")
    if not row.held:
        Job.objects.filter(pk=row.job_id, worked=False).update(worked=None)


def record() -> str:
    """How glue did here, in words; empty while nobody looked at any."""
    looked = GlueWatch.objects.exclude(held=None)
    count, good = looked.count(), looked.filter(held=True).count()
    return f"Glue held {good} of {count} times here when it was looked at again." if count else ""
