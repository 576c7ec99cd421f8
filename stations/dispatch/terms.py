"""The one row of what is agreed with every buyer."""

from stations.dispatch.models import SaleTerms
from stations.people.models import Person
from stations.people.permissions import require
from stations.people.screens import save_versioned


def terms() -> SaleTerms:
    """The terms, made as a shop begins with when there are none yet."""
    return SaleTerms.objects.get_or_create(pk=1)[0]


def change_terms(person: Person, seen_version: int, changes: dict) -> SaleTerms:
    require(person, "change the terms of sale")
    row = terms()
    save_versioned(row, seen_version, changes)
    return row
