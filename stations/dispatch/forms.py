from decimal import Decimal
from typing import Any

from django import forms

from core.selling.carriers import BandError, read_bands
from core.selling.disclosure import DisclosureKind
from core.selling.packing import HEAVIEST_G, Size, box_doubt
from core.selling.receipt import ReceiptKind
from core.selling.taking_back import Reason
from stations.common.details import names_of
from stations.common.forms import OwnIds, SeenForm, VersionedForm, date_input, to_choose
from stations.common.happened import day_field
from stations.common.typed import CountField, NumberField, as_typed
from stations.dispatch import carriers, parcels, returns, terms
from stations.dispatch.models import BoxSize, Carrier, Parcel, Return, SaleTerms
from stations.selling.models import Payment, Sale


def money_field(label: str, *, least: str = "0.01", required: bool = True, wrong: str = "More than 0.") -> NumberField:
    return NumberField(
        label=label,
        required=required,
        min_value=Decimal(least),
        max_digits=10,
        decimal_places=2,
        error_messages={"min_value": wrong, "invalid": "Type an amount, for example 24.50."},
    )


class PaymentForm(forms.Form):
    amount = money_field("What came in", wrong="A payment is of more than 0.")
    how = to_choose("How", Payment.How.choices, "Say how it came in.")
    on = day_field("Came on")


class ReceiptForm(forms.Form):
    kind = forms.ChoiceField(
        label="Paper", choices=[(kind.value, kind.label) for kind in ReceiptKind if kind is not ReceiptKind.CREDIT]
    )
    buyer = forms.CharField(
        label="For whom, a line for each part of the address",
        required=False,
        max_length=400,
        widget=forms.Textarea(attrs={"rows": 4}),
    )


class RefundForm(OwnIds, forms.Form):
    ids = "refund"

    amount = money_field("Refund", wrong="A refund is of more than 0.")
    fee_back = money_field("Fee the channel gives back", least="0", required=False, wrong="This may not be below 0.")
    why = forms.CharField(label="What for", max_length=160, error_messages={"required": "Say what it is for."})
    on = day_field("Paid back on")

    def __init__(self, *args, sale: Sale, **kwargs):
        super().__init__(*args, **kwargs)
        settled = sale.returns.exclude(settled_at=None)
        if settled:
            self.fields["back"] = forms.ModelChoiceField(
                settled, label="For its return", required=False, empty_label="none of them"
            )


class FeeForm(forms.Form):
    kept = money_field("What it kept in all", least="0", wrong="This may not be below 0.")
    why = forms.CharField(label="How you know", max_length=120, error_messages={"required": "Say how you know."})


class BuyerForm(OwnIds, SeenForm, forms.Form):
    ids = "buyer"

    buyer = forms.CharField(label="Who bought it", max_length=120, error_messages={"required": "Who bought it?"})

    def __init__(self, *args, sale: Sale, **kwargs):
        self.instance, self.held_first = sale, sale.unit
        super().__init__(*args, **kwargs)

    def shown(self, row: Sale) -> dict[str, Any]:
        return {"buyer": row.buyer}


class SoldOnForm(forms.Form):
    on = forms.DateField(
        label="It was sold on", widget=date_input(), error_messages={"required": "On which day was it sold?"}
    )
    why = forms.CharField(label="How you know", max_length=120, error_messages={"required": "Say how you know."})


class OwnerPaidForm(forms.Form):
    amount = money_field("Amount", wrong="A payment is of more than 0.")
    on = day_field("Paid on")


class CallOffForm(forms.Form):
    why = forms.CharField(label="Why", max_length=160, error_messages={"required": "Say why."})


class HandOverForm(forms.Form):
    on = day_field("Collected on")
    unpaid = forms.CharField(label="If it is not paid: why it goes", max_length=160, required=False)


class ArrivedForm(OwnIds, forms.Form):
    ids = "arrived"

    on = day_field("Arrived on")


class ReceivedForm(forms.Form):
    on = day_field("Came back on")


class WentBackForm(forms.Form):
    by = forms.CharField(label="How", max_length=120, required=False, help_text="carrier and number, or who fetched it")
    on = day_field("Went on")


class MeasureForm(VersionedForm):
    class Meta:
        model = Parcel
        formfield_callback = as_typed
        fields = names_of(parcels.Measured)
        widgets = {"address": forms.Textarea(attrs={"rows": 4})}

    def __init__(self, *args, zones=(), **kwargs):
        super().__init__(*args, **kwargs)
        there = [self.instance.zone] if self.instance.zone and self.instance.zone not in zones else []
        self.fields["zone"] = forms.ChoiceField(
            label="Zone", choices=[("", "not said"), *((zone, zone) for zone in [*zones, *there])], required=False
        )


class CloseForm(forms.Form):
    box = forms.ModelChoiceField(
        BoxSize.objects.filter(in_use=True),
        label="Box",
        empty_label="choose",
        error_messages={"required": "Which box is it in?"},
    )
    inner = forms.ModelChoiceField(
        BoxSize.objects.filter(in_use=True), label="Inner box", required=False, empty_label="none"
    )
    packed_g = CountField(
        label="Weighs closed, g",
        min_value=1,
        max_value=HEAVIEST_G,
        error_messages={
            "required": "Put it on the scales.",
            "min_value": "More than 0.",
            "max_value": f"{HEAVIEST_G // 1000} kg at most.",
            "invalid": "Type whole grams, for example 4200.",
        },
    )


class SendForm(forms.Form):
    carrier = forms.ModelChoiceField(
        Carrier.objects.filter(in_use=True), label="Carrier", error_messages={"required": "Who takes it?"}
    )
    price = money_field("What it costs", least="0", wrong="This may not be below 0.")
    tracking = forms.CharField(label="Tracking number, if there is one", max_length=60, required=False)
    unpaid = forms.CharField(label="If it is not paid: why it goes", max_length=160, required=False)
    on = day_field("Sent on")


class TrackingForm(SeenForm, forms.ModelForm):
    tracking = forms.CharField(label="Tracking number", max_length=60, required=False)

    class Meta:
        model = Parcel
        fields = ["tracking"]


class BrokenForm(SeenForm, forms.Form):
    damage = forms.CharField(
        label="What was broken", max_length=600, required=False, widget=forms.Textarea(attrs={"rows": 3})
    )
    lost = forms.BooleanField(label="It never arrived", required=False)
    claimed = money_field("Claimed from the carrier", required=False)

    def __init__(self, *args, parcel: Parcel, **kwargs):
        self.instance = parcel
        super().__init__(*args, **kwargs)

    def standing(self) -> Parcel:
        return parcels.held(self.instance)

    def shown(self, row: Parcel) -> dict[str, Any]:
        return {"damage": row.damage, "lost": row.lost, "claimed": row.claimed}


class ClaimPaidForm(OwnIds, forms.Form):
    ids = "claim"

    paid_back = money_field("The carrier paid", least="0", wrong="This may not be below 0.")
    on = day_field("Paid on")


class ReturnForm(forms.Form):
    reason = to_choose("Why", [(reason.value, reason.label) for reason in Reason], "Say why it comes back.")
    words = forms.CharField(
        label="In the buyer’s words", required=False, max_length=1000, widget=forms.Textarea(attrs={"rows": 3})
    )
    on = day_field("Asked for on")


class SettleForm(forms.Form):
    refund = money_field("Pay back", least="0", wrong="This may not be below 0.")
    fee_back = money_field("Fee the channel gives back", least="0", required=False, wrong="This may not be below 0.")
    cost = money_field("Return shipping and work", least="0", required=False, wrong="This may not be below 0.")
    take_back = forms.BooleanField(label="We take it back: it is ours again", required=False)
    missing = forms.ChoiceField(
        label="What should have been said",
        required=False,
        choices=[("", "nothing was missing"), *((kind.value, kind.label) for kind in DisclosureKind)],
    )
    lesson = forms.CharField(label="What there is to learn", max_length=300, required=False)
    on = day_field("Paid back on")


class PutRightForm(SeenForm, SettleForm):
    """A return that was settled with other figures than are right."""

    take_back = None
    why = forms.CharField(
        label="What was wrong", max_length=120, error_messages={"required": "Say why: the reason stays in the record."}
    )

    def __init__(self, *args, back: Return, **kwargs):
        self.instance, self.held_first = back, back.sale.unit
        super().__init__(*args, **kwargs)

    def shown(self, row: Return) -> dict[str, Any]:
        return {name: value for name, value in vars(returns.settled_as(row)).items() if name != "take_back"}


class BoxForm(VersionedForm):
    class Meta:
        model = BoxSize
        formfield_callback = as_typed
        fields = names_of(carriers.BoxDetails)

    def clean(self):
        data = super().clean()
        for edge in ("length", "width", "height"):
            inner, outer = data.get(f"inner_{edge}"), data.get(f"outer_{edge}")
            if inner and outer and outer < inner:
                self.add_error(f"outer_{edge}", f"Outside is never less than the {inner} mm inside.")
        edges = [data.get(f"outer_{edge}") for edge in ("length", "width", "height")]
        if all(edges) and data.get("weight_g") and (doubt := box_doubt(Size(*edges), data["weight_g"])):
            self.add_error("outer_length", doubt)
        return data


class CarrierForm(VersionedForm):
    class Meta:
        model = Carrier
        formfield_callback = as_typed
        fields = names_of(carriers.CarrierDetails)

    def clean_track(self):
        address = self.cleaned_data["track"].strip()
        if address and ("{number}" not in address or not address.startswith(("http://", "https://"))):
            raise forms.ValidationError("An address that begins with https:// and has {number} in it.")
        return address


class BandsForm(forms.Form):
    """What a carrier asks into one zone: a line for each band."""

    zone = forms.CharField(label="Zone", max_length=30, error_messages={"required": "Which zone?"})
    bands = forms.CharField(
        label="Up to kg: price, a line for each band",
        required=False,
        max_length=4000,
        widget=forms.Textarea(attrs={"rows": 7, "placeholder": "2: 6.49\n5: 7.99"}),
    )

    def clean_bands(self):
        try:
            return read_bands(self.cleaned_data["bands"])
        except BandError as problem:
            raise forms.ValidationError(str(problem).replace("%", "%%")) from problem


class TermsForm(VersionedForm):
    wide = ("address", "note_none", "note_standard", "note_margin", "thanks")

    class Meta:
        model = SaleTerms
        formfield_callback = as_typed
        fields = names_of(terms.TermsDetails)
        widgets = {"address": forms.Textarea(attrs={"rows": 4}), "global_since": date_input()}
