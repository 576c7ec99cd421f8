"""What is taken off a price after the sale: paid back as far as it was paid, with fee, tax and an owner’s part."""

from datetime import date
from decimal import Decimal

from django.db import transaction
from django.db.models import F, Q, Sum

from core.money import ZERO, to_cent
from core.selling.price import SellingTerms, tax_within
from core.selling.taking_back import Reason, Whose
from stations.common import clock
from stations.common.happened import day_said, moment_on
from stations.common.refusals import Refused, reason, within
from stations.dispatch import receipts
from stations.dispatch.models import Refund, Return
from stations.ledger.models import Account, EntryKind
from stations.ledger.services import Leg, post, reverse_posting
from stations.people import history
from stations.people.models import HistoryEntry, Person, TaxScheme
from stations.people.permissions import require
from stations.selling import price_steps
from stations.selling.models import Comparable, Listing, Sale
from stations.selling.payments import hold
from stations.units import stages

UNIT = HistoryEntry.Subject.UNIT


@transaction.atomic
def refund(
    person: Person,
    sale: Sale,
    amount: Decimal,
    why: str,
    *,
    fee_back: Decimal = ZERO,
    postage_back: Decimal = ZERO,
    back: Return | None = None,
    on: date | None = None,
) -> Refund:
    """Take an amount off the price, today or on a day before; what was paid of it goes back. Never more than the thing
    costs now."""
    require(person, "settle a return")
    sale, why = hold(sale), within(why.strip(), 200, "why")
    if not why:
        raise Refused("Say what it is for: it stands on the credit note.", "why")
    if amount <= 0:
        raise Refused("A refund is of more than 0.", "amount")
    if amount > sale.costs:
        raise Refused(f"It costs {sale.costs} now: no more than that can be paid back.", "amount")
    when, fee_left = moment_on(on, sale.sold_at, "sold"), sale.fee_kept
    if not ZERO <= fee_back <= fee_left:
        raise Refused(f"Of the fee {fee_left} can come back at most.", "fee_back")
    owners = sale.owners_part - sale.owner_back
    owner_back = to_cent(owners * amount / sale.costs)
    after = sale.costs - amount
    tax_back = receipts.tax_left(sale) - tax_on(sale, after, owners - owner_back)
    paid_back = max(ZERO, sale.paid - after)
    given = Refund.objects.create(
        sale=sale,
        back=back,
        amount=amount,
        paid_back=paid_back,
        fee_back=fee_back,
        tax_back=tax_back,
        owner_back=owner_back,
        postage_back=postage_back,
        why=why,
        when=when,
        who=person,
        credit=receipts.credit(person, sale, amount, tax_back, why),
    )
    given.posting = post(person, f"{sale.unit.tag} refund", _legs(given), clock.day_of(when))
    given.save(update_fields=["posting"])
    if back is not None and back.whose == Whose.OURS:
        Return.objects.filter(pk=back.pk).update(warranty=True)
    Sale.objects.filter(pk=sale.pk).update(
        refunded=F("refunded") + amount,
        paid=F("paid") - paid_back,
        fee_back=F("fee_back") + fee_back,
        owner_back=F("owner_back") + owner_back,
    )
    words = f"{amount} taken off: {why}" + (f"; {paid_back} paid back" if paid_back else "") + day_said(when)
    history.record(person, "dispatch.refund", UNIT, sale.unit_id, words, amount=amount, paid_back=paid_back)
    _compare_anew(sale)
    stages.refresh(sale.unit)
    return given


@transaction.atomic
def take_back(person: Person, given: Refund, why: str, *, instead: bool = False) -> None:
    """It was another sum, or another sale’s: its posting is reversed, and where a receipt was issued another paper
    says that so much is owed again. The newest goes first: tax and an owner’s part of one rest on those before it.
    Where another stands `instead` in a moment, the sale may have ended."""
    require(person, "settle a return")
    sale, why = hold(given.sale), reason(why)
    if not (sale.stands or instead):
        raise Refused(f"The sale ended: {sale.ended_words}.")
    standing = sale.refunds.standing()
    if not standing.filter(pk=given.pk).exists():
        raise Refused("It was taken back already.")
    if later := standing.filter(pk__gt=given.pk).last():
        raise Refused(f"{later.amount} were taken off after it: take that back first.")
    if given.posting is not None:
        reverse_posting(person, given.posting, why, given.posting.happened_on if instead else None)
    receipts.owed_again(person, sale, given.amount, given.tax_back)
    Sale.objects.filter(pk=sale.pk).update(
        refunded=F("refunded") - given.amount,
        paid=F("paid") + given.paid_back,
        fee_back=F("fee_back") - given.fee_back,
        owner_back=F("owner_back") - given.owner_back,
    )
    words = f"Refund of {given.amount} taken back: {why}"
    history.record(person, "dispatch.take_back", UNIT, sale.unit_id, words, amount=given.amount, why=why)
    _compare_anew(sale)
    stages.refresh(sale.unit)


def _compare_anew(sale: Sale) -> None:
    """Others are compared with what it fetched: less what was taken off the price, then or because of what it is. With
    one that ended nothing is."""
    if not sale.stands:
        return
    telling = [reason for reason in Reason if reason.tells_of_the_price]
    of_the_price = Q(back=None) | Q(back__reason__in=telling)
    off = sale.refunds.standing().filter(of_the_price).aggregate(all=Sum("amount"))["all"] or ZERO
    price_steps.sold_for(sale.unit, sale.price - off)
    if sale.comparable_id:
        Comparable.objects.filter(pk=sale.comparable_id).update(price=sale.price - off)


def _legs(given: Refund) -> list[Leg]:
    unit, lot, sale = given.sale.unit_id, given.sale.unit.lot_id, given.sale_id
    legs = [
        Leg(Account.UNIT, unit, EntryKind.REFUND, given.amount, lot),
        Leg(Account.BUYER_OWES, sale, EntryKind.REFUND, given.paid_back - given.amount),
        Leg(Account.CASH, 0, EntryKind.REFUND, -given.paid_back),
    ]
    for kind, account, amount in (
        (EntryKind.FEE, Account.CASH, given.fee_back),
        (EntryKind.POSTAGE, Account.CASH, given.postage_back),
        (EntryKind.TAX, Account.TAX_OWED, given.tax_back),
        (EntryKind.PAYOUT, Account.OWNER_OWED, given.owner_back),
    ):
        legs += [Leg(Account.UNIT, unit, kind, -amount, lot), Leg(account, 0, kind, amount)]
    return legs


def tax_on(sale: Sale, price: Decimal, owners: Decimal = ZERO) -> Decimal:
    """The tax on the sale if it had been for this price, `owners` of it an owner’s. Where what it was bought for was
    not kept, the part of the tax that was posted."""
    if sale.tax_scheme == TaxScheme.GLOBAL:
        return ZERO
    if sale.tax_basis is None:
        return to_cent(sale.tax * price / sale.price)
    terms = SellingTerms(ZERO, tax_scheme=sale.tax_scheme, tax_percent=sale.tax_percent)
    return tax_within(price - owners, sale.tax_basis, terms)


@transaction.atomic
def call_off(person: Person, sale: Sale, why: str) -> None:
    """The sale comes to nothing before anything was sent: all of it is undone, and the unit can be offered again."""
    require(person, "call a sale off")
    sale, why = hold(sale), within(why.strip(), 160, "why")
    if not why:
        raise Refused("Say why: the reason stays in the record.", "why")
    if not sale.stands:
        raise Refused(f"The sale ended: {sale.ended_words}.")
    if sale.sent_at:
        raise Refused("It was sent. What comes back is a return.")
    if sale.costs:
        refund(person, sale, sale.costs, f"called off: {why}", fee_back=sale.fee_kept, postage_back=sale.postage)
    end_sale(sale, f"called off: {why}")
    price_steps.not_sold(sale.unit)
    history.record(person, "dispatch.call_off", UNIT, sale.unit_id, f"Sale called off: {why}")
    stages.refresh(sale.unit)


def end_sale(sale: Sale, words: str) -> None:
    """It is no sale any more: nothing is compared with it, and the unit’s listing can be published anew. The caller
    holds both."""
    comparable = sale.comparable
    Sale.objects.filter(pk=sale.pk).update(
        open_for=None, ended_at=clock.now(), ended_words=words[:200], comparable=None
    )
    if comparable:
        comparable.delete()
    Listing.objects.filter(unit=sale.unit_id, status=Listing.Status.SOLD).update(status=Listing.Status.ENDED)
