"""What refunds, parcels and returns post."""

from collections.abc import Iterator

from stations.dispatch.models import OwnerPayment, ParcelItem, Refund, Return
from stations.ledger.documents import Document, documents
from stations.ledger.models import Account, EntryKind


@documents.add("refund")
def refunds() -> Iterator[Document]:
    for refund in Refund.objects.select_related("sale__unit"):
        name, posting = f"refund of {refund.sale.unit.tag}", refund.posting_id
        amounts = {
            EntryKind.REFUND: refund.amount,
            EntryKind.FEE: -refund.fee_back,
            EntryKind.POSTAGE: -refund.postage_back,
            EntryKind.TAX: -refund.tax_back,
            EntryKind.PAYOUT: -refund.owner_back,
        }
        yield Document(name, posting, amounts)
        yield Document(name, posting, {EntryKind.REFUND: refund.paid_back - refund.amount}, Account.BUYER_OWES)


@documents.add("owner payment")
def owner_payments() -> Iterator[Document]:
    for paid in OwnerPayment.objects.select_related("sale__unit"):
        yield Document(str(paid), paid.posting_id, {EntryKind.PAYOUT: paid.amount}, Account.OWNER_OWED)


@documents.add("sent parcel")
def parcels() -> Iterator[Document]:
    sums: dict[int, tuple[Document, Document]] = {}
    for item in ParcelItem.objects.select_related("parcel"):
        parcel = item.parcel
        before = sums.get(parcel.pk)
        postage = (before[0].amounts[EntryKind.POSTAGE] if before else 0) + item.postage_more
        claim = (before[1].amounts[EntryKind.CLAIM] if before else 0) - item.claim_part
        sums[parcel.pk] = (
            Document(f"postage of {parcel}", parcel.posting_id, {EntryKind.POSTAGE: postage}),
            Document(f"claim for {parcel}", parcel.claim_posting_id, {EntryKind.CLAIM: claim}),
        )
    for pair in sums.values():
        yield from pair


@documents.add("return")
def returns() -> Iterator[Document]:
    for back in Return.objects.select_related("sale__unit"):
        yield Document(f"return of {back.sale.unit.tag}", back.cost_posting_id, {EntryKind.POSTAGE: back.cost})
