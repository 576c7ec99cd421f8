"""Who sells parts: what they are called, and what a parcel of theirs costs."""

from dataclasses import dataclass
from decimal import Decimal

from django.db import transaction
from django.db.models import Count, Q, QuerySet

from stations.common.locking import lock_row
from stations.common.refusals import Refused
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.stock.models import PartSeller

ORDER = HistoryEntry.Subject.ORDER


@dataclass(frozen=True)
class SellerDetails:
    """What a seller is called; what a parcel costs there, None while nobody asked, and from goods worth how much it
    costs nothing (None: always); base currency."""

    name: str
    postage: Decimal | None
    free_from: Decimal | None


def with_orders() -> QuerySet[PartSeller]:
    """Everybody who sells parts, with how many orders there were and how many are on their way: one query."""
    coming = Q(orders__arrived_at=None, orders__called_off="")
    found = PartSeller.objects.annotate(
        ordered=Count("orders", distinct=True), coming=Count("orders", filter=coming, distinct=True)
    )
    return found.order_by("name", "pk")


@transaction.atomic
def change_seller(person: Person, seller: PartSeller, said: SellerDetails, together: bool = False) -> PartSeller:
    """Put right what a seller is called, and what a parcel costs there. One that is there by that name already is the
    same one where `together` says so: then their orders are one record, and of two offers of one thing the newer
    counts."""
    require(person, "order parts")
    seller = lock_row(PartSeller.objects.all(), seller)
    for name, amount in (("postage", said.postage), ("free_from", said.free_from)):
        if amount is not None and amount < 0:
            raise Refused("This may not be below 0.", name)
    if said.free_from is not None and said.postage is None:
        raise Refused("Free from an amount, and else? Say what a parcel costs.", "postage")
    other = PartSeller.objects.select_for_update().filter(name=said.name).exclude(pk=seller.pk).first()
    if other is not None and not together:
        raise Refused(f"There is a {other.name} already. Tick the box if they are the same.", "together")
    orders = list(seller.orders.order_by("pk").values_list("pk", flat=True))
    if other is not None:
        _put_together(seller, other)
    kept = other or seller
    terms = {name: value for name, value in vars(said).items() if name != "name"}
    history.changed(person, "stock.change_seller", HistoryEntry.Subject.SHOP, 0, f"Seller {said.name}", kept, terms)
    PartSeller.objects.filter(pk=kept.pk).update(**vars(said))
    if said.name != seller.name:
        for pk in orders:
            words = f"Seller: {said.name}, was {seller.name}"
            history.record(person, "stock.change_seller", ORDER, pk, words)
    return kept


def _put_together(seller: PartSeller, other: PartSeller) -> None:
    there = {offer.want: offer for offer in other.offers.all()}
    for offer in seller.offers.all():
        twin = there.get(offer.want)
        if twin and twin.seen_at >= offer.seen_at:
            continue
        if twin:
            twin.delete()
        type(offer).objects.filter(pk=offer.pk).update(seller=other)
    seller.orders.update(seller=other)
    seller.delete()
