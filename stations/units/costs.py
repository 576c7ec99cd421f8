"""What each unit, and what went into drawers, carries of its lot’s cost."""

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from decimal import Decimal

from django.db.models import BooleanField, ExpressionWrapper, Sum
from django.dispatch import receiver

from core.books.earnings import LOT_SHARE
from core.flow.stage import BOUGHT, Stage, Station
from core.money import allocate, to_cent
from stations.buying.models import Lot, LotLine
from stations.buying.sharing import COST_UNKNOWN, TO_SHARE, RetainedCost, charged, current_sharing, shared
from stations.buying.taxed import shares_of
from stations.common.refusals import Refused
from stations.ledger.models import Account, EntryKind
from stations.ledger.selectors import balance, by_kind
from stations.ledger.services import Leg, post, reverse_posting
from stations.people.models import Person
from stations.stock import drawer
from stations.units import stages
from stations.units.models import DrawerReceipt, Unit

# A unit that left keeps its part of the lot’s cost, however the rest is shared again.
KEEPS_ITS_COST = BOUGHT | {Stage.SCRAPPED}


def carry_cost(person: Person, line: LotLine) -> None:
    """Move each received piece's part of its line's share onto the unit or the drawer it became; an older move is
    reversed first.

    What is sold, written off or used up keeps what it carries; the rest of the line's share goes over the rest.
    """
    sharing = current_sharing(line.lot)
    share = sharing.shares.filter(line=line).first() if sharing and sharing.posting_id else None
    units = list(line.units.select_related("share_posting").prefetch_related("share_posting__entries"))
    receipts = list(line.drawer_receipts.filter(undone_at=None).select_related("item", "posting"))
    used = [receipt for receipt in receipts if not untouched(receipt)]
    fast = {unit.line_index: _carried(unit) for unit in units if unit.stage in KEEPS_ITS_COST}
    kept = sum(fast.values(), Decimal(0)) + sum((receipt.cost for receipt in used), Decimal(0))
    gone = fast.keys() | {index for receipt in used for index in receipt.indexes}
    here = {unit.line_index for unit in units} | {index for receipt in receipts for index in receipt.indexes}
    others = sorted((here | set(free_indexes(line))) - gone)
    to_share = share.amount - kept if share else Decimal(0)
    parts = dict(zip(others, allocate(to_share, [Decimal(1)] * len(others)), strict=True)) if others else {}
    for unit in units:
        if unit.line_index in fast:
            continue
        amount = parts[unit.line_index]
        if unit.share_posting:
            if _carried(unit) == amount:
                continue
            reverse_posting(person, unit.share_posting, "lot shared again")
        legs = [
            Leg(Account.LINE, line.pk, EntryKind.TRANSFER, -amount, line.lot_id),
            Leg(Account.UNIT, unit.pk, EntryKind.TRANSFER, amount, line.lot_id),
        ]
        Unit.objects.filter(pk=unit.pk).update(share_posting=post(person, f"{unit.tag} share of {line.lot.code}", legs))
    for receipt in receipts:
        if receipt not in used:
            _carry_in_drawer(person, receipt, sum((parts[index] for index in receipt.indexes), Decimal(0)))


def _carry_in_drawer(person: Person, receipt: DrawerReceipt, amount: Decimal) -> None:
    """What pieces in a drawer carry of their line. It leaves the lot for the stock, as what is recovered of a unit."""
    if amount == receipt.cost:
        return
    if receipt.posting:
        reverse_posting(person, receipt.posting, "lot shared again")
    line = receipt.line
    legs = [
        Leg(Account.LINE, line.pk, EntryKind.PART_RECOVERED, -amount, line.lot_id),
        Leg(Account.STOCK, receipt.item_id, EntryKind.PART_RECOVERED, amount),
    ]
    posting = post(person, f"{receipt.item.name} from {line.lot.code}", legs)
    DrawerReceipt.objects.filter(pk=receipt.pk).update(cost=amount, posting=posting)


def untouched(receipt: DrawerReceipt) -> bool:
    """All that came from lots into its drawer may still be there: what one of them carries can be put right without
    anything below 0."""
    rows = DrawerReceipt.objects.filter(item=receipt.item_id, undone_at=None)
    sums = rows.aggregate(amount=Sum("amount"), cost=Sum("cost"))
    return bool(
        receipt.item.quantity >= (sums["amount"] or 0)
        and balance(Account.STOCK, receipt.item_id) >= (sums["cost"] or 0)
    )


def free_indexes(line: LotLine) -> list[int]:
    """Pieces of a line that are still to be received, by their place in it: the last ones are those that do not
    come."""
    taken = set(line.units.values_list("line_index", flat=True))
    for indexes in line.drawer_receipts.filter(undone_at=None).values_list("indexes", flat=True):
        taken |= set(indexes)
    free = [index for index in range(line.quantity) if index not in taken]
    return free[: len(free) - line.not_come]


def not_shared(units: Iterable[Unit]) -> dict[int, str]:
    """Of which units (by key) nobody knows what they cost, in words: what was paid for their lot is not recorded, or is
    not shared over its lines. One query."""
    rows = Lot.objects.filter(COST_UNKNOWN, pk__in={unit.lot_id for unit in units})
    rows = rows.annotate(to_share=ExpressionWrapper(TO_SHARE, BooleanField()))
    unknown = {lot.pk: lot for lot in rows}
    # What is not ours was not bought: only what was charged beside a price can be borne by it.
    return {
        unit.pk: _why_unknown(lot, unit.ours)
        for unit in units
        if (lot := unknown.get(unit.lot_id)) and (unit.ours or lot.to_share)
    }


def unpriced_in_drawers(ids: Iterable[int]) -> Mapping[int, list[drawer.Unpriced]]:
    """Of which drawers (by key) nobody knows what some of it cost: it came with a lot of which that is not known yet.
    One query."""
    unknown = Lot.objects.filter(COST_UNKNOWN)
    rows = DrawerReceipt.objects.filter(item__in=list(ids), undone_at=None, line__lot__in=unknown)
    found: dict[int, list[drawer.Unpriced]] = defaultdict(list)
    for row in rows.select_related("line__lot"):
        found[row.item_id].append(drawer.Unpriced(row.amount, _why_unknown(row.line.lot)))
    return found


def cost_unknown(unit: Unit) -> str:
    """Why nobody knows what the unit cost; empty where it is known."""
    return not_shared([unit]).get(unit.pk, "")


def _why_unknown(lot: Lot, bought: bool = True) -> str:
    if bought and not lot.priced:
        return f"nobody recorded what was paid for {lot.code}; a price of 0 says that it was nothing"
    return f"{lot.landed_total} was paid for {lot.code} and is not shared over its lines yet"


def refuse_not_shared(unit: Unit, field: str = "") -> None:
    """Refused while nobody knows what the unit cost: gone now, it would leave its part to the others of its lot."""
    if words := cost_unknown(unit):
        raise Refused(f"What it cost is not known: {words}. That comes first.", field)


def _carried(unit: Unit) -> Decimal:
    """What a unit carries of its lot's cost."""
    entries = unit.share_posting.entries.all() if unit.share_posting else ()
    return sum((entry.amount for entry in entries if entry.account == Account.UNIT), Decimal(0))


def purchase_of(units: Sequence[Unit], sums: Mapping[int, Mapping[str, Decimal]] | None = None) -> dict[int, Decimal]:
    """What counts as bought for, where tax is on the margin: of what each unit carries of its lot, the part that is
    price, and premium where that counts; `sums` by kind where they were read already. Four queries for all."""
    shares = shares_of({unit.line_id for unit in units})
    sums = by_kind(Account.UNIT, [unit.pk for unit in units]) if sums is None else sums
    carried = {unit.pk: sum((sums[unit.pk].get(kind, Decimal(0)) for kind in LOT_SHARE), Decimal(0)) for unit in units}
    return {
        unit.pk: to_cent(carried[unit.pk] * shares[unit.line_id][0] / shares[unit.line_id][1])
        if shares.get(unit.line_id, (0, 0))[1]
        else carried[unit.pk]
        for unit in units
    }


def retained_of(lot: Lot) -> dict[int, RetainedCost]:
    """Sold, written-off and used pieces by line: how many, and what they carry."""
    gone = lot.units.filter(stage__in=KEEPS_ITS_COST).select_related("share_posting")
    kept: dict[int, RetainedCost] = {}
    for unit in gone.prefetch_related("share_posting__entries"):
        before = kept.get(unit.line_id, RetainedCost())
        kept[unit.line_id] = RetainedCost(before.pieces + 1, before.carried + _carried(unit))
    for receipt in DrawerReceipt.objects.filter(line__lot=lot, undone_at=None).select_related("item"):
        if not untouched(receipt):
            before = kept.get(receipt.line_id, RetainedCost())
            kept[receipt.line_id] = RetainedCost(before.pieces + receipt.pieces, before.carried + receipt.cost)
    return kept


@receiver(shared)
def _shared_again(sender, lot: Lot, person: Person, **kwargs) -> None:
    for line in lot.lines.filter(received__gt=0).select_related("lot"):
        carry_cost(person, line)
    if lot.sharings.count() == 1:
        # What they cost is known from now on.
        _cost_known(lot)


@receiver(charged)
def _charged(sender, lot: Lot, **kwargs) -> None:
    _cost_known(lot)


def _cost_known(lot: Lot) -> None:
    """Whether it is known what units cost changed: those to be offered stand where they stand by it."""
    to_offer = lot.units.select_for_update().filter(station=Station.SELLING)
    stages.refresh(*to_offer.order_by("pk"), read_again=False)
