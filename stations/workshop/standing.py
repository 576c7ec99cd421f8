"""Where the workshop says that units stand: open jobs, what they wait for, what was worked on since the last test."""

from collections import defaultdict
from dataclasses import dataclass, field
from datetime import date, datetime, timedelta

from django.db.models import Q

from core.catalogue.recipes import JobKind
from core.flow.facts import WorkshopFlow
from core.flow.task import Task
from core.stock.parts import Condition
from core.workshop.jobs import NEEDS_RETEST
from stations.bench.models import TestRun
from stations.units.models import Part, PartMove, Unit
from stations.workshop.models import Job, PartIssue


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


def workshop_flow(units: list[Unit]) -> dict[int, WorkshopFlow]:
    """Of units with jobs, or whose parts were moved or found faulty: at most five queries for all.

    A repair, an upgrade or a part exchanged since the last test takes away what was proven: the machine is another
    one.
    """
    all_ids = [unit.pk for unit in units]
    jobs = list(Job.objects.filter(unit_id__in=all_ids))
    moved = _moves(all_ids)
    faulty = list(Part.objects.filter(unit_id__in=all_ids, condition=Condition.FAULTY).order_by("number"))
    ids = {job.unit_id for job in jobs} | moved.keys() | {part.unit_id for part in faulty if part.unit_id}
    if not ids:
        return {}
    runs = TestRun.objects.filter(unit_id__in=ids).order_by("number").values_list("unit_id", "started_at")
    tested: dict[int, datetime] = dict(runs)
    found: dict[int, _Found] = defaultdict(_Found)
    numbers = {unit.pk: unit.number for unit in units}
    for job in jobs:
        _add_job(found[job.unit_id], numbers[job.unit_id], job, tested.get(job.unit_id))
    parts = PartIssue.objects.filter(job__unit_id__in=ids, job__kind__in=NEEDS_RETEST).order_by("id")
    for unit_id, name, fitted, back in parts.values_list("job__unit_id", "item__name", "when", "returned_at"):
        last = max(fitted, back) if back else fitted
        if unit_id in tested and last > tested[unit_id]:
            found[unit_id].not_proven.append(f"part {'taken out' if back else 'exchanged'} since: {name}")
    for unit_id, moves in moved.items():
        for when, words in moves:
            if unit_id in tested and when > tested[unit_id]:
                found[unit_id].not_proven.append(words)
                found[unit_id].retest_after = words.replace(" since:", ":")
    for part in faulty:
        if part.unit_id:
            found[part.unit_id].not_proven.append(f"a faulty part is in it: {part.name}, {part.code}")
    return {unit_id: WorkshopFlow(**vars(of_unit)) for unit_id, of_unit in found.items()}


def _moves(ids: list[int]) -> dict[int, list[tuple[datetime, str]]]:
    """When parts went into and out of these units, in words: one query."""
    found: dict[int, list[tuple[datetime, str]]] = defaultdict(list)
    moves = PartMove.objects.filter(kind=PartMove.Kind.MOVED).filter(Q(from_unit__in=ids) | Q(to_unit__in=ids))
    wanted = set(ids)
    for left, reached, when, name in moves.values_list("from_unit_id", "to_unit_id", "when", "part__name"):
        for unit_id, words in ((left, "taken out"), (reached, "exchanged")):
            if unit_id in wanted and unit_id is not None:
                found[unit_id].append((when, f"part {words} since: {name}"))
    return dict(found)


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
    if job.was_done and tested and JobKind(job.kind) in NEEDS_RETEST and job.done_at and job.done_at > tested:
        found.retest_after = job.title
        found.not_proven.append(f"worked on since: {job.title}")
