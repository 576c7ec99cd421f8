"""Forms of what an upgrade is worth: the set that is asked for, and what a buyer pays for."""

from decimal import Decimal
from typing import cast

from django import forms

from core.workshop.upgrades.best import MOST_BUDGET, MOST_MINUTES, Limits
from core.workshop.upgrades.features import Feature, FeatureError, read_feature
from stations.common.typed import CountField, NumberField

MOST_MUSTS = 12


class SetForm(forms.Form):
    """For whom, within which budget and minutes, and what it must become. Everything may be left out."""

    buyer = forms.ChoiceField(label="Buyer", required=False)
    budget = NumberField(
        label="Budget",
        required=False,
        min_value=Decimal(0),
        max_value=MOST_BUDGET,
        decimal_places=2,
        error_messages={"min_value": "A budget may not be below 0.", "invalid": "Type an amount, for example 80."},
    )
    minutes = CountField(
        label="Minutes",
        required=False,
        min_value=0,
        max_value=MOST_MINUTES,
        error_messages={"min_value": "Minutes may not be below 0.", "invalid": "Type a whole number of minutes."},
    )
    musts = forms.CharField(
        label="Must have in the end",
        max_length=300,
        required=False,
        widget=forms.TextInput(attrs={"placeholder": "memory 4 MiB, network, disk 40 MB"}),
    )
    maybe = forms.BooleanField(label="Take what is not known to fit as if it did", required=False)

    def __init__(self, *args, buyers, **kwargs):
        super().__init__(*args, **kwargs)
        cast(forms.ChoiceField, self.fields["buyer"]).choices = [
            ("", "who pays most"),
            *((one.code, one.name) for one in buyers),
        ]

    def clean_musts(self) -> list[Feature]:
        try:
            found = [read_feature(one) for one in self.cleaned_data["musts"].split(",") if one.strip()]
        except FeatureError as problem:
            raise forms.ValidationError(f"{problem}.") from problem
        if len(found) > MOST_MUSTS:
            raise forms.ValidationError(f"{MOST_MUSTS} at most.")
        return list(dict.fromkeys(found))

    @property
    def limits(self) -> Limits:
        data = self.cleaned_data
        return Limits(data["budget"], data["minutes"], data["maybe"])


class BuyerForm(forms.Form):
    version = forms.IntegerField(widget=forms.HiddenInput, required=False, initial=0)
    name = forms.CharField(label="Who", max_length=40, error_messages={"required": "Say who that is."})
    words = forms.CharField(label="What they want, in a sentence", max_length=120, required=False)
    effects = forms.CharField(
        label="What a feature adds to the price, or takes from it",
        max_length=4000,
        widget=forms.Textarea(attrs={"rows": 14, "spellcheck": "false"}),
        error_messages={"required": "A buyer without features looks for nothing: say at least one."},
    )
