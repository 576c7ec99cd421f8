"""What the owner of a thing sold on commission gets of its price: paid, and put right where it was a mistake."""

from datetime import date
from decimal import Decimal

from django.db import transaction
from django.db.models import F

from stations.common import clock
from stations.common.happened import day_said, moment_on
from stations.common.refusals import Refused, reason
from stations.dispatch.models import OwnerPayment
from stations.ledger.models import Account, EntryKind
from stations.ledger.services import Leg, post, reverse_posting
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.selling.models import Sale
from stations.selling.payments import hold
from stations.units import stages

UNIT = HistoryEntry.Subject.UNIT


@transaction.atomic
def pay_owner(person: Person, sale: Sale, amount: Decimal, on: date | None = None) -> OwnerPayment:
    """Record what the owner was paid, today or on a day before, never more than is due; where too much was (something
    was refunded since), what the owner gave back."""
    require(person, "pay an owner")
    sale = hold(sale)
    due = sale.owner_due
    if amount <= 0:
        raise Refused("A payment is of more than 0.", "amount")
    if amount > abs(due):
        raise Refused(f"Only {abs(due)} is due." if due else "Nothing is due.", "amount")
    when = moment_on(on, sale.sold_at, "sold")
    moved = amount if due > 0 else -amount
    legs = [
        Leg(Account.OWNER_OWED, 0, EntryKind.PAYOUT, moved),
        Leg(Account.CASH, 0, EntryKind.PAYOUT, -moved),
    ]
    posting = post(person, f"{sale.unit.tag} paid to its owner", legs, clock.day_of(when))
    paid = OwnerPayment.objects.create(sale=sale, amount=moved, when=when, who=person, posting=posting)
    Sale.objects.filter(pk=sale.pk).update(owner_paid=F("owner_paid") + moved)
    words = f"{amount} paid to its owner" if moved > 0 else f"{amount} came back from its owner"
    words += day_said(when)
    history.record(person, "dispatch.pay_owner", UNIT, sale.unit_id, words, amount=moved)
    stages.refresh(sale.unit)
    return paid


@transaction.atomic
def take_back_owner_payment(person: Person, paid: OwnerPayment, why: str) -> None:
    """It was another sum, or another owner’s: its posting is reversed, and so much is due again."""
    require(person, "pay an owner")
    sale, why = hold(paid.sale), reason(why)
    paid = OwnerPayment.objects.select_related("posting__reversed_by").get(pk=paid.pk)
    if paid.taken_back or paid.posting is None:
        raise Refused("It was taken back already.")
    if not 0 <= sale.owner_paid - paid.amount <= sale.owners_part:
        raise Refused("Money came back from the owner after it: take that back first.")
    reverse_posting(person, paid.posting, why)
    Sale.objects.filter(pk=sale.pk).update(owner_paid=F("owner_paid") - paid.amount)
    words = f"Payment of {paid.amount} to its owner taken back: {why}"
    history.record(person, "dispatch.take_back_owner_payment", UNIT, sale.unit_id, words, amount=paid.amount, why=why)
    stages.refresh(sale.unit)
