"""A job that was closed by a slip, or of which more is to be done, is open again."""

from django.db import transaction

from core.intake.completeness import Presence
from stations.common.locking import lock_row
from stations.common.refusals import Refused, reason
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.units import stages
from stations.units.models import Content
from stations.workshop.approach import refuse_no_work
from stations.workshop.models import GlueWatch, Job
from stations.workshop.services import open_again

FITTED = (Presence.PRESENT, Presence.NOT_ORIGINAL)


@transaction.atomic
def not_done(person: Person, job: Job, why: str) -> None:
    """It is open as it was: what it answered to is too, and what it was to fit is missing. Minutes and parts that went
    in stay its own; what else it took off the map stays off."""
    require(person, "finish a job")
    job = lock_row(Job.objects.select_related("unit", "finding"), job, job.unit)
    if job.is_open:
        raise Refused("It is open.")
    refuse_no_work(job.unit)
    if job.temporary and job.made_good_at:
        raise Refused("It was made good since. Where that is wrong, take it back first.")
    watched = GlueWatch.objects.filter(job=job)
    if watched.exclude(held=None).exists():
        raise Refused("Somebody looked at the glue since: it was done.")
    why = reason(why)
    if job.was_done and job.worked is not False and not job.temporary:
        open_again(person, job, why)
        what, _, number = job.source.partition(":")
        if what == "content":
            fitted = Content.objects.filter(pk=number, unit=job.unit_id, presence__in=FITTED)
            fitted.update(presence=Presence.MISSING)
    watched.delete()
    # What came of it is said anew when it is done; the story keeps what was said.
    Job.objects.filter(pk=job.pk).update(
        done_at=None,
        worked=None,
        never_begun=False,
        result="",
        publish_result=False,
        original_kept="",
        original_gone="",
        original_goes=None,
        workaround="",
    )
    words = f"Not done after all: {job.title}; {why}"
    history.record(person, "workshop.not_done", HistoryEntry.Subject.UNIT, job.unit_id, words, job=job.pk, why=why)
    stages.refresh(job.unit)
