"""What the workshop pages read. Query counts don't grow with rows."""

from django.db.models import Sum

from stations.intake.models import Unit
from stations.ledger.models import Account
from stations.ledger.selectors import balances
from stations.workshop.models import Job, LabourEntry, StockItem


def jobs_of(unit: Unit):
    """The unit's jobs, open ones first, with their parts, labour and minutes so far."""
    return (
        Job.objects.filter(unit=unit)
        .select_related("finding")
        .prefetch_related("issues__item", "labour__person")
        .annotate(minutes=Sum("labour__minutes"))
        .order_by("done_at", "opened_at")
    )


def stock_with_value(items: list[StockItem]) -> list[tuple]:
    """Each item with what it is worth in the books: one query for all."""
    worth = balances(Account.STOCK, [item.pk for item in items])
    return [(item, worth[item.pk]) for item in items]


def running_clock(person):
    """The person's running clock, with its job and unit, or None."""
    return LabourEntry.objects.filter(running_for=person).select_related("job__unit").first()
