"""Posting to the book. Nothing is ever changed here, only added."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date
from decimal import Decimal

from django.db import transaction

from stations.common import clock
from stations.common.refusals import Refused, shortened
from stations.ledger.models import Account, EntryKind, LedgerEntry, Posting
from stations.people.models import Person


@dataclass(frozen=True)
class Leg:
    """One side of a posting: base currency, above 0 where cost comes to stand or cash comes in."""

    account: Account
    account_id: int
    kind: EntryKind
    amount: Decimal
    lot_id: int | None = None


@transaction.atomic
def post(person: Person, document: str, legs: Sequence[Leg], on: date | None = None) -> Posting | None:
    """Write one posting, of what happened `on` a day; None for today. Legs of 0 are left out; None when nothing is
    left.

    Raises ValueError when the legs don't sum to nothing: that is a fault in the caller, never in the data.
    """
    written = [leg for leg in legs if leg.amount]
    if sum(leg.amount for leg in written) != 0:
        raise ValueError(f"“{document}” does not balance.")
    if not written:
        return None
    posting = Posting.objects.create(
        when=clock.now(), happened_on=on or clock.today(), who=person, document=shortened(document, 200)
    )
    _write(posting, written)
    return posting


@transaction.atomic
def reverse_posting(person: Person, posting: Posting, why: str, on: date | None = None) -> Posting:
    """Undo a posting by its mirror image, which counts today: what a past day came to stays as it was told, but where
    `on` is that of the posting, as another takes its place. Raises Refused when it was reversed before."""
    if Posting.objects.select_for_update().filter(reverses=posting).exists():
        raise Refused("This was reversed already. Load the page again.")
    mirror = Posting.objects.create(
        when=clock.now(),
        happened_on=on or clock.today(),
        who=person,
        document=shortened(f"Reversal of {posting.document}: {why}", 200),
        reverses=posting,
    )
    _write(mirror, [replace(leg, amount=-leg.amount) for leg in legs_of(posting)])
    return mirror


@transaction.atomic
def move_posting(person: Person, posting: Posting, on: date, why: str) -> Posting | None:
    """What was posted happened on another day: it is reversed on the day on which it stands, and written for that."""
    reverse_posting(person, posting, why, posting.happened_on)
    return post(person, posting.document, legs_of(posting), on)


def legs_of(posting: Posting) -> list[Leg]:
    return [
        Leg(Account(entry.account), entry.account_id, EntryKind(entry.kind), entry.amount, entry.lot_id)
        for entry in posting.entries.all()
    ]


def _write(posting: Posting, legs: Sequence[Leg]) -> None:
    LedgerEntry.objects.bulk_create(
        LedgerEntry(
            posting=posting,
            account=leg.account,
            account_id=leg.account_id,
            lot_id=leg.lot_id,
            kind=leg.kind,
            amount=leg.amount,
            happened_on=posting.happened_on,
        )
        for leg in legs
    )
