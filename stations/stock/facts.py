"""Where drawers and orders of parts are looked at, for the log."""

from collections.abc import Iterable

from django.urls import reverse

from stations.people.history import Place, places
from stations.stock.models import PartOrder, StockItem


@places.add("stock")
def drawers(keys: Iterable[int]) -> dict[int, Place]:
    rows = StockItem.objects.filter(pk__in=keys)
    return {row.pk: Place(row.name, reverse("stock:item", args=[row.pk])) for row in rows}


@places.add("order")
def orders(keys: Iterable[int]) -> dict[int, Place]:
    rows = PartOrder.objects.filter(pk__in=keys)
    return {row.pk: Place(row.code, reverse("stock:order", args=[row.number])) for row in rows}
