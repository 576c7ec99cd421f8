"""What is done in the workshop: open a job, count minutes, finish it."""

import dataclasses
from dataclasses import dataclass
from datetime import date, datetime
from decimal import Decimal

from django.db import transaction
from django.db.models import Max
from django.utils import timezone

from core.intake.completeness import Presence
from core.money import to_cent
from core.workshop.labour import LONGEST_ENTRY, labour_cost, why_doubted
from stations.common import clock
from stations.common.happened import moment_on
from stations.common.locking import lock_row
from stations.common.refusals import Refused, reason, shortened, within
from stations.ledger.models import Account, EntryKind
from stations.ledger.services import Leg, post, reverse_posting
from stations.people import history, shop_settings
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.people.screens import save_versioned
from stations.units import stages
from stations.units.findings import settle_finding
from stations.units.models import Content, Finding, Unit
from stations.workshop import care_results, glue, issuing, recipe_run
from stations.workshop.approach import check_approach, refuse_no_work, still_here
from stations.workshop.models import Job, LabourEntry
from stations.workshop.new_job import JobDetails, NewJob, of_recipe
from stations.workshop.proposals import proposals_of

UNIT = HistoryEntry.Subject.UNIT


class RanTooLong(Refused):
    """A clock that may have been forgotten; `entry` is what must be said of it."""

    def __init__(self, message: str, entry: LabourEntry) -> None:
        super().__init__(message)
        self.entry = entry


@transaction.atomic
def open_job(person: Person, unit: Unit, new: NewJob) -> Job:
    """Open a job if the unit's approach allows it; an owner may override with a reason."""
    require(person, "open a job")
    unit = lock_row(Unit.objects.all(), unit)
    refuse_no_work(unit)
    if unit.assessed_at is None:
        raise Refused("Intake is not finished: finish it before work begins.")
    check_approach(person, unit, new)
    _check_temporary(new.temporary, new.temporary_reason, new.made_good_by, new.made_good_due)
    _check_waiting(new.waiting_for, new.waiting_until)
    fields = {field.name: getattr(new, field.name) for field in dataclasses.fields(new) if field.name != "is_weighed"}
    job = Job.objects.create(unit=unit, opened_at=clock.now(), opened_by=person, **fields)
    override = f" (against the approach: {job.override_reason})" if job.override_reason else ""
    history.record(person, "workshop.open_job", UNIT, unit.pk, f"Job opened: {job.title}{override}", job=job.pk)
    if not new.is_weighed and (job.finding_id or job.source):
        _say_what_it_adds(job, unit)
    stages.refresh(unit)
    return job


def _say_what_it_adds(job: Job, unit: Unit) -> None:
    """What a job opened by hand is worth beforehand, from what it answers to; unknown stays unknown."""
    found = proposals_of(unit).get(f"job:{job.pk}")
    if found and found.weighed and found.weighed.alone:
        Job.objects.filter(pk=job.pk).update(said_to_add=found.weighed.alone.whole)
        job.refresh_from_db()


@transaction.atomic
def open_proposed(person: Person, unit: Unit, key: str) -> Job:
    """Open the job a proposal stands for, with its recipe, its place, and what it is said to add."""
    require(person, "open a job")
    unit = lock_row(Unit.objects.select_related("model__strip_down", "lot"), unit)
    found = proposals_of(unit).get(key)
    if found is None or found.page or found.job:
        raise Refused("This is not proposed any more: what it answered to was settled, or is worked on already.")
    recipe, weighed = found.recipe, found.weighed
    new = NewJob(
        kind=found.kind.value,
        title=found.proposal.title[:100],
        estimate_minutes=max(1, found.proposal.minutes),
        finding=found.finding,
        assembly=found.proposal.place,
        source=key,
        # What was missing and is fitted can be taken out again.
        reversible=recipe.reversible if recipe else (True if key.startswith("content:") else None),
        **(of_recipe(recipe) if recipe else {}),
    )
    if weighed and weighed.alone:
        adds = weighed.alone.whole if weighed.with_rest is None else weighed.with_rest
        new = dataclasses.replace(new, said_to_add=adds, is_weighed=True)
    return open_job(person, unit, new)


@transaction.atomic
def change_job(person: Person, job: Job, seen_version: int, said: JobDetails) -> None:
    """Change what a job says."""
    require(person, "change a job")
    if not job.is_open:
        raise Refused("This job is done. Open another one.")
    check_approach(person, job.unit, said, job.override_reason)
    _check_temporary(said.temporary, said.temporary_reason, said.made_good_by, said.made_good_due)
    _check_waiting(said.waiting_for, said.waiting_until)
    history.changed(person, "workshop.change_job", UNIT, job.unit_id, f"Job “{job.title}”", job, vars(said))
    save_versioned(job, seen_version, vars(said))
    stages.refresh(job.unit)


@dataclass(frozen=True)
class JobResult:
    """What came of a job. `result` is for colleagues, unless it is chosen to be told to buyers; a `workaround` that
    stays always is. `worked`: it did what it was for; None while that can't be said. `original_goes` with the machine
    at sale, None while that is not decided; `original_gone` says why it was disposed of instead. `fitted_original`:
    what was fitted for something missing is an original one, None while nobody said. `also`: findings settled besides,
    by their keys; `accepted`: what is still seen is taken as patina. `never_begun`: nothing was done or is settled.
    """

    result: str
    worked: bool | None = None
    original_kept: str = ""
    publish_result: bool = False
    workaround: str = ""
    original_goes: bool | None = None
    original_gone: str = ""
    fitted_original: bool | None = None
    also: tuple[int, ...] = ()
    accepted: bool = False
    never_begun: bool = False


@transaction.atomic
def finish_job(person: Person, job: Job, came_of_it: JobResult) -> None:
    """Close a job: its clock stops, what it answered to is settled if it did what it was for; while that can't be said
    it stays open until `say_worked`."""
    require(person, "finish a job")
    job = lock_row(Job.objects.select_related("unit", "finding"), job, job.unit)
    if not job.is_open:
        raise Refused("This job is done already.")
    if left := [step for step in recipe_run.steps_of_job(job) if not step.settled]:
        raise Refused(f"Step {left[0].number} of its recipe is still to do: do it, or leave it out with a reason.")
    for running in job.labour.filter(ended_at=None).select_related("job__unit"):
        _stop(running)
    for reservation in job.reservations.select_related("item"):
        issuing.release(reservation)
    Job.objects.filter(pk=job.pk).update(
        done_at=clock.now(),
        result=came_of_it.result,
        worked=came_of_it.worked,
        publish_result=came_of_it.publish_result,
        original_kept=came_of_it.original_kept,
        original_goes=came_of_it.original_goes,
        original_gone=within(came_of_it.original_gone, 160, "original_gone"),
        workaround=within(came_of_it.workaround, 160, "workaround"),
        waiting_for="",
        waiting_until=None,
        decision="",
        never_begun=came_of_it.never_begun,
    )
    if came_of_it.worked is not False and not job.temporary and not came_of_it.never_begun:
        _settle(person, job, came_of_it)
    kind = "Job never begun" if came_of_it.never_begun else "Temporary fix" if job.temporary else "Job done"
    not_so = "; it did not do what it was for" if came_of_it.worked is False else ""
    history.record(
        person,
        "workshop.finish_job",
        UNIT,
        job.unit_id,
        f"{kind}: {job.title}{'; ' + came_of_it.result if came_of_it.result else ''}{not_so}",
        job=job.pk,
        worked=came_of_it.worked,
    )
    stages.refresh(job.unit)


@transaction.atomic
def end_here(person: Person, job: Job, why: str) -> None:
    """An open job ends as it stands, steps that are left are left out. One that was begun did not do what it was for;
    another one was never begun."""
    begun = job.begun
    recipe_run.take_over_job(person, job)
    while (step := recipe_run.in_hand(recipe_run.steps_of_job(job))) is not None:
        recipe_run.leave_out(person, job, step.index, shortened(why, 160))
        job.refresh_from_db()
    finish_job(person, job, JobResult(shortened(why, 200), False if begun else None, never_begun=not begun))


@transaction.atomic
def cancel_job(person: Person, job: Job, why: str) -> None:
    """A job that was opened by a slip, or is not wanted any more; parts that were held for it are free."""
    require(person, "change a job")
    job = lock_row(Job.objects.select_related("unit"), job, job.unit)
    if not job.is_open:
        raise Refused("It is closed already.")
    if job.begun:
        raise Refused("Work was done on it: finish it, and say that it did not do what it was for.", "why")
    if not why:
        raise Refused("Say why it is not wanted.", "why")
    end_here(person, job, f"cancelled: {within(why, 140, 'why')}")


def _settle(person: Person, job: Job, came_of_it: JobResult) -> None:
    """What is so whatever came of it: what was fitted is there, what was glued is watched, what was measured or chosen
    is settled. The rest goes by whether it worked."""
    care_results.settle(person, job, came_of_it.result, came_of_it.also, came_of_it.accepted, bool(came_of_it.worked))
    if glue.is_glued(job):
        glue.watch(job)
    what, _, number = job.source.partition(":")
    if what == "content":
        if came_of_it.fitted_original is None:
            raise Refused("Say whether what was fitted is an original one.", "fitted_original")
        presence = Presence.PRESENT if came_of_it.fitted_original else Presence.NOT_ORIGINAL
        Content.objects.filter(pk=number, unit=job.unit_id).update(presence=presence)
    if came_of_it.worked:
        _make_good(person, job, came_of_it.result)


def _make_good(person: Person, job: Job, result: str) -> None:
    """The temporary fix a job answered to is one no longer."""
    mended = _answered_to(job)
    if mended is not None and mended.temporary_open:
        resolve_temporary_fix(person, mended, result or job.title)


def _answered_to(job: Job) -> Job | None:
    """The temporary fix that the job was to make good."""
    what, _, number = job.source.partition(":")
    if what != "temporary":
        return None
    return Job.objects.filter(pk=number, unit=job.unit_id).select_related("unit").first()


@transaction.atomic
def say_worked(person: Person, job: Job, worked: bool, why: str = "") -> None:
    """Whether a job did what it was for, where nobody could say that when it was closed, or where it turned out
    otherwise: then `why` is said. What it answered to is settled now, or is open again."""
    require(person, "finish a job")
    job = lock_row(Job.objects.select_related("unit", "finding"), job, job.unit)
    if not job.was_done:
        raise Refused("It is not done: there is nothing to be said of it.")
    if job.worked is worked:
        raise Refused(f"That is said already: it {'did' if worked else 'did not do'} what it was for.")
    if not job.unsaid and not why:
        raise Refused("Say what was seen: it was said otherwise before.", "why")
    within(why, 120, "why")
    Job.objects.filter(pk=job.pk).update(worked=worked)
    if not job.temporary and not job.unit.closed_to_work:
        if worked:
            care_results.settle(person, job, job.result, worked=True)
            _make_good(person, job, job.result)
        else:
            open_again(person, job, why)
    words = f"{job.title}: it {'did' if worked else 'did not do'} what it was for{'; ' + why if why else ''}"
    history.record(person, "workshop.say_worked", UNIT, job.unit_id, words, job=job.pk, worked=worked, why=why)
    stages.refresh(job.unit)


def open_again(person: Person, job: Job, why: str) -> None:
    """What was settled as the job was done is not: its finding, and the temporary fix it was to make good."""
    resolved = Finding.objects.filter(
        pk=job.finding_id or 0, status=Finding.Status.RESOLVED, settled_at__gte=job.done_at
    )
    for finding in resolved.select_related("unit"):
        settle_finding(person, finding, Finding.Status.OPEN)
    mended = _answered_to(job)
    if mended is not None and mended.temporary and mended.made_good_at:
        still_temporary(person, mended, why)


@transaction.atomic
def resolve_temporary_fix(person: Person, job: Job, how: str) -> None:
    """A temporary fix is one no longer."""
    require(person, "make a fix good")
    if not job.temporary_open:
        raise Refused("There is no temporary fix open here.")
    if not how:
        raise Refused("Say what made it good.")
    Job.objects.filter(pk=job.pk).update(made_good_at=clock.now())
    history.record(person, "workshop.resolve_temporary_fix", UNIT, job.unit_id, f"Made good: {job.title}; {how}")
    stages.refresh(job.unit)


@transaction.atomic
def still_temporary(person: Person, job: Job, why: str) -> None:
    """It was not made good: the fix is a temporary one still."""
    require(person, "make a fix good")
    if not job.temporary or job.made_good_at is None:
        raise Refused("Nobody said that it was made good.")
    why = reason(why)
    Job.objects.filter(pk=job.pk).update(made_good_at=None)
    words = f"Temporary still: {job.title}; {why}"
    history.record(person, "workshop.still_temporary", UNIT, job.unit_id, words, job=job.pk, why=why)
    stages.refresh(job.unit)


@transaction.atomic
def log_labour(person: Person, job: Job, minutes: int, on: date | None = None) -> LabourEntry:
    """Typed minutes of today or a day before, at the shop's labour rate of today."""
    require(person, "record labour")
    if not job.is_open:
        raise Refused("This job is done: minutes go on open jobs only.")
    still_here(job.unit)
    if not 1 <= minutes <= LONGEST_ENTRY:
        raise Refused(f"From 1 to {LONGEST_ENTRY} minutes.", "minutes")
    when = moment_on(on, job.unit.lot.bought_on, "bought")
    entry = LabourEntry.objects.create(job=job, person=person, minutes=minutes, started_at=when, ended_at=when)
    _cost(entry, shop_settings.settings().labour_rate)
    return entry


@transaction.atomic
def start_clock(person: Person, job: Job) -> LabourEntry:
    """Start the labour clock. One clock a person: on another job the one that runs is stopped, and booked.

    Raises RanTooLong when that one may have been forgotten.
    """
    require(person, "record labour")
    if not job.is_open:
        raise Refused("This job is done: minutes go on open jobs only.")
    still_here(job.unit)
    running = LabourEntry.objects.filter(running_for=person).select_related("job__unit").first()
    if running and running.job_id == job.pk:
        raise Refused("Your clock is running on this job already.")
    if running:
        _stop(running)
    return LabourEntry.objects.create(job=job, person=person, started_at=clock.now(), running_for=person)


@transaction.atomic
def stop_clock(person: Person) -> LabourEntry:
    running = LabourEntry.objects.filter(running_for=person).first()
    if running is None:
        raise Refused("No clock is running.")
    return _stop(running)


@transaction.atomic
def say_minutes(person: Person, entry: LabourEntry, minutes: int, why: str) -> None:
    """Say how many minutes of an entry were work: a clock that runs is stopped at that, a booked entry is corrected by
    a reversing posting and a new one at the rate it was booked with. One's own, or anybody's as an owner."""
    if entry.person_id == person.pk:
        require(person, "correct labour")
    else:
        require(person, "correct somebody else’s labour")
    entry = lock_row(LabourEntry.objects.select_related("job__unit", "person", "posting"), entry, entry.job.unit)
    if not 0 <= minutes <= LONGEST_ENTRY:
        raise Refused(f"From 0 to {LONGEST_ENTRY} minutes.", "minutes")
    if entry.running_for_id:
        _stop(entry, minutes)
    elif minutes != entry.minutes:
        if not why:
            raise Refused("Say why: it stands beside the correction.", "why")
        _correct_labour(person, entry, minutes, why)


def _correct_labour(person: Person, entry: LabourEntry, minutes: int, why: str) -> None:
    if entry.job.unit.closed_to_work:
        require(person, "correct labour on what left the house")
    rate = entry.rate
    if rate is None:
        # As near as cents say it.
        rate = to_cent(entry.cost * 60 / entry.minutes) if entry.minutes else shop_settings.settings().labour_rate
    if entry.posting:
        reverse_posting(person, entry.posting, within(why, 120, "why"), entry.posting.happened_on)
    LabourEntry.objects.filter(pk=entry.pk).update(minutes=minutes)
    words = f"Labour corrected from {entry.minutes} to {minutes} min: {why}"
    history.record(
        person,
        "workshop.correct_labour",
        UNIT,
        entry.job.unit_id,
        words,
        entry=entry.pk,
        before=entry.minutes,
        after=minutes,
        why=why,
    )
    entry.refresh_from_db()
    _cost(entry, rate)


def _stop(entry: LabourEntry, minutes: int | None = None) -> LabourEntry:
    """`minutes` that were work; without, all that ran, refused when nobody works that long at a stretch."""
    entry = lock_row(LabourEntry.objects.select_related("job__unit", "person"), entry, entry.job.unit)
    if not entry.running_for_id:
        raise Refused("This clock is stopped already.")
    now = clock.now()
    ran = max(1, round((now - entry.started_at).total_seconds() / 60))
    if minutes is None and (doubt := doubt_of(entry)):
        raise RanTooLong(
            f"The clock of {entry.person.name} on {entry.job.title} {doubt}. "
            "Say first how much of that was work: Labour, at the entry that runs.",
            entry,
        )
    worked = ran if minutes is None else minutes
    LabourEntry.objects.filter(pk=entry.pk).update(minutes=worked, ended_at=now, running_for=None)
    entry.refresh_from_db()
    _cost(entry, shop_settings.settings().labour_rate)
    return entry


def doubt_of(entry: LabourEntry) -> str:
    """Why a clock that runs may have been forgotten; empty when nothing speaks for it."""
    started, closes_at = timezone.localtime(entry.started_at), shop_settings.settings().closes_at
    return why_doubted(started, timezone.localtime(clock.now()), closes_at, entry.signed_out_at)


def last_recorded(entry: LabourEntry) -> datetime | None:
    """When the person of a clock that runs last recorded anything since it was started; None for nothing."""
    seen = HistoryEntry.objects.filter(who=entry.person, when__gte=entry.started_at).aggregate(at=Max("when"))
    return seen["at"]


def _cost(entry: LabourEntry, rate: Decimal) -> None:
    cost = labour_cost(entry.minutes, rate)
    unit = entry.job.unit
    legs = [
        Leg(Account.UNIT, unit.pk, EntryKind.LABOUR, cost, unit.lot_id),
        Leg(Account.OWN_LABOUR, entry.person_id, EntryKind.LABOUR, -cost),
    ]
    document = f"{entry.minutes} min on {unit.tag}: {entry.job.title}"
    posting = post(entry.person, document, legs, clock.day_of(entry.started_at))
    LabourEntry.objects.filter(pk=entry.pk).update(cost=cost, rate=rate, posting=posting)


def _check_temporary(temporary: bool, reason: str, made_good_by: str, made_good_due: date | None) -> None:
    if temporary:
        if not reason:
            raise Refused("Say why it is only temporary.", "temporary_reason")
        if not made_good_by:
            raise Refused("Say what will make it good.", "made_good_by")
        if not made_good_due:
            raise Refused("Say by when: a date that passes is a decision.", "made_good_due")
    elif reason or made_good_by or made_good_due:
        raise Refused("What is said of a temporary fix stands below: tick that it is one, or empty that.", "temporary")


def _check_waiting(waiting_for: str, waiting_until: date | None) -> None:
    if waiting_until and not waiting_for:
        raise Refused("Say what it waits for until then.", "waiting_for")
