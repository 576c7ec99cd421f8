"""The treatment report of a unit as PDF: how it came, what was done and with what, what was not and why, advice."""

from collections import defaultdict

from django.db import transaction
from django.db.models import Q
from django.template.loader import render_to_string

from stations.common import clock
from stations.common.locking import lock_row
from stations.people import history, shop_settings
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.people.screens import save_versioned
from stations.units import selectors
from stations.units.models import PartMove, Unit
from stations.units.picture_files import path_of
from stations.workshop.models import LabourEntry, OpenedAssembly, TreatmentNote
from stations.workshop.selectors import jobs_of

MOST_PHOTOS = 12


@transaction.atomic
def keep_note(person: Person, unit: Unit, seen_version: int, not_done: str, advice: str) -> None:
    """What the report says besides the record; `seen_version` 0 when there was nothing yet."""
    require(person, "write a treatment report")
    unit = lock_row(Unit.objects.all(), unit)
    changes = {"not_done": not_done, "advice": advice}
    note = TreatmentNote.objects.filter(unit=unit).first()
    if not history.says_otherwise(note or TreatmentNote(), changes):
        return
    if note is None:
        TreatmentNote.objects.create(unit=unit, **changes)
    else:
        save_versioned(note, seen_version, changes)
    history.record(person, "workshop.keep_note", HistoryEntry.Subject.UNIT, unit.pk, "Wrote at the treatment report")


def context_of(unit: Unit) -> dict:
    """What the report says: a fixed number of queries."""
    jobs = list(jobs_of(unit))
    opened = OpenedAssembly.objects.filter(opening__unit=unit, off_at__isnull=False).select_related("off_by", "on_by")
    photos = list(unit.photos.order_by("added_at", "id"))
    hands: dict[int, list[str]] = defaultdict(list)
    for entry in LabourEntry.objects.filter(job__unit=unit).select_related("person").order_by("id"):
        if entry.person.name not in hands[entry.job_id]:
            hands[entry.job_id].append(entry.person.name)
    return {
        "unit": unit,
        "shop": shop_settings.settings(),
        "today": clock.today(),
        "findings": list(unit.findings.select_related("seen_by", "settled_by").order_by("id")),
        "as_found": list(unit.as_found.all()),
        "contents": selectors.completeness_of(unit.contents.all()),
        "hands": {job: ", ".join(names) for job, names in hands.items()},
        "done": [job for job in jobs if job.was_done],
        "not_done": [job for job in jobs if not job.was_done],
        "opened": list(opened.order_by("off_at")),
        "moved": list(moves_of(unit)),
        "note": TreatmentNote.objects.filter(unit=unit).first(),
        "photos": [(photo, path_of(photo.sha256, small=True).resolve().as_uri()) for photo in photos[:MOST_PHOTOS]],
        "more_photos": max(0, len(photos) - MOST_PHOTOS),
    }


def moves_of(unit: Unit):
    """Single parts that went into a unit and out of it, those found in it left out: one query."""
    moves = PartMove.objects.filter(Q(from_unit=unit) | Q(to_unit=unit)).exclude(kind=PartMove.Kind.FOUND)
    return moves.select_related("part", "who").order_by("when", "id")


def pdf(unit: Unit) -> bytes:
    from weasyprint import HTML  # slow to load, and only wanted here

    return HTML(string=render_to_string("workshop/treatment.html", context_of(unit))).write_pdf()
