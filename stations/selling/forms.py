from decimal import Decimal
from typing import Any, cast

from django import forms

from core.selling.pictures import Cut
from core.workshop.upgrades.features import FeatureError, read_feature
from stations.buying.forms.fields import CurrencyAndRate
from stations.catalogue.models import MachineModel
from stations.common import clock
from stations.common.details import names_of
from stations.common.forms import OwnIds, SeenForm, VersionedForm, date_input, moment_input
from stations.common.happened import day_field
from stations.common.typed import NumberField, as_typed
from stations.selling import shop_pages
from stations.selling.models import Channel, Comparable, Listing, Offer, ShownPhoto
from stations.selling.remote import STAND_IN
from stations.selling.services import ChannelDetails


class PriceForm(OwnIds, VersionedForm):
    ids = "price"

    class Meta:
        model = Listing
        formfield_callback = as_typed
        fields = ["channel", "asking", "below_floor_reason"]
        error_messages = {"asking": {"invalid": "Type an amount, for example 149."}}

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        self.fields["asking"].required = True
        cast(forms.ModelChoiceField, self.fields["channel"]).queryset = Channel.objects.filter(in_use=True)


class TextForm(OwnIds, VersionedForm):
    ids = "text"

    class Meta:
        model = Listing
        formfield_callback = as_typed
        fields = ["title", "text"]
        widgets = {"text": forms.Textarea(attrs={"rows": 14})}

    def __init__(self, *args, must_say: int = 0, **kwargs):
        super().__init__(*args, **kwargs)
        # How long what is told besides is: it goes out with the text.
        self.must_say = must_say

    def clean_title(self) -> str:
        title, longest = self.cleaned_data["title"].strip(), self.instance.channel.title_length
        if not title:
            raise forms.ValidationError("A listing needs a title.")
        if len(title) > longest:
            raise forms.ValidationError(f"{len(title)} characters; {self.instance.channel} takes {longest} at most.")
        return title

    def clean_text(self) -> str:
        text, channel = self.cleaned_data["text"].strip(), self.instance.channel
        whole = len(text) + self.must_say
        if whole > channel.text_length:
            raise forms.ValidationError(
                f"{whole:,} characters with what must be said; {channel} takes {channel.text_length:,} at most."
            )
        return text


class SaleForm(forms.Form):
    channel = forms.ModelChoiceField(
        Channel.objects.filter(in_use=True), label="Where", required=False, empty_label="where it was priced for"
    )
    price = NumberField(
        label="Sold for",
        min_value=Decimal("0.01"),
        max_digits=10,
        decimal_places=2,
        error_messages={"min_value": "It sold for more than 0.", "invalid": "Type an amount, for example 149."},
    )
    buyer = forms.CharField(label="To whom", max_length=120, error_messages={"required": "Who bought it?"})
    postage = NumberField(
        label="Postage we pay",
        min_value=Decimal(0),
        max_digits=8,
        decimal_places=2,
        error_messages={"min_value": "This may not be below 0.", "invalid": "Type an amount, for example 9."},
    )
    on = day_field("Sold on")


class OfferForm(forms.Form):
    amount = NumberField(
        label="Offered",
        min_value=Decimal("0.01"),
        max_digits=10,
        decimal_places=2,
        error_messages={"min_value": "An offer is for more than 0.", "invalid": "Type an amount, for example 120."},
    )
    buyer = forms.CharField(label="By whom", max_length=120, error_messages={"required": "Who offered it?"})
    until = forms.DateTimeField(label="Stands until", required=False, widget=moment_input())


class AnswerForm(forms.Form):
    """Take an offer, decline it, or ask for more."""

    status = forms.ChoiceField(
        choices=[(s.value, s.label) for s in Offer.Status if s != Offer.Status.OPEN],
        error_messages={"required": "Take it, decline it, or ask for more.", "invalid_choice": "Take it or decline."},
    )
    counter = NumberField(
        label="Ask instead",
        required=False,
        min_value=Decimal("0.01"),
        max_digits=10,
        decimal_places=2,
        error_messages={
            "min_value": "Ask for more than 0.",
            "invalid": "Type an amount, for example 120.",
        },
    )

    def clean(self) -> dict:
        data = super().clean() or {}
        if data.get("status") == Offer.Status.COUNTERED and not self.errors and data.get("counter") is None:
            self.add_error("counter", "Say what is asked instead.")
        return data


class QuestionForm(forms.Form):
    answer = forms.CharField(
        label="Your answer",
        max_length=2000,
        widget=forms.Textarea(attrs={"rows": 4}),
        error_messages={"required": "Say something to it."},
    )


class WordForm(forms.Form):
    """Words of one’s own for one thing that must be said."""

    kind = forms.CharField(max_length=20)
    what = forms.CharField(max_length=400, required=False)
    words = forms.CharField(max_length=400, required=False)


class BundleForm(forms.Form):
    """Several units at one price; which ones stands in the address."""

    title = forms.CharField(label="What it is", max_length=120, required=False)
    price = NumberField(
        label="For all together",
        min_value=Decimal("0.01"),
        max_digits=10,
        decimal_places=2,
        error_messages={
            "required": "What do they cost together?",
            "min_value": "A bundle costs more than 0.",
            "invalid": "Type an amount, for example 290.",
        },
    )
    below_floor_reason = forms.CharField(label="Why under the floor", max_length=200, required=False)


class ShopPageForm(SeenForm, forms.Form):
    title = forms.CharField(max_length=80, error_messages={"required": "A page has a title."})
    text = forms.CharField(
        max_length=8000,
        widget=forms.Textarea(attrs={"rows": 14}),
        error_messages={"required": "Write something, or take the standard page back."},
    )

    def __init__(self, *args, page: shop_pages.Told, **kwargs):
        self.instance = page
        super().__init__(*args, **kwargs)

    @property
    def about(self) -> str:
        return self.instance.slug

    def standing(self) -> shop_pages.Told:
        return shop_pages.held_page(self.instance.slug)

    def shown(self, row: shop_pages.Told) -> dict[str, Any]:
        return {"title": row.title, "text": row.text}


class AskForm(forms.Form):
    """What a visitor of the public shop asks or offers. `website` is left empty by people."""

    who = forms.CharField(label="Your name", max_length=120, error_messages={"required": "How shall we call you?"})
    contact = forms.CharField(
        label="How we reach you",
        max_length=120,
        error_messages={"required": "We need a way to answer: an address or a telephone number."},
    )
    words = forms.CharField(
        label="Your question", max_length=2000, required=False, widget=forms.Textarea(attrs={"rows": 4})
    )
    amount = NumberField(
        label="Your offer, if you make one",
        required=False,
        min_value=Decimal("0.01"),
        max_digits=10,
        decimal_places=2,
        error_messages={"min_value": "Offer more than 0.", "invalid": "Type an amount, for example 120."},
    )
    website = forms.CharField(required=False, widget=forms.TextInput(attrs={"tabindex": "-1", "autocomplete": "off"}))

    def clean(self) -> dict:
        data = super().clean() or {}
        if not self.errors and not data.get("words", "").strip() and data.get("amount") is None:
            self.add_error("words", "Ask something, or make an offer.")
        return data


class ReserveForm(forms.Form):
    buyer = forms.CharField(label="Hold it for", max_length=120, error_messages={"required": "For whom?"})
    until = forms.DateTimeField(
        label="Until", widget=moment_input(), error_messages={"required": "Until when? A reservation has an end."}
    )


def _percent_field(label: str) -> NumberField:
    return NumberField(
        label=label,
        min_value=Decimal(0),
        max_value=Decimal(100),
        max_digits=5,
        decimal_places=1,
        error_messages={
            "required": "Press a spot on the picture, or type a share.",
            "min_value": "From 0 to 100.",
            "max_value": "From 0 to 100.",
            "invalid": "Type a share from 0 to 100.",
        },
    )


class CutForm(VersionedForm):
    """A turn, and what is cut off each side in percent; 0 for nothing."""

    turn = NumberField(
        label="Straighten, degrees",
        min_value=Decimal(-15),
        max_value=Decimal(15),
        max_digits=4,
        decimal_places=1,
        error_messages={"min_value": "15 degrees at most.", "max_value": "15 degrees at most."},
    )
    off_left, off_right = _percent_field("Off the left, %"), _percent_field("Off the right, %")
    off_top, off_bottom = _percent_field("Off the top, %"), _percent_field("Off the bottom, %")

    class Meta:
        model = ShownPhoto
        fields: list[str] = []

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        for name, value in self.row_as_typed(self.instance).items():
            self.fields[name].initial = value

    def row_as_typed(self, row: ShownPhoto) -> dict[str, str]:
        shares = (row.left, 1 - row.left - row.width, row.top, 1 - row.top - row.height)
        named = zip(("off_left", "off_right", "off_top", "off_bottom"), shares, strict=True)
        return {"turn": f"{row.turn:g}"} | {name: f"{100 * share:.3g}" for name, share in named}

    def clean(self) -> dict:
        data = super().clean() or {}
        if not self.errors:
            left, right, top, bottom = (
                float(data[name]) / 100 for name in ("off_left", "off_right", "off_top", "off_bottom")
            )
            try:
                self.cut = Cut(left, top, 1 - left - right, 1 - top - bottom, float(data["turn"]))
            except ValueError as problem:
                raise forms.ValidationError(str(problem)) from problem
        return data


class MarkForm(forms.Form):
    """Where a finding is seen on a photo, in percent across and down."""

    x, y = _percent_field("Across, %"), _percent_field("Down, %")
    finding = forms.ChoiceField(label="What is seen there", error_messages={"invalid_choice": "Choose a finding."})

    def __init__(self, findings, *args, **kwargs):
        super().__init__(*args, **kwargs)
        cast(forms.ChoiceField, self.fields["finding"]).choices = [(one.pk, str(one)) for one in findings]


class ComparableForm(CurrencyAndRate, forms.ModelForm):
    features = forms.CharField(
        label="What it had, with commas", max_length=400, required=False, help_text="empty: nobody said; none: nothing"
    )
    buyer = forms.ChoiceField(label="Sold to", required=False)
    another = forms.BooleanField(label="Another sale, of the same model, day and price", required=False)
    # Whether it is another is asked where one just like it is here.
    when_needed = ("another",)

    class Meta:
        model = Comparable
        formfield_callback = as_typed
        fields = [
            "model",
            "sold_on",
            "grade",
            "completeness",
            "price",
            "currency",
            "rate",
            "postage",
            "auction",
            "channel",
            "features",
            "buyer",
        ]
        widgets = {
            "sold_on": date_input(),
            "auction": forms.Select(choices=[("", "not said"), (True, "by auction"), (False, "at a fixed price")]),
        }

    def __init__(self, *args, buyers=(), **kwargs):
        super().__init__(*args, **kwargs)
        cast(forms.ModelChoiceField, self.fields["model"]).queryset = MachineModel.objects.to_choose()
        cast(forms.ChoiceField, self.fields["buyer"]).choices = [
            ("", "not known"),
            *((one.code, one.name) for one in buyers),
        ]

        # One that is left over from another currency is no rate of this one.
        self.fields["rate"].required, self.fields["rate"].initial = False, None

    def clean(self):
        data = super().clean()
        self.look_up_rate(data, data.get("sold_on"))
        return data

    def clean_sold_on(self):
        day = self.cleaned_data["sold_on"]
        if day > clock.today():
            raise forms.ValidationError("That day is still to come.")
        return day

    def clean_price(self) -> Decimal:
        if self.cleaned_data["price"] <= 0:
            raise forms.ValidationError("A sale has a price above 0.")
        return self.cleaned_data["price"]

    def clean_features(self) -> list[str] | None:
        typed = self.cleaned_data["features"].strip()
        if typed.lower() in {"", "none"}:
            return [] if typed else None
        try:
            return sorted({read_feature(one).name for one in typed.split(",") if one.strip()})
        except FeatureError as problem:
            raise forms.ValidationError(f"{problem}.") from problem


class ChannelForm(VersionedForm):
    key = forms.CharField(
        label="Key that it knows us by",
        max_length=200,
        required=False,
        widget=forms.PasswordInput(attrs={"autocomplete": "off"}),
        help_text="left empty: as it is",
    )

    class Meta:
        model = Channel
        formfield_callback = as_typed
        fields = names_of(ChannelDetails)
        labels = {
            "kind": "How it is served",
            "address": "Where a marketplace answers",
            "fee_percent": "Fee, % of price",
            "fee_fixed": "Fixed fee",
            "title_length": "Longest title",
            "text_length": "Longest text",
        }
        error_messages = {
            "name": {"required": "What is it called?", "unique": "There is one of this name already."},
            "fee_percent": {"required": "Say what it takes; 0 where it takes none."},
            "fee_fixed": {"required": "Say what it takes; 0 where it takes none."},
        }

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        if not self.instance.pk:
            # Floors rest on what a channel takes: nothing is taken for granted.
            self.initial |= {"fee_percent": None, "fee_fixed": None}
            del self.fields["in_use"]

    def clean_address(self) -> str:
        address = self.cleaned_data["address"].strip()
        if address and address != STAND_IN and not address.startswith(("https://", "http://")):
            raise forms.ValidationError("An address begins with https:// or http://.")
        return address

    def clean_key(self) -> str:
        return self.cleaned_data["key"] or self.instance.key

    def clean(self) -> dict:
        data = super().clean() or {}
        if data.get("kind") == Channel.Kind.MARKET and not self.errors and not data["address"]:
            self.add_error("address", f"Where does it answer? “{STAND_IN}” is the simulated one.")
        return data

    def clean_fee_percent(self) -> Decimal:
        percent = self.cleaned_data["fee_percent"]
        if not 0 <= percent <= 100:
            raise forms.ValidationError("A percentage from 0 to 100.")
        return percent

    def clean_fee_fixed(self) -> Decimal:
        fee = self.cleaned_data["fee_fixed"]
        if fee < 0:
            raise forms.ValidationError("This may not be below 0.")
        return fee
