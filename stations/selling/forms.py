from decimal import Decimal

from babel import numbers
from django import forms

from stations.people.forms import VersionedForm, date_input
from stations.selling.models import Comparable, Listing


class PriceForm(VersionedForm):
    class Meta:
        model = Listing
        fields = ["channel", "asking", "below_floor_reason"]
        error_messages = {"asking": {"invalid": "Type an amount, for example 149."}}

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        self.fields["asking"].required = True


class TextForm(VersionedForm):
    class Meta:
        model = Listing
        fields = ["title", "text"]
        widgets = {"text": forms.Textarea(attrs={"rows": 14})}

    def clean_title(self) -> str:
        title, longest = self.cleaned_data["title"].strip(), self.instance.channel.title_length
        if not title:
            raise forms.ValidationError("A listing needs a title.")
        if len(title) > longest:
            raise forms.ValidationError(f"{len(title)} characters; {self.instance.channel} takes {longest} at most.")
        return title


class SaleForm(forms.Form):
    price = forms.DecimalField(
        label="Sold for",
        min_value=Decimal("0.01"),
        max_digits=10,
        decimal_places=2,
        error_messages={"min_value": "It sold for more than 0.", "invalid": "Type an amount, for example 149."},
    )
    buyer = forms.CharField(label="To whom", max_length=120, error_messages={"required": "Who bought it?"})
    postage = forms.DecimalField(
        label="Postage we pay",
        min_value=Decimal(0),
        max_digits=8,
        decimal_places=2,
        error_messages={"min_value": "This may not be below 0.", "invalid": "Type an amount, for example 9."},
    )


class ComparableForm(forms.ModelForm):
    class Meta:
        model = Comparable
        fields = ["model", "sold_on", "grade", "completeness", "price", "currency", "rate", "channel"]
        widgets = {"sold_on": date_input()}

    def clean_currency(self) -> str:
        code = self.cleaned_data["currency"].strip().upper()
        if code not in numbers.list_currencies():
            raise forms.ValidationError(f"{code} is no currency code. EUR, GBP and SEK are.")
        return code

    def clean_rate(self) -> Decimal:
        rate = self.cleaned_data["rate"]
        if rate <= 0:
            raise forms.ValidationError("A rate is above 0.")
        return rate
