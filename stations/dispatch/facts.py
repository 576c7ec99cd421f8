"""What dispatch answers for: parcels that are packed, what can’t be sent as it is, returns that wait."""

from collections.abc import Iterable, Iterator, Mapping
from decimal import Decimal
from pathlib import Path

from django.db.models import Count, F
from django.urls import reverse

from core.flow.facts import DispatchFlow, FlowFacts
from core.selling.taking_back import Reason
from core.selling.warranty import Promised
from stations.backup import lost
from stations.dispatch import (
    selectors,
    warranty,  # answers what sales cost afterwards
)
from stations.dispatch.models import BankLine, Carrier, ParcelItem, ParcelPhoto, Return
from stations.dispatch.terms import terms
from stations.people import stopped
from stations.people.history import Place, places
from stations.people.models import Person
from stations.people.permissions import may
from stations.people.stopped import Stopped
from stations.selling import attention, market
from stations.selling.attention import Due
from stations.selling.models import Listing
from stations.selling.services import promises
from stations.units import picture_files, stages
from stations.units.models import Unit

__all__ = ["dispatch_flow", "warranty"]
# Parcels that are learned from. Common practice, no source.
NEWEST_SENT = 400


@lost.told_of.add("pictures of parcels")
def pictures() -> Iterator[Path]:
    return picture_files.both_of(ParcelPhoto.objects.values_list("sha256", flat=True))


@attention.after_sales.add("dispatch")
def due() -> list[Due]:
    """Buyers who wait first. One query each."""
    page = reverse("dispatch:dispatch")
    return [
        Due("to be settled, of what comes back", selectors.coming_back().count(), page + "#returns", pressing=True),
        Due("paid for and still here", selectors.kept_waiting().count(), page + "#pack", pressing=True),
        Due("payments overdue", selectors.payments_overdue().count(), page + "#pay"),
        Due("to be paid for", selectors.to_pay().count(), page + "#pay"),
        Due("sums at the bank to be placed", BankLine.objects.to_place().count(), reverse("dispatch:bank")),
        Due("overdue from marketplaces", selectors.overdue().count(), page + "#payouts"),
        Due("to be paid to owners", selectors.owners_to_pay().count(), page + "#owners"),
        Due("to pack and send", selectors.to_pack().count(), page + "#pack"),
        Due("in transit", selectors.on_the_way().count(), page + "#way"),
        Due("claimed from carriers", selectors.claims().count(), page + "#claims"),
    ]


@market.parcels_sent.add("dispatch")
def took_to_send() -> Iterator[tuple[int | None, str, Decimal]]:
    """Of parcels with one thing in them, what sending it came to: one query."""
    alone = ParcelItem.objects.filter(parcel__sent_at__isnull=False, parcel__by_hand=False)
    alone = alone.annotate(things=Count("parcel__items"), took=F("sale__postage") + F("postage_more"))
    newest = alone.filter(things=1).order_by("-parcel__sent_at", "-id")[:NEWEST_SENT]
    yield from newest.values_list("sale__unit__model_id", "sale__unit__form_factor", "took")


@promises.add("terms of sale")
def promised(grade: str) -> Promised:
    agreed = terms()
    return Promised(agreed.warranty(grade), agreed.withdrawal, not agreed.nobody_said)


@stopped.kinds.add("terms of sale")
def unsaid_terms(person: Person) -> list[Stopped]:
    """What is sold goes by what a shop begins with, and no paper can be issued: told once something is on offer."""
    agreed = terms()
    if not agreed.nobody_said or not may(person, "change the terms of sale"):
        return []
    if not Listing.objects.exclude(published_at=None).exists():
        return []
    words = f"Nobody said yet what buyers are promised ({agreed.promises}), nor who stands on receipts."
    return [Stopped(words, reverse("dispatch:terms"), "Say what it is")]


@stages.resting.add("dispatch")
def dispatch_flow(units: list[Unit], told: Mapping[int, FlowFacts]) -> dict[int, DispatchFlow]:
    """Of units that were sold: two queries for all of them, none where none was."""
    ids = [unit.pk for unit in units if told[unit.pk].selling.sold]
    if not ids:
        return {}
    back = {one.sale.unit_id: one for one in Return.objects.filter(open_for__unit_id__in=ids).select_related("sale")}
    items = ParcelItem.objects.filter(sale__open_for_id__in=ids)
    closed = dict(items.values_list("sale__unit_id", "parcel__closed_at"))
    return {
        unit_id: DispatchFlow(
            packed=closed.get(unit_id) is not None,
            coming_back=Reason(back[unit_id].reason).label if unit_id in back else "",
            here_again=unit_id in back and back[unit_id].is_here,
        )
        for unit_id in {*back, *closed}
    }


@places.add("carrier")
def carriers(keys: Iterable[int]) -> dict[int, Place]:
    rows = Carrier.objects.filter(pk__in=keys)
    return {row.pk: Place(row.name, reverse("dispatch:carrier", args=[row.pk])) for row in rows}
