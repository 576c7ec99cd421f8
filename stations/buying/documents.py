"""What a lot’s charges post: what was paid for the goods, and the rest."""

from collections import defaultdict
from collections.abc import Iterator
from decimal import Decimal

from core.buying.landed import ChargeKind
from stations.buying.models import Lot, LotCharge
from stations.ledger.documents import Document, documents
from stations.ledger.models import Account, EntryKind


@documents.add("charge")
def charges() -> Iterator[Document]:
    billed: dict[int, dict[EntryKind, Decimal]] = defaultdict(
        lambda: {EntryKind.PURCHASE: Decimal(0), EntryKind.CHARGE: Decimal(0)}
    )
    for lot_id, kind, base in LotCharge.objects.filter(replaced_at=None).values_list("lot_id", "kind", "base"):
        billed[lot_id][EntryKind.PURCHASE if kind == ChargeKind.PRICE else EntryKind.CHARGE] += base
    for lot in Lot.objects.only("number", "posting_id", "lost", "lost_posting_id"):
        yield Document(f"charges of {lot.code}", lot.posting_id, billed[lot.pk], Account.LOT)
        if lot.lost or lot.lost_posting_id:
            lost = {EntryKind.WRITE_OFF: lot.lost}
            yield Document(f"what of {lot.code} is on no piece", lot.lost_posting_id, lost, Account.LOSS)
