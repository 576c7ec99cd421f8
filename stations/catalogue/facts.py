"""Where models and sheets of parts are looked at, for the log."""

from collections.abc import Iterable

from django.urls import reverse

from stations.catalogue.models import MachineModel, PartSheet
from stations.people.history import Place, places


@places.add("model")
def models(keys: Iterable[int]) -> dict[int, Place]:
    rows = MachineModel.objects.filter(pk__in=keys)
    return {row.pk: Place(str(row), reverse("catalogue:model", args=[row.pk])) for row in rows}


@places.add("sheet")
def sheets(keys: Iterable[int]) -> dict[int, Place]:
    rows = PartSheet.objects.filter(pk__in=keys)
    return {row.pk: Place(row.name, reverse("catalogue:part-sheet", args=[row.pk])) for row in rows}
