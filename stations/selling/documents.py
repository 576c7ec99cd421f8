"""What a sale posts."""

from collections.abc import Iterator

from stations.ledger.documents import Document, documents
from stations.ledger.models import EntryKind
from stations.selling.models import Sale


@documents.add("sale")
def sales() -> Iterator[Document]:
    for sale in Sale.objects.select_related("unit"):
        amounts = {
            EntryKind.SALE: -sale.price,
            EntryKind.FEE: sale.fee,
            EntryKind.POSTAGE: sale.postage,
            EntryKind.TAX: sale.tax,
        }
        yield Document(f"sale of {sale.unit.tag}", sale.posting_id, amounts)
