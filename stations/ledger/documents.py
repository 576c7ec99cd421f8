"""What posts into the book, and what it must have posted: each kind of document has one owner, and all are proved."""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from decimal import Decimal

from django.db.models import Sum

from core.money import ZERO
from stations.common.registry import Registry
from stations.ledger.models import Account, EntryKind, LedgerEntry


@dataclass(frozen=True)
class Document:
    """One paper and the amounts (base currency, as they stand in the book) that it put on one kind of account."""

    name: str
    posting_id: int | None
    amounts: Mapping[EntryKind, Decimal]
    account: Account = Account.UNIT


@dataclass(frozen=True)
class Complaint:
    what: str
    words: str


# Every document of its kind, in a fixed number of queries.
documents: Registry[Callable[[], Iterable[Document]]] = Registry("documents that post")


def disagreements() -> list[Complaint]:
    """Amounts that a document says and its posting does not: one query beside those of the documents."""
    posted: dict[tuple[int, str, str], Decimal] = {}
    rows = LedgerEntry.objects.values_list("posting_id", "account", "kind").annotate(total=Sum("amount"))
    for posting_id, account, kind, total in rows.order_by():
        posted[posting_id, account, kind] = total
    found = []
    for source in documents.values():
        for document in source():
            for kind, amount in document.amounts.items():
                booked = posted.get((document.posting_id or 0, document.account, kind), ZERO)
                if amount != booked:
                    words = f"{EntryKind(kind).words} is {amount} on the document, {booked} in the books"
                    found.append(Complaint(document.name, words))
    return found
