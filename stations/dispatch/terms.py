"""The one row of what is agreed with every buyer."""

from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from stations.dispatch.models import SaleTerms
from stations.people.models import Person
from stations.people.permissions import require
from stations.people.screens import save_versioned


@dataclass(frozen=True)
class TermsDetails:
    """What is agreed: warranties, withdrawal and wiping in days; the worth from which there are two boxes in the shop's
    money; since when margins are accounted for as a whole, None where they are not."""

    address: str
    tax_number: str
    note_none: str
    note_standard: str
    note_margin: str
    thanks: str
    warranty_a: int
    warranty_b: int
    warranty_c: int
    warranty_d: int
    warranty_e: int
    warranty_untested: int
    warranty_parts: int
    withdrawal: int
    wipe_after: int
    two_boxes_from: Decimal
    period: str
    global_since: date | None


def terms() -> SaleTerms:
    """The terms, made as a shop begins with when there are none yet."""
    return SaleTerms.objects.get_or_create(pk=1)[0]


def change_terms(person: Person, seen_version: int, said: TermsDetails) -> SaleTerms:
    require(person, "change the terms of sale")
    row = terms()
    save_versioned(row, seen_version, vars(said))
    return row
