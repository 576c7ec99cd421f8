"""What is still in warranty, and what answering for sales has cost, by grade."""

from datetime import date
from decimal import Decimal

from django.db.models import Count, F, Sum
from django.db.models.functions import Coalesce

from core.money import ZERO
from core.selling.grade import Grade
from core.selling.warranty import Answered, Term, cost_of_a_sale
from stations.common import clock
from stations.dispatch.models import Refund, Return
from stations.selling import market
from stations.selling.models import Sale


def term_of(sale: Sale) -> Term | None:
    """Its warranty, from the day it arrived (or was sent); None before that."""
    begun = sale.closed_at or sale.sent_at
    return Term(clock.day_of(begun), sale.warranty_days) if begun else None


def days_left(sale: Sale, today: date | None = None) -> int:
    term = term_of(sale)
    return term.left_on(today or clock.today()) if term else 0


def answered() -> dict[Grade, Answered]:
    """For each grade how many were sent, and what those cost that came back for what we answer for: the way back, the
    work and the parts, what was paid back of a thing that stayed with its buyer, and postage that was lost. Three
    queries."""
    sent = dict(Sale.objects.filter(sent_at__isnull=False).order_by().values_list("grade").annotate(n=Count("id")))
    cost: dict[str, Decimal] = {}
    warranty = Return.objects.filter(warranty=True)
    # What sending it took in the end, not what was reckoned with.
    took = F("sale__postage") + Coalesce(F("sale__parcel_item__postage_more"), ZERO)
    own, lost = Sum(F("cost") + F("mending")), Sum(took)
    for grade, spent, postage in warranty.order_by().values_list("sale__grade").annotate(own=own, lost=lost):
        cost[grade] = spent + postage
    stayed = Refund.objects.standing().filter(back__warranty=True, back__taken_back=False)
    for grade, amount in stayed.order_by().values_list("sale__grade").annotate(amount=Sum("amount")):
        cost[grade] = cost.get(grade, ZERO) + amount
    return {Grade(grade): Answered(number, cost.get(grade, ZERO)) for grade, number in sent.items() if grade}


@market.answered_for.add("dispatch")
def reckoned(grade: Grade) -> Decimal:
    """What answering for one more sale of a grade is reckoned to cost."""
    return cost_of_a_sale(answered(), grade)
