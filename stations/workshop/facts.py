"""What the workshop answers for: open jobs, what they wait for, and what was worked on since the last test."""

from collections.abc import Iterable, Iterator, Mapping
from datetime import datetime
from pathlib import Path

from django.db.models import Max
from django.urls import reverse
from django.utils import timezone

from stations.backup import lost
from stations.bench import power
from stations.common.paging import First, first_of
from stations.people import in_hand
from stations.people.history import Place, places
from stations.people.models import Person
from stations.stock import drawer, orders
from stations.units import busy, dealt_with, fitting, paths, slips, stages
from stations.units.models import Part, Unit
from stations.workshop import issuing, knowledge, learned, on_record, spending
from stations.workshop.models import Job, JobStep, Knowledge, LabourEntry, OpenedAssembly, Setting
from stations.workshop.standing import workshop_flow

stages.flow.add("workshop")(workshop_flow)
paths.took.add("workshop")(learned.minutes_of_a_unit)
drawer.holders.add("job")(issuing.held_for_jobs)
drawer.went_into.add("jobs")(issuing.in_use)
drawer.arrivals.add("jobs")(issuing.came_for_jobs)
drawer.waiting.add("jobs")(issuing.hold_waiting)
orders.doubts.add("upgrades")(spending.doubts_of_orders)
orders.answered.add("upgrades")(spending.answered_orders)
slips.kinds.add("setting")(slips.Kind(on_record.settings_of, on_record.no_setting))
slips.kinds.add("trial")(slips.Kind(on_record.trials_of, on_record.no_trial))
slips.kinds.add("attempt")(slips.Kind(on_record.failures_of, on_record.no_failure))


@busy.kinds.add("job")
def jobs_going_on(unit: Unit) -> str:
    count = unit.jobs.filter(done_at=None).count()
    return f"{count} {'job is' if count == 1 else 'jobs are'} open" if count else ""


@dealt_with.kinds.add("job")
def jobs_since(unit: Unit, moment) -> list[dealt_with.Shown]:
    """Jobs that were finished since, for good."""
    rows = unit.jobs.was_done().filter(done_at__gt=moment, temporary=False).order_by("-done_at")[:5]
    return [dealt_with.Shown(job.done_at, f"job done: {job.title}") for job in rows if job.done_at]


@slips.rests_on.add("workshop")
def rests_on_jobs(unit: Unit) -> dict[str, str]:
    """What a job answers to, and pictures of its steps and of what was opened."""
    found: dict[str, str] = {}
    for job in unit.jobs.all():
        marks = [f"finding:{job.finding_id}", job.source]
        found |= dict.fromkeys(marks, f"the job “{job.title}” answers to it")
    steps = JobStep.objects.filter(job__unit=unit).exclude(photo=None).values_list("photo", flat=True)
    opened = OpenedAssembly.objects.filter(opening__unit=unit).exclude(photo=None).values_list("photo", flat=True)
    return found | {f"photo:{photo}": "it shows a step of the work" for photo in [*steps, *opened]}


@power.given.add("recipe")
def powered_by_a_recipe(unit: Unit) -> datetime | None:
    """When a powered step of a job’s recipe was last begun or done: what holds charge has to be discharged anew."""
    seen = JobStep.objects.filter(job__unit=unit, powered=True).aggregate(done=Max("done_at"), begun=Max("alone_from"))
    return max(filter(None, seen.values()), default=None)


@fitting.set_to.add("settings")
def jumpers_of(unit: Unit) -> Mapping[str, str]:
    """How the settings sheet says that cards are set, by "part jumper" in small letters: one query."""
    rows = Setting.objects.filter(unit=unit).values_list("name", "was", "set_to")
    return {name.lower(): set_to or was for name, was, set_to in rows}


@in_hand.kinds.add("clock")
def clock_of(person: Person) -> First[in_hand.InHand]:
    """The labour clock that runs for somebody; one a person."""
    rows = LabourEntry.objects.filter(running_for=person).select_related("job__unit__model")
    found = [
        in_hand.InHand(
            f"labour clock running since {timezone.localtime(row.started_at):%-d %b %H:%M}: {row.job.title}",
            f"{row.job.unit.tag} {row.job.unit.title}",
            reverse("workshop:labour", args=[row.pk]),
        )
        for row in rows
    ]
    return First(found, len(found))


@in_hand.kinds.add("job")
def jobs_of(person: Person) -> First[in_hand.InHand]:
    """Jobs whose steps somebody goes through."""
    held = Job.objects.filter(holder=person, done_at=None).select_related("unit__model").order_by("pk")
    rows = first_of(held, in_hand.MOST)
    found = [
        in_hand.InHand(f"job: {job.title}", f"{job.unit.tag} {job.unit.title}", reverse("workshop:job", args=[job.pk]))
        for job in rows
    ]
    return First(found, rows.count)


@lost.told_of.add("what is known")
def known() -> Iterator[Path]:
    return map(knowledge.path_of, Knowledge.objects.exclude(sha256="").values_list("sha256", flat=True))


@places.add("part")
def parts(keys: Iterable[int]) -> dict[int, Place]:
    rows = Part.objects.filter(pk__in=keys)
    return {row.pk: Place(row.code, reverse("workshop:part", args=[row.number])) for row in rows}
