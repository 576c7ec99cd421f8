from decimal import Decimal

from babel import numbers
from django import forms
from django.forms import BaseFormSet, formset_factory

from core.buying.manifest import MOST_BYTES
from core.buying.odds import OUTCOMES, Outcome
from core.buying.share import Basis
from stations.buying.models import BidPlan, Lot, LotLine, PlanLine, StartingOdds
from stations.buying.services import FIELD_OF
from stations.people import clock
from stations.people.forms import VersionedForm, date_input


def amount(label: str, **options) -> forms.DecimalField:
    return forms.DecimalField(
        label=label,
        required=False,
        min_value=Decimal(0),
        max_digits=9,
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


class CurrencyAndRate:
    """What every form with a currency and a rate refuses."""

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


class LotForm(CurrencyAndRate, VersionedForm):
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


class PlanForm(CurrencyAndRate, VersionedForm):
    """The terms of a sale and what we want of it."""

    supplier_name = forms.CharField(label="Who sells", max_length=80, error_messages={"required": "Who sells it?"})

    class Meta:
        model = BidPlan
        fields = [
            "title",
            "closes_at",
            "currency",
            "rate",
            "premium_percent",
            "premium_tax_percent",
            "freight",
            "duty_percent",
            "import_tax_percent",
            "other",
            "fee_percent",
            "lot_rho",
            "target_margin",
            "loss_limit",
            "target_hourly",
        ]
        widgets = {
            "closes_at": forms.DateTimeInput(format="%Y-%m-%dT%H:%M", attrs={"type": "datetime-local"}),
        }
        error_messages = {"title": {"required": "Give the lot a name you will know it by."}}

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        self.fields["supplier_name"].widget.attrs["list"] = "suppliers"
        if self.instance.pk:
            self.fields["supplier_name"].initial = self.instance.supplier.name

    def clean_lot_rho(self) -> Decimal:
        return _below_hundred(self.cleaned_data["lot_rho"])


def _below_hundred(percent: Decimal) -> Decimal:
    if percent >= 100:
        raise forms.ValidationError("From 0 to under 100.")
    return percent


class QuickLineForm(forms.ModelForm):
    """A line from what a photograph shows; the rest is filled in as usual and can be put right after."""

    worth = forms.DecimalField(
        label="Sells for, working",
        min_value=Decimal(0),
        max_digits=8,
        decimal_places=2,
        error_messages={"min_value": "This may not be below 0.", "invalid": "Type an amount, for example 150."},
    )

    class Meta:
        model = PlanLine
        fields = ["description", "quantity", "form_factor", "claim", "claim_words"]
        error_messages = {"description": {"required": "Say what it is."}}


class PlanLineForm(forms.ModelForm):
    """A line with all its cases: odds in percent, prices, costs and minutes."""

    class Meta:
        model = PlanLine
        fields = ["description", "quantity", "kind", "form_factor", "claim", "claim_words", "rho", "look_minutes"]

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        cases = {case.outcome: case for case in self.instance.cases.all()}
        for outcome in OUTCOMES:
            case = cases[outcome.value]
            self.fields[f"odds_{outcome}"] = percent(f"{outcome.label}, %")
            self.fields[f"odds_{outcome}"].initial = round(case.odds * 100, 2)
            for name in ("low", "likely", "high", "cost"):
                self.fields[f"{name}_{outcome}"] = amount(name)
                self.fields[f"{name}_{outcome}"].initial = getattr(case, name)
            self.fields[f"minutes_{outcome}"] = forms.IntegerField(
                label="minutes",
                required=False,
                min_value=0,
                max_value=9999,
                initial=case.minutes,
                error_messages={"min_value": "This may not be below 0."},
            )

    @property
    def rows(self):
        """One row of fields for each outcome."""
        names = ("odds", "low", "likely", "high", "cost", "minutes")
        return [(outcome, [self[f"{name}_{outcome}"] for name in names]) for outcome in OUTCOMES]

    def clean_rho(self) -> Decimal:
        return _below_hundred(self.cleaned_data["rho"])

    def clean(self):
        data = super().clean()
        for outcome in OUTCOMES:
            low, likely, high = (data.get(f"{name}_{outcome}") or Decimal(0) for name in ("low", "likely", "high"))
            if not low <= likely <= high:
                self.add_error(f"likely_{outcome}", "Low, likely and high must rise in this order.")
        odds = [data.get(f"odds_{outcome}") or Decimal(0) for outcome in OUTCOMES]
        if abs(sum(odds) - 100) > Decimal("0.05"):
            self.add_error("odds_works", f"The odds add up to {sum(odds).normalize():f} %; they must be 100 %.")
        return data

    @property
    def line_values(self) -> dict:
        return {name: self.cleaned_data[name] for name in self.Meta.fields}

    @property
    def cases(self) -> dict[Outcome, dict]:
        def value(name: str, outcome: Outcome):
            return self.cleaned_data.get(f"{name}_{outcome}") or Decimal(0)

        total = sum(value("odds", outcome) for outcome in OUTCOMES)
        return {
            outcome: {
                "odds": round(value("odds", outcome) / total, 6),
                "minutes": int(value("minutes", outcome)),
                **{name: value(name, outcome) for name in ("low", "likely", "high", "cost")},
            }
            for outcome in OUTCOMES
        }


class BidForm(forms.Form):
    bid = forms.DecimalField(
        label="Hammer price",
        min_value=Decimal(0),
        max_digits=9,
        decimal_places=2,
        error_messages={
            "required": "Type a bid.",
            "min_value": "This may not be below 0.",
            "invalid": "Type an amount, for example 620.",
        },
    )


class UploadForm(forms.Form):
    file = forms.FileField(
        label="Manifest (CSV)",
        max_length=200,
        error_messages={"required": "Choose a file first.", "empty": "The file is empty."},
        widget=forms.FileInput(attrs={"accept": ".csv,.txt,.tsv,text/csv"}),
    )

    def clean_file(self):
        file = self.cleaned_data["file"]
        if file.size > MOST_BYTES:
            raise forms.ValidationError("The file is larger than 4 MB. A manifest has 5,000 lines at most.")
        return file


class StartingOddsForm(VersionedForm):
    class Meta:
        model = StartingOdds
        fields = ["works", "repairable", "parts", "worthless"]

    def clean(self):
        data = super().clean()
        if len(data.keys() & set(self.Meta.fields)) == 4 and sum(data[name] for name in self.Meta.fields) != 100:
            total = sum(data[name] for name in self.Meta.fields)
            self.add_error("works", f"The four add up to {total.normalize():f} %; they must be 100 %.")
        return data
