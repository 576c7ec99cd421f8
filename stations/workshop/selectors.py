"""What the workshop pages read. Query counts don't grow with rows."""

from django.db.models import F, Sum

from stations.common.paging import first_of
from stations.units.models import Unit
from stations.workshop.models import Job, LabourEntry, Opening

SHOWN = 40


def jobs_of(unit: Unit):
    """The unit's jobs, open ones first, with their parts, labour and minutes so far."""
    return (
        Job.objects.filter(unit=unit)
        .select_related("finding")
        .prefetch_related("issues__item", "labour__person", "step_rows__done_by", "step_rows__photo")
        .annotate(minutes=Sum("labour__minutes"))
        .order_by("done_at", "opened_at")
    )


def running_clock(person):
    """The person's running clock, with its job and unit, or None; asked on every page, and mostly there is none."""
    return LabourEntry.objects.filter(running_for=person).prefetch_related("job__unit").first()


def temporary_fixes():
    """Temporary fixes that wait to be made good, the one due first at the head; those without a date last."""
    rows = Job.objects.temporary_open().select_related("unit")
    return first_of(rows.order_by(F("made_good_due").asc(nulls_last=True), "done_at"), SHOWN)


def standing_open():
    """Machines that stand open, the longest first."""
    rows = Opening.objects.filter(closed_at=None).select_related("unit", "opened_by")
    return first_of(rows.order_by("opened_at"), SHOWN)
