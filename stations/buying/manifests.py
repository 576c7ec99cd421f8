"""Taking in a manifest: uploaded, looked at, then all of it or nothing."""

import hashlib

from django.db import transaction
from django.db.models import Max

from core.buying.manifest import Column, ManifestError, decode, guess_columns, read_lines, read_table
from core.intake.casing import FormFactor
from stations.buying.models import Lot, LotLine, Manifest
from stations.people import clock, history
from stations.people.models import HistoryEntry, Person, Role
from stations.people.permission import require
from stations.people.refusals import Refused


@transaction.atomic
def upload(person: Person, lot: Lot, name: str, data: bytes) -> Manifest:
    """Keep a manifest for looking at. Nothing of it is on the lot yet."""
    require(person, Role.BUYER, to="import a manifest")
    try:
        text = decode(data)
        read_table(text)
    except ManifestError as problem:
        raise Refused(str(problem), "file") from problem
    digest = hashlib.sha256(data).hexdigest()
    return Manifest.objects.create(
        lot=lot, name=name[:120], sha256=digest, text=text, uploaded_at=clock.now(), uploaded_by=person
    )


def imported_before(manifest: Manifest) -> Manifest | None:
    """The same file, imported earlier, on this lot or another."""
    same = Manifest.objects.filter(sha256=manifest.sha256, imported_at__isnull=False).exclude(pk=manifest.pk)
    return same.select_related("lot").first()


def preview(manifest: Manifest, chosen: dict[Column, int] | None = None):
    """The table, the columns in force, and the good and the bad lines they give."""
    table = read_table(manifest.text)
    columns = guess_columns(table.head) if chosen is None else chosen
    good, bad = read_lines(table, columns)
    return table, columns, good, bad


@transaction.atomic
def take_in(person: Person, manifest: Manifest, columns: dict[Column, int], again: bool = False) -> int:
    """Put every line on the lot, or none: a single bad line stops it. Answers how many there were."""
    require(person, Role.BUYER, to="import a manifest")
    manifest = Manifest.objects.select_for_update().select_related("lot").get(pk=manifest.pk)
    if manifest.imported_at:
        raise Refused("This manifest is on the lot already.")
    if manifest.lot.sharings.exists():
        raise Refused("The lot’s cost is shared already; no lines can be added by a manifest.")
    if not again and (before := imported_before(manifest)):
        raise Refused(f"The same file was imported into {before.lot.code}. Tick the box if that is meant.")
    _, _, good, bad = preview(manifest, columns)
    if bad:
        raise Refused(
            f"{len(bad)} lines are bad; nothing was imported. The first: line {bad[0].number}, {bad[0].reason}."
        )
    last = manifest.lot.lines.aggregate(last=Max("position"))["last"] or 0
    LotLine.objects.bulk_create(
        [
            LotLine(
                lot=manifest.lot,
                position=last + place,
                description=line.description,
                quantity=line.quantity,
                form_factor=FormFactor.DESKTOP,
                claim=line.claim,
                claim_words=line.claim_words,
                weight_kg=line.weight_kg,
                worth_low=line.worth_likely,
                worth_likely=line.worth_likely,
                worth_high=line.worth_likely,
            )
            for place, line in enumerate(good, 1)
        ],
        batch_size=1000,
    )
    Manifest.objects.filter(pk=manifest.pk).update(imported_at=clock.now())
    history.record(
        person, HistoryEntry.Subject.LOT, manifest.lot_id, f"Imported {len(good)} lines from {manifest.name}"
    )
    return len(good)
