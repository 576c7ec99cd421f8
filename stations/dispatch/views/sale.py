"""One sale after it was made: paid, on paper, packed, arrived, given back."""

from django.http import Http404
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from core.selling.receipt import ReceiptKind
from stations.dispatch import owners, parcels, receipts, refunds, selectors, warranty
from stations.dispatch import returns as given_back
from stations.dispatch.forms import (
    ArrivedForm,
    BuyerForm,
    CallOffForm,
    FeeForm,
    HandOverForm,
    OwnerPaidForm,
    PaymentForm,
    ReceiptForm,
    RefundForm,
    ReturnForm,
    SoldOnForm,
)
from stations.dispatch.models import OwnerPayment, ReceiptLine, Refund
from stations.dispatch.terms import terms
from stations.people.screens import press, saved, sent
from stations.selling import payments
from stations.selling import services as selling
from stations.selling.models import Payment, Sale


def of_unit(request, number):
    """The sale of a unit that stands, or its last."""
    rows = Sale.objects.filter(unit__number=number)
    row = rows.filter(ended_at=None).first() or rows.order_by("-id").first()
    if row is None:
        raise Http404
    return redirect("dispatch:sale", pk=row.pk)


def _sale(pk) -> Sale:
    return get_object_or_404(Sale.objects.select_related("unit__lot", "unit__model", "unit__line", "channel"), pk=pk)


def sale(request, pk):
    return _page(request, _sale(pk))


def _page(request, row, **given):
    back = row.returns.filter(settled_at=None).first()
    parcel, receipt = parcels.parcel_of(row), receipts.receipt_of(row)
    how = Payment.How.CHANNEL if row.channel.pays_out else None
    # Whoever typed where the parcel goes types it once.
    buyer = (parcel and parcel.address) or row.buyer
    context = {
        "sale": row,
        "unit": row.unit,
        "others": [one for one in receipts.together(row) if one.pk != row.pk],
        "payments": row.payments.select_related("who", "posting__reversed_by"),
        "refunds": row.refunds.select_related("who", "credit", "posting__reversed_by"),
        "receipt_lines": ReceiptLine.objects.filter(sale=row).select_related("receipt"),
        "has_receipt": receipt is not None,
        "shop_named": bool(terms().address),
        "parcel": parcel,
        "back": back,
        "last_refund": row.refunds.standing().last(),
        "returns": row.returns.exclude(settled_at=None).prefetch_related("refunds"),
        "lost": selectors.never_arrived(row),
        "term": warranty.term_of(row),
        "days_left": warranty.days_left(row),
        "payment_form": PaymentForm(initial={"amount": row.owed, "how": how}),
        "receipt_form": ReceiptForm(initial={"kind": ReceiptKind.RECEIPT.value, "buyer": buyer}),
        "refund_form": RefundForm(sale=row),
        "owner_payments": row.owner_payments.select_related("who", "posting__reversed_by"),
        "last_paid": row.owner_payments.standing().last(),
        "owner_form": OwnerPaidForm(prefix="owner", initial={"amount": abs(row.owner_due)}),
        "buyer_form": BuyerForm(sale=row),
        "sold_form": SoldOnForm(prefix="sold"),
        "fee_form": FeeForm(prefix="fee"),
        "off_form": CallOffForm(prefix="off"),
        "hand_form": HandOverForm(prefix="hand"),
        "arrived_form": ArrivedForm(prefix="arrived"),
        "return_form": ReturnForm(prefix="back"),
        **given,
    }
    return render(request, "dispatch/sale.html", context)


def _there(pk, section="") -> str:
    return reverse("dispatch:sale", args=[pk]) + (f"#{section}" if section else "")


@require_POST
def payment(request, pk):
    form = PaymentForm(request.POST)

    def save(data):
        payments.take_payment(request.user, _sale(pk), data["amount"], data["how"], data["on"])

    return saved(request, form, save, _there(pk, "money")) or _page(request, _sale(pk), payment_form=form)


# What is taken back on the page of a sale: which rows, how, and where they stand there.
_TAKEN_BACK = {
    "payment": (Payment, payments.take_back_payment, "money"),
    "refund": (Refund, refunds.take_back, "money"),
    "owner": (OwnerPayment, owners.take_back_owner_payment, "owner"),
}


@require_POST
def taken_back(request, pk, what, **of_sale):
    model, take_back, section = _TAKEN_BACK[what]
    row = get_object_or_404(model.objects.select_related("sale__unit", "posting"), pk=pk, **of_sale)

    def act():
        take_back(request.user, row, sent(request, "why"))

    return press(request, act, _there(row.sale_id, section), "why")


@require_POST
def receipt(request, pk):
    form = ReceiptForm(request.POST)

    def save(data):
        receipts.issue(request.user, _sale(pk), data["buyer"], data["kind"])

    return saved(request, form, save, _there(pk, "papers")) or _page(request, _sale(pk), receipt_form=form)


@require_POST
def refund(request, pk):
    form = RefundForm(request.POST, sale=_sale(pk))

    def save(data):
        amount, why, fee_back = data["amount"], data["why"], data["fee_back"] or 0
        refunds.refund(request.user, _sale(pk), amount, why, fee_back=fee_back, back=data.get("back"), on=data["on"])

    return saved(request, form, save, _there(pk, "money")) or _page(request, _sale(pk), refund_form=form)


@require_POST
def pay_owner(request, pk):
    form = OwnerPaidForm(request.POST, prefix="owner")

    def save(data):
        owners.pay_owner(request.user, _sale(pk), data["amount"], data["on"])

    return saved(request, form, save, _there(pk, "owner")) or _page(request, _sale(pk), owner_form=form)


@require_POST
def fee(request, pk):
    form = FeeForm(request.POST, prefix="fee")

    def save(data):
        payments.correct_fee(request.user, _sale(pk), data["kept"], data["why"])

    return saved(request, form, save, _there(pk, "money")) or _page(request, _sale(pk), fee_form=form)


@require_POST
def name_buyer(request, pk):
    form = BuyerForm(request.POST, sale=_sale(pk))

    def save(data):
        selling.name_buyer(request.user, _sale(pk), data["buyer"])

    return saved(request, form, save, _there(pk, "money")) or _page(request, _sale(pk), buyer_form=form)


@require_POST
def sold_on(request, pk):
    form = SoldOnForm(request.POST, prefix="sold")

    def save(data):
        selling.correct_sold_on(request.user, _sale(pk), data["on"], data["why"])

    return saved(request, form, save, _there(pk, "money")) or _page(request, _sale(pk), sold_form=form)


@require_POST
def call_off(request, pk):
    form = CallOffForm(request.POST, prefix="off")

    def save(data):
        refunds.call_off(request.user, _sale(pk), data["why"])

    return saved(request, form, save, _there(pk)) or _page(request, _sale(pk), off_form=form)


@require_POST
def hand_over(request, pk):
    form = HandOverForm(request.POST, prefix="hand")

    def save(data):
        parcels.hand_over(request.user, _sale(pk), data["unpaid"], data["on"])

    return saved(request, form, save, _there(pk, "parcel")) or _page(request, _sale(pk), hand_form=form)


@require_POST
def give_back(request, pk):
    form = ReturnForm(request.POST, prefix="back")

    def save(data):
        back = given_back.ask(request.user, _sale(pk), data["reason"], data["words"], on=data["on"])
        return reverse("dispatch:one-return", args=[back.pk])

    return saved(request, form, save, _there(pk, "back")) or _page(request, _sale(pk), return_form=form)


@require_POST
def pack(request, pk):
    row = _sale(pk)

    def begin():
        return reverse("dispatch:parcel", args=[parcels.begin(request.user, row).pk])

    return press(request, begin, _there(pk, "parcel"))


@require_POST
def arrived(request, pk):
    form = ArrivedForm(request.POST, prefix="arrived")

    def save(data):
        parcels.close_sale(request.user, _sale(pk), data["on"])

    return saved(request, form, save, _there(pk, "parcel")) or _page(request, _sale(pk), arrived_form=form)
