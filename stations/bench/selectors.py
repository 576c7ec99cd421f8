"""What the bench pages read."""

from stations.bench.models import StepResult
from stations.units.models import Unit


def earlier_readings(unit: Unit, code: str) -> list[StepResult]:
    """The last six readings of a step over all runs of the unit, newest last."""
    newest = StepResult.objects.filter(run__unit=unit, code=code, reading__isnull=False).order_by("-id")[:6]
    return list(newest)[::-1]
