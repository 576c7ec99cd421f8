"""What a sale posts."""

from collections.abc import Iterator

from django.db.models import Sum

from core.money import ZERO
from stations.ledger.documents import Document, documents
from stations.ledger.models import Account, EntryKind
from stations.selling.models import FeeChange, Payment, Sale


@documents.add("sale")
def sales() -> Iterator[Document]:
    changed = dict(FeeChange.objects.order_by().values_list("sale").annotate(sum=Sum("amount")))
    for sale in Sale.objects.select_related("unit"):
        amounts = {
            EntryKind.SALE: -sale.price,
            EntryKind.FEE: sale.fee - changed.get(sale.pk, ZERO),
            EntryKind.POSTAGE: sale.postage,
            EntryKind.TAX: sale.tax,
            EntryKind.PAYOUT: sale.owners_part,
        }
        yield Document(f"sale of {sale.unit.tag}", sale.posting_id, amounts)
        if sale.on_account:
            yield Document(
                f"sale of {sale.unit.tag}", sale.posting_id, {EntryKind.SALE: sale.price}, Account.BUYER_OWES
            )


@documents.add("fee")
def fees() -> Iterator[Document]:
    for change in FeeChange.objects.select_related("sale__unit"):
        yield Document(str(change), change.posting_id, {EntryKind.FEE: change.amount})


@documents.add("payment")
def payments() -> Iterator[Document]:
    for payment in Payment.objects.select_related("sale__unit"):
        amounts = {EntryKind.SALE: -payment.amount}
        yield Document(f"payment {payment}", payment.posting_id, amounts, Account.BUYER_OWES)
