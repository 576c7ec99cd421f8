from decimal import Decimal

from babel import numbers
from django import forms
from django.forms import BaseFormSet, formset_factory

from core.buying.share import Basis
from stations.buying.models import Lot, LotLine
from stations.buying.services import FIELD_OF
from stations.people import clock
from stations.people.forms import VersionedForm, date_input


def amount(label: str, **options) -> forms.DecimalField:
    return forms.DecimalField(
        label=label,
        required=False,
        min_value=Decimal(0),
        max_digits=12,
        decimal_places=2,
        error_messages={"min_value": "This may not be below 0.", "invalid": "Type an amount, for example 120.50."},
        **options,
    )


def percent(label: str) -> forms.DecimalField:
    return forms.DecimalField(
        label=label,
        required=False,
        min_value=Decimal(0),
        max_value=Decimal(100),
        max_digits=5,
        decimal_places=2,
        error_messages={
            "min_value": "A percentage from 0 to 100.",
            "max_value": "A percentage from 0 to 100.",
            "invalid": "Type a percentage, for example 18.",
        },
    )


class LotForm(VersionedForm):
    """Header and charges of a lot. Empty charges are none."""

    supplier_name = forms.CharField(
        label="Supplier", max_length=80, error_messages={"required": "Who sold or gave it?"}
    )
    price = amount("Price (hammer)")
    premium_percent = percent("Buyer’s premium, % of price")
    premium_tax_percent = percent("Tax on premium, %")
    freight = amount("Freight")
    duty_percent = percent("Import duty, % of price and freight")
    import_tax_percent = percent("Import tax, %")
    other = amount("Other charges")

    class Meta:
        model = Lot
        fields = ["title", "source_kind", "bought_on", "arrived_on", "currency", "rate", "owner_name", "note"]
        widgets = {
            "bought_on": date_input(),
            "arrived_on": date_input(),
            "currency": forms.TextInput(attrs={"size": 3, "autocapitalize": "characters"}),
        }
        error_messages = {
            "title": {"required": "Give the lot a name you will know it by."},
            "rate": {"invalid": "Type a rate, for example 1.17."},
        }
        labels = {"title": "Name of the lot", "rate": "Rate: one unit of it in our currency"}

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        self.fields["supplier_name"].widget.attrs["list"] = "suppliers"
        if not self.instance.pk:
            self.fields["bought_on"].initial = clock.today
        else:
            self.fields["supplier_name"].initial = self.instance.supplier.name
            for charge in self.instance.charges.all():
                name = next(field for kind, field in FIELD_OF.items() if kind.value == charge.kind)
                self.fields[name].initial = charge.percent if name.endswith("_percent") else charge.foreign

    def clean_currency(self) -> str:
        code = self.cleaned_data["currency"].strip().upper()
        if code not in numbers.list_currencies():
            raise forms.ValidationError(f"{code} is no currency code. EUR, GBP and SEK are.")
        return code

    def clean_rate(self) -> Decimal:
        rate = self.cleaned_data["rate"]
        if rate <= 0:
            raise forms.ValidationError("A rate is above 0: what one unit of that currency costs in ours.")
        return rate

    def clean(self):
        data = super().clean()
        bought, arrived = data.get("bought_on"), data.get("arrived_on")
        if bought and arrived and arrived < bought:
            self.add_error("arrived_on", "It can’t have arrived before it was bought.")
        if data.get("source_kind") == "custody" and not data.get("owner_name"):
            self.add_error("owner_name", "In custody: whose is it? Type the owner’s name.")
        return data


class LineForm(forms.ModelForm):
    id = forms.IntegerField(required=False, widget=forms.HiddenInput)

    class Meta:
        model = LotLine
        fields = [
            "description",
            "quantity",
            "kind",
            "form_factor",
            "claim",
            "claim_words",
            "weight_kg",
            "worth_low",
            "worth_likely",
            "worth_high",
            "finish_cost",
        ]
        labels = {
            "worth_low": "Worth, low",
            "worth_likely": "Likely",
            "worth_high": "High",
            "finish_cost": "Cost to finish",
            "weight_kg": "kg each",
            "quantity": "No.",
            "description": "What is it",
            "form_factor": "Shape",
            "claim_words": "In their words",
        }

    def clean(self):
        data = super().clean()
        low, likely, high = (data.get(name) for name in ("worth_low", "worth_likely", "worth_high"))
        if None not in (low, likely, high) and not low <= likely <= high:
            self.add_error("worth_likely", "Low, likely and high must rise in this order.")
        return data

    @property
    def values(self) -> dict:
        return {**self.cleaned_data, "id": self.cleaned_data.get("id")}


class LineSet(BaseFormSet):
    """The lines of a lot; empty ones are passed over, one at least is wanted."""

    @property
    def filled(self) -> list[dict]:
        return [form.values for form in self.forms if form.has_changed() or form.cleaned_data.get("id")]

    def clean(self):
        if not any(self.errors) and not any(form.has_changed() or form.cleaned_data.get("id") for form in self.forms):
            raise forms.ValidationError("A lot has at least one line: what did you buy?")


Lines = formset_factory(LineForm, formset=LineSet, extra=0, min_num=1, max_num=400, validate_max=True)


def lines_form(data=None, lot: Lot | None = None):
    """The formset, empty or filled from a lot."""
    initial = []
    if lot:
        names = ["id", *LineForm.Meta.fields]
        initial = list(lot.lines.values(*names))
    return Lines(data, prefix="lines", initial=initial or None)


class ShareForm(forms.Form):
    basis = forms.ChoiceField(
        label="Share it by",
        choices=[
            (Basis.VALUE.value, "value: what each line should leave"),
            (Basis.WEIGHT.value, "weight"),
            (Basis.COUNT.value, "count"),
        ],
    )
