"""What papers of the stock post: counts, and parcels."""

from collections.abc import Iterator

from core.money import ZERO
from stations.ledger.documents import Document, documents
from stations.ledger.models import Account, EntryKind
from stations.stock.models import PartOrder, StockCount, StockPurchase


@documents.add("count")
def counts() -> Iterator[Document]:
    for row in StockCount.objects.exclude(cost=0):
        yield Document(f"count {row.pk}", row.posting_id, {EntryKind.WRITE_OFF: -row.cost}, Account.STOCK)


@documents.add("purchase into a drawer")
def purchases() -> Iterator[Document]:
    for row in StockPurchase.objects.filter(undone_at=None).select_related("item"):
        yield Document(f"purchase {row.pk}", row.posting_id, {EntryKind.PURCHASE: row.paid}, Account.STOCK)


@documents.add("parcel")
def parcels() -> Iterator[Document]:
    for order in PartOrder.objects.filter(arrived_at__isnull=False).prefetch_related("lines"):
        cost = sum((line.cost for line in order.lines.all()), ZERO)
        yield Document(order.code, order.posting_id, {EntryKind.PURCHASE: cost}, Account.STOCK)
