"""What the bench pages read."""

from core.flow.stage import Station
from stations.bench.models import StepResult
from stations.intake.models import Unit


def at_the_bench():
    """Units at the bench, holds and decisions first."""
    rank = {"hold": 0, "stuck": 1, "move": 2, "wait": 3}
    found = Unit.objects.filter(station=Station.BENCH).select_related("lot", "model")
    return sorted(found[:200], key=lambda unit: (rank.get(unit.state, 4), unit.stage_since))


def earlier_readings(unit: Unit, code: str, run) -> list[StepResult]:
    """Readings of the same step in the unit's earlier runs, and earlier in this one; newest last."""
    return list(
        StepResult.objects.filter(run__unit=unit, code=code, reading__isnull=False).select_related("run").order_by("id")
    )[-6:]
