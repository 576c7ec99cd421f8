"""What was put on record by a slip: taken off it again, with why; the story of the unit says so."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace

from django.db import transaction

from core.intake.condition import HAZARDOUS
from stations.common import clock
from stations.common.files import let_go
from stations.common.locking import lock_row
from stations.common.refusals import Refused, reason
from stations.common.registry import Registry
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.units import picture_files, sounds, stages
from stations.units.models import Clip, ColourSample, Content, Finding, Photo, Unit


@dataclass(frozen=True)
class Recorded:
    """Something that is on record: its mark ("finding:12"), what sort of thing it is, in words; `keeps` says why it
    must stay."""

    mark: str
    sort: str
    words: str
    keeps: str = ""
    photo: Photo | None = None


@dataclass(frozen=True)
class Kind:
    """What a room has on record of units, and how one of it is taken off: who may is asked there, first."""

    recorded: Callable[[Unit], Iterable[Recorded]]
    take_off: Callable[[Person, Unit, int], None]


kinds: Registry[Kind] = Registry("what may be on record by a slip")
# Each answers, by marks, with what rests on it, in words.
rests_on: Registry[Callable[[Unit], dict[str, str]]] = Registry("what rests on what is on record")


def on_record(unit: Unit) -> list[Recorded]:
    """What may have been a slip. A fixed number of queries."""
    rests: dict[str, str] = {}
    for of in rests_on.values():
        rests |= of(unit)
    found = [one for kind in kinds.values() for one in kind.recorded(unit)]
    return [replace(one, keeps=rests.get(one.mark, "")) for one in found]


@transaction.atomic
def take_off(person: Person, unit: Unit, mark: str, why: str) -> None:
    """It was recorded by a slip. What something else rests on stays, and says what that is."""
    unit = lock_row(Unit.objects.all(), unit)
    if unit.closed_to_work:
        raise Refused(f"{unit.tag} is {unit.get_stage_display()}: its record stays as it is.")
    slip = next((one for one in on_record(unit) if one.mark == mark), None)
    if slip is None:
        raise Refused("Choose what it is. It may have been taken off already.", "mark")
    if slip.keeps:
        raise Refused(f"It stays: {slip.keeps}.", "mark")
    why = reason(why)
    kind, _, number = mark.partition(":")
    kinds[kind].take_off(person, unit, int(number))
    words = f"Taken off the record: {slip.sort.lower()}, {slip.words}; {why}"
    history.record(person, "units.take_off", HistoryEntry.Subject.UNIT, unit.pk, words, mark=mark, why=why)
    stages.refresh(unit)


def _looks(unit: Unit) -> list[Recorded]:
    if not unit.looked_over_at:
        return []
    return [Recorded("look:0", "Looked all over", f"on {clock.day_of(unit.looked_over_at):%-d %b %Y}")]


def _no_look(person: Person, unit: Unit, number: int) -> None:
    require(person, "look a unit over")
    Unit.objects.filter(pk=unit.pk).update(looked_over_at=None)


def _findings(unit: Unit) -> list[Recorded]:
    rows = unit.findings.order_by("id")
    return [Recorded(f"finding:{row.pk}", "Finding", f"{row}, {row.get_status_display()}") for row in rows]


def _no_finding(person: Person, unit: Unit, number: int) -> None:
    require(person, "settle findings")
    row: Finding = unit.findings.get(pk=number)
    clips = list(row.clips.all())
    row.delete()
    for clip in clips:
        let_go(clip.sha256, sounds.path_of(clip.sha256, clip.kind))


def _contents(unit: Unit) -> list[Recorded]:
    rows = unit.contents.order_by("id")
    return [Recorded(f"content:{row.pk}", "On its list", f"{row.name}: {row.get_presence_display()}") for row in rows]


def _no_content(person: Person, unit: Unit, number: int) -> None:
    require(person, "tick off contents")
    Content.objects.filter(pk=number, unit=unit).delete()


def _photos(unit: Unit) -> list[Recorded]:
    rows = unit.photos.order_by("id")
    return [
        Recorded(f"photo:{row.pk}", "Picture", row.get_shot_display() or row.original_name, photo=row) for row in rows
    ]


def _no_photo(person: Person, unit: Unit, number: int) -> None:
    require(person, "sort photos")
    row: Photo = unit.photos.get(pk=number)
    row.delete()
    let_go(row.sha256, *picture_files.both_of([row.sha256]))


def _clips(unit: Unit) -> list[Recorded]:
    """Those of a finding go with it."""
    rows = unit.clips.filter(finding=None).order_by("id")
    return [Recorded(f"clip:{row.pk}", "Sound", str(row)) for row in rows]


def _no_clip(person: Person, unit: Unit, number: int) -> None:
    require(person, "record findings")
    row: Clip = unit.clips.get(pk=number)
    row.delete()
    let_go(row.sha256, sounds.path_of(row.sha256, row.kind))


def _colours(unit: Unit) -> list[Recorded]:
    rows = unit.colours.order_by("id")
    return [Recorded(f"colour:{row.pk}", "Colour", f"{row}, {row.words}") for row in rows]


def _no_colour(person: Person, unit: Unit, number: int) -> None:
    require(person, "measure colour")
    ColourSample.objects.filter(pk=number, unit=unit).delete()


kinds.add("look")(Kind(_looks, _no_look))
kinds.add("finding")(Kind(_findings, _no_finding))
kinds.add("content")(Kind(_contents, _no_content))
kinds.add("photo")(Kind(_photos, _no_photo))
kinds.add("clip")(Kind(_clips, _no_clip))
kinds.add("colour")(Kind(_colours, _no_colour))


@rests_on.add("units")
def rests_on_rows(unit: Unit) -> dict[str, str]:
    """A colour that was measured on a picture, a hazard that it shows to be dealt with; a part that is on the list."""
    found, taken = {}, list(unit.photos.values_list("pk", "added_at"))
    for finding in unit.findings.filter(kind__in=[kind.value for kind in HAZARDOUS], status=Finding.Status.RESOLVED):
        for pk, at in taken:
            if finding.settled_at and finding.seen_at < at <= finding.settled_at:
                found[f"photo:{pk}"] = f"it shows that the {finding.get_kind_display()} was dealt with"
    for part in unit.parts.exclude(content=None):
        found[f"content:{part.content_id}"] = f"the part {part.code} stands on the list as it"
    samples = ColourSample.objects.filter(photo__unit=unit).values_list("photo", flat=True)
    return found | {f"photo:{photo}": "a colour was measured on it" for photo in samples}
