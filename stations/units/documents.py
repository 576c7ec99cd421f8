"""What papers of single parts and of pieces that went into drawers post."""

from collections.abc import Iterator

from core.money import ZERO
from stations.ledger.documents import Document, documents
from stations.ledger.models import Account, EntryKind
from stations.units.models import DrawerReceipt, PartMove


@documents.add("part move")
def moves() -> Iterator[Document]:
    for move in PartMove.objects.exclude(cost=0):
        name = f"part move {move.pk}"
        if move.from_unit_id:
            yield Document(name, move.posting_id, {EntryKind.PART_RECOVERED: -move.cost})
        if move.to_unit_id:
            yield Document(name, move.posting_id, {EntryKind.PART_ISSUED: move.cost})
        own = {
            PartMove.Kind.BOUGHT: {EntryKind.PURCHASE: move.cost},
            PartMove.Kind.SINGLED: {EntryKind.TRANSFER: move.cost},
            PartMove.Kind.JOINED: {EntryKind.TRANSFER: -move.cost},
            PartMove.Kind.GONE: {EntryKind.WRITE_OFF: -move.cost},
            PartMove.Kind.BACK: {EntryKind.WRITE_OFF: move.cost},
            PartMove.Kind.UNDONE: {EntryKind.PURCHASE: -move.cost},
        }
        if amounts := own.get(PartMove.Kind(move.kind)):
            yield Document(name, move.posting_id, amounts, Account.PART)


@documents.add("drawer receipt")
def receipts() -> Iterator[Document]:
    for row in DrawerReceipt.objects.filter(undone_at=None):
        yield Document(f"receipt {row.pk}", row.posting_id, {EntryKind.PART_RECOVERED: row.cost or ZERO}, Account.STOCK)
