"""Drives that were sanitised, with their certificate as PDF; tables of bad tracks typed in and compared."""

from collections.abc import Sequence
from dataclasses import asdict, dataclass
from typing import Any

from django.db import transaction
from django.db.models import Q
from django.template.loader import render_to_string

from core.workshop.storage import StorageError
from core.workshop.storage.sanitise import STANDARD, Medium, Method, technique, verified
from core.workshop.storage.tracks import Compared, compare, read_tracks
from stations.common import clock
from stations.common.refusals import Refused, within
from stations.intake.settling import record_sanitisation
from stations.people import history, shop_settings
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.units.models import Part, Unit
from stations.units.parts import sanitise_part
from stations.workshop.models import Sanitising, TrackTable


@dataclass(frozen=True)
class Wiped:
    """A medium that was sanitised, and how: of `samples` places read back, `differing` were not as written. `imaged`:
    what was to be kept of it is."""

    what: str
    medium: str
    method: str
    serial: str = ""
    samples: int | None = None
    differing: int | None = None
    imaged: bool = False


@dataclass(frozen=True)
class BadTracks:
    """Of which drive, of what shape, and the tables as they are typed: on its `label`, and found by a `scan`."""

    what: str
    label: str = ""
    scan: str = ""
    cylinders: int | None = None
    heads: int | None = None


@transaction.atomic
def sanitise(person: Person, unit: Unit, wiped: Wiped) -> Sanitising:
    """What is in a unit was sanitised: verified, kept for its certificate, and the unit’s data are cleared."""
    kept = _verified(wiped)
    record_sanitisation(person, unit, kept["method"], kept["verified"], wiped.imaged)
    return Sanitising.objects.create(unit=unit, when=clock.now(), who=person, **kept)


@transaction.atomic
def sanitise_alone(person: Person, part: Part, wiped: Wiped) -> Sanitising:
    """A part that is in no machine was sanitised by itself."""
    kept = _verified(wiped)
    sanitise_part(person, part, f"{kept['method']}: {kept['verified']}")
    return Sanitising.objects.create(part=part, when=clock.now(), who=person, **kept)


def _verified(wiped: Wiped) -> dict[str, Any]:
    """What a certificate says of the medium. Refused at the field where it can’t be done so, or was not verified."""
    try:
        medium, method = Medium(wiped.medium), Method(wiped.method)
        how = technique(medium, method)
        proof = verified(method, wiped.samples, wiped.differing)
    except StorageError as problem:
        raise Refused(str(problem), problem.at) from problem
    destroyed = method is Method.DESTROY
    return {
        "medium": medium.value,
        "what": within(wiped.what, 80, "what"),
        "serial": within(wiped.serial, 40, "serial"),
        "method": method.value,
        "technique": how,
        "samples": None if destroyed else wiped.samples,
        "differing": None if destroyed else wiped.differing,
        "verified": proof,
    }


def withdrawn(rows: Sequence[Sanitising]) -> dict[int, HistoryEntry]:
    """Of those that were found not to hold since, what says so, by their keys: one query."""
    subject = HistoryEntry.Subject
    of_unit = Q(subject=subject.UNIT, action="intake.data_still_there", subject_id__in=[row.unit_id for row in rows])
    of_part = Q(subject=subject.PART, action="units.not_sanitised", subject_id__in=[row.part_id for row in rows])
    said = list(HistoryEntry.objects.filter(of_unit | of_part).prefetch_related("who").order_by("when"))
    found = {}
    for row in rows:
        of = (subject.UNIT, row.unit_id) if row.unit_id else (subject.PART, row.part_id)
        since = (one for one in said if (one.subject, one.subject_id) == of and one.when >= row.when)
        if (one := next(since, None)) is not None:
            found[row.pk] = one
    return found


def certificate(row: Sanitising) -> bytes:
    """As PDF, one page A4."""
    from weasyprint import HTML

    context = {
        "row": row,
        "shop": shop_settings.settings(),
        "standard": STANDARD,
        "withdrawn": withdrawn([row]).get(row.pk),
    }
    return HTML(string=render_to_string("workshop/certificate.html", context)).write_pdf()


@transaction.atomic
def keep_tracks(person: Person, unit: Unit, tracks: BadTracks) -> TrackTable:
    """The bad tracks of a drive as its label has them and as a scan found them."""
    require(person, "record parts")
    for field, typed in (("label", tracks.label), ("scan", tracks.scan)):
        try:
            read_tracks(typed, tracks.cylinders, tracks.heads)
        except StorageError as problem:
            raise Refused(str(problem), field) from problem
    if not tracks.label and not tracks.scan:
        raise Refused("Type the table of its label, or what a scan found.", "label")
    row = TrackTable.objects.create(unit=unit, when=clock.now(), who=person, **asdict(tracks))
    words = f"Bad tracks of {row.what}: {compared(row).words}"
    history.record(person, "workshop.keep_tracks", HistoryEntry.Subject.UNIT, unit.pk, words[:200])
    return row


def compared(row: TrackTable) -> Compared:
    return compare(read_tracks(row.label), read_tracks(row.scan))
