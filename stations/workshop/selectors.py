"""What the workshop pages read. Query counts don't grow with rows."""

from django.db.models import Sum

from stations.units.models import Unit
from stations.workshop.models import Job, LabourEntry


def jobs_of(unit: Unit):
    """The unit's jobs, open ones first, with their parts, labour and minutes so far."""
    return (
        Job.objects.filter(unit=unit)
        .select_related("finding")
        .prefetch_related("issues__item", "labour__person")
        .annotate(minutes=Sum("labour__minutes"))
        .order_by("done_at", "opened_at")
    )


def running_clock(person):
    """The person's running clock, with its job and unit, or None."""
    return LabourEntry.objects.filter(running_for=person).select_related("job__unit").first()
