"""Where the people of the shop are looked at, for the log."""

from collections.abc import Iterable

from django.urls import reverse
from django.utils import timezone

from stations.common import clock
from stations.people import stopped
from stations.people.history import Place, places
from stations.people.models import HistoryEntry, Person
from stations.people.stopped import SILENT, Stopped


@places.add("person")
def people(keys: Iterable[int]) -> dict[int, Place]:
    rows = Person.objects.filter(pk__in=keys)
    return {row.pk: Place(row.name, reverse("people:person", args=[row.pk])) for row in rows}


@stopped.kinds.add("clock")
def clock_gone_back(_: Person) -> list[Stopped]:
    """A machine that lost its battery or its network may begin at any day."""
    now, last = clock.now(), HistoryEntry.objects.order_by("-id").values_list("when", flat=True).first()
    if last is None or last - now < SILENT:
        return []
    told, was = (f"{timezone.localtime(moment):%d %b %Y, %H:%M}" for moment in (now, last))
    return [
        Stopped(
            f"The clock of this machine says {told}, and something was recorded {was}. Set it before anything else is"
            " recorded: sales, tax and what is waited for go by it."
        )
    ]
