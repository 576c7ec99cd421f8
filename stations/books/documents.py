"""What closing a tax period posts."""

from collections.abc import Iterator

from stations.books.models import TaxPeriod
from stations.ledger.documents import Document, documents
from stations.ledger.models import Account, EntryKind


@documents.add("tax period")
def tax_periods() -> Iterator[Document]:
    for row in TaxPeriod.objects.all():
        yield Document(str(row), row.posting_id, {EntryKind.TAX: -row.tax}, Account.TAX_OWED)
