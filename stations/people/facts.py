"""Where the people of the shop are looked at, for the log."""

from collections.abc import Iterable

from django.urls import reverse

from stations.people.history import Place, places
from stations.people.models import Person


@places.add("person")
def people(keys: Iterable[int]) -> dict[int, Place]:
    rows = Person.objects.filter(pk__in=keys)
    return {row.pk: Place(row.name, reverse("people:person", args=[row.pk])) for row in rows}
