"""Where the next step of a unit is done."""

from django.urls import reverse

from stations.units.models import Unit

# Where each kind of next step is done.
NEXT_PAGE = {
    "intake": "intake:unit",
    "bench": "bench:unit",
    "workshop": "workshop:unit",
    "selling": "selling:unit",
    "listing": "selling:unit",
    "sale": "selling:unit",
    "books": "books:unit",
}


def next_address(unit: Unit) -> str:
    return reverse(NEXT_PAGE.get(unit.next_kind, "floor:unit"), args=[unit.number])
