from collections.abc import Sequence
from decimal import Decimal
from typing import Any

from django import forms
from django.forms import BaseFormSet, formset_factory

from core.buying.share import Basis
from stations.buying.details import LineDetails
from stations.buying.forms.fields import CurrencyAndRate, Shaped, amount, shape_field
from stations.buying.models import Lot, LotLine, SourceKind, Supplier
from stations.buying.sharing import current_sharing
from stations.common import clock
from stations.common.forms import OwnIds, SeenForm, VersionedForm, date_input, to_choose
from stations.common.typed import CountField, as_typed
from stations.people.screens import differences


class LotForm(CurrencyAndRate, VersionedForm):
    """Header of a lot; its charges and lines are forms of their own."""

    # Whether it is a second one is asked where one just like it is here.
    when_needed = ("another",)

    source_kind = to_choose("Source", SourceKind.choices, "Say where it comes from.")
    supplier_name = forms.CharField(
        label="Supplier", max_length=80, error_messages={"required": "Who sold or gave it?"}
    )

    another = forms.BooleanField(label="Another one, as many pieces on the same day for as much", required=False)

    class Meta:
        model = Lot
        formfield_callback = as_typed
        fields = [
            "title",
            "source_kind",
            "bought_on",
            "paid_on",
            "arrived_on",
            "currency",
            "rate",
            "owner_name",
            "note",
        ]
        widgets = {
            "bought_on": date_input(),
            "paid_on": date_input(),
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
            self.fields["rate"].initial = None
        else:
            self.fields["supplier_name"].initial = self.instance.supplier.name
            self.initial["rate"] = f"{self.instance.rate.normalize():f}"
        self.fields["rate"].required = False

    def clean(self):
        data = super().clean()
        bought, arrived = data.get("bought_on"), data.get("arrived_on")
        if bought and arrived and arrived < bought:
            self.add_error("arrived_on", "It can’t have arrived before it was bought.")
        if data.get("source_kind") == "custody" and not data.get("owner_name"):
            self.add_error("owner_name", "In custody: whose is it? Type the owner’s name.")
        self.look_up_rate(data, bought)
        return data


# What one is worth: low, likely, high. The likely one alone stands for all three.
WORTHS = ("worth_low", "worth_likely", "worth_high")


class LineForm(Shaped, forms.ModelForm):
    form_factor = shape_field(required=False)
    id = forms.IntegerField(required=False, widget=forms.HiddenInput)

    class Meta:
        model = LotLine
        formfield_callback = as_typed
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
            "quantity": "Quantity",
            "description": "What is it",
            "claim_words": "In their words",
        }

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        self.fields["finish_cost"].required = False
        if not self.instance.pk and not kwargs.get("initial"):
            # What a new one costs to finish is said with its worth, never taken for nothing.
            self.initial["finish_cost"] = None

    def clean(self):
        data = super().clean()
        if data.get("finish_cost") is None and "finish_cost" not in self.errors:
            data["finish_cost"] = Decimal(0)
            if data.get("worth_likely") is not None:
                self.add_error("finish_cost", "What does it cost to finish one? 0 where nothing is to be done.")
        if any(name in self.errors for name in WORTHS):
            return data
        low, likely, high = (data.get(name) for name in WORTHS)
        if likely is None and (low is not None or high is not None):
            self.add_error("worth_likely", "Say what it is likely worth too, or none of the three.")
        elif likely is not None:
            low, high = likely if low is None else low, likely if high is None else high
            if not low <= likely <= high:
                self.add_error("worth_likely", "Low, likely and high must rise in this order.")
            data |= {"worth_low": low, "worth_high": high}
        return data

    @property
    def details(self) -> LineDetails:
        return LineDetails(**self.cleaned_data)


class OneLineForm(SeenForm, LineForm):
    """A line of a lot on a page of its own: for lots too long for one form."""

    id = None

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        self.held_first = self.instance.lot


class NotComeForm(OwnIds, SeenForm, forms.Form):
    """How many pieces of a line do not come."""

    ids = "missing"
    pieces = CountField(label="So many do not come, in all", min_value=0, error_messages={"required": "How many?"})
    why = forms.CharField(label="Why", max_length=120, error_messages={"required": "Say why: it stands in the story."})

    def __init__(self, *args, line: LotLine, **kwargs):
        self.instance = line
        super().__init__(*args, **kwargs)
        self.held_first = line.lot

    def shown(self, row: LotLine) -> dict[str, Any]:
        return {"pieces": row.not_come, "received": row.received}


class SupplierForm(SeenForm, forms.ModelForm):
    # Whether two are one is asked where another is called so.
    when_needed = ("together",)

    together = forms.BooleanField(label="The same as one that is there: put their lots together", required=False)

    class Meta:
        model = Supplier
        fields = ["name", "place"]
        error_messages = {"name": {"required": "What are they called?"}}

    def _get_validation_exclusions(self):
        # One of the same name is asked about, not refused.
        return super()._get_validation_exclusions() | {"name"}


class LineSet(BaseFormSet):
    """The lines of a lot; empty ones are passed over, one at least is wanted."""

    @property
    def filled(self) -> list[LineDetails]:
        return [form.details for form in self.forms if form.has_changed() or form.cleaned_data.get("id")]

    def differences(self, lot: Lot) -> list[dict[str, Any]]:
        """Where the lines as typed differ from those that stand there now, as `screens.differences` says it; one that
        somebody added meanwhile is gone when these are saved."""
        rows, there = [], {line.pk: line for line in lot.lines.all()}
        for number, form in enumerate(self.forms, 1):
            line = there.pop(form.cleaned_data.get("id"), None)
            if line is None:
                yours = form.cleaned_data.get("description", "")
                found = [{"label": "", "yours": yours, "theirs": "no such line"}] if yours else []
            else:
                found = differences(form, line)
            rows += [row | {"label": f"Line {number} {row['label']}".strip()} for row in found]
        return rows + [
            {"label": f"Line {line.position}", "yours": "no such line", "theirs": line.description}
            for line in there.values()
        ]

    def clean(self):
        if not any(self.errors) and not any(form.has_changed() or form.cleaned_data.get("id") for form in self.forms):
            raise forms.ValidationError("A lot has at least one line: what did you buy?")


Lines = formset_factory(LineForm, formset=LineSet, extra=0, min_num=1, max_num=400, absolute_max=401, validate_max=True)


def lines_form(data=None, lot: Lot | None = None):
    """The formset, empty or filled from a lot."""
    initial = []
    if lot:
        names = ["id", *LineForm.Meta.fields]
        initial = list(lot.lines.values(*names))
    return Lines(data, prefix="lines", initial=initial or None)


class ShareForm(SeenForm, forms.Form):
    """How to share a lot's cost; with an amount by hand for each of `lines`, empty to share it like the rest."""

    basis = forms.ChoiceField(
        label="Share it by",
        choices=[
            (Basis.VALUE.value, "value: what each line should leave"),
            (Basis.WEIGHT.value, "weight"),
            (Basis.COUNT.value, "count"),
        ],
    )

    def __init__(self, *args, lot: Lot, lines: Sequence[LotLine], **kwargs):
        self.instance, self.lines = lot, lines
        super().__init__(*args, **kwargs)
        for line in lines:
            self.fields[f"fixed_{line.pk}"] = amount(f"By hand: {line.description}")

    def standing(self) -> Lot:
        lot = super().standing()
        self.lines = list(lot.lines.filter(pk__in=[line.pk for line in self.lines]))
        return lot

    def shown(self, row: Lot) -> dict[str, Any]:
        """Shared by somebody else on the same basis it is another sharing still."""
        sharing = current_sharing(row)
        shared = {"basis": sharing.basis, "sharing": sharing.pk} if sharing else {"basis": Basis.VALUE.value}
        return shared | {f"fixed_{line.pk}": line.fixed_share for line in self.lines}

    @property
    def by_hand(self) -> dict[int, Decimal | None]:
        """What each line shown shall carry; lines that were not in what was sent stay as they are."""
        shown = [line for line in self.lines if f"fixed_{line.pk}" in self.data]
        return {line.pk: self.cleaned_data[f"fixed_{line.pk}"] for line in shown}
