"""Taking in a manifest: uploaded, looked at, then all of it or nothing; into a lot, or into a plan before the sale."""

import hashlib
from dataclasses import replace
from decimal import Decimal

from django.db import transaction
from django.db.models import Max

from core.buying.manifest import (
    HEADS,
    Column,
    ManifestError,
    ManifestLine,
    decode,
    guess_columns,
    read_lines,
    read_table,
)
from core.machine.quantities import Mark
from stations.buying import plans
from stations.buying.details import SeenPieces, usual_form
from stations.buying.models import MOST_PIECES, BidPlan, Lot, LotLine, Manifest
from stations.common import clock
from stations.common.locking import lock_row
from stations.common.refusals import Refused
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require

# A plan is drawn anew at every change; one longer than this belongs on several plans.
MOST_PLAN_LINES = 200


@transaction.atomic
def upload(person: Person, target: Lot | BidPlan, name: str, data: bytes) -> Manifest:
    """Keep a manifest for looking at. Nothing of it is on the lot or the plan yet."""
    require(person, "import a manifest")
    try:
        text = decode(data)
        read_table(text)
    except ManifestError as problem:
        raise Refused(str(problem), "file") from problem
    digest = hashlib.sha256(data).hexdigest()
    return Manifest.objects.create(
        lot=target if isinstance(target, Lot) else None,
        plan=target if isinstance(target, BidPlan) else None,
        name=name[:120],
        sha256=digest,
        text=text,
        uploaded_at=clock.now(),
        uploaded_by=person,
    )


def imported_before(manifest: Manifest) -> Manifest | None:
    """The same file, imported earlier into a lot; into a plan, earlier into this very plan."""
    same = Manifest.objects.filter(sha256=manifest.sha256, imported_at__isnull=False).exclude(pk=manifest.pk)
    same = same.filter(plan=manifest.plan) if manifest.plan_id else same.filter(lot__isnull=False)
    return same.select_related("lot", "plan").first()


def preview(manifest: Manifest, chosen: dict[Column, int] | None = None, mark: Mark = Mark.ASK):
    """The table, the columns in force, and the good and the bad lines they give; `mark`: what "1,234" means in it."""
    table = read_table(manifest.text)
    columns = guess_columns(table.head, HEADS) if chosen is None else chosen
    good, bad = read_lines(table, columns, mark)
    return table, columns, good, bad


@transaction.atomic
def import_manifest(
    person: Person,
    manifest: Manifest,
    columns: dict[Column, int],
    again: bool = False,
    mark: Mark = Mark.ASK,
    finish_cost: Decimal | None = None,
    shape: str = "",
) -> int:
    """Put every line on the lot or the plan, or none: a single bad line stops it. Answers how many there were.

    `finish_cost`: of one piece, on a lot, of every line whose worth is said; a plan reckons it itself. `shape`: the
    form factor of every line that tells none.
    """
    require(person, "import a manifest")
    manifest = lock_row(Manifest.objects.all(), manifest)
    if manifest.imported_at:
        raise Refused("This manifest is taken in already.")
    if not again and (before := imported_before(manifest)):
        raise Refused(f"The same file was imported into {before.target.code}. Tick the box if that is meant.")
    _, _, good, bad = preview(manifest, columns, mark)
    if bad:
        raise Refused(
            f"{len(bad)} lines are bad; nothing was imported. The first: line {bad[0].number}, {bad[0].reason}."
        )
    if finish_cost is None and asks_to_finish(manifest, good):
        raise Refused("What does it cost to finish one? 0 where nothing is to be done.", "finish_cost")
    if not shape and shapeless(good):
        raise Refused("Say what shape those have that tell none.", "shape")
    good = [replace(line, form_factor=_shape(line, shape)) for line in good]
    target = manifest.target
    if isinstance(target, Lot):
        _into_lot(person, target, manifest.name, good, finish_cost)
    else:
        _into_plan(person, target, good)
    Manifest.objects.filter(pk=manifest.pk).update(imported_at=clock.now())
    return len(good)


def asks_to_finish(manifest: Manifest, lines: list[ManifestLine]) -> bool:
    """Whether it is to be said what finishing one costs: some worth is said, and nothing else will reckon it."""
    return manifest.lot_id is not None and any(line.worth_likely is not None for line in lines)


def shapeless(lines: list[ManifestLine]) -> int:
    """How many lines are of things with a shape, and tell none."""
    return sum(line.asks_shape for line in lines)


def _shape(line: ManifestLine, shape: str) -> str:
    return line.form_factor or (shape if line.asks_shape else usual_form(line.kind))


def _into_lot(person: Person, lot: Lot, name: str, lines: list[ManifestLine], finish_cost: Decimal | None) -> None:
    if lot.sharings.exists():
        raise Refused("The lot’s cost is shared already; no lines can be added by a manifest.")
    last = lot.lines.aggregate(last=Max("position"))["last"] or 0
    LotLine.objects.bulk_create(
        [
            LotLine(
                lot=lot,
                position=last + place,
                description=line.description,
                quantity=line.quantity,
                kind=line.kind,
                form_factor=line.form_factor,
                claim=line.claim,
                claim_words=line.claim_words,
                weight_kg=line.weight_kg,
                worth_low=line.worth_likely,
                worth_likely=line.worth_likely,
                worth_high=line.worth_likely,
                finish_cost=(finish_cost or 0) if line.worth_likely is not None else 0,
            )
            for place, line in enumerate(lines, 1)
        ],
        batch_size=1000,
    )
    history.record(
        person, "buying.into_lot", HistoryEntry.Subject.LOT, lot.pk, f"Imported {len(lines)} lines from {name}"
    )


def _into_plan(person: Person, plan: BidPlan, lines: list[ManifestLine]) -> None:
    if len(lines) + plan.lines.count() > MOST_PLAN_LINES:
        raise Refused(f"A plan has {MOST_PLAN_LINES} lines at most. Take in the lines that carry the lot.")
    if many := next((line for line in lines if line.quantity > MOST_PIECES), None):
        raise Refused(
            f"Line {many.number} has {many.quantity} pieces; a line of a plan has {MOST_PIECES} at most. Split it."
        )
    seen = [
        SeenPieces(
            description=line.description,
            quantity=line.quantity,
            kind=line.kind,
            form_factor=line.form_factor,
            claim=line.claim,
            claim_words=line.claim_words,
            worth=line.worth_likely,
        )
        for line in lines
    ]
    plans.add_lines(person, plan, seen)
