"""What a sale posts."""

from collections.abc import Iterator

from stations.ledger.documents import Document, documents
from stations.ledger.models import Kind
from stations.selling.models import Sale


@documents.add("sale")
def sales() -> Iterator[Document]:
    for sale in Sale.objects.select_related("unit"):
        amounts = {Kind.SALE: -sale.price, Kind.FEE: sale.fee, Kind.POSTAGE: sale.postage, Kind.TAX: sale.tax}
        yield Document(f"sale of {sale.unit.tag}", sale.posting_id, amounts)
