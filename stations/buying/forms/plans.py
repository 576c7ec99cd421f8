from decimal import Decimal
from typing import Any

from django import forms

from core.buying.landed import read_bands
from core.buying.odds import OUTCOMES, LineOutcome
from stations.buying.details import CaseDetails, PlanLineDetails
from stations.buying.forms.fields import CurrencyAndRate, Shaped, amount, below_hundred, percent, shape_field
from stations.buying.models import BidPlan, PlanLine, SourceKind, StartingOdds, ToldOutcome
from stations.common.details import names_of
from stations.common.forms import SeenForm, VersionedForm, refuse_fractions, to_choose
from stations.common.happened import day_field
from stations.common.typed import CountField, NumberField, as_typed


class PlanForm(CurrencyAndRate, VersionedForm):
    """The terms of a sale and what we want of it."""

    supplier_name = forms.CharField(label="Who sells", max_length=80, error_messages={"required": "Who sells it?"})

    class Meta:
        model = BidPlan
        formfield_callback = as_typed
        fields = [
            "title",
            "closes_at",
            "currency",
            "rate",
            "premium_percent",
            "premium_bands",
            "premium_tax_percent",
            "freight",
            "duty_percent",
            "import_tax_percent",
            "other",
            "fee_percent",
            "postage",
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

        self.fields["rate"].required = False
        if not self.instance.pk:
            self.fields["rate"].initial = None

    def clean_premium_bands(self) -> str:
        text = self.cleaned_data["premium_bands"]
        if text:
            try:
                read_bands(text)
            except ValueError as problem:
                raise forms.ValidationError(str(problem)) from problem
        return text

    def clean(self):
        data = super().clean()
        self.look_up_rate(data, None)
        refuse_fractions(self, "premium_percent", "premium_tax_percent", "import_tax_percent", "fee_percent")
        refuse_fractions(self, "lot_rho", "target_margin", "loss_limit")
        return data

    def clean_lot_rho(self) -> Decimal:
        return below_hundred(self.cleaned_data["lot_rho"])


class QuickLineForm(forms.ModelForm):
    """A line from what a photograph shows; the rest is filled in as usual and can be put right after."""

    form_factor = shape_field()
    worth = NumberField(
        label="Sells for, working",
        min_value=Decimal(0),
        max_digits=8,
        decimal_places=2,
        error_messages={"min_value": "This may not be below 0.", "invalid": "Type an amount, for example 150."},
    )

    class Meta:
        model = PlanLine
        formfield_callback = as_typed
        fields = ["description", "quantity", "form_factor", "claim", "claim_words"]
        error_messages = {"description": {"required": "Say what it is."}}


class PlanLineForm(SeenForm, Shaped, forms.ModelForm):
    """A line with all its cases: odds in percent, prices, costs and minutes."""

    form_factor = shape_field(required=False)

    class Meta:
        model = PlanLine
        formfield_callback = as_typed
        fields = names_of(PlanLineDetails)

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        self.held_first = self.instance.plan
        for outcome in OUTCOMES:
            self.fields[f"odds_{outcome}"] = percent(f"{outcome.label}, %")
            for name in ("low", "likely", "high", "cost"):
                self.fields[f"{name}_{outcome}"] = amount(name)
            self.fields[f"minutes_{outcome}"] = CountField(
                label="minutes",
                required=False,
                min_value=0,
                max_value=9999,
                error_messages={"min_value": "This may not be below 0."},
            )

    def shown(self, row: PlanLine) -> dict[str, Any]:
        found = super().shown(row)
        for case in row.cases.all():
            found[f"odds_{case.outcome}"] = round(case.odds * 100, 2)
            for name in ("low", "likely", "high", "cost", "minutes"):
                found[f"{name}_{case.outcome}"] = getattr(case, name)
        return found

    @property
    def rows(self):
        """One row of fields for each outcome."""
        names = ("odds", "low", "likely", "high", "cost", "minutes")
        return [(outcome, [self[f"{name}_{outcome}"] for name in names]) for outcome in OUTCOMES]

    def clean_rho(self) -> Decimal:
        return below_hundred(self.cleaned_data["rho"])

    def clean(self):
        data = super().clean()
        refuse_fractions(self, "rho")
        for outcome in OUTCOMES:
            low, likely, high = (data.get(f"{name}_{outcome}") or Decimal(0) for name in ("low", "likely", "high"))
            if not low <= likely <= high:
                self.add_error(f"likely_{outcome}", "Low, likely and high must rise in this order.")
        odds = [data.get(f"odds_{outcome}") or Decimal(0) for outcome in OUTCOMES]
        if abs(sum(odds) - 100) > Decimal("0.05"):
            self.add_error("odds_works", f"The odds add up to {sum(odds).normalize():f} %; they must be 100 %.")
        return data

    @property
    def details(self) -> PlanLineDetails:
        return PlanLineDetails(**{name: self.cleaned_data[name] for name in self.Meta.fields})

    @property
    def cases(self) -> dict[LineOutcome, CaseDetails]:
        def value(name: str, outcome: LineOutcome):
            return self.cleaned_data.get(f"{name}_{outcome}") or Decimal(0)

        total = sum(value("odds", outcome) for outcome in OUTCOMES)
        return {
            outcome: CaseDetails(
                odds=round(value("odds", outcome) / total, 6),
                minutes=int(value("minutes", outcome)),
                **{name: value(name, outcome) for name in ("low", "likely", "high", "cost")},
            )
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


class BoughtForm(BidForm):
    """We got it: at what, and from where. What is in custody is not bid for."""

    source = to_choose(
        "Source",
        [choice for choice in SourceKind.choices if choice[0] != SourceKind.CUSTODY],
        "We got it: say where it comes from, beside that button.",
    )
    on = day_field("Bought on")


class ToldForm(forms.Form):
    """What became of a lot we left: its price, and of each line how many are known to have turned out so."""

    went_for = NumberField(
        label="Went for",
        required=False,
        min_value=Decimal(0),
        max_digits=9,
        decimal_places=2,
        error_messages={"min_value": "This may not be below 0.", "invalid": "Type an amount, for example 620."},
    )
    version = forms.IntegerField(widget=forms.HiddenInput)

    def __init__(self, *args, plan: BidPlan, **kwargs):
        super().__init__(*args, **kwargs)
        self.lines = list(plan.lines.all())
        for line in self.lines:
            for outcome in OUTCOMES:
                self.fields[f"told_{line.pk}_{outcome}"] = CountField(
                    label=outcome.label,
                    required=False,
                    min_value=0,
                    max_value=line.quantity,
                    error_messages={
                        "min_value": "This may not be below 0.",
                        "max_value": f"The line was for {line.quantity}.",
                    },
                )
        self.initial = {**self.row_as_typed(plan), "version": plan.version, **self.initial}

    def row_as_typed(self, plan: BidPlan) -> dict[str, object]:
        """What is known of the plan's lot, by the names of the fields."""
        known = ToldOutcome.objects.filter(line__plan=plan)
        told = {f"told_{one.line_id}_{one.outcome}": one.count for one in known}
        return {**dict.fromkeys(self.fields, None), "went_for": plan.went_for, **told}

    @property
    def rows(self):
        return [(line, [self[f"told_{line.pk}_{outcome}"] for outcome in OUTCOMES]) for line in self.lines]

    @property
    def told(self) -> dict[int, dict[LineOutcome, int]]:
        return {
            line.pk: {outcome: self.cleaned_data[f"told_{line.pk}_{outcome}"] or 0 for outcome in OUTCOMES}
            for line in self.lines
        }


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
