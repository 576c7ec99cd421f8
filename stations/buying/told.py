"""What became of a lot that we left: what it went for, and how its pieces turned out, as far as one learns it."""

from collections.abc import Mapping
from decimal import Decimal

from django.db import transaction

from core.buying.odds import LineOutcome
from stations.buying.models import BidPlan, ToldOutcome
from stations.common.locking import lock_row
from stations.common.refusals import Refused
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.people.screens import save_versioned


@transaction.atomic
def record_told(
    person: Person,
    plan: BidPlan,
    seen_version: int,
    went_for: Decimal | None,
    told: Mapping[int, Mapping[LineOutcome, int]],
) -> None:
    """Keep what became of a lot we left: `told` has, by line, how many pieces are known to have turned out so. What
    nobody learned is left out and teaches nothing; the latest word stands for the earlier that it was typed over."""
    require(person, "plan a bid")
    plan = lock_row(BidPlan.objects.all(), plan)
    if plan.status != BidPlan.Status.LEFT:
        raise Refused(f"{plan.code} is {plan.get_status_display()}; this is asked of a lot that was left.")
    rows = []
    for line in plan.lines.all():
        counts = told.get(line.pk, {})
        if any(count < 0 for count in counts.values()):
            raise Refused("This may not be below 0.", f"told_{line.pk}_works")
        if sum(counts.values()) > line.quantity:
            raise Refused(
                f"“{line.description}” was for {line.quantity}; more can’t be known.", f"told_{line.pk}_works"
            )
        rows += [
            ToldOutcome(line=line, outcome=outcome.value, count=count) for outcome, count in counts.items() if count
        ]
    save_versioned(plan, seen_version, {"went_for": went_for})
    ToldOutcome.objects.filter(line__plan=plan).delete()
    ToldOutcome.objects.bulk_create(rows)
    words = f"Went for {'nobody knows' if went_for is None else went_for}; known of {sum(row.count for row in rows)}"
    history.record(person, "buying.record_told", HistoryEntry.Subject.PLAN, plan.pk, words)
