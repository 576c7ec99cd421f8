"""Firmware of cards and boards: read out before anything else is tried, another put in its place, the old one put back.

The newest of the changes of a chip says how it stands.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from django.core.files.base import ContentFile
from django.core.files.uploadedfile import UploadedFile
from django.db import transaction

from core.workshop.knowledge import KnowledgeKind, Sure
from core.workshop.storage.media import difference
from stations.common import clock
from stations.common.locking import lock_row
from stations.common.refusals import Refused, within
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.units.models import Unit
from stations.workshop import knowledge
from stations.workshop.models import FirmwareChange, Knowledge

What = FirmwareChange.What
MOST_CHIPS = 24


@dataclass(frozen=True)
class Chip:
    """A chip as it stands: what was done, the image that came with it, and the one that is in it now."""

    name: str
    changes: tuple[FirmwareChange, ...]

    @property
    def last(self) -> FirmwareChange:
        return self.changes[-1]

    @property
    def original(self) -> Knowledge:
        return self.changes[0].image

    @property
    def holds(self) -> Knowledge:
        """What is in it now; `last` says whether it is on trial."""
        return self.last.image

    @property
    def on_trial(self) -> bool:
        return self.last.what == What.TRIED

    @property
    def changed(self) -> bool:
        """It holds something else than it came with."""
        return self.last.what in {What.TRIED, What.STAYS}


def chips_of(unit: Unit) -> list[Chip]:
    """Every chip of a unit that was read out, in that order: one query."""
    return chips_of_each([unit])[unit.pk]


def chips_of_each(units: Sequence[Unit]) -> dict[int, list[Chip]]:
    """The same of several: one query for all."""
    found: dict[int, dict[str, list[FirmwareChange]]] = {unit.pk: {} for unit in units}
    for change in FirmwareChange.objects.filter(unit__in=units).select_related("image", "who"):
        found[change.unit_id].setdefault(change.chip, []).append(change)
    return {
        unit_id: [Chip(name, tuple(changes)) for name, changes in chips.items()] for unit_id, chips in found.items()
    }


def images_to_try(unit: Unit) -> list[Knowledge]:
    """Firmware images the shop keeps, those of this unit and its model first: one query."""
    rows = Knowledge.objects.filter(kind=KnowledgeKind.FIRMWARE).exclude(sha256="").order_by("title", "id")[:200]
    return sorted(
        rows, key=lambda row: row.unit_id != unit.pk and (row.model_id is None or row.model_id != unit.model_id)
    )


@transaction.atomic
def read_out(
    person: Person, unit: Unit, chip: str, edition: str, first: UploadedFile, second: UploadedFile
) -> FirmwareChange:
    """Keep what a chip holds, of two reads that are equal: one read alone may be a bad contact."""
    require(person, "keep what is known")
    unit = lock_row(Unit.objects.all(), unit)
    chips = {one.name.lower() for one in chips_of(unit)}
    if chip.lower() in chips:
        raise Refused(f"{chip} is read out already.", "chip")
    if len(chips) >= MOST_CHIPS:
        raise Refused(f"{MOST_CHIPS} chips of a unit at most.", "chip")
    data = _bytes(first, "first")
    if not (unlike := difference(data, _bytes(second, "second"), block=1)).equal:
        raise Refused(f"The two reads are not equal: {unlike.words}. Clean its legs, and read both again.", "second")
    known = knowledge.Known(
        title=f"{chip}, as it came"[:100],
        kind=KnowledgeKind.FIRMWARE.value,
        sure=Sure.MEASURED.value,
        words="Read out twice, equal.",
        edition=edition,
    )
    knowledge.keep(person, unit, None, 0, known, ContentFile(data, name=str(first.name)))
    image = Knowledge.objects.filter(unit=unit, kind=KnowledgeKind.FIRMWARE).latest("id")
    return change_firmware(person, unit, within(chip, 60, "chip"), What.READ, image, "")


@transaction.atomic
def try_other(person: Person, unit: Unit, chip: str, image: Knowledge) -> FirmwareChange:
    """Another image is put in its place. Refused where the old one could not be put back, or there is no room."""
    one = _chip(person, unit, chip)
    if one.on_trial:
        raise Refused(f"{one.holds} is on trial in it. Put the old one back, or say that it stays.")
    if image.sha256 == one.holds.sha256:
        raise Refused("That is what it holds now.", "image")
    if image.size > one.original.size:
        raise Refused(f"The image has {image.size:,} bytes, the chip {one.original.size:,}.", "image")
    return change_firmware(person, unit, one.name, What.TRIED, image, "")


@transaction.atomic
def put_back(person: Person, unit: Unit, chip: str, read: UploadedFile, words: str = "") -> FirmwareChange:
    """What it came with is in it again: read once more, and equal to what was kept."""
    one = _chip(person, unit, chip)
    if not one.changed:
        raise Refused("It holds what it came with.")
    _same(one.original, read)
    return change_firmware(person, unit, one.name, What.BACK, one.original, words)


@transaction.atomic
def let_stay(person: Person, unit: Unit, chip: str, read: UploadedFile, words: str) -> FirmwareChange:
    """The image on trial stays, and why: buyers are told."""
    one = _chip(person, unit, chip)
    if not one.on_trial:
        raise Refused("Nothing is on trial in it.")
    if not words:
        raise Refused("Say why it stays: buyers are told.", "words")
    _same(one.holds, read)
    return change_firmware(person, unit, one.name, What.STAYS, one.holds, words)


def not_as_it_came(units: Sequence[Unit]) -> dict[int, list[str]]:
    """Chips of each unit that hold something else than they came with, in words: one query."""
    return {
        unit_id: [
            f"firmware of {one.name}{f': {one.holds.edition}' if one.holds.edition else ''};"
            " the old one is kept as a file"
            for one in chips
            if one.changed
        ]
        for unit_id, chips in chips_of_each(units).items()
    }


def _same(image: Knowledge, read: UploadedFile) -> None:
    path = knowledge.path_of(image.sha256)
    if not path.exists():
        raise Refused("The file of that image is not here any more: nothing to compare with.", "read")
    if not (unlike := difference(path.read_bytes(), _bytes(read, "read"), block=1)).equal:
        raise Refused(f"It does not hold that: {unlike.words}.", "read")


def _chip(person: Person, unit: Unit, name: str) -> Chip:
    require(person, "keep what is known")
    unit = lock_row(Unit.objects.all(), unit)
    found = next((one for one in chips_of(unit) if one.name == name), None)
    if found is None:
        raise Refused("Read it out first: what is not kept can’t be put back.")
    return found


def _bytes(file: UploadedFile | None, field: str) -> bytes:
    if not file:
        raise Refused("Choose what was read.", field)
    if (file.size or 0) > knowledge.MOST_BYTES:
        raise Refused("The file is larger than 16 MB.", field)
    data = file.read()
    if not data:
        raise Refused("The file is empty.", field)
    file.seek(0)
    return data


def change_firmware(person: Person, unit: Unit, chip: str, what: What, image: Knowledge, words: str) -> FirmwareChange:
    row = FirmwareChange.objects.create(
        unit=unit, chip=chip, what=what, image=image, words=within(words, 200, "words"), when=clock.now(), who=person
    )
    said = f"{row}{f': {row.words}' if row.words else ''}"
    history.record(person, "workshop.change_firmware", HistoryEntry.Subject.UNIT, unit.pk, said[:200], chip=chip)
    return row
