"""What came of care: what its measurements say of what it was for, and what else on the map it settles."""

from dataclasses import dataclass, fields, replace

from core.catalogue.recipes import JobKind
from core.intake.condition import FindingKind
from core.workshop.care.fall import STOP_AT, severity_of
from stations.people.models import Person
from stations.units.findings import Observation, change_finding, settle_finding
from stations.units.models import Finding
from stations.workshop.care import whitening_of
from stations.workshop.models import Job
from stations.workshop.recipe_run import steps_of_job

# What a kind of work takes off the map where it was done; a marking is never meant to go.
_TAKES_AWAY = {
    JobKind.WHITEN.value: {FindingKind.YELLOWING},
    JobKind.CLEAN.value: {FindingKind.RESIDUE},
    JobKind.REFINISH.value: {FindingKind.YELLOWING, FindingKind.PAINT, FindingKind.RUST, FindingKind.SCRATCH},
}


@dataclass(frozen=True)
class Measured:
    """What was read first and last, in words; `still_seen`: what is left of it can be seen, `severity` 1 to 4."""

    words: str
    still_seen: bool
    severity: int


def measured(job: Job) -> Measured | None:
    """None for work that measures no colour, or did not twice."""
    whitening = whitening_of(job, steps_of_job(job))
    if whitening is None or len(whitening.readings) < 2:
        return None
    first, last = whitening.readings[0], whitening.readings[-1]
    words = f"ΔE00 {first.value:.1f} to {last.value:.1f} in {last.hours:g} h"
    if last.evenness is not None:
        words += f", {last.evenness:.1f} apart"
    return Measured(words, last.value > STOP_AT, severity_of(last.value))


def seen_there(job: Job) -> list[Finding]:
    """Open findings in the region of a job of care that such work takes away, those it was opened for left out: one
    query, none for other jobs."""
    care, kinds = getattr(job, "care", None), _TAKES_AWAY.get(job.kind)
    if care is None or not care.face or not kinds:
        return []
    found = job.unit.findings.filter(
        status=Finding.Status.OPEN,
        kind__in=kinds,
        face=care.face,
        x__range=(float(care.left), float(care.left + care.wide)),
        y__range=(float(care.top), float(care.top + care.high)),
    )
    return list(found.exclude(pk=job.finding_id or 0))


def settle(
    person: Person, job: Job, result: str, also: tuple[int, ...] = (), accepted: bool = False, worked: bool = False
) -> None:
    """The finding a job was for, if it `worked` or was measured, and those chosen besides: resolved, or what is still
    seen of them stays on the map as slight as it reads; `accepted` takes that as patina."""
    came = measured(job)
    findings = [job.finding] if job.finding and job.finding.is_open and (worked or came) else []
    findings += [finding for finding in seen_there(job) if finding.pk in also]
    words = "; ".join(filter(None, (result, came.words if came else "")))[:200]
    for finding in findings:
        if came is None or not came.still_seen or finding.kind != FindingKind.YELLOWING:
            settle_finding(person, finding, Finding.Status.RESOLVED, words, by_job=True)
        elif accepted:
            settle_finding(person, finding, Finding.Status.PATINA, words, by_job=True)
        else:
            _stays(person, finding, came)


def _stays(person: Person, finding: Finding, came: Measured) -> None:
    """It is seen less now; what was said of it before stays."""
    words = "; ".join(filter(None, (finding.words, came.words)))
    seen = Observation(**{field.name: getattr(finding, field.name) for field in fields(Observation)})
    fits = len(words) <= (Finding._meta.get_field("words").max_length or 0)
    change_finding(person, finding, replace(seen, severity=came.severity, words=words if fits else seen.words))
