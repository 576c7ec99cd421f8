"""What the workshop answers for: open jobs, what they wait for, and what was worked on since the last test."""

from collections import defaultdict
from dataclasses import dataclass, field
from datetime import date, datetime, timedelta

from django.db.models import Max

from core.catalogue.recipes import JobKind
from core.flow.facts import WorkshopFlow
from core.flow.task import Task
from core.workshop.jobs import NEEDS_RETEST
from stations.bench import power
from stations.bench.models import TestRun
from stations.units import busy, dealt_with, stages
from stations.units.models import Unit
from stations.workshop.models import Job, JobStep, PartIssue


@dataclass
class _Found:
    tasks: list[Task] = field(default_factory=list)
    not_proven: list[str] = field(default_factory=list)
    waiting_for: str = ""
    decision: str = ""
    retest_after: str = ""
    overdue: str = ""
    again_on: date | None = None

    def comes(self, day: date) -> None:
        """Something changes on that day."""
        self.again_on = min(day, self.again_on or day)


@stages.flow.add("workshop")
def workshop_flow(units: list[Unit]) -> dict[int, WorkshopFlow]:
    """Of units with jobs: at most three queries for all.

    A repair, an upgrade or a part exchanged since the last test takes away what was proven: the machine is another
    one.
    """
    jobs = list(Job.objects.filter(unit_id__in=[unit.pk for unit in units]))
    if not jobs:
        return {}
    ids = {job.unit_id for job in jobs}
    runs = TestRun.objects.filter(unit_id__in=ids).order_by("number").values_list("unit_id", "started_at")
    tested: dict[int, datetime] = dict(runs)
    found: dict[int, _Found] = defaultdict(_Found)
    numbers = {unit.pk: unit.number for unit in units}
    for job in jobs:
        _add_job(found[job.unit_id], numbers[job.unit_id], job, tested.get(job.unit_id))
    parts = PartIssue.objects.filter(job__unit_id__in=ids, job__kind__in=NEEDS_RETEST).order_by("id")
    for unit_id, name, fitted, back in parts.values_list("job__unit_id", "item__name", "when", "returned_at"):
        moved = max(fitted, back) if back else fitted
        if unit_id in tested and moved > tested[unit_id]:
            found[unit_id].not_proven.append(f"part {'taken out' if back else 'exchanged'} since: {name}")
    return {unit_id: WorkshopFlow(**vars(of_unit)) for unit_id, of_unit in found.items()}


def _add_job(found: _Found, number: int, job: Job, tested: datetime | None) -> None:
    if job.is_open:
        until = f", {job.waiting_until:%d %b}" if job.waiting_until else ""
        found.tasks.append(Task(number, f"job:{job.pk}", job.title, job.estimate_minutes))
        found.decision = found.decision or job.decision
        if job.waits:
            found.waiting_for = found.waiting_for or f"{job.waiting_for}{until}"
            if job.waiting_until:
                found.comes(job.waiting_until)
    elif job.temporary_open and job.made_good_due:
        if job.temporary_overdue:
            found.overdue = found.overdue or job.title
        else:
            found.comes(job.made_good_due + timedelta(days=1))
    if not job.is_open and tested and JobKind(job.kind) in NEEDS_RETEST and job.done_at and job.done_at > tested:
        found.retest_after = job.title
        found.not_proven.append(f"worked on since: {job.title}")


@busy.kinds.add("job")
def jobs_going_on(unit: Unit) -> str:
    count = unit.jobs.filter(done_at=None).count()
    return f"{count} {'job is' if count == 1 else 'jobs are'} open" if count else ""


@dealt_with.kinds.add("job")
def jobs_since(unit: Unit, moment) -> list[dealt_with.Shown]:
    """Jobs that were finished since, for good."""
    rows = unit.jobs.filter(done_at__gt=moment, temporary=False).order_by("-done_at")[:5]
    return [dealt_with.Shown(job.done_at, f"job done: {job.title}") for job in rows if job.done_at]


@power.given.add("recipe")
def powered_by_a_recipe(unit: Unit) -> datetime | None:
    """When a powered step of a job’s recipe was last begun or done: what holds charge has to be discharged anew."""
    seen = JobStep.objects.filter(job__unit=unit, powered=True).aggregate(done=Max("done_at"), begun=Max("alone_from"))
    return max(filter(None, seen.values()), default=None)
