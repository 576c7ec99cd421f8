"""What a unit would fetch, by whoever knows the market: rooms further on answer."""

from collections.abc import Callable

from core.workshop.worth import Appraisal
from stations.common.registry import Registry
from stations.units.models import Unit

appraisers: Registry[Callable[[Unit], Appraisal]] = Registry("what a unit would fetch")


def appraisal_of(unit: Unit) -> Appraisal | None:
    """Of the one room that answers; None while none does."""
    for appraise in appraisers.values():
        return appraise(unit)
    return None
