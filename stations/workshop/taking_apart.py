"""A unit that is worth more in parts: its cost passes on to the parts that are kept."""

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from django.db import transaction

from core.buying.odds import LineOutcome
from core.buying.share import Basis, ShareLine, share_cost
from core.flow.stage import GONE, Stage
from stations.buying.plans import record_outcome
from stations.common import clock
from stations.common.locking import lock_row
from stations.common.refusals import Refused
from stations.ledger.models import Account, EntryKind
from stations.ledger.selectors import balance
from stations.ledger.services import Leg, post
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.stock import drawer
from stations.stock.services import Sort, item_of
from stations.units import busy, parts, stages
from stations.units.costs import refuse_not_shared
from stations.units.models import Unit
from stations.units.tried import was_tried
from stations.workshop.models import RecoveredPart


@dataclass(frozen=True)
class SalvagedPart:
    """Pieces of one part that are kept, and what one of them is worth, in base currency."""

    name: str
    condition: str
    drawer: str
    quantity: int
    worth: Decimal
    keeps_data: bool = False


def shares(unit: Unit, salvaged: Sequence[SalvagedPart]) -> tuple[Decimal, tuple[Decimal, ...]]:
    """What the unit carries now, and what each part would carry of it: by worth, as a lot is shared over its lines."""
    cost = balance(Account.UNIT, unit.pk)
    lines = [ShareLine(p.quantity, worth_low=p.worth, worth_likely=p.worth, worth_high=p.worth) for p in salvaged]
    return cost, share_cost(cost, lines, Basis.VALUE).shares


@transaction.atomic
def take_apart(person: Person, unit: Unit, salvaged: Sequence[SalvagedPart]) -> list[RecoveredPart]:
    """Put the kept parts in their drawers, each with its share of what the unit carries. The unit is then gone, and
    single parts that were not moved out of it before."""
    require(person, "take a unit apart")
    unit = lock_row(Unit.objects.select_related("line__lot"), unit)
    if not unit.ours:
        raise Refused(f"It belongs to {unit.owner_name}; it is not ours to take apart.")
    if unit.stage in GONE or unit.stage == Stage.LISTED:
        raise Refused(f"It is {unit.get_stage_display()}; it can’t be taken apart.")
    if unit.approach != "donor":
        raise Refused("Only a donor is taken apart. Change the approach first, with a reason.")
    busy.refuse(unit, "It can’t be taken apart")
    refuse_not_shared(unit)
    if not salvaged:
        raise Refused("Name at least one part that is kept; if nothing is, write the unit off.")
    _, amounts = shares(unit, salvaged)
    kept = [_keep(person, unit, part, amount) for part, amount in zip(salvaged, amounts, strict=True)]
    parts.scrapped_with(person, unit)
    Unit.objects.filter(pk=unit.pk).update(scrapped_at=clock.now(), taken_apart_at=clock.now())
    record_outcome(unit.line, unit.number, LineOutcome.PARTS, tested=was_tried(unit))
    words = ", ".join(str(part) for part in kept)
    history.record(person, "workshop.take_apart", HistoryEntry.Subject.UNIT, unit.pk, f"Taken apart; kept: {words}")
    stages.refresh(unit)
    return kept


def _keep(person: Person, unit: Unit, part: SalvagedPart, amount: Decimal) -> RecoveredPart:
    item = item_of(Sort(part.name, part.condition, part.drawer, keeps_data=part.keeps_data))
    drawer.put(item, Decimal(part.quantity))
    legs = [
        Leg(Account.UNIT, unit.pk, EntryKind.PART_RECOVERED, -amount, unit.lot_id),
        Leg(Account.STOCK, item.pk, EntryKind.PART_RECOVERED, amount),
    ]
    return RecoveredPart.objects.create(
        unit=unit,
        item=item,
        quantity=part.quantity,
        cost=amount,
        posting=post(person, f"{part.quantity} × {part.name} out of {unit.tag}", legs),
        when=clock.now(),
        who=person,
    )
