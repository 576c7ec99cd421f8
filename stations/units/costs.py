"""What each unit carries of its lot’s cost."""

from decimal import Decimal

from django.dispatch import receiver

from core.money import allocate
from stations.buying.models import Lot, LotLine
from stations.buying.sharing import RetainedCost, current_sharing, shared
from stations.ledger.models import Account, EntryKind
from stations.ledger.services import Leg, post, reverse_posting
from stations.people.models import Person
from stations.units.models import Unit

# A unit that left keeps its part of the lot’s cost, however the rest is shared again.
KEEPS_ITS_COST = {"sold", "sent", "closed", "scrapped"}


def carry_cost(person: Person, line: LotLine) -> None:
    """Move each received unit's part of its line's share onto the unit; an older move is reversed first.

    What is sold or written off keeps what it carries; the rest of the line's share goes over the rest.
    """
    sharing = current_sharing(line.lot)
    share = sharing.shares.filter(line=line).first() if sharing and sharing.posting_id else None
    units = list(line.units.select_related("share_posting").prefetch_related("share_posting__entries"))
    fast = {unit.line_index: _carried(unit) for unit in units if unit.stage in KEEPS_ITS_COST}
    others = [index for index in range(line.quantity) if index not in fast]
    to_share = share.amount - sum(fast.values(), Decimal(0)) if share else Decimal(0)
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


def _carried(unit: Unit) -> Decimal:
    """What a unit carries of its lot's cost."""
    entries = unit.share_posting.entries.all() if unit.share_posting else ()
    return sum((entry.amount for entry in entries if entry.account == Account.UNIT), Decimal(0))


def retained_of(lot: Lot) -> dict[int, RetainedCost]:
    """Sold and written-off units by line: how many, and what they carry."""
    gone = lot.units.filter(stage__in=KEEPS_ITS_COST).select_related("share_posting")
    kept: dict[int, RetainedCost] = {}
    for unit in gone.prefetch_related("share_posting__entries"):
        before = kept.get(unit.line_id, RetainedCost())
        kept[unit.line_id] = RetainedCost(before.pieces + 1, before.carried + _carried(unit))
    return kept


@receiver(shared)
def _shared_again(sender, lot: Lot, person: Person, **kwargs) -> None:
    for line in lot.lines.filter(received__gt=0).select_related("lot"):
        carry_cost(person, line)
