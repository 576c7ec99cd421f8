"""Offers as they are typed, the question of the cheapest way, and where something stands."""

from decimal import Decimal

from django import forms

from stations.common.forms import OwnIds
from stations.common.typed import CountField, NumberField

_MONEY = {"min_value": Decimal(0), "max_digits": 8, "decimal_places": 2, "required": False}


class OfferForm(forms.Form):
    want = forms.ChoiceField(label="What", error_messages={"required": "Say what is offered."})
    seller = forms.CharField(label="Seller", max_length=60, error_messages={"required": "Say who offers it."})
    each = NumberField(label="Each", **{**_MONEY, "required": True})
    most = CountField(label="How many there are, empty for enough", min_value=1, max_value=9999, required=False)
    days = CountField(label="Days until it is here", min_value=0, max_value=999, required=False)
    claim = forms.CharField(label="What is said of it", max_length=120, required=False)
    postage = NumberField(label="Postage of a parcel from there", **_MONEY)
    free_from = NumberField(label="free from", **_MONEY)

    def __init__(self, *args, wants, **kwargs):
        super().__init__(*args, **kwargs)
        self.fields["want"].choices = [("", "choose"), *((name, f"{name} ({n})" if n else name) for name, n in wants)]


class PlaceForm(forms.Form):
    place = forms.CharField(label="Place", max_length=40, error_messages={"required": "Say where it stands."})


class WayForm(OwnIds, forms.Form):
    ids = "way"

    budget = NumberField(label="Budget, empty for none", **_MONEY)
    days = CountField(label="Here within days", min_value=0, max_value=999, required=False)
