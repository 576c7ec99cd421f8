"""The pictures of a listing: which are shown, in which order, straightened and cut how, defects marked on them."""

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime

from django.db import transaction

from core.catalogue.recipes import JobKind
from core.selling.pictures import LOOKS_OTHERWISE, Cut, by_worth, from_before
from stations.common.locking import lock_row
from stations.common.refusals import Refused
from stations.people.models import Person
from stations.people.permissions import require
from stations.people.screens import save_versioned
from stations.selling.models import PhotoMark, ShownPhoto
from stations.units import picture_files, stages
from stations.units.models import Finding, Photo, Unit
from stations.workshop.models import Job

# Photos that nobody put in a place come after the others.
UNPLACED = 9999


@dataclass(frozen=True)
class Mark:
    """A finding on a picture as it is shown: x and y in its pixels."""

    number: int
    finding: Finding
    x: float
    y: float


@dataclass(frozen=True)
class Picture:
    """A photo as it is shown to buyers. `before`: what was done since, by which it looks otherwise now."""

    photo: Photo
    row: ShownPhoto
    marks: tuple[Mark, ...]
    before: str = ""

    @property
    def cut(self) -> Cut:
        return Cut(self.row.left, self.row.top, self.row.width, self.row.height, self.row.turn)

    @property
    def size(self) -> tuple[int, int]:
        left, top, right, bottom = self.cut.box(self.photo.width, self.photo.height)
        return round(right - left), round(bottom - top)

    @property
    def width(self) -> int:
        return self.size[0]

    @property
    def height(self) -> int:
        return self.size[1]


def pictures_of(unit: Unit, *, hidden: bool = False) -> list[Picture]:
    """Every picture that is shown, in its order; with `hidden` the others too. Four queries.

    Photos that nobody put in a place come after the others: as it looks now, then by what they show.
    """
    photos = list(unit.photos.select_related("unit", "shown").prefetch_related("marks__finding"))
    return _shown(photos, _worked_on([unit.pk])[unit.pk], hidden)


def _worked_on(unit_ids: Iterable[int]) -> dict[int, list[tuple[JobKind, datetime]]]:
    """What made units look otherwise, and when: one query."""
    found: dict[int, list[tuple[JobKind, datetime]]] = defaultdict(list)
    jobs = Job.objects.was_done().filter(unit_id__in=unit_ids, kind__in=LOOKS_OTHERWISE).order_by("done_at")
    for job in jobs:
        if job.done_at:
            found[job.unit_id].append((JobKind(job.kind), job.done_at))
    return found


def first_pictures(unit_ids: Iterable[int]) -> dict[int, int]:
    """The photo that is shown first of each unit, by id; none where it has none that is shown. Two queries."""
    photos: dict[int, list[Photo]] = defaultdict(list)
    for photo in Photo.objects.filter(unit_id__in=list(unit_ids)).select_related("unit", "shown").order_by("id"):
        photos[photo.unit_id].append(photo)
    works = _worked_on(photos)
    found = {unit_id: _ordered(of_unit, works[unit_id]) for unit_id, of_unit in photos.items()}
    seen = {unit_id: [photo for photo, row, _ in ordered if not row.hidden] for unit_id, ordered in found.items()}
    return {unit_id: of_unit[0].pk for unit_id, of_unit in seen.items() if of_unit}


def _ordered(photos: list[Photo], works: list[tuple[JobKind, datetime]]) -> list[tuple[Photo, ShownPhoto, str]]:
    """As buyers see them, each with how it is shown and what was done since."""
    found = []
    for photo in (photos[place] for place in by_worth(photo.shot for photo in photos)):
        row = getattr(photo, "shown", None) or ShownPhoto(photo=photo, place=UNPLACED)
        found.append((photo, row, from_before(photo.added_at, works, photo.unit.came_back_at)))
    return sorted(found, key=lambda one: (one[1].place, bool(one[2])))


def _shown(photos: list[Photo], works: list[tuple[JobKind, datetime]], hidden: bool) -> list[Picture]:
    numbers: dict[int, int] = {}
    found = []
    for photo, row, before in _ordered(photos, works):
        if row.hidden and not hidden:
            continue
        found.append(Picture(photo, row, _marks(photo, row, numbers), before))
    return found


def _marks(photo: Photo, row: ShownPhoto, numbers: dict[int, int]) -> tuple[Mark, ...]:
    """Marks of findings that are still there and were not cut away; the same finding has one number on all pictures."""
    cut, found = Cut(row.left, row.top, row.width, row.height, row.turn), []
    left, top, right, bottom = cut.box(photo.width, photo.height)
    for mark in photo.marks.all():
        there = cut.place(mark.x, mark.y, photo.width, photo.height)
        if there and mark.finding.status != Finding.Status.RESOLVED:
            number = numbers.setdefault(mark.finding_id, len(numbers) + 1)
            found.append(Mark(number, mark.finding, there[0] * (right - left), there[1] * (bottom - top)))
    return tuple(found)


@transaction.atomic
def move(person: Person, photo: Photo, by: int) -> None:
    """Show it earlier (below 0) or later by so many places; from then on every photo of the unit has a place."""
    require(person, "sort photos")
    unit = lock_row(Unit.objects.all(), photo.unit)
    order = [picture.photo for picture in pictures_of(unit, hidden=True)]
    here = next(place for place, one in enumerate(order) if one.pk == photo.pk)
    order.insert(max(0, min(len(order) - 1, here + by)), order.pop(here))
    for place, one in enumerate(order):
        ShownPhoto.objects.update_or_create(photo=one, defaults={"place": place})


@transaction.atomic
def hide(person: Person, photo: Photo, hidden: bool) -> None:
    """Leave it out of what buyers see, or show it again."""
    require(person, "sort photos")
    unit = lock_row(Unit.objects.all(), photo.unit)
    ShownPhoto.objects.update_or_create(photo=photo, defaults={"hidden": hidden}, create_defaults=_new(photo, hidden))
    stages.refresh(unit)


def _new(photo: Photo, hidden: bool = False) -> dict:
    return {"place": UNPLACED, "hidden": hidden}


@transaction.atomic
def straighten(person: Person, photo: Photo, seen_version: int, cut: Cut) -> None:
    """Turn and cut it for buyers; the photo as it was taken stays."""
    require(person, "sort photos")
    row, _ = ShownPhoto.objects.get_or_create(photo=photo, defaults=_new(photo))
    try:
        box = cut.box(photo.width, photo.height)
        kept = "" if cut.whole else picture_files.cut(photo.sha256, cut.turn, box).sha256
    except picture_files.BadPicture as problem:
        raise Refused(f"The picture is {problem}.") from problem
    changes = {"left": cut.left, "top": cut.top, "width": cut.width, "height": cut.height, "turn": cut.turn}
    save_versioned(row, seen_version, changes | {"sha256": kept})


@transaction.atomic
def mark(person: Person, photo: Photo, finding: Finding, x: float, y: float) -> None:
    """Say where a finding is seen on a photo, from 0 to 1 across and down; said again, it is moved."""
    require(person, "sort photos")
    if finding.unit_id != photo.unit_id:
        raise Refused("That finding is of another unit.")
    if not (0 <= x <= 1 and 0 <= y <= 1):
        raise Refused("Press a spot on the picture, or type 0 to 100 for both.")
    PhotoMark.objects.update_or_create(photo=photo, finding=finding, defaults={"x": x, "y": y})


@transaction.atomic
def unmark(person: Person, photo: Photo, finding: Finding) -> None:
    require(person, "sort photos")
    PhotoMark.objects.filter(photo=photo, finding=finding).delete()
