"""What the workshop has to do: the steps of open jobs that are left, with what runs by itself."""

import re
from collections import defaultdict
from collections.abc import Sequence
from datetime import datetime

from django.db.models import Sum

from core.flow.task import Task, bundled
from stations.common import clock
from stations.common.refusals import shortened
from stations.units import tasks
from stations.units.models import Unit
from stations.workshop.models import Job, LabourEntry
from stations.workshop.recipe_run import StepOfJob, steps_of_job

# Needs by these words take up a place, or want daylight.
_TUB, _DAYLIGHT = "tub", ("daylight", "sun")
# Looked at and taken up again, once what ran by itself is over. Common practice, no source.
TAKE_UP_MINUTES = 3


@tasks.given.add("workshop")
def workshop_tasks(units: list[Unit]) -> dict[int, Sequence[Task]]:
    """Of units with open jobs: four queries for all of them. What waits for something has no tasks until it comes."""
    jobs = Job.objects.filter(unit_id__in=[unit.pk for unit in units]).awake().prefetch_related("step_rows")
    numbers = {unit.pk: unit.number for unit in units}
    spent = dict(
        LabourEntry.objects.filter(job__in=jobs).values_list("job").annotate(minutes=Sum("minutes")).order_by()
    )
    running = set(LabourEntry.objects.filter(job__in=jobs, running_for__isnull=False).values_list("job", flat=True))
    found: dict[int, list[Task]] = defaultdict(list)
    # What somebody is at comes first.
    for job in sorted(jobs, key=lambda job: job.pk not in running):
        if job.decision:
            continue
        found[job.unit_id].extend(bundled(list(_of_job(numbers[job.unit_id], job, spent.get(job.pk) or 0))))
    return dict(found)


def _of_job(number: int, job: Job, spent: int) -> Sequence[Task]:
    ready = None
    if job.waiting_until:
        ready = clock.begin_of(job.waiting_until)
    left = [step for step in steps_of_job(job) if not step.settled] if job.steps else []
    if not left:
        minutes = max(5, job.estimate_minutes - spent)
        return [
            Task(number, f"job:{job.pk}", job.title, minutes, kind=f"job {job.kind}", ready=ready, holder=job.holder_id)
        ]
    return [_of_step(number, job, step, ready) for step in left]


def _of_step(number: int, job: Job, one: StepOfJob, ready: datetime | None) -> Task:
    step, needs = one.step, {need.name.lower() for need in one.step.needs}
    running = one.begun
    return Task(
        number,
        f"job:{job.pk}:{one.index}",
        _short(step.instruction),
        TAKE_UP_MINUTES if running else max(1, step.minutes),
        0 if running else step.alone_minutes,
        kind=f"job {job.kind}",
        near=step.powered,
        daylight=bool(step.alone_minutes) and any(word in need for need in needs for word in _DAYLIGHT),
        place=_TUB if any(_TUB in need for need in needs) else "",
        ready=one.ends_at if running else ready,
        holder=job.holder_id,
    )


def _short(instruction: str) -> str:
    """The first clause of an instruction, as a line of a plan has room for it."""
    words = re.split(r"[.;:,] ", instruction)[0].rstrip(".")
    return shortened(words, 60)
