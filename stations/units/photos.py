"""Photos of a unit: taken in many at a time, each for what it shows, the same one twice noticed."""

from collections.abc import Iterable
from math import inf
from pathlib import PurePath

from django.db import transaction

from core.intake.shots import Shot, shots_wanted
from core.machine.casing import FormFactor
from stations.common import clock
from stations.common.refusals import Refused
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.units import picture_files, stages
from stations.units.models import Finding, Photo, Unit

UNIT = HistoryEntry.Subject.UNIT
# Fingerprints that differ in so few of 64 bits are of the same picture, saved again (measured on re-saved copies).
SAME = 4


@transaction.atomic
def add_photos(person: Person, unit: Unit, files: Iterable, shot: str = "") -> tuple[int, list[str]]:
    """Keep every good picture; say of each other one, by its name, why not. Answers (kept, complaints).

    A picture that only looks like one that is here is kept, and said.
    """
    require(person, "add photos")
    if shot and shot not in set(Shot):
        raise Refused("Say what the picture shows, or leave it open.")
    kept, complaints = 0, []
    here = list(unit.photos.values_list("looks", "original_name"))
    for file in files:
        name = _name(file)
        try:
            photo, new = keep_photo(unit, file, shot)
        except picture_files.BadPicture as problem:
            complaints.append(f"{name} was not taken: {problem}")
            continue
        if not new:
            complaints.append(f"{name} was not taken: the same picture is here already")
            continue
        kept += 1
        twin = next((n for looks, n in here if _differ(looks, photo.looks) <= SAME), "")
        if twin:
            complaints.append(f"{name} was kept, but looks like {twin}")
        here.append((photo.looks, name))
    if kept:
        history.record(person, "units.add_photos", UNIT, unit.pk, f"Added {kept} {'photo' if kept == 1 else 'photos'}")
        stages.refresh(unit)
    return kept, complaints


def keep_photo(unit: Unit, file, shot: str = "") -> tuple[Photo, bool]:
    """Keep one picture, and say whether it is new to the unit. Raises BadPicture."""
    if file.size > picture_files.MOST_BYTES:
        raise picture_files.BadPicture("larger than 25 MB")
    stored, name = picture_files.store(file.read()), _name(file)
    what = {"original_name": name, "width": stored.width, "height": stored.height, "looks": stored.looks}
    what |= {"shot": shot or shot_by_name(name), "added_at": clock.now()}
    return Photo.objects.get_or_create(unit=unit, sha256=stored.sha256, defaults=what)


def _name(file) -> str:
    return PurePath(file.name or "picture").name[:120]


def _differ(one: int | None, two: int | None) -> float:
    """In how many of 64 places the fingerprints of two pictures differ; infinite where one has none."""
    if one is None or two is None:
        return inf
    return ((one ^ two) & 0xFFFF_FFFF_FFFF_FFFF).bit_count()


def shot_by_name(name: str) -> str:
    """What a picture shows when its name begins with it: front.jpg, back-2.jpg."""
    return next((shot.value for shot in Shot if name.lower().startswith(shot.value)), "")


@transaction.atomic
def say_what_it_shows(person: Person, photo: Photo, shot: str) -> None:
    require(person, "sort photos")
    if shot and shot not in set(Shot):
        raise Refused("Say what the picture shows.")
    Photo.objects.filter(pk=photo.pk).update(shot=shot)
    words = f"Photo {photo.original_name}: {Shot(shot).label if shot else 'not said what it shows'}"
    history.record(person, "units.say_what_it_shows", UNIT, photo.unit_id, words)
    stages.refresh(photo.unit)


@transaction.atomic
def show_finding(person: Person, finding: Finding, photo: Photo | None) -> None:
    """Say which picture of the unit shows a finding."""
    require(person, "record findings")
    if photo is not None and photo.unit_id != finding.unit_id:
        raise Refused("That picture is of another unit.")
    Finding.objects.filter(pk=finding.pk).update(photo=photo)
    words = f"{finding}: {f'seen on photo {photo.original_name}' if photo else 'on no photo'}"
    history.record(person, "units.show_finding", UNIT, finding.unit_id, words)
    if photo is not None and not photo.shot:
        Photo.objects.filter(pk=photo.pk).update(shot=Shot.DEFECT)


def shots_of(unit: Unit) -> list[tuple[Shot, bool]]:
    """What must be photographed, and whether it is: two queries."""
    there = set(unit.photos.exclude(shot="").values_list("shot", flat=True))
    more = unit.model.shots.replace(" ", "").split(",") if unit.model and unit.model.shots else ()
    defects = unit.findings.filter(status=Finding.Status.OPEN).exists()
    return [(shot, shot.value in there) for shot in shots_wanted(FormFactor(unit.form_factor), more, defects)]
