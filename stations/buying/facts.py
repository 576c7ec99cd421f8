"""Where lots and bids are looked at, for the log."""

from collections.abc import Iterable

from django.urls import reverse

from stations.buying.models import BidPlan, Lot
from stations.people.history import Place, places


@places.add("lot")
def lots(keys: Iterable[int]) -> dict[int, Place]:
    return {
        row.pk: Place(row.code, reverse("buying:lot", args=[row.number])) for row in Lot.objects.filter(pk__in=keys)
    }


@places.add("plan")
def plans(keys: Iterable[int]) -> dict[int, Place]:
    rows = BidPlan.objects.filter(pk__in=keys)
    return {row.pk: Place(row.code, reverse("buying:plan", args=[row.number])) for row in rows}
