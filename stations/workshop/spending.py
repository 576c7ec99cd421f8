"""Before money is spent: whether a part costs more than it adds, asked about once with the numbers."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal

from core.flow.stage import CLOSED_TO_WORK
from core.machine.names import as_seen
from core.money import ZERO, to_cent
from core.workshop.upgrades.candidates import Kind, Source
from core.workshop.upgrades.candidates import Part as CouldBe
from core.workshop.worth import NOTHING, Changes
from stations.catalogue.fit_sheets import needs_of, sheets_of
from stations.stock.models import StockItem
from stations.stock.selectors import stock_with_value
from stations.units.models import Unit, WantedPart
from stations.workshop.models import Job
from stations.workshop.proposals import changes_of
from stations.workshop.upgrade_parts import buyers_for, worth_of
from stations.workshop.worth import appraisal_of

MOST = 40


@dataclass(frozen=True)
class Doubt:
    """More would be spent than it adds, with the numbers; `buyer` is who pays most for it."""

    name: str
    cost: Decimal
    adds: Decimal
    buyer: str

    @property
    def words(self) -> str:
        if self.adds < 0:
            return f"{self.name} costs {self.cost} and takes {-self.adds} from the price, whoever buys it."
        said = (
            f"adds {self.adds} for the buyer who pays most for it ({self.buyer})"
            if self.adds
            else "adds nothing for any buyer"
        )
        return f"{self.name} costs {self.cost} and {said}."


def doubt_of(unit: Unit, name: str, cost: Decimal, changes: Changes = NOTHING) -> Doubt | None:
    """Whether a part costs more than it adds for every buyer; None where it does not, or where that is not known.
    `changes`: what the job it is for changes of the record beside."""
    sheet = sheets_of([name]).get(as_seen(name))
    appraisal = appraisal_of(unit) if sheet else None
    if sheet is None or appraisal is None:
        return None
    could = [CouldBe(sheet.name, needs_of(sheet), (Source(Kind.DRAWER, "", cost),))]
    _, worth = worth_of(unit, could, appraisal)
    then = appraisal.at(replace(changes, worked=False)) if changes.any else None
    if worth is None:
        return None
    lift = then.likely - worth.price if then else ZERO
    best: tuple[Decimal, str] | None = None
    for buyer in buyers_for(worth.price, appraisal).values():
        several = [worth.for_buyer(one, buyer).adds for one in worth.candidates]
        if not several or None in several:
            return None
        adds = max(one for one in several if one is not None) + lift
        best = max(best, (adds, buyer.name)) if best else (adds, buyer.name)
    return Doubt(name, to_cent(cost), best[0], best[1]) if best and best[0] < cost else None


def doubt_of_issue(job: Job, item: StockItem, amount: Decimal) -> Doubt | None:
    """Whether so much of a drawer costs more than it adds to the unit of a job. None where that was asked before, and
    where the job was planned as one of a set: then it was decided with the others."""
    if item.pk in job.asked_spending or (job.said_to_add is not None and job.said_to_add > 0):
        return None
    each = next((each for _, _, each in stock_with_value([item])), None)
    if not each or not item.in_pieces:
        return None
    return doubt_of(job.unit, item.name, round(each * amount, 2), changes_of(job) if job.source else NOTHING)


def asked_before(job: Job, item: StockItem) -> None:
    """It is spent all the same: it is not asked again."""
    if item.pk not in job.asked_spending:
        Job.objects.filter(pk=job.pk).update(asked_spending=[*job.asked_spending, item.pk])


def doubts_of_orders(priced: Mapping[str, Decimal]) -> list[str]:
    """Of parts that are wanted for units, priced each: which cost more than they add, and to which unit."""
    rows = WantedPart.objects.filter(name__in=list(priced), got_at=None, asked=False)
    rows = rows.exclude(unit__stage__in=CLOSED_TO_WORK)
    each = {as_seen(name): price for name, price in priced.items()}
    found = []
    for row in rows.select_related("unit__model")[:MOST]:
        doubt = doubt_of(row.unit, row.name, each[as_seen(row.name)] * row.quantity)
        if doubt:
            found.append(f"{row.unit.tag}: {doubt.words}")
    return found


def answered_orders(names: Sequence[str]) -> None:
    """They are ordered all the same: it is not asked again."""
    WantedPart.objects.filter(name__in=list(names), got_at=None).update(asked=True)
