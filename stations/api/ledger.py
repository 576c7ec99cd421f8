"""The book as other programs read it: postings, which never change."""

from collections.abc import Sequence
from datetime import date, datetime, timedelta
from typing import Annotated

from django.conf import settings
from django.db.models import QuerySet
from ninja import Field, Schema

from core.machine.tags import Tag
from stations.api.answers import Asked, Currency, LotCode, Money, PageOf, number_of
from stations.buying.models import Lot
from stations.common import clock
from stations.ledger.models import Account, EntryKind, LedgerEntry, Posting
from stations.units.models import Part, Unit

# A posting is told of when so much time has passed: one with a smaller number may still be on its way into the book,
# and a program that goes on after the greatest number would never read it. What anybody does takes seconds.
SETTLED = timedelta(minutes=2)


class EntryRecord(Schema):
    """One leg of a posting; those of one posting sum to nothing."""

    account: Account
    of: Annotated[
        str | None, Field(description="Which unit, lot or part, by its tag or code.", examples=[str(Tag(117))])
    ]
    key: Annotated[int, Field(description="By which key the account tells its things apart; of stock: the drawer.")]
    lot: Annotated[str | None, Field(description="To which lot’s result it belongs.")]
    kind: EntryKind
    amount: Annotated[Money, Field(description="Above 0: cost that stands there, or cash that came in.")]


class PostingRecord(Schema):
    """One event in the book. A correction is a posting of its own."""

    id: int
    written_at: datetime
    happened_on: Annotated[date, Field(description="The day on which it counts.")]
    by: str
    document: Annotated[str, Field(description="What it was, in words.")]
    reverses: Annotated[int | None, Field(description="The posting that it takes back.")]
    entries: list[EntryRecord]
    currency: Currency


class Postings(PageOf):
    """Postings in the order in which they were written; two minutes after that at the earliest."""

    items: list[PostingRecord]


class PostingsAsked(Asked):
    """Which postings are asked for: those of which all of this is so."""

    since: Annotated[date | None, Field(description="Happened on this day or later.")] = None
    until: Annotated[date | None, Field(description="Happened on this day or before.")] = None
    lot: Annotated[LotCode | None, Field(description="Belongs to the result of this lot, by its code: L-007.")] = None

    def postings(self) -> "QuerySet[Posting]":
        rows = Posting.objects.filter(when__lt=clock.now() - SETTLED)
        if self.since:
            rows = rows.filter(happened_on__gte=self.since)
        if self.until:
            rows = rows.filter(happened_on__lte=self.until)
        if self.lot:
            lots = Lot.objects.filter(number=number_of(self.lot)).values_list("pk", flat=True)
            rows = rows.filter(pk__in=LedgerEntry.objects.filter(lot_id__in=list(lots)).order_by().values("posting_id"))
        return rows.select_related("who").prefetch_related("entries")


def records(postings: Sequence[Posting]) -> list[PostingRecord]:
    """Each with its entries, and what these are of: three queries besides those of the postings."""
    entries = [entry for posting in postings for entry in posting.entries.all()]
    names = _Names(entries)
    return [
        PostingRecord(
            id=posting.pk,
            written_at=posting.when,
            happened_on=posting.happened_on,
            by=posting.who.name,
            document=posting.document,
            reverses=posting.reverses_id,
            entries=[names.record(entry) for entry in posting.entries.all()],
            currency=settings.BASE_CURRENCY,
        )
        for posting in postings
    ]


class _Names:
    """What things are called by which accounts tell of them; of one that is no more, nothing."""

    def __init__(self, entries: Sequence[LedgerEntry]) -> None:
        def keys(*accounts: Account) -> set[int]:
            return {entry.account_id for entry in entries if entry.account in accounts}

        units = Unit.objects.filter(pk__in=keys(Account.UNIT, Account.LOSS)).order_by()
        self.units = {pk: str(Tag(number)) for pk, number in units.values_list("pk", "number")}
        parts = Part.objects.filter(pk__in=keys(Account.PART)).only("number").order_by()
        self.parts = {part.pk: part.code for part in parts}
        lots = Lot.objects.filter(pk__in={entry.lot_id for entry in entries if entry.lot_id}).only("number").order_by()
        self.lots = {lot.pk: lot.code for lot in lots}

    def record(self, entry: LedgerEntry) -> EntryRecord:
        lot = self.lots.get(entry.lot_id or 0)
        named = {
            Account.UNIT: self.units.get(entry.account_id),
            Account.LOSS: self.units.get(entry.account_id),
            Account.PART: self.parts.get(entry.account_id),
            Account.LOT: lot,
            Account.LINE: lot,
        }
        return EntryRecord(
            account=Account(entry.account),
            of=named.get(Account(entry.account)),
            key=entry.account_id,
            lot=lot,
            kind=EntryKind(entry.kind),
            amount=entry.amount,
        )
