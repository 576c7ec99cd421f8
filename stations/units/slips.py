"""What was put on record by a slip: taken off it again, with why; the story of the unit says so."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from django.apps import apps
from django.db import transaction

from core.flow.stage import GONE
from core.intake.condition import HAZARDOUS
from stations.common.locking import lock_row
from stations.common.refusals import Refused, within
from stations.common.registry import Registry
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.units import picture_files, sounds, stages
from stations.units.models import Clip, ColourSample, Content, Finding, Photo, Unit

# Each answers, by the marks of a slip ("finding:12", "content:9"), with what rests on it, in words.
rests_on: Registry[Callable[[Unit], dict[str, str]]] = Registry("what rests on what is on record")

LOOKED_OVER = "looked-over"
Row = Finding | Content | Photo | Clip


@dataclass(frozen=True)
class Recorded:
    """Something that is on record: its mark, what sort of thing it is, in words; `keeps` says why it must stay."""

    mark: str
    sort: str
    words: str
    keeps: str = ""
    photo: Photo | None = None


def on_record(unit: Unit) -> list[Recorded]:
    """What may have been a slip: the look over it, findings, things on its list, pictures, sounds. A fixed number of
    queries."""
    rests: dict[str, str] = {}
    for of in rests_on.values():
        rests |= of(unit)
    found = []
    if unit.looked_over_at:
        found.append(Recorded(LOOKED_OVER, "Looked all over", f"on {unit.looked_over_at:%-d %b %Y}"))
    rows: list[tuple[str, Iterable[Row]]] = [
        ("Finding", unit.findings.order_by("id")),
        ("On its list", unit.contents.order_by("id")),
        ("Picture", unit.photos.order_by("id")),
        ("Sound", unit.clips.filter(finding=None).order_by("id")),
    ]
    for sort, of_sort in rows:
        for row in of_sort:
            mark, photo = mark_of(row), row if isinstance(row, Photo) else None
            found.append(Recorded(mark, sort, words_of(row), rests.get(mark, ""), photo))
    return found


def mark_of(row: Row) -> str:
    return f"{type(row).__name__.lower()}:{row.pk}"


def words_of(row: Row) -> str:
    if isinstance(row, Content):
        return f"{row.name}: {row.get_presence_display()}"
    if isinstance(row, Photo):
        return row.get_shot_display() or row.original_name
    if isinstance(row, Clip):
        return str(row)
    return f"{row}, {row.get_status_display()}"


@transaction.atomic
def take_off(person: Person, unit: Unit, mark: str, why: str) -> None:
    """It was recorded by a slip. What something else rests on stays, and says what that is."""
    unit = lock_row(Unit.objects.all(), unit)
    if unit.stage in GONE:
        raise Refused(f"{unit.tag} is {unit.get_stage_display()}: its record stays as it is.")
    slip = next((one for one in on_record(unit) if one.mark == mark), None)
    if slip is None:
        raise Refused("Choose what it is. It may have been taken off already.", "mark")
    if slip.keeps:
        raise Refused(f"It stays: {slip.keeps}.", "mark")
    if not why:
        raise Refused("Say why: it stands in the story of the unit.", "why")
    _ask(person, mark)
    if mark == LOOKED_OVER:
        Unit.objects.filter(pk=unit.pk).update(looked_over_at=None)
    else:
        _delete(unit, mark)
    words = f"Taken off the record: {slip.sort.lower()}, {slip.words}; {within(why, 120, 'why')}"
    history.record(person, "units.take_off", HistoryEntry.Subject.UNIT, unit.pk, words, mark=mark, why=why)
    stages.refresh(unit)


def _ask(person: Person, mark: str) -> None:
    """Who may record it may take it off."""
    kind = mark.partition(":")[0]
    if kind == "finding":
        require(person, "settle findings")
    elif kind == "photo":
        require(person, "sort photos")
    elif kind == "clip":
        require(person, "record findings")
    elif kind == "content":
        require(person, "tick off contents")
    else:
        require(person, "look a unit over")


def _delete(unit: Unit, mark: str) -> None:
    kind, _, number = mark.partition(":")
    rows: dict[str, Any] = {
        "finding": unit.findings,
        "content": unit.contents,
        "photo": unit.photos,
        "clip": unit.clips,
    }
    row = rows[kind].get(pk=number)
    files = _files(row)
    row.delete()
    transaction.on_commit(lambda: _forget(files))


def _files(row: Row) -> dict[str, list[Path]]:
    """The files that go with it, by their hashes."""
    if isinstance(row, Photo):
        return {row.sha256: [picture_files.path_of(row.sha256), picture_files.path_of(row.sha256, small=True)]}
    clips = [row] if isinstance(row, Clip) else row.clips.all() if isinstance(row, Finding) else []
    return {clip.sha256: [sounds.path_of(clip.sha256, clip.kind)] for clip in clips}


def _forget(files: dict[str, list[Path]]) -> None:
    """They go when nothing else of the shop is the same picture or sound."""
    keep = [model for model in apps.get_models() if any(field.name == "sha256" for field in model._meta.fields)]
    for sha256, paths in files.items():
        if not any(model._base_manager.filter(sha256=sha256).exists() for model in keep):
            for path in paths:
                path.unlink(missing_ok=True)


@rests_on.add("units")
def rests_on_pictures(unit: Unit) -> dict[str, str]:
    """A colour that was measured on a picture; a hazard that it shows to be dealt with."""
    found = {}
    settled = unit.findings.filter(kind__in=[kind.value for kind in HAZARDOUS], status=Finding.Status.RESOLVED)
    for finding in settled:
        for photo in unit.photos.filter(added_at__gt=finding.seen_at, added_at__lte=finding.settled_at):
            found[f"photo:{photo.pk}"] = f"it shows that the {finding.get_kind_display()} was dealt with"
    samples = ColourSample.objects.filter(photo__unit=unit).values_list("photo", flat=True)
    return found | {f"photo:{photo}": "a colour was measured on it" for photo in samples}
