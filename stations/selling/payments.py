"""Money that comes in for what was sold: whole, in parts, or paid out by a marketplace, less what that kept."""

from datetime import date
from decimal import Decimal

from django.db import transaction
from django.db.models import F

from stations.common import clock
from stations.common.happened import day_said, moment_on
from stations.common.locking import lock_row
from stations.common.refusals import Refused, reason, within
from stations.ledger.models import Account, EntryKind
from stations.ledger.services import Leg, post, reverse_posting
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.selling.models import FeeChange, Payment, Sale
from stations.units import stages
from stations.units.models import Unit


def hold(sale: Sale) -> Sale:
    """The sale as it now is, held after its unit."""
    lock_row(Unit.objects.all(), sale.unit)
    return lock_row(Sale.objects.select_related("unit", "channel"), sale)


@transaction.atomic
def take_payment(
    person: Person, sale: Sale, amount: Decimal, how: str = Payment.How.TRANSFER, on: date | None = None
) -> Payment:
    """Record what came in, today or on a day before; never more than is open."""
    require(person, "take a payment")
    sale = hold(sale)
    if not sale.stands:
        raise Refused(f"The sale ended: {sale.ended_words}. What came in has to go back.")
    if amount <= 0:
        raise Refused("A payment is of more than 0.", "amount")
    if amount > sale.owed:
        still = f"Only {sale.owed} is open" if sale.owed else "It is paid"
        raise Refused(f"{still}: record that much, and pay the rest back.", "amount")
    if how not in Payment.How:
        raise Refused("Say how it was paid.", "how")
    if how == Payment.How.CHANNEL and amount < sale.owed and amount == sale.passed_on:
        raise Refused(f"The {sale.fee_kept} that it kept belong to it: {sale.owed} were paid.", "amount")
    legs = [
        Leg(Account.CASH, 0, EntryKind.SALE, amount),
        Leg(Account.BUYER_OWES, sale.pk, EntryKind.SALE, -amount),
    ]
    came_at = moment_on(on, sale.unit.lot.bought_on, "bought")
    posting = post(person, f"{sale.unit.tag} payment", legs, clock.day_of(came_at))
    payment = Payment.objects.create(sale=sale, amount=amount, how=how, came_at=came_at, who=person, posting=posting)
    Sale.objects.filter(pk=sale.pk).update(paid=F("paid") + amount)
    left = sale.owed - amount
    words = f"{amount} paid by {payment.get_how_display()}" + (f", {left} open" if left else "") + day_said(came_at)
    history.record(person, "selling.take_payment", HistoryEntry.Subject.UNIT, sale.unit_id, words, amount=amount)
    stages.refresh(sale.unit)
    return payment


@transaction.atomic
def correct_fee(person: Person, sale: Sale, kept: Decimal, why: str) -> FeeChange:
    """A channel kept another fee than was reckoned with; also where the sale ended and it gave none back."""
    require(person, "take a payment")
    sale, why = hold(sale), reason(why)
    if kept < 0:
        raise Refused("This may not be below 0.", "kept")
    if kept > sale.price:
        raise Refused(f"It sold for {sale.price}: no channel keeps more.", "kept")
    if not (more := kept - sale.fee_kept):
        raise Refused("So much is in the books already.", "kept")
    legs = [
        Leg(Account.UNIT, sale.unit_id, EntryKind.FEE, more, sale.unit.lot_id),
        Leg(Account.CASH, 0, EntryKind.FEE, -more),
    ]
    change = FeeChange.objects.create(
        sale=sale,
        amount=more,
        why=why,
        when=clock.now(),
        who=person,
        posting=post(person, f"{sale.unit.tag} fee of {sale.channel}", legs),
    )
    Sale.objects.filter(pk=sale.pk).update(fee=F("fee") + more)
    words = f"{sale.channel} kept {kept}, not {sale.fee_kept}: {why}"
    history.record(person, "selling.correct_fee", HistoryEntry.Subject.UNIT, sale.unit_id, words, kept=kept, why=why)
    stages.refresh(sale.unit)
    return change


@transaction.atomic
def take_back_payment(person: Person, payment: Payment, why: str) -> None:
    """It did not come in, or for something else: its posting is reversed, and the sale is open again by so much."""
    require(person, "take a payment")
    sale = hold(payment.sale)
    if not sale.stands:
        raise Refused(f"The sale ended: {sale.ended_words}.")
    if not payment.may_be_taken_back:
        raise Refused("It was taken back already, or a marketplace said that it was paid: put that right there.")
    if sale.refunded:
        raise Refused("Something was refunded since, which rests on what was paid.")
    if not why:
        raise Refused("Say why: it stands in the books.", "why")
    if payment.posting is not None:
        reverse_posting(person, payment.posting, within(why, 120, "why"))
    Sale.objects.filter(pk=sale.pk).update(paid=F("paid") - payment.amount)
    words = f"Payment of {payment.amount} taken back: {why}"
    history.record(
        person,
        "selling.take_back_payment",
        HistoryEntry.Subject.UNIT,
        sale.unit_id,
        words,
        amount=payment.amount,
        why=why,
    )
    stages.refresh(sale.unit)
