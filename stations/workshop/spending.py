"""Before money is spent: whether a part costs more than it adds, asked about once with the numbers."""

from collections.abc import Mapping, Sequence
from decimal import Decimal

from core.flow.stage import GONE
from core.workshop.worth import NOTHING
from stations.stock.models import StockItem
from stations.stock.selectors import stock_with_value
from stations.units.models import WantedPart
from stations.workshop.models import Job
from stations.workshop.proposals import changes_of
from stations.workshop.upgrades import Doubt, doubt_of

MOST = 40


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
    rows = WantedPart.objects.filter(name__in=list(priced), got_at=None, asked=False).exclude(unit__stage__in=GONE)
    each = {name.lower(): price for name, price in priced.items()}
    found = []
    for row in rows.select_related("unit__model")[:MOST]:
        doubt = doubt_of(row.unit, row.name, each[row.name.lower()] * row.quantity)
        if doubt:
            found.append(f"{row.unit.tag}: {doubt.words}")
    return found


def answered_orders(names: Sequence[str]) -> None:
    """They are ordered all the same: it is not asked again."""
    WantedPart.objects.filter(name__in=list(names), got_at=None).update(asked=True)
