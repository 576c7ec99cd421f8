"""The one row of what is agreed with every buyer."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from django.db import transaction

from stations.common.refusals import Refused
from stations.common.registry import Registry
from stations.dispatch.models import SaleTerms
from stations.people import history
from stations.people.models import HistoryEntry, Person
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


# Since when margins were accounted for as a whole in what was closed; None where nothing was.
counted_from: Registry[Callable[[], date | None]] = Registry("since when tax was closed")


def terms() -> SaleTerms:
    """The terms, made as a shop begins with when there are none yet."""
    return SaleTerms.objects.get_or_create(pk=1)[0]


@transaction.atomic
def change_terms(person: Person, seen_version: int, said: TermsDetails) -> SaleTerms:
    require(person, "change the terms of sale")
    row = terms()
    closed = next((day for asked in counted_from.values() if (day := asked())), None)
    if closed and said.global_since != row.global_since:
        raise Refused(f"Tax was closed from {closed:%-d %B %Y} on: what counts began then.", "global_since")
    history.changed(person, "dispatch.change_terms", HistoryEntry.Subject.SHOP, 0, "Terms of sale", row, vars(said))
    save_versioned(row, seen_version, vars(said))
    return row
