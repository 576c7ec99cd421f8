"""A job done by its recipe: one step at a time, in the hands of one person at a time."""

from dataclasses import dataclass
from datetime import datetime, timedelta
from decimal import Decimal

from django.db import transaction
from django.utils import timezone

from core.catalogue.recipes import JobKind, Proof, Recipe, Step, step_as_data, step_from_data
from core.intake.condition import FindingKind
from core.machine.quantities import QuantityError, parse_reading, read_number
from core.safety import Hazard
from core.workshop.care import CareError
from core.workshop.care.air import Limits, read_air
from stations.bench import power, timers
from stations.common import clock
from stations.common.locking import lock_row
from stations.common.refusals import Refused, within
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.units import photos, stages
from stations.units.models import Finding, Unit
from stations.workshop import attempts
from stations.workshop.models import Job, JobStep

UNIT = HistoryEntry.Subject.UNIT
# Where hands go only after everything that holds charge was discharged and measured.
_HANDS_IN = {Hazard.CHARGE, Hazard.TUBE}
# What burns, or drifts as a mist that does: nothing of the machine has power meanwhile.
_NO_POWER = {Hazard.SOLVENT, Hazard.SANDING}
# What takes a marking away with the dirt.
_WIPES = {Hazard.SOLVENT, Hazard.PEROXIDE, Hazard.SANDING}
MOST_SPOTS = 12
# What may stand between two figures, and what they are of.
_BETWEEN = str.maketrans(dict.fromkeys(";%°C", " "))


@dataclass(frozen=True)
class StepOfJob:
    """A step as it stands: what is asked, and what was recorded of it (None: not begun)."""

    index: int
    step: Step
    row: JobStep | None = None

    @property
    def number(self) -> int:
        return self.index + 1

    @property
    def settled(self) -> bool:
        return self.row is not None and (self.row.done_at is not None or bool(self.row.left_out))

    @property
    def runs(self) -> bool:
        """It runs by itself just now."""
        return not self.settled and self.ends_at is not None and self.ends_at > clock.now()

    @property
    def ends_at(self):
        return self.row.alone_until if self.row else None

    @property
    def ran_out(self) -> bool:
        """Its time by itself is over, and it wants somebody."""
        return not self.settled and self.ends_at is not None and self.ends_at <= clock.now()

    @property
    def begun(self) -> bool:
        """Its time by itself was started."""
        return self.row is not None and self.row.alone_from is not None

    @property
    def to_start(self) -> bool:
        """It has time to run by itself that was not started."""
        return bool(self.step.alone_minutes) and not self.settled and self.ends_at is None

    @property
    def said(self) -> str:
        """What the main button says."""
        return {Proof.YES: "Done", Proof.PHOTO: "Keep the photo"}.get(self.step.proof, "Keep it, done")

    @property
    def outside(self) -> bool:
        """What was read lies outside its limits."""
        return self.row is not None and self.row.value is not None and not self.step.within(self.row.value)


def as_kept(recipe: Recipe) -> list[dict]:
    """The steps as a job keeps them: what is changed in the recipe later changes no job that is going on."""
    return [step_as_data(step) for step in recipe.steps]


def steps_of_job(job: Job) -> list[StepOfJob]:
    """One query, none where the rows were read before."""
    read = "step_rows" in getattr(job, "_prefetched_objects_cache", {})
    rows = {
        row.index: row for row in (job.step_rows.all() if read else job.step_rows.select_related("photo", "done_by"))
    }
    return [StepOfJob(index, step_from_data(data), rows.get(index)) for index, data in enumerate(job.steps)]


def in_hand(steps: list[StepOfJob]) -> StepOfJob | None:
    """The first that is neither done nor left out."""
    return next((step for step in steps if not step.settled), None)


def shut(job: Job, step: StepOfJob) -> str:
    """Why this step may not be done yet: what holds charge, what has power near a solvent or spray, or a marking nobody
    photographed; empty when it may."""
    if _NO_POWER & set(step.step.hazards) and (running := with_power(job)):
        return f"Power off first, no spark near solvent or spray: {running}."
    if _HANDS_IN & set(step.step.hazards):
        return power.charged_words(job.unit)
    if _WIPES & set(step.step.hazards) and (markings := unphotographed(job.unit)):
        return f"Take a picture first of what this could wipe away: {'; '.join(markings)}."
    return ""


def with_power(job: Job) -> str:
    """What runs on the unit of a job with power just now, besides the job itself; empty where nothing does.

    Two queries.
    """
    now = clock.now()
    steps = JobStep.objects.filter(powered=True, alone_until__gt=now, done_at=None, left_out="", job__unit=job.unit)
    if other := steps.exclude(job=job).select_related("job").first():
        return f"{other.job.title} runs until {timezone.localtime(other.alone_until):%d %b %H:%M}"
    timer = timers.running().filter(run__unit=job.unit, ends_at__gt=now).first()
    return f"{timer.title} runs until {timezone.localtime(timer.ends_at):%d %b %H:%M}" if timer else ""


def unphotographed(unit: Unit) -> list[str]:
    """Markings on a unit that nobody photographed: one query."""
    rows = unit.findings.filter(kind=FindingKind.STICKER, status=Finding.Status.OPEN, photo=None)
    return [str(finding) for finding in rows[:MOST_SPOTS]]


@transaction.atomic
def do_step(
    person: Person, job: Job, index: int, typed: str = "", note: str = "", file: object = None, air: str = ""
) -> None:
    """The step in hand is done, with what closes it. A reading outside its limits takes a note of what is done then."""
    job, step, row = _held(person, job, index)
    if said := shut(job, step):
        raise Refused(said)
    if step.runs:
        raise Refused(
            f"It runs by itself until {timezone.localtime(step.ends_at):%d %b %H:%M}. Do something else meanwhile."
        )
    if step.to_start:
        raise Refused("Start its time first, or leave the step out with a reason.")
    # What was said when its time was started stays.
    row.note = within(note, 200, "note") or (row.note if step.begun else "")
    if not step.begun:
        _in_time(job, step, row.note)
        _in_air(step, row, air)
    if step.step.proof is Proof.COLOUR:
        figures = [_value(step.step, one) for one in typed.replace(";", " ").split() or [""]]
        if any(figure < 0 for figure in figures) or len(figures) > MOST_SPOTS:
            raise Refused(f"A colour difference is a figure from 0; {MOST_SPOTS} spots at most.", "typed")
        row.figures, row.value = [str(one) for one in figures], _mean(figures)
    elif step.step.proof.is_typed:
        row.value = _value(step.step, typed)
        if differing := attempts.differing(job, index):
            _as_compared(row.value, differing)
    if row.value is not None and step.step.proof.is_typed and not step.step.within(row.value) and not note:
        raise Refused(f"{typed} is outside {step.step.limits}. Say what you do about it.", "note")
    if step.step.proof is Proof.PHOTO or (step.step.proof is Proof.COLOUR and file):
        row.photo = _photo(person, job, file)
    row.done_at, row.done_by, row.left_out = clock.now(), person, ""
    row.powered = step.step.powered
    row.save()
    if job.kind == JobKind.SOFTWARE:
        attempts.worked(person, job, index, step.step.instruction)
    stages.refresh(job.unit)


def window_of(steps: list[StepOfJob], index: int) -> datetime | None:
    """Until when a step has to be begun; None where it may be at any time, or the step before it never was."""
    within_minutes = steps[index].step.within_minutes
    before = steps[index - 1].row if index else None
    begun = (before.alone_from or before.done_at) if before and not before.left_out else None
    return begun + timedelta(minutes=within_minutes) if within_minutes and begun else None


def _in_time(job: Job, step: StepOfJob, note: str) -> None:
    """Refused where its window has closed and nobody says what was done about it."""
    closed = window_of(steps_of_job(job), step.index)
    if closed is None or clock.now() <= closed or note:
        return
    late = step.step.late or "say what you did"
    at = f"{timezone.localtime(closed):%d %b %H:%M}"
    raise Refused(f"Its window closed on {at}: {late}. Say in the note that it was done.", "note")


def _in_air(step: StepOfJob, row: JobStep, typed: str) -> None:
    """Keeps the air it is begun in, where the step asks for it; what is too cold, warm or moist takes a note."""
    if not step.step.most_humid:
        return
    low, high = step.step.low, step.step.high
    limits = Limits(float(low or 0), float(high if high is not None else 50), step.step.most_humid)
    try:
        figures = (one.strip(",") for one in typed.translate(_BETWEEN).split())
        air = read_air([float(read_number(one)) for one in figures if one])
    except (CareError, QuantityError) as problem:
        raise Refused(f"{problem} It wants {limits}.", "air") from problem
    if (why := limits.against(air)) and not row.note:
        raise Refused(f"{why} Or say in the note what you did about it.", "air")
    row.figures = [f"{air.celsius:g}", f"{air.humidity:g}"]


def _as_compared(value: Decimal, differing: list[str]) -> None:
    """Refused where fewer are said to differ than did when they were compared."""
    if value < len(differing):
        raise Refused(f"Not equal when compared: {'; '.join(differing)}. Write and compare again.", "typed")


@transaction.atomic
def start_alone(person: Person, job: Job, index: int, note: str = "", air: str = "") -> None:
    """What runs by itself is started; several may run on several machines. One whose window has closed takes a note of
    what was done about it."""
    job, step, row = _held(person, job, index)
    if said := shut(job, step):
        raise Refused(said)
    if not step.to_start:
        raise Refused("Its time was started already." if step.ends_at else "This step does not run by itself.")
    _in_time(job, step, note)
    row.note = within(note, 200, "note")
    _in_air(step, row, air)
    row.alone_from = clock.now()
    row.alone_until = row.alone_from + timedelta(minutes=step.step.alone_minutes)
    row.powered = step.step.powered
    row.save()


@transaction.atomic
def leave_out(person: Person, job: Job, index: int, why: str) -> None:
    """The step in hand is not done, and why: it stays in the record of the job."""
    job, step, row = _held(person, job, index)
    if not why:
        raise Refused("Say why it is left out.", "why")
    row.left_out, row.done_at, row.done_by = within(why, 160, "why"), None, person
    row.save()
    Job.objects.filter(pk=job.pk).update(varied="")
    words = f"Left out of {job.title}: {step.step.instruction[:80]}; {why}"
    history.record(person, "workshop.leave_out", UNIT, job.unit_id, words, job=job.pk, step=index)
    stages.refresh(job.unit)


@transaction.atomic
def step_back(person: Person, job: Job) -> None:
    """The last step that was settled is to do again; what was read and photographed stays until it is done anew."""
    job = _of(person, job)
    last = next((step for step in reversed(steps_of_job(job)) if step.settled), None)
    if last is None or last.row is None:
        raise Refused("No step is done yet.")
    JobStep.objects.filter(pk=last.row.pk).update(done_at=None, done_by=None, left_out="")
    attempts.taken_back(job, last.index)
    stages.refresh(job.unit)


@transaction.atomic
def take_over_job(person: Person, job: Job) -> None:
    """Go on with a job that somebody else has in hand."""
    require(person, "take over a job")
    job = lock_row(Job.objects.select_related("unit", "holder"), job, job.unit)
    if not job.is_open:
        raise Refused("This job is done already.")
    if job.holder_id == person.pk:
        return
    Job.objects.filter(pk=job.pk).update(holder=person)
    words = f"Took over {job.title} from {job.holder.name if job.holder else 'nobody'}"
    history.record(person, "workshop.take_over_job", UNIT, job.unit_id, words, job=job.pk)


def _of(person: Person, job: Job) -> Job:
    """The job, locked with its unit, in the hands of this person: from now on, if in nobody's."""
    require(person, "work through a recipe")
    job = lock_row(Job.objects.select_related("unit__model", "holder"), job, job.unit)
    if not job.is_open:
        raise Refused("This job is done already.")
    if job.holder_id not in {None, person.pk}:
        raise Refused(f"{job.holder.name} has this job in hand. Take it over first.")  # type: ignore[union-attr]
    if job.holder_id is None:
        Job.objects.filter(pk=job.pk).update(holder=person)
    return job


def _held(person: Person, job: Job, index: int) -> tuple[Job, StepOfJob, JobStep]:
    job = _of(person, job)
    steps = steps_of_job(job)
    now = in_hand(steps)
    if now is None:
        raise Refused("Every step is done already. Finish the job.")
    if index != now.index:
        before = steps[index] if 0 <= index < len(steps) else None
        if before is None or not before.settled:
            raise Refused(f"Step {now.number} comes first.")
        by = f" by {before.row.done_by.name}" if before.row and before.row.done_by else ""
        raise Refused(f"Step {before.number} was settled already{by}. Now it is step {now.number}.")
    return job, now, now.row or JobStep(job=job, index=index)


def _mean(figures: list[Decimal]) -> Decimal:
    return round(sum(figures, Decimal(0)) / len(figures), 3)


def _value(step: Step, typed: str) -> Decimal:
    if not typed.strip():
        raise Refused(f"Type it: {step.asks}.", "typed")
    try:
        plain = step.proof is not Proof.READING or step.unit in {"", "°C"}
        value = read_number(typed) if plain else parse_reading(typed, step.unit)
    except QuantityError as problem:
        raise Refused(str(problem) or "Type a figure.", "typed") from problem
    if step.proof is Proof.COUNT and (value != int(value) or value < 0):
        raise Refused("A count is a whole number from 0.", "typed")
    if abs(value) >= 10**8:
        raise Refused("That is too much to be read off anything.", "typed")
    return round(value, 3)


def _photo(person: Person, job: Job, file: object):
    if not file:
        raise Refused("This step is closed by a photo.", "photo")
    require(person, "add photos")
    try:
        return photos.keep_photo(job.unit, file)[0]
    except photos.picture_files.BadPicture as problem:
        raise Refused(f"The picture was not taken: {problem}.", "photo") from problem
