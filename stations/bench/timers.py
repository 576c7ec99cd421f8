"""Steps that run by themselves: started, looked at from anywhere, stopped; several units at once."""

from datetime import timedelta

from django.db import transaction

from stations.bench import services
from stations.bench.models import StepTimer, TestRun
from stations.common import clock
from stations.common.locking import lock_row
from stations.common.refusals import Refused
from stations.people.models import Person
from stations.people.permissions import require


@transaction.atomic
def start(person: Person, run: TestRun, code: str) -> StepTimer:
    """Start the timer of a step; one a step at a time."""
    require(person, "start a timer")
    run = lock_row(TestRun.objects.select_related("unit__model"), run, run.unit)
    services.holds_it(person, run)
    if run.finished_at:
        raise Refused("This run is finished. Start another one.")
    check = next((c for c in services.plan_of(run) if c.code == code), None)
    if check is None or not check.alone_minutes:
        raise Refused("This step does not run by itself.")
    if said := services.locked(run, code):
        raise Refused(said)
    if check.powered:
        services.refuse_while_stopped(run.unit)
    if StepTimer.objects.filter(run=run, code=code, stopped_at=None, ends_at__gt=clock.now()).exists():
        raise Refused("Its timer runs already.")
    now = clock.now()
    return StepTimer.objects.create(
        run=run,
        code=code,
        title=check.title,
        started_at=now,
        ends_at=now + timedelta(minutes=check.alone_minutes),
        started_by=person,
    )


@transaction.atomic
def stop(person: Person, timer: StepTimer) -> None:
    require(person, "stop a timer")
    StepTimer.objects.filter(pk=timer.pk, stopped_at=None).update(stopped_at=clock.now())


def running(run: TestRun | None = None):
    """Timers of open runs that were not stopped, the next to end first: one query for all."""
    timers = StepTimer.objects.filter(stopped_at=None, run__finished_at=None).select_related(
        "run__unit__lot", "started_by"
    )
    return timers.filter(run=run) if run else timers
