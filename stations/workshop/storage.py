"""Drives planned for systems, made jobs, and what was tried at each installation."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from django.db import IntegrityError, transaction

from core.catalogue.recipes import JobKind
from core.workshop.storage import StorageError
from core.workshop.storage.attempts import what_of
from core.workshop.storage.checker import problems
from core.workshop.storage.install import Before, Driver, recipe
from core.workshop.storage.planner import plan, with_labels
from core.workshop.storage.systems import System, read_system
from core.workshop.storage.volumes import Drive, End, Shared, StoragePlan, Wish
from stations.common.locking import lock_row
from stations.common.refusals import Refused, within
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.people.screens import save_versioned
from stations.units.models import Unit
from stations.workshop import attempts, recipe_run, services
from stations.workshop.models import InstallAttempt, Job, JobStep, PlannedStorage, SystemRules
from stations.workshop.new_job import NewJob

UNIT, RECIPE = HistoryEntry.Subject.UNIT, HistoryEntry.Subject.RECIPE


@transaction.atomic
def keep_system(person: Person, row: SystemRules | None, seen: int, name: str, rules: str) -> SystemRules:
    """Keep what a system wants; `row` None for a new one. Refused at the field, with the line."""
    require(person, "change the recipes")
    try:
        system = read_system(name, rules)
    except StorageError as problem:
        raise Refused(str(problem), problem.at or "rules") from problem
    values = {"name": system.name, "rules": within(rules, 2000, "rules")}
    try:
        with transaction.atomic():
            if row is None:
                history.record(person, "workshop.keep_system", RECIPE, 0, f"System {system.name} added")
                return SystemRules.objects.create(**values)
            history.changed(person, "workshop.keep_system", RECIPE, 0, f"System {row.name}", row, values)
            save_versioned(row, seen, values)
            return row
    except IntegrityError as problem:
        raise Refused(f"There is a system called {system.name} already.", "name") from problem


def systems() -> dict[int, System]:
    """Every system the shop has rules for, by its key, older first: one query."""
    found = {row.pk: read_system(row.name, row.rules) for row in SystemRules.objects.all()}
    return dict(sorted(found.items(), key=lambda one: (one[1].order, one[1].name)))


@dataclass(frozen=True)
class Asked:
    """What a drive is planned from."""

    drive: Drive
    wishes: tuple[Wish, ...]
    shared: Shared | None
    labels: tuple[str, ...] = ()

    def plan(self) -> StoragePlan:
        """The plan, gone over by the checker. Raises StorageError."""
        found = with_labels(plan(self.drive, self.wishes, self.shared), self.labels)
        if wrong := problems(found):
            # Never seen; a plan that breaks a rule is not shown as one that holds.
            raise StorageError(f"This plan does not hold: {wrong[0]} Tell whoever looks after the application.")
        return found


def as_data(asked: Asked, rules: dict[str, str]) -> dict[str, Any]:
    """For JSON, with the rules as they are now."""
    drive = asked.drive
    return {
        "size": drive.size,
        "sector": drive.sector,
        "overlay": drive.overlay,
        "id": drive.id,
        "ends": [[end.name, end.size, end.drivers_too] for end in drive.ends],
        "wishes": [[w.system.name, rules[w.system.name], w.space, w.files, w.shares] for w in asked.wishes],
        "labels": list(asked.labels),
        "shared": None if asked.shared is None else [asked.shared.space, asked.shared.files],
    }


def from_data(row: dict[str, Any]) -> Asked:
    ends = tuple(End(*end) for end in row["ends"])
    wishes = tuple(
        Wish(read_system(name, rules), space, files, shares) for name, rules, space, files, shares in row["wishes"]
    )
    shared = None if row["shared"] is None else Shared(*row["shared"])
    drive = Drive(row["size"], ends, row["sector"], row["overlay"], row["id"])
    return Asked(drive, wishes, shared, tuple(row["labels"]))


@transaction.atomic
def make_job(person: Person, unit: Unit, asked: Asked, before: Before, drivers: Sequence[Driver]) -> Job:
    """A plan as a job, with its steps and restarts."""
    require(person, "open a job")
    try:
        made = recipe(asked.plan(), before, drivers)
    except StorageError as problem:
        raise Refused(str(problem), problem.at or None) from problem
    job = services.open_job(person, unit, NewJob.by_recipe(made, kind=JobKind.SOFTWARE.value))
    rules = dict(SystemRules.objects.values_list("name", "rules"))
    PlannedStorage.objects.create(job=job, asked=as_data(asked, rules))
    return job


def plan_of(job: Job) -> StoragePlan | None:
    """The plan a job was made from; None for another job."""
    row = PlannedStorage.objects.filter(job=job).first() if job.kind == JobKind.SOFTWARE else None
    return from_data(row.asked).plan() if row else None


@transaction.atomic
def failed(person: Person, job: Job, index: int, words: str, next_variant: str) -> InstallAttempt:
    """The step in hand did not work: what it said, and what is varied for the next go (empty: nothing, the same again).

    The go that failed was with whatever was said to be varied before.
    """
    require(person, "work through a recipe")
    job = lock_row(Job.objects.select_related("unit"), job, job.unit)
    now = recipe_run.in_hand(recipe_run.steps_of_job(job))
    if not job.is_open or now is None or now.index != index:
        raise Refused("Another step is in hand now.")
    if not words:
        raise Refused("Say what it said or did.", "words")
    row = attempts.note(person, job, index, what_of(now.step.instruction), within(words, 200, "words"), worked=False)
    # Its time begins anew with the next go.
    JobStep.objects.filter(job=job, index=index).update(alone_from=None, alone_until=None)
    Job.objects.filter(pk=job.pk).update(varied=within(next_variant, 160, "varied"))
    history.record(person, "workshop.failed", UNIT, job.unit_id, f"{row.what} failed: {row.words}", job=job.pk)
    return row
