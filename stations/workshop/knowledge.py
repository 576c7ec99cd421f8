"""What is known of a unit, its model or a part: kept with how sure it is, files under their checksum."""

import hashlib
from contextlib import suppress
from dataclasses import asdict, dataclass
from datetime import date
from pathlib import Path, PurePath

from django.conf import settings
from django.db import transaction
from django.db.models import Q

from core.workshop.knowledge import KnowledgeKind, Sure, why_incomplete
from stations.catalogue.models import MachineModel
from stations.common import clock, files
from stations.common.locking import lock_row
from stations.common.paging import first_of
from stations.common.refusals import Refused, reason
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.people.screens import save_versioned
from stations.stock.models import StockItem
from stations.units.models import Part, Unit
from stations.units.picture_files import BadPicture, small_of
from stations.workshop.models import FirmwareChange, Knowledge, MediumRead

Subject = HistoryEntry.Subject
MOST_BYTES = 16 * 1024 * 1024


def path_of(sha256: str) -> Path:
    return Path(settings.MEDIA_ROOT) / "known" / sha256[:2] / sha256


def small_path_of(sha256: str) -> Path:
    """Where the small copy of a picture is, for a file that is one."""
    return Path(settings.MEDIA_ROOT) / "known" / sha256[:2] / f"{sha256}-small.jpg"


def pictures_of(part: Part) -> list[Knowledge]:
    """The pictures of a part that can be shown: one query."""
    rows = Knowledge.objects.filter(part=part).exclude(sha256="").order_by("-id")[:40]
    return [row for row in rows if small_path_of(row.sha256).exists()][:12]


def known_of(unit: Unit):
    """What is known of the unit itself and of all of its model, surest kinds together: one query."""
    of_model = Q(model=unit.model_id) if unit.model_id else Q(pk=None)
    return Knowledge.objects.filter(Q(unit=unit) | of_model).select_related("kept_by", "model")


def known_of_part(of: StockItem | Part):
    """What is known of a kind of part, or of one with a record of its own: one query."""
    rows = Knowledge.objects.filter(part=of) if isinstance(of, Part) else Knowledge.objects.filter(item=of)
    return rows.select_related("kept_by")


def questions():
    """Questions that nobody answered yet, the one due first at the head."""
    waiting = Knowledge.objects.filter(kind=KnowledgeKind.QUESTION, answered_on=None, unit__isnull=False)
    return first_of(waiting.select_related("unit").order_by("due", "id"), 40)


@dataclass(frozen=True)
class Known:
    """Something known, as it is typed: a KnowledgeKind, how sure (Sure), and for a question whom it was asked, when an
    answer is due, and the answer. `may_pass_on` None is not known."""

    title: str
    kind: str
    sure: str
    words: str = ""
    edition: str = ""
    from_whom: str = ""
    due: date | None = None
    answer: str = ""
    may_pass_on: bool | None = None


@transaction.atomic
def keep(
    person: Person,
    of: Unit | StockItem | Part | MachineModel,
    row: Knowledge | None,
    seen: int,
    known: Known,
    file: object,
    expected: str = "",
) -> None:
    """Keep something known of a unit, a part or every machine of a model; or put it right (`seen` is its version).

    A file whose checksum is not the `expected` one is refused, and another file in place of an image that a chip or a
    disk was read or written as.
    """
    require(person, "keep what is known")
    row = row and lock_row(Knowledge.objects.all(), row)
    has_file = bool(file) or bool(row and row.sha256)
    kind, sure = KnowledgeKind(known.kind), Sure(known.sure)
    missing, field = why_incomplete(kind, sure, known.from_whom, known.answer, has_file)
    if missing:
        raise Refused(missing, field)
    if expected and not file:
        raise Refused("Choose the file that this is the checksum of.", "file")
    changes = asdict(known)
    if file:
        kept = _kept(file)
        if expected and expected.strip().lower() != kept["sha256"]:
            raise Refused(f"Its checksum is {kept['sha256']}: this is another file, or it came damaged.", "expected")
        if row and row.sha256 not in ("", kept["sha256"]) and _is_image(row):
            raise Refused(
                "A chip or a disk was read or written as the file that is kept: keep this one beside it.", "file"
            )
        changes |= kept
    if known.answer and (row is None or row.answered_on is None):
        changes["answered_on"] = clock.today()
    elif not known.answer:
        changes["answered_on"] = None
    if row and not history.says_otherwise(row, changes):
        return
    if row is None:
        name = {Unit: "unit", StockItem: "item", Part: "part", MachineModel: "model"}[type(of)]
        Knowledge.objects.create(**{name: of}, kept_at=clock.now(), kept_by=person, **changes)
    else:
        before = row.sha256
        save_versioned(row, seen, changes)
        if before and row.sha256 != before:
            files.let_go(before, path_of(before), small_path_of(before))
    if isinstance(of, Unit):
        words = f"Known: {known.title} ({kind.label}, {sure.label})"
        history.record(person, "workshop.keep", Subject.UNIT, of.pk, words)


@transaction.atomic
def forget(person: Person, row: Knowledge, why: str) -> None:
    """It was wrong, or is of something else: it goes with its file, unless another row has the same."""
    require(person, "keep what is known")
    why = reason(why)
    row = lock_row(Knowledge.objects.all(), row)
    if _is_image(row):
        raise Refused("It stays: a chip or a disk was written or read as this image.", "why")
    of = {Subject.UNIT: row.unit_id, Subject.STOCK: row.item_id, Subject.PART: row.part_id}
    for subject, pk in of.items():
        if pk:
            words = f"Not kept any more: {row.title}; {why}"
            history.record(person, "workshop.forget", subject, pk, words, why=why)
    row.delete()
    if row.sha256:
        files.let_go(row.sha256, path_of(row.sha256), small_path_of(row.sha256))


def _is_image(row: Knowledge) -> bool:
    """A chip or a disk was read or written as its file."""
    return any(rows.objects.filter(image=row).exists() for rows in (FirmwareChange, MediumRead))


def _kept(file) -> dict:
    """The file as it is, under its checksum: what was read out of a chip must come back bit for bit."""
    if file.size > MOST_BYTES:
        raise Refused("The file is larger than 16 MB.", "file")
    data = file.read()
    if not data:
        raise Refused("The file is empty.", "file")
    digest = hashlib.sha256(data).hexdigest()
    files.keep(path_of(digest), data)
    with suppress(BadPicture):
        files.keep(small_path_of(digest), small_of(data))
    name = PurePath(str(file.name).replace("\\", "/")).name[:120] or "file"
    return {"sha256": digest, "size": len(data), "original_name": name}
