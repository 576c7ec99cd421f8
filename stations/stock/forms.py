from decimal import Decimal

from django import forms

from core.bench.fault_library import SYMPTOMS
from core.intake.signal import SIGNALS
from stations.common.forms import date_input
from stations.common.typed import CountField, NumberField, as_typed
from stations.stock.models import KnownGood, StockItem


class StockForm(forms.ModelForm):
    quantity = CountField(
        label="How many", min_value=1, max_value=100_000, error_messages={"min_value": "At least one."}
    )
    paid = NumberField(
        label="Paid in all",
        min_value=Decimal(0),
        max_digits=10,
        decimal_places=2,
        error_messages={"min_value": "This may not be below 0."},
    )

    class Meta:
        model = StockItem
        formfield_callback = as_typed
        fields = ["name", "condition", "drawer", "modern", "keeps_data"]
        error_messages = {"name": {"required": "Say what part it is."}}

    def _get_validation_exclusions(self):
        # More of a part that is in stock adds to it; so a name that is there already is no mistake here.
        return super()._get_validation_exclusions() | {"name"}


class KnownGoodForm(forms.ModelForm):
    class Meta:
        model = KnownGood
        fields = ["name", "kind", "stands_in", "place", "verified_on", "shows_colour", "signals"]
        widgets = {"verified_on": date_input()}

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        needs = sorted({a.needs for s in SYMPTOMS for a in s.actions if a.needs})
        self.fields["stands_in"] = forms.ChoiceField(label="Stands in for", choices=[(n, n) for n in needs])

    def clean_signals(self) -> str:
        """Names of signals as the calculator of intake gives them, parted by semicolons."""
        known = {signal.name.lower(): signal.name for signal in SIGNALS}
        found = []
        for word in filter(None, (part.strip() for part in self.cleaned_data["signals"].split(";"))):
            if word.lower() not in known:
                raise forms.ValidationError(f"“{word}” is no signal. There are: {'; '.join(known.values())}.")
            found.append(known[word.lower()])
        return "; ".join(dict.fromkeys(found))
