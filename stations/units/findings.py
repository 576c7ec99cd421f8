"""What is wrong with a unit: put on its condition map, put right, settled."""

from dataclasses import dataclass

from django.db import transaction

from core.intake.condition import HAZARDOUS
from core.machine.casing import FormFactor, faces_of
from stations.common import clock
from stations.common.refusals import Refused, within
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.units import busy, dealt_with, stages
from stations.units.models import Finding, Unit

UNIT = HistoryEntry.Subject.UNIT


@dataclass(frozen=True)
class Observation:
    """What is wrong and where: x and y from 0 to 1 across and down a face, severity from 1 to 4.

    How far it goes is said in percent of the face, or in mm.
    """

    face: str
    kind: str
    x: float
    y: float
    severity: int = 2
    extent_percent: int = 5
    extent_mm: int | None = None
    words: str = ""


@transaction.atomic
def add_finding(person: Person, unit: Unit, seen: Observation) -> Finding:
    """Put a finding on the condition map. An open leak holds the unit until it is resolved."""
    require(person, "record findings")
    if seen.face not in set(faces_of(FormFactor(unit.form_factor))):
        raise Refused(f"It has no {seen.face or 'such face'}: it is a {unit.get_form_factor_display()}.", "face")
    finding = Finding.objects.create(unit=unit, seen_at=clock.now(), seen_by=person, **vars(seen))
    history.record(person, "units.add_finding", UNIT, unit.pk, f"Found: {finding}", finding=finding.pk)
    stages.refresh(unit)
    return finding


@transaction.atomic
def change_finding(person: Person, finding: Finding, seen: Observation) -> None:
    """Put a finding right."""
    require(person, "record findings")
    if seen.face not in set(faces_of(FormFactor(finding.unit.form_factor))):
        raise Refused(f"A {finding.unit.get_form_factor_display()} has no {seen.face}.", "face")
    if not history.says_otherwise(finding, vars(seen)):
        return
    Finding.objects.filter(pk=finding.pk).update(**vars(seen))
    finding.refresh_from_db()
    history.record(person, "units.change_finding", UNIT, finding.unit_id, f"Finding put right: {finding}")
    stages.refresh(finding.unit)


@transaction.atomic
def move_finding(person: Person, finding: Finding, face: str, x: float, y: float) -> None:
    require(person, "move findings")
    has = faces_of(FormFactor(finding.unit.form_factor))
    if face not in set(has) or not (0 <= x <= 1 and 0 <= y <= 1):
        raise Refused("That place is off the face.")
    Finding.objects.filter(pk=finding.pk).update(face=face, x=x, y=y)
    words = f"{finding} moved to {face}, {100 * x:.0f} % across, {100 * y:.0f} % down"
    history.record(person, "units.move_finding", UNIT, finding.unit_id, words)


@transaction.atomic
def settle_finding(person: Person, finding: Finding, status: str, words: str = "", by_job: bool = False) -> None:
    """Resolve a finding, accept it as patina, or open it again; it stays on the map as what was.

    A leak or a swollen cell is settled by what was done: said in words, and shown by a job or a picture since.
    `by_job`: the job that was for it is finished just now; what else goes on does not stand in its way.
    """
    require(person, "settle findings")
    if status not in Finding.Status.values:
        raise Refused("Resolved, patina or open: say which.")
    status = Finding.Status(status)
    if status == Finding.Status.PATINA and finding.kind in HAZARDOUS:
        raise Refused(f"A {finding.get_kind_display()} is never patina: deal with it, then settle it.")
    if status == Finding.Status.RESOLVED and finding.kind in HAZARDOUS:
        _dealt_with(finding, words, by_job)
    settled = status != Finding.Status.OPEN
    Finding.objects.filter(pk=finding.pk).update(
        status=status,
        settled_words=within(words, 200) if settled else "",
        settled_by=person if settled else None,
        settled_at=clock.now() if settled else None,
    )
    history.record(
        person,
        "units.settle_finding",
        UNIT,
        finding.unit_id,
        f"{finding.get_kind_display().capitalize()} on the {finding.face}: {status.label}"
        f"{'; ' + words if words and settled else ''}",
        finding=finding.pk,
        status=status.value,
    )
    stages.refresh(finding.unit)


def _dealt_with(finding: Finding, words: str, by_job: bool) -> None:
    if not words:
        raise Refused("Say what was done about it.", "words")
    if by_job:
        return
    busy.refuse(finding.unit, "It is not settled while work goes on")
    if not dealt_with.since(finding.unit, finding.seen_at):
        raise Refused(
            "Nothing on record shows that it was dealt with: finish a job on it, or add a picture of it clean.", "words"
        )
