"""What the bench has to do: the steps of runs that are open, with timers that run, and runs to be started."""

from collections.abc import Sequence

from core.bench.checks import Check
from core.bench.plan import OPENS, Outcome, plan_steps
from core.flow.task import Task, bundled
from stations.bench.models import StepResult, StepTimer, TestRun
from stations.bench.services import plan_of, plans_for
from stations.common import clock
from stations.units import tasks
from stations.units.models import Unit

POWERED = "bench"
# Looked at and written down, once what ran by itself is over. Common practice, no source.
READ_MINUTES = 4


@tasks.given.add("bench")
def bench_tasks(units: list[Unit]) -> dict[int, Sequence[Task]]:
    """Of units that are assessed and not graded: a fixed number of queries for all of them."""
    due = [unit for unit in units if unit.assessed_at and unit.station == "bench"]
    ids = [unit.pk for unit in due]
    runs = {run.unit_id: run for run in TestRun.objects.filter(unit_id__in=ids).order_by("number")}
    results: dict[int, dict[str, Outcome]] = {}
    for run_id, code, outcome in (
        StepResult.objects.filter(run__in=list(runs.values())).order_by("id").values_list("run_id", "code", "outcome")
    ):
        results.setdefault(run_id, {})[code] = Outcome(outcome)
    timers = {
        (timer.run_id, timer.code): timer
        for timer in StepTimer.objects.filter(run__in=list(runs.values()), stopped_at=None, ends_at__gt=clock.now())
    }
    begun = {pk for pk, run in runs.items() if run.finished_at is None}
    fresh = [unit for unit in due if unit.pk not in begun]
    plans = plans_for(fresh) if fresh else {}
    found: dict[int, Sequence[Task]] = {}
    for unit in due:
        if unit.pk in begun:
            run = runs[unit.pk]
            found[unit.pk] = _of_run(unit, run, results.get(run.pk, {}), timers)
        else:
            found[unit.pk] = bundled([_task(unit, check) for check in plans[unit.pk]])
    return found


def _of_run(unit: Unit, run: TestRun, outcomes: dict[str, Outcome], timers: dict) -> Sequence[Task]:
    steps = plan_steps(plan_of(run), outcomes)
    settled = {*OPENS, Outcome.FAIL, Outcome.SKIP}
    return bundled(
        [
            _task(unit, step.check, timers.get((run.pk, step.check.code)), run.holder_id)
            for step in steps
            if outcomes.get(step.check.code) not in settled
        ]
    )


def _task(unit: Unit, check: Check, timer: StepTimer | None = None, holder: int | None = None) -> Task:
    """A step; one whose timer runs is read when that ends."""
    return Task(
        unit.number,
        f"step:{check.code}",
        f"Read: {check.title}" if timer else check.title,
        READ_MINUTES if timer else max(1, check.minutes),
        0 if timer else check.alone_minutes,
        kind=f"test {check.group.label.lower()}",
        near=check.powered,
        place=POWERED if check.powered else "",
        ready=timer.ends_at if timer else None,
        holder=holder,
    )
