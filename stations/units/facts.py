"""What the units answer for: the cost of those that left, the pictures of those that are here, tests of parts."""

from collections.abc import Iterable, Iterator
from pathlib import Path

from django.urls import reverse

from stations.backup import lost
from stations.buying.services import worth_corrected
from stations.buying.sharing import cost_retention
from stations.catalogue import bank, tested
from stations.common import clock
from stations.people import stopped
from stations.people.history import Place, places
from stations.people.models import Person
from stations.people.permissions import may
from stations.people.stopped import SILENT, Stopped
from stations.stock import drawer, shelf
from stations.units import dealt_with, labels, offers, part_tests, picture_files, sounds, stages
from stations.units.costs import retained_of, unpriced_in_drawers
from stations.units.models import Clip, Photo, Unit

cost_retention.add("units")(retained_of)
bank.changed.add("units")(stages.model_changed)
tested.otherwise.add("units")(stages.stand_anew)
worth_corrected.add("units")(stages.worth_corrected)
drawer.not_priced.add("lots to share")(unpriced_in_drawers)
drawer.arrivals.add("wanted")(offers.came_for_wants)
shelf.rests.add("tests of parts")(part_tests.tests_withdrawn)


@dealt_with.kinds.add("picture")
def pictures_since(unit: Unit, moment) -> list[dealt_with.Shown]:
    rows = unit.photos.filter(added_at__gt=moment).order_by("-id")[:5]
    return [dealt_with.Shown(photo.added_at, f"picture: {photo.original_name}") for photo in rows]


@lost.told_of.add("pictures")
def pictures() -> Iterator[Path]:
    return picture_files.both_of(Photo.objects.values_list("sha256", flat=True))


@lost.told_of.add("sounds")
def heard() -> Iterator[Path]:
    return (sounds.path_of(*row) for row in Clip.objects.values_list("sha256", "kind"))


@places.add("unit")
def units(keys: Iterable[int]) -> dict[int, Place]:
    rows = Unit.objects.filter(pk__in=keys)
    return {row.pk: Place(str(row.tag), reverse("floor:unit", args=[row.number])) for row in rows}


@stopped.kinds.add("label printer")
def silent_printer(person: Person) -> list[Stopped]:
    since = next(iter(waiting := labels.waiting()), None)
    if since is None or clock.now() - since < SILENT or not may(person, "print labels"):
        return []
    words = "1 label waits" if len(waiting) == 1 else f"{len(waiting)} labels wait"
    return [Stopped(f"{words} for the label printer, since {stopped.at(since)}: see whether it is on.")]
