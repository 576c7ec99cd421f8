"""Care under way: what a whitening reads so far and whether to go on, which coat may go on a repaint now."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from django.db import transaction

from core.catalogue.recipes import JobKind, Proof
from core.intake.colour import delta_e, lab_of
from core.workshop.care import CareError
from core.workshop.care.fall import STOP_AT, Advice, Reading, advise
from core.workshop.care.plans import LAYS
from stations.common import clock
from stations.common.refusals import Refused
from stations.people.models import Person
from stations.units import colours
from stations.units.aligned import Aligned, aligned
from stations.units.models import ColourSample
from stations.workshop import recipe_run
from stations.workshop.models import Job
from stations.workshop.recipe_run import StepOfJob


@dataclass(frozen=True)
class Round:
    """A round of a whitening as the page draws it: hours before it began and its own, whether it was done or runs."""

    number: int
    start: float
    hours: float
    done: bool
    ends_at: datetime | None

    @property
    def end(self) -> float:
        return self.start + self.hours


@dataclass(frozen=True)
class Whitening:
    """What a whitening reads so far. `current` runs by itself now."""

    rounds: tuple[Round, ...]
    readings: tuple[Reading, ...]
    advice: Advice
    current: Round | None

    @property
    def still_seen(self) -> bool:
        """What is left of it can be seen."""
        return self.last is not None and self.last.value > STOP_AT

    @property
    def left(self) -> int:
        """Rounds that are planned and not done."""
        return sum(not one.done for one in self.rounds)

    @property
    def last(self) -> Reading | None:
        return self.readings[-1] if self.readings else None


def whitening_of(job: Job, steps: Sequence[StepOfJob]) -> Whitening | None:
    """Rounds and readings of a job; None for one that measures no colour round by round."""
    if job.kind != JobKind.WHITEN or not any(one.step.proof is Proof.COLOUR for one in steps):
        return None
    hours, planned, number = 0.0, 0.0, 0
    rounds: list[Round] = []
    readings: list[Reading] = []
    for one in steps:
        if _is_round(one):
            own = one.step.alone_minutes / 60
            done = one.settled and not (one.row and one.row.left_out)
            if one.row and one.row.left_out:
                continue
            number += 1
            rounds.append(Round(number, planned, own, done, one.ends_at if one.runs else None))
            planned += own
            hours += own if done else 0.0
        elif one.step.proof is Proof.COLOUR and one.row and one.row.done_at and one.row.value is not None:
            figures = tuple(float(figure) for figure in one.row.figures) or (float(one.row.value),)
            if not readings or readings[-1].hours < hours:
                readings.append(Reading(hours, figures))
            else:
                readings[-1] = Reading(hours, figures)
    if not rounds:
        return None
    length = rounds[0].hours
    current = next((one for one in rounds if one.ends_at), None)
    try:
        said = advise(readings, length)
    except CareError as problem:
        said = Advice(False, str(problem))
    return Whitening(tuple(rounds), tuple(readings), said, current)


@dataclass(frozen=True)
class BeforeAfter:
    """The first and the last photo of a job, laid on one another, with what was read then where that is known."""

    pictures: Aligned
    readings: tuple[Reading, Reading] | None


def before_after(steps: Sequence[StepOfJob], whitening: Whitening | None) -> BeforeAfter | None:
    """None until two photos were taken."""
    photos = [one.row.photo for one in steps if one.row and one.row.done_at and one.row.photo]
    if len(photos) < 2 or photos[0] == photos[-1]:
        return None
    readings = whitening.readings if whitening else ()
    pair = (readings[0], readings[-1]) if len(readings) > 1 else None
    return BeforeAfter(aligned(photos[0], photos[-1]), pair)


@dataclass(frozen=True)
class OnPhoto:
    """What was measured on a photo of the unit since the last reading: ΔE00 of each spot to the sheltered patch."""

    sample: ColourSample
    spots: tuple[float, ...]

    @property
    def typed(self) -> str:
        return " ".join(f"{spot:.1f}" for spot in self.spots)


def on_photo(job: Job, steps: Sequence[StepOfJob]) -> OnPhoto | None:
    """The newest measurement that is not older than what was last done: one query."""
    since = max([one.row.done_at for one in steps if one.row and one.row.done_at] or [job.opened_at])
    sample = job.unit.colours.filter(when__gte=since).select_related("photo").order_by("-id").first()
    if sample is None:
        return None
    grey = colours.rgb(sample.neutral) if sample.neutral is not None else None
    base = lab_of(colours.rgb(sample.sheltered), grey)
    spots = tuple(delta_e(base, lab_of(colours.rgb(spot), grey)) for spot in sample.exposed)
    return OnPhoto(sample, spots[: recipe_run.MOST_SPOTS])


def _is_round(one: StepOfJob) -> bool:
    return bool(one.step.alone_minutes) and not one.step.undone and one.step.proof is Proof.YES


@dataclass(frozen=True)
class CoatOnIt:
    """A coat of a repaint, in hours since the first was laid: from when it may go on and until when (None: any time
    after), and when it was laid (None: not yet). What is not laid is reckoned from the earliest it can be. `late`: its
    window has closed."""

    name: str
    opens: float
    closes: float | None
    laid: float | None
    is_next: bool = False
    late: bool = False


@dataclass(frozen=True)
class Painting:
    """The coats of a repaint, the lowest first; `now` in the same hours, None while none is laid."""

    coats: tuple[CoatOnIt, ...]
    now: float | None


def painting_of(job: Job, steps: Sequence[StepOfJob]) -> Painting | None:
    """Coats and their windows; None for a job that lays none."""
    laying = [one for one in steps if one.step.instruction.startswith(LAYS) and not (one.row and one.row.left_out)]
    if job.kind != JobKind.REFINISH or not laying:
        return None
    start = laying[0].row.alone_from if laying[0].row else None
    now = (clock.now() - start).total_seconds() / 3600 if start else None
    coats: list[CoatOnIt] = []
    opens, closes = 0.0, None
    for one in laying:
        begun = one.row.alone_from if one.row else None
        laid = (begun - start).total_seconds() / 3600 if begun and start else None
        name = one.step.instruction.removeprefix(LAYS).partition(":")[0]
        following = laid is None and all(coat.laid is not None for coat in coats)
        late = following and closes is not None and now is not None and now > closes
        coats.append(CoatOnIt(name, opens, closes, laid, following, late))
        place = steps.index(one)
        after = steps[place + 1].step.within_minutes if place + 1 < len(steps) else 0
        at = max(opens, now or 0.0) if laid is None else laid
        opens, closes = at + one.step.alone_minutes / 60, at + after / 60 if after else None
    return Painting(tuple(coats), now)


@transaction.atomic
def stop_whitening(person: Person, job: Job, why: str) -> int:
    """The rounds that are left are not done, and why; answers how many steps that were."""
    left = 0
    while now := recipe_run.in_hand(recipe_run.steps_of_job(job)):
        if not _is_round(now) and now.step.proof is not Proof.COLOUR:
            break
        if now.runs:
            raise Refused("A round runs by itself. Wait for its end, or leave it out with a reason.")
        recipe_run.leave_out(person, job, now.index, why)
        left += 1
    if not left:
        raise Refused("No round is in hand that could be left out.")
    return left
