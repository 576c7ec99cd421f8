"""Sharing a lot's cost over its lines, and sharing it again."""

from collections import defaultdict
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal

from django.db import transaction
from django.db.models import Exists, OuterRef, Q, Sum
from django.dispatch import Signal

from core.buying.share import Basis, ShareError, ShareLine, ToShare, share_charges, weights_of
from core.buying.share import Sharing as SharedCost
from core.money import allocate
from stations.buying import charges as lot_charges
from stations.buying.models import ChargeShare, LineShare, Lot, LotCharge, LotLine, Sharing
from stations.common import clock
from stations.common.locking import lock_row
from stations.common.refusals import Refused
from stations.common.registry import Registry
from stations.ledger.models import Account, EntryKind, Posting
from stations.ledger.services import Leg, post, reverse_posting
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require

# Sent after a lot was shared or shared again, inside the transaction: intake moves the cost on to the units.
shared = Signal()
# Sent where what was paid for a lot is put right, inside the transaction: whether the cost of its units is known may be
# another matter now.
charged = Signal()


# Of lots: nobody knows yet what their units cost.
COST_UNKNOWN = Q(priced=False) | Q(landed_total__gt=0) & ~Exists(Sharing.objects.filter(lot=OuterRef("pk")))
# Of lots: something was paid, and nobody knows yet which line carries how much of it.
TO_SHARE = Q(landed_total__gt=0) & ~Exists(Sharing.objects.filter(lot=OuterRef("pk")))


@dataclass(frozen=True)
class RetainedCost:
    """Pieces of a line that keep what they carry, whatever happens to the rest."""

    pieces: int = 0
    carried: Decimal = Decimal(0)


# By who knows the units: what of a lot's lines is sold or written off, by line.
cost_retention: Registry[Callable[[Lot], Mapping[int, RetainedCost]]] = Registry("what keeps its cost")


@transaction.atomic
def share_lot(person: Person, lot: Lot, basis: Basis, by_hand: Mapping[int, Decimal | None] | None = None) -> Sharing:
    """Share the landed cost over the lines; a sharing that stands is reversed first, never edited.

    A charge with a basis of its own is shared on that, the others on `basis`. `by_hand` sets what a line (by
    its key) carries, None to share it like the rest; lines not named stay as they were set. Pieces that are
    sold or written off keep what they carry; only the rest is shared again.
    """
    require(person, "share a lot’s cost")
    lot = lock_row(Lot.objects.all(), lot)
    take_up(person, lot, "shared again")
    for pk, amount in (by_hand or {}).items():
        lot.lines.filter(pk=pk).update(fixed_share=amount)
    lines = list(lot.lines.all())
    held = lot_charges.current(lot)
    result = shares_on(lot, lines, held, basis)
    last = current_sharing(lot)
    if last and last.posting and last.basis == basis and _stands(last, lines, held, result):
        return last
    if last and last.posting:
        reverse_posting(person, last.posting, "shared again")
    legs = [Leg(Account.LOT, lot.pk, EntryKind.ALLOCATION, -lot.landed_total, lot.pk)]
    legs += [
        Leg(Account.LINE, line.pk, EntryKind.ALLOCATION, amount, lot.pk)
        for line, amount in zip(lines, result.shares, strict=True)
    ]
    posting = post(person, f"{lot.code} shared by {basis}", legs)
    sharing = Sharing.objects.create(
        lot=lot, basis=basis, note=" ".join(result.notes)[:400], when=clock.now(), who=person, posting=posting
    )
    _keep_table(sharing, lines, held, result)
    again = "again " if last else ""
    history.record(
        person,
        "buying.share_lot",
        HistoryEntry.Subject.LOT,
        lot.pk,
        f"Shared {lot.landed_total} {again}by {basis}",
        amount=lot.landed_total,
        basis=str(basis),
    )
    shared.send(sender=Lot, lot=lot, person=person)
    return sharing


def take_up(person: Person, lot: Lot, why: str) -> None:
    """What was lost of a lot, which is held, stands on it and its lines again, to be carried."""
    lot.refresh_from_db(fields=["lost", "lost_posting"])
    if lot.lost_posting:
        reverse_posting(person, lot.lost_posting, why)
        lose(lot, Decimal(0), None)


def lose(lot: Lot, lost: Decimal, posting: Posting | None) -> None:
    """So much of what was paid for a lot is carried by nothing; below 0: so much more is carried than was paid."""
    Lot.objects.filter(pk=lot.pk).update(lost=lost, lost_posting=posting)
    lot.lost, lot.lost_posting = lost, posting


def shares_on(lot: Lot, lines: Sequence[LotLine], held: Sequence[LotCharge], basis: Basis) -> SharedCost:
    """What each line would carry of each charge on this basis; nothing is posted.

    Raises Refused when it can't be shared so, at the field of the line that is wrong.
    """
    kept = retained_pieces(lot)
    if lines and all(line.pieces == kept[line.pk].pieces for line in lines):
        raise Refused("All of this lot is sold, written off or does not come; nothing is left to share.", "basis")
    fast = _retained_parts(lot, held, kept)
    to_share = [ToShare(c.base, Basis(c.basis) if c.basis else basis, c.label) for c in held]
    rows = [share_line(line, kept[line.pk].pieces, fast.get(line.pk, ())) for line in lines]
    try:
        return share_charges(to_share, rows)
    except ShareError as problem:
        wrong = lines[problem.line] if problem.line is not None else None
        by_hand = wrong is not None and wrong.fixed_share is not None
        raise Refused(str(problem), f"fixed_{wrong.pk}" if wrong and by_hand else "basis") from problem


def retained_pieces(lot: Lot) -> Mapping[int, RetainedCost]:
    """For every line of the lot, the pieces whose cost stands fast."""
    kept: dict[int, RetainedCost] = defaultdict(RetainedCost)
    for keeper in cost_retention.values():
        kept.update(keeper(lot))
    return kept


def share_line(line: LotLine, kept: int = 0, fast: tuple[Decimal, ...] = ()) -> ShareLine:
    """A line as the sharing rule sees it, less the pieces that keep what they carry."""
    return ShareLine(
        line.pieces - kept,
        line.weight_kg,
        line.worth_low,
        line.worth_likely,
        line.worth_high,
        line.finish_cost,
        line.fixed_share,
        fast,
    )


def current_sharing(lot: Lot) -> Sharing | None:
    return lot.sharings.order_by("-id").first()


def _retained_parts(
    lot: Lot, held: Sequence[LotCharge], kept: Mapping[int, RetainedCost]
) -> dict[int, tuple[Decimal, ...]]:
    """What kept pieces carry of each charge: as their line was shared last, or else as the charges stand."""
    if not any(pieces.carried for pieces in kept.values()):
        return {}
    if not any(charge.base for charge in held):
        raise Refused("Part of this lot is sold and carries cost: its charges can’t come to nothing.", "basis")
    last = current_sharing(lot)
    parts = ChargeShare.objects.filter(share__sharing=last, charge__in=held, share__line__in=list(kept))
    before: dict[int, dict[int, Decimal]] = defaultdict(dict)
    for line_id, charge_id, amount in parts.values_list("share__line", "charge", "amount"):
        before[line_id][charge_id] = max(amount, Decimal(0))
    whole = [charge.base for charge in held]
    found = {}
    for line_id, pieces in kept.items():
        weights = [before[line_id].get(charge.pk, Decimal(0)) for charge in held]
        found[line_id] = allocate(pieces.carried, weights if any(weights) else whole)
    return found


def _stands(sharing: Sharing, lines: Sequence[LotLine], held: Sequence[LotCharge], result: SharedCost) -> bool:
    """Whether each line carries so much of each charge already."""
    rows = ChargeShare.objects.filter(share__sharing=sharing).values_list("share__line", "charge", "amount")
    return {(line, charge): amount for line, charge, amount in rows} == {
        (line.pk, charge.pk): amount
        for line, row in zip(lines, result.table, strict=True)
        for charge, amount in zip(held, row, strict=True)
        if amount
    }


def _keep_table(sharing: Sharing, lines: Sequence[LotLine], held: Sequence[LotCharge], result: SharedCost) -> None:
    """Write down what each line carries, and of which charge; parts of 0 are left out."""
    weights = weights_of([share_line(line) for line in lines], Basis(sharing.basis))
    LineShare.objects.bulk_create(
        [
            LineShare(sharing=sharing, line=line, weight=weight, amount=amount)
            for line, weight, amount in zip(lines, weights, result.shares, strict=True)
        ],
        batch_size=1000,
    )
    keys = dict(sharing.shares.values_list("line", "pk"))
    ChargeShare.objects.bulk_create(
        [
            ChargeShare(share_id=keys[line.pk], charge=charge, amount=amount)
            for line, row in zip(lines, result.table, strict=True)
            for charge, amount in zip(held, row, strict=True)
            if amount
        ],
        batch_size=2000,
    )


@dataclass(frozen=True)
class TableRow:
    line: LotLine
    parts: tuple[Decimal, ...]
    total: Decimal


@dataclass(frozen=True)
class ChargeTable:
    """Lines down, charges across. `others` stands for the lines that are not shown; everything adds up."""

    charges: tuple[LotCharge, ...]
    rows: tuple[TableRow, ...]
    others: tuple[Decimal, ...]
    totals: tuple[Decimal, ...]
    total: Decimal


def charge_table(sharing: Sharing, lines: Sequence[LotLine]) -> ChargeTable:
    """The table of a sharing for some of its lines: three queries, however many lines the lot has."""
    sums = dict(
        ChargeShare.objects.filter(share__sharing=sharing)
        .values_list("charge")
        .annotate(total=Sum("amount"))
        .order_by()
    )
    held = tuple(LotCharge.objects.filter(pk__in=sums))
    parts: dict[int, dict[int, Decimal]] = defaultdict(dict)
    shown = ChargeShare.objects.filter(share__sharing=sharing, share__line__in=lines)
    for line_id, charge_id, amount in shown.values_list("share__line", "charge", "amount"):
        parts[line_id][charge_id] = amount
    rows = []
    for line in lines:
        row = tuple(parts[line.pk].get(charge.pk, Decimal(0)) for charge in held)
        rows.append(TableRow(line, row, sum(row, Decimal(0))))
    totals = tuple(sums[charge.pk] for charge in held)
    others = tuple(total - sum(row.parts[c] for row in rows) for c, total in enumerate(totals))
    return ChargeTable(held, tuple(rows), others, totals, sum(totals, Decimal(0)))
