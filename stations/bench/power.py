"""When a unit last had power, by what is recorded; whether it is cold, and whether it counts as discharged."""

from collections.abc import Callable
from datetime import datetime

from django.db.models import Max

from core.bench.checks import BenchFacts
from core.bench.plan import Outcome
from core.bench.power import Charge, Temperature, charged, temperature
from core.machine.supply import Supply
from stations.bench.library import DISCHARGES
from stations.bench.models import PowerStop, StartTrial, StepResult, StepTimer
from stations.common import clock
from stations.common.registry import Registry
from stations.units.as_it_is import bench_facts
from stations.units.models import Unit

# When a unit last had power elsewhere than at the bench, by whoever gave it: rooms further on answer.
given: Registry[Callable[[Unit], datetime | None]] = Registry("when it had power")


def last_power(unit: Unit) -> datetime | None:
    """The latest moment at which it is known to have had power; None when it had none since it came. Four queries, and
    those of whoever else gives it power."""
    moments = [
        StartTrial.objects.filter(unit=unit).aggregate(at=Max("when"))["at"],
        StepResult.objects.filter(run__unit=unit, powered=True).aggregate(at=Max("when"))["at"],
        StepTimer.objects.filter(run__unit=unit).aggregate(at=Max("started_at"))["at"],
        PowerStop.objects.filter(unit=unit).aggregate(at=Max("when"))["at"],
        *(elsewhere(unit) for elsewhere in given.values()),
    ]
    return max((moment for moment in moments if moment and unit.is_since_away(moment)), default=None)


def temperature_of(unit: Unit) -> Temperature:
    """Whether it would start from cold now."""
    return temperature(last_power(unit), unit.here_since, clock.now())


def charges_of(unit: Unit, facts: BenchFacts | None = None) -> tuple[Charge, ...]:
    """What in it holds charge, and when each was last discharged and measured since it came: two queries at most."""
    facts = facts or bench_facts(unit)
    whats = []
    if facts.supply_here in {Supply.SWITCHING, Supply.LINEAR, Supply.UNKNOWN} and facts.form_factor not in {
        "cabinet",
        "adapter",
    }:
        whats.append("supply")
    if facts.tube:
        whats.append("tube")
    if not whats:
        return ()
    done: dict[str, datetime] = {}
    steps = StepResult.objects.filter(run__unit=unit, code__in=DISCHARGES, outcome=Outcome.PASS)
    for code, when in steps.values_list("code").annotate(at=Max("when")).order_by():
        what = DISCHARGES[code]
        done[what] = max(when, done.get(what, when))
    for what, when in unit.discharges.values_list("what").annotate(at=Max("when")).order_by():
        done[what] = max(when, done.get(what, when))
    # Whoever had it meanwhile may have had it running.
    here = {what: when for what, when in done.items() if unit.is_since_away(when)}
    return tuple(Charge(what, here.get(what)) for what in whats)


def charged_words(unit: Unit) -> str:
    """Why hands may not go in yet; empty when everything that holds charge was discharged since the last power."""
    return charged(charges_of(unit), last_power(unit))
