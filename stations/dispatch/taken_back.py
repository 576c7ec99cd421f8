"""What was said of a parcel by mistake, taken back: that it was sent, that it arrived, that it broke, what was paid."""

from django.db import transaction

from core.money import ZERO
from stations.common.refusals import Refused, reason
from stations.dispatch import parcels
from stations.dispatch.models import Parcel, ParcelItem, Return
from stations.ledger.services import reverse_posting
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.selling.models import Sale

UNIT = HistoryEntry.Subject.UNIT


@transaction.atomic
def not_arrived(person: Person, parcel: Parcel, why: str) -> None:
    """It is not there: what is in it is on its way again."""
    require(person, "close a sale")
    _not_arrived(person, parcel, reason(why))


def _not_arrived(person: Person, parcel: Parcel, why: str) -> None:
    parcel = parcels.held(parcel)
    sales = parcels.sales_in(parcel)
    if parcel.arrived_at is None:
        raise Refused("Nobody said that it arrived.")
    _refuse_rested_on(sales)
    if any(sale.wiped_at for sale in sales):
        raise Refused("The buyer’s name and address were wiped since: they are kept no longer than that.")
    Parcel.objects.filter(pk=parcel.pk).update(arrived_at=None, version=parcel.version + 1)
    Sale.objects.filter(pk__in=[sale.pk for sale in sales]).update(closed_at=None)
    for unit_id in parcels.units_in(parcel):
        history.record(person, "dispatch.not_arrived", UNIT, unit_id, f"Not there after all: {why}", why=why)
    parcels.refresh(parcel)


@transaction.atomic
def not_sent(person: Person, parcel: Parcel, why: str) -> None:
    """It is still here: what sending it cost is taken out of the books, and it can be sent, or handed over, again."""
    require(person, "send a parcel")
    parcel, why = parcels.held(parcel), reason(why)
    sales = parcels.sales_in(parcel)
    if parcel.sent_at is None:
        raise Refused("Nobody said that it was sent.")
    if parcel.damage_at:
        raise Refused("It is said to be broken or lost on the way. Take that back first.")
    if parcel.arrived_at:
        # Who handed it over said that it is there with that.
        (_not_arrived if parcel.by_hand else not_arrived)(person, parcel, why)
        parcel = parcels.held(parcel)
    _refuse_rested_on(sales)
    if parcel.posting:
        reverse_posting(person, parcel.posting, why)
    Parcel.objects.filter(pk=parcel.pk).update(
        sent_at=None,
        carrier=None,
        price=None,
        cover=None,
        tracking="",
        by_hand=False,
        posting=None,
        version=parcel.version + 1,
    )
    parcel.items.update(postage_more=ZERO)
    Sale.objects.filter(pk__in=[sale.pk for sale in sales]).update(sent_at=None, tracking="")
    for unit_id in parcels.units_in(parcel):
        history.record(person, "dispatch.not_sent", UNIT, unit_id, f"Not sent after all: {why}", why=why)
    parcels.refresh(parcel)


@transaction.atomic
def not_broken(person: Person, parcel: Parcel, why: str) -> None:
    """It arrived whole, or another parcel was meant: nothing is claimed. Its pictures stay."""
    require(person, "claim from a carrier")
    parcel, why = parcels.held(parcel), reason(why)
    if parcel.damage_at is None:
        raise Refused("Nobody said that it is broken or lost.")
    if parcel.paid_back is not None:
        raise Refused(f"The carrier paid {parcel.paid_back} for it. Take that back first.")
    Parcel.objects.filter(pk=parcel.pk).update(
        damage="", lost=False, damage_at=None, claimed=None, version=parcel.version + 1
    )
    for unit_id in parcels.units_in(parcel):
        history.record(
            person, "dispatch.not_broken", UNIT, unit_id, f"Neither broken nor lost after all: {why}", why=why
        )
    parcels.refresh(parcel)


@transaction.atomic
def claim_not_paid(person: Person, parcel: Parcel, why: str) -> None:
    """The carrier did not pay, or paid another sum: it is taken out of the books, and still claimed."""
    require(person, "claim from a carrier")
    parcel, why = parcels.held(parcel), reason(why)
    if parcel.paid_back is None:
        raise Refused("Nobody said that the carrier paid.")
    if parcel.claim_posting:
        reverse_posting(person, parcel.claim_posting, why)
    Parcel.objects.filter(pk=parcel.pk).update(paid_back=None, claim_posting=None, version=parcel.version + 1)
    ParcelItem.objects.filter(parcel=parcel).update(claim_part=ZERO)
    said = f"{parcel.paid_back} of the carrier" if parcel.paid_back else "That the carrier pays nothing"
    words = f"{said} taken back: {why}"
    for unit_id in parcels.units_in(parcel):
        history.record(person, "dispatch.claim_not_paid", UNIT, unit_id, words, amount=parcel.paid_back, why=why)
    parcels.refresh(parcel)


def _refuse_rested_on(sales: list[Sale]) -> None:
    """What came back, or money that was given back, rests on its having been sent."""
    if Return.objects.filter(sale__in=sales).exists():
        raise Refused("The buyer asked to give it back: that rests on it.")
    ended = next((sale for sale in sales if not sale.stands), None)
    if ended:
        raise Refused(f"The sale ended: {ended.ended_words}.")
