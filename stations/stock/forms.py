"""What is typed at the drawers: bought, counted, sorted, ordered, taken in; amounts in the measure of the drawer."""

from decimal import Decimal

from babel.numbers import list_currencies
from django import forms

from core.bench.fault_library import SYMPTOMS
from core.intake.signal import SIGNALS
from core.machine.quantities import QuantityError
from core.stock.measure import Measure, read_amount
from core.stock.parcel import Rest
from core.stock.parts import Condition
from stations.catalogue.models import MachineModel
from stations.common.currency import base_currency, wrong_rate
from stations.common.details import names_of
from stations.common.forms import OwnIds, SeenForm, VersionedForm, date_input, to_choose
from stations.common.happened import day_field
from stations.common.typed import NumberField, as_typed
from stations.stock.designs import DesignDetails
from stations.stock.models import CONDITIONS, Design, KnownGood, PartOrder, PartSeller, StockItem
from stations.stock.orders import Ordered, Terms
from stations.stock.sellers import SellerDetails
from stations.stock.services import ItemDetails, Sort
from stations.stock.shelf import ShelfDetails

_MONEY = {
    "min_value": Decimal(0),
    "max_digits": 10,
    "decimal_places": 2,
    "error_messages": {"min_value": "This may not be below 0."},
}
_BELOW_0 = {"min_value": "This may not be below 0."}


def amount_field(label: str, **more) -> forms.CharField:
    """An amount as typed, with or without its measure: 12, 0,5 l, 80 cm."""
    return forms.CharField(label=label, max_length=24, error_messages={"required": "Say how much."}, **more)


class SortForm(forms.ModelForm):
    """So much of a kind of part, and where it goes; more of one that is there already adds to it."""

    class Meta:
        model = StockItem
        fields = ["name", "condition", "drawer", "measure", "modern", "keeps_data"]
        error_messages = {"name": {"required": "Say what part it is."}}

    condition = to_choose("Condition", CONDITIONS, "Say in what condition it is.")
    quantity = amount_field("How much")

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        self.fields["measure"].required = False

    def clean_measure(self) -> str:
        """Pieces, where nothing is said."""
        return self.cleaned_data["measure"] or Measure.PIECE.value

    def clean(self):
        data = super().clean()
        if "quantity" in data and "measure" in data:
            try:
                if not read_amount(data["quantity"], Measure(data["measure"])):
                    self.add_error("quantity", "At least one." if data["measure"] == "piece" else "More than nothing.")
            except QuantityError as problem:
                self.add_error("quantity", str(problem))
        return data

    def _get_validation_exclusions(self):
        # More of a part that is in stock adds to it; so a name that is there already is no mistake here.
        return super()._get_validation_exclusions() | {"name"}

    @property
    def sort(self) -> Sort:
        return Sort(**{name: self.cleaned_data[name] for name in Sort.__dataclass_fields__})


class StockForm(SortForm):
    # Whether they are others is asked where as many went in on that day for as much.
    when_needed = ("another",)

    paid = NumberField(label="Paid in all", **_MONEY)
    on = day_field("Bought on")
    another = forms.BooleanField(label="Others, as many on the same day for as much", required=False)


class ItemForm(VersionedForm):
    # Whether two are one is asked where another is called so.
    when_needed = ("together",)

    together = forms.BooleanField(label="The same as one that is there: put what lies here with it", required=False)

    class Meta:
        model = StockItem
        formfield_callback = as_typed
        fields = [*names_of(ItemDetails), "fits"]
        widgets = {"fits": forms.SelectMultiple(attrs={"size": 6})}

    def clean(self):
        data = super().clean()
        at, to = data.get("reorder_at"), data.get("reorder_to")
        if to is not None and at is None:
            self.add_error("reorder_at", "At how little is more ordered?")
        elif at is not None and to is not None and to <= at:
            self.add_error("reorder_to", "That is no more than what it is ordered at.")
        return data

    BESIDE = ("fits", "together")

    @property
    def details(self) -> ItemDetails:
        return ItemDetails(**{name: value for name, value in self.changes.items() if name not in self.BESIDE})


class CountForm(OwnIds, forms.Form):
    ids = "count"

    counted = amount_field("Counted")
    reason = forms.CharField(label="How a difference came about", max_length=160, required=False)


class ConditionForm(OwnIds, forms.Form):
    ids = "condition"

    quantity = amount_field("How many")
    condition = to_choose("They are", CONDITIONS, "Say what they turned out to be.")
    drawer = forms.CharField(label="They go to drawer", max_length=20, required=False)
    reason = forms.CharField(
        label="How that was found out", max_length=160, error_messages={"required": "Say how that was found out."}
    )

    @property
    def chosen(self) -> Condition:
        return Condition(self.cleaned_data["condition"])


class DesignForm(OwnIds, VersionedForm):
    ids = "design"

    class Meta:
        model = Design
        fields = names_of(DesignDetails)


class TermsForm(VersionedForm):
    class Meta:
        model = PartOrder
        formfield_callback = as_typed
        fields = ["ordered_on", "expected_on", "currency", "rate", "postage", "duty", "note"]
        widgets = {"ordered_on": date_input(), "expected_on": date_input()}
        labels = {"rate": "One unit of it in our currency", "postage": "Postage, in that currency"}

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        self.fields["rate"].required = self.fields["ordered_on"].required = False
        self.fields["rate"].error_messages["max_digits"] = "A rate has fewer figures."
        for name in ("postage", "duty"):
            self.fields[name].required = False
            self.fields[name].error_messages |= _BELOW_0
        self.fields["ordered_on"].help_text = "" if self.instance.pk else "today, if empty"
        if not self.instance.pk:
            self.fields["rate"].initial = None

    def clean_currency(self) -> str:
        code = self.cleaned_data["currency"].strip().upper()
        if code not in list_currencies():
            raise forms.ValidationError("Three letters, as in EUR.")
        return code

    def clean(self):
        data = super().clean()
        for name in ("postage", "duty"):
            if name in data and data[name] is None:
                data[name] = Decimal(0)
            elif data.get(name, 0) < 0:
                self.add_error(name, _BELOW_0["min_value"])
        if data.get("currency") == base_currency():
            if why := wrong_rate(data["currency"], data.get("rate") or Decimal(1)):
                self.add_error("rate", why)
            data["rate"] = Decimal(1)
        elif data.get("rate") is None and "rate" not in self.errors:
            self.add_error("rate", f"Type what one {data.get('currency', 'unit')} costs in {base_currency()}.")
        elif data.get("rate", 1) <= 0:
            self.add_error("rate", "A rate is above 0.")
        return data

    def _post_clean(self):
        # What is wrong at a field is said there; the constraints would say it again in their own words.
        if not self.errors:
            super()._post_clean()

    @property
    def terms(self) -> Terms:
        return Terms(**{name: self.cleaned_data[name] for name in Terms.__dataclass_fields__})


class OrderForm(TermsForm):
    seller = forms.CharField(label="Seller", max_length=60, error_messages={"required": "Say who sells it."})


class OrderLineForm(SortForm):
    each = NumberField(
        label="One costs, in their currency",
        min_value=Decimal(0),
        max_digits=10,
        decimal_places=4,
        error_messages=_BELOW_0,
    )

    @property
    def ordered(self) -> Ordered:
        return Ordered(self.sort, self.cleaned_data["quantity"], self.cleaned_data["each"])


class TakeInForm(forms.Form):
    """What came of each line, as typed; empty for all of it."""

    on = day_field("Came on")
    rest = forms.ChoiceField(
        label="What did not come",
        choices=[("", "nothing"), *((rest.value, rest.label) for rest in Rest)],
        required=False,
    )

    def __init__(self, *args, lines, **kwargs):
        super().__init__(*args, **kwargs)
        for line in lines:
            self.fields[f"came-{line.pk}"] = forms.CharField(
                label=f"Came of {line.item.name}", max_length=24, required=False
            )

    def clean(self) -> dict:
        for name in self.fields:
            if name.startswith("came-") and self.add_prefix(name) not in self.data:
                self.add_error(name, "It was put into the order meanwhile: say how much of it came.")
        if any(name.startswith("came-") and name not in self.fields for name in self.data):
            raise forms.ValidationError("Something was taken out of the order meanwhile: look at what is left in it.")
        return self.cleaned_data

    @property
    def came(self) -> dict[int, str]:
        typed = {name: said for name, said in self.cleaned_data.items() if name.startswith("came-")}
        return {int(name.removeprefix("came-")): said for name, said in typed.items()}


_BELOW_0 = {"min_value": "This may not be below 0."}


class SellerForm(SeenForm, forms.ModelForm):
    # Whether two are one is asked where another is called so.
    when_needed = ("together",)

    postage = NumberField(
        label="Postage of a parcel",
        min_value=0,
        max_digits=8,
        decimal_places=2,
        required=False,
        error_messages=_BELOW_0,
    )
    free_from = NumberField(
        label="Free from", min_value=0, max_digits=8, decimal_places=2, required=False, error_messages=_BELOW_0
    )
    together = forms.BooleanField(label="The same as one that is there: put their orders together", required=False)

    class Meta:
        model = PartSeller
        fields = names_of(SellerDetails)
        error_messages = {"name": {"required": "What are they called?"}}

    def _get_validation_exclusions(self):
        # One of the same name is asked about, not refused.
        return super()._get_validation_exclusions() | {"name"}


class WhyForm(forms.Form):
    why = forms.CharField(label="Why", max_length=160, error_messages={"required": "Say why."})


class FindForm(forms.Form):
    """Stock by a word, by what it fits, or what is to be ordered."""

    q = forms.CharField(label="Find", max_length=80, required=False)
    fits = forms.ModelChoiceField(MachineModel.objects.all(), label="Fits", required=False, empty_label="any machine")
    low = forms.BooleanField(label="to be ordered", required=False)


class KnownGoodForm(SeenForm, forms.ModelForm):
    class Meta:
        model = KnownGood
        fields = names_of(ShelfDetails)
        widgets = {"verified_on": date_input()}

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        needs = sorted({a.needs for s in SYMPTOMS for a in s.actions if a.needs})
        if self.instance.pk is None:
            del self.fields["in_use"]
        self.fields["stands_in"] = to_choose("Stands in for", [(n, n) for n in needs], "Say what it stands in for.")

    def clean_signals(self) -> str:
        """Names of signals as the calculator of intake gives them, parted by semicolons."""
        known = {signal.name.lower(): signal.name for signal in SIGNALS}
        found = []
        for word in filter(None, (part.strip() for part in self.cleaned_data["signals"].split(";"))):
            if word.lower() not in known:
                raise forms.ValidationError(f"“{word}” is no signal. There are: {'; '.join(known.values())}.")
            found.append(known[word.lower()])
        return "; ".join(dict.fromkeys(found))
