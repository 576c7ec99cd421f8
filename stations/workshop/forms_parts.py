"""A part as it is described, moved and tested."""

from decimal import Decimal
from typing import Any, cast

from django import forms

from core.bench.part_checks import checks_for
from core.machine.tags import TagError, parse_tag
from core.stock.parts import Condition, PartKind
from stations.common.forms import SaidSelect, VersionedForm
from stations.common.happened import day_field
from stations.common.typed import NumberField, as_typed
from stations.stock.models import KnownGood
from stations.units.models import Content, Part, Unit
from stations.units.part_tests import Seen
from stations.units.parts import Described, Place, Worths, is_right

_MONEY: dict[str, Any] = {
    "min_value": Decimal(0),
    "max_digits": 10,
    "decimal_places": 2,
    "error_messages": {"min_value": "This may not be below 0."},
}


class UnitField(forms.CharField):
    """A unit by its tag, as it is typed or scanned."""

    def __init__(self, **kwargs):
        super().__init__(max_length=12, **kwargs)

    def clean(self, value):
        words = super().clean(value)
        if not words:
            return None
        try:
            tag = parse_tag(words)
        except TagError as wrong:
            raise forms.ValidationError(str(wrong)) from wrong
        unit = Unit.objects.select_related("lot", "line").filter(number=tag.number).first() if tag else None
        if unit is None:
            raise forms.ValidationError(f"There is no {words.upper()}.")
        return unit


class PartForm(VersionedForm):
    """What a part is, and where exactly it sits. `in_unit`: whether that is a place in a machine."""

    class Meta:
        model = Part
        formfield_callback = as_typed
        fields = [
            "kind",
            "name",
            "serial",
            "revision",
            "slot",
            "drawer",
            "condition",
            "worth",
            "setting",
            "keeps_data",
            "original",
            "doubt",
        ]
        widgets = {"keeps_data": SaidSelect, "original": SaidSelect}
        error_messages = {"name": {"required": "Say what part it is."}}

    def __init__(self, *args, in_unit: bool, **kwargs):
        super().__init__(*args, **kwargs)
        del self.fields["drawer" if in_unit else "slot"]
        cast(forms.ChoiceField, self.fields["kind"]).choices = [("", "choose"), *((k.value, k.label) for k in PartKind)]

    def clean_worth(self):
        worth = self.cleaned_data["worth"]
        if worth is not None and worth < 0:
            raise forms.ValidationError("This may not be below 0.")
        return worth

    @property
    def described(self) -> Described:
        data = {name: self.cleaned_data[name] for name in Described.__dataclass_fields__}
        return Described(**{**data, "kind": PartKind(data["kind"]), "condition": Condition(data["condition"])})

    @property
    def slot(self) -> str:
        return self.cleaned_data.get("slot", "")

    @property
    def drawer(self) -> str:
        return self.cleaned_data.get("drawer", "")


class FoundForm(PartForm):
    """A part that is found in a machine, perhaps as a thing on its list."""

    content = forms.ModelChoiceField(
        Content.objects.none(), label="On its list as", required=False, empty_label="not on the list"
    )

    def __init__(self, *args, unit: Unit, **kwargs):
        super().__init__(*args, in_unit=True, **kwargs)
        self.unit = unit
        cast(forms.ModelChoiceField, self.fields["content"]).queryset = unit.contents.filter(part=None)

    @property
    def place(self) -> Place:
        return Place(self.unit, self.slot, self.cleaned_data["content"], self.cleaned_data["original"])


class BuyForm(PartForm):
    paid = NumberField(label="Paid", **_MONEY)
    on = day_field("Bought on")

    def __init__(self, *args, **kwargs):
        super().__init__(*args, in_unit=False, **kwargs)


class WhereForm(forms.Form):
    """Where a part goes: a machine by its tag, or a drawer."""

    to = UnitField(label="To which machine; empty for a drawer", required=False)


class MoveForm(forms.Form):
    seen = forms.DateTimeField(required=False, widget=forms.HiddenInput)
    slot = forms.CharField(label="Slot, bay or socket", max_length=40, required=False)
    content = forms.ModelChoiceField(
        Content.objects.none(), label="It is there for", required=False, empty_label="nothing on its list"
    )
    right = forms.TypedChoiceField(
        label="As the one that belongs there",
        choices=[("", "choose"), ("yes", "yes, an original one"), ("no", "no, another one")],
        coerce=lambda said: said == "yes",
        empty_value=None,
        required=False,
    )
    drawer = forms.CharField(label="Drawer", max_length=20, required=False)
    worth = NumberField(label="The part is worth", required=False, **_MONEY)
    whole = NumberField(label="All that is in the machine, with it", required=False, **_MONEY)
    keeps = forms.NullBooleanField(label="Does it keep data in itself?", required=False, widget=SaidSelect)
    why = forms.CharField(label="Why", max_length=160, required=False)

    def __init__(self, *args, part: Part, to: Unit | None, shared: bool, **kwargs):
        super().__init__(*args, **kwargs)
        self.to = to
        unknown = bool(part.data_words) and not part.holds_data
        here = {"why", "seen"} | ({"slot"} if to else {"drawer"})
        self.fields["seen"].initial = part.since.isoformat()
        if to:
            field = cast(forms.ModelChoiceField, self.fields["content"])
            field.queryset = to.contents.filter(part=None)
            if field.queryset.exists():
                here |= {"content", "right"}
                self.fields["right"].initial = {True: "yes", False: "no", None: ""}[is_right(part)]
        if shared:
            here |= {"worth", "whole"}
        if to and unknown:
            here.add("keeps")
        for name in self.fields.keys() - here:
            del self.fields[name]

    def clean(self):
        data = super().clean() or {}
        for name in ("worth", "whole"):
            if name in self.fields and data.get(name) is None and name not in self.errors:
                self.add_error(name, "Say what it is worth: the cost goes by that.")
        if data.get("content") and data.get("right") is None and "right" not in self.errors:
            self.add_error("right", "Say whether it is the one that belongs there.")
        return data

    @property
    def place(self) -> Place:
        data = self.cleaned_data
        return Place(self.to, data.get("slot", ""), data.get("content"), data.get("right"), data.get("drawer", ""))

    @property
    def worths(self) -> Worths | None:
        data = self.cleaned_data
        return Worths(data["worth"], data["whole"]) if "worth" in self.fields else None


class WithOthersForm(forms.Form):
    name = forms.CharField(label="In with", max_length=80, error_messages={"required": "Say what part it is."})
    drawer = forms.CharField(label="Drawer", max_length=20, required=False)


class TestForm(forms.Form):
    """What was seen of a part by itself: one choice a check, with what was read where a figure belongs to it."""

    ANSWERS = (("", "not looked at"), ("pass", "good"), ("fail", "bad"))

    fixture = forms.ModelChoiceField(
        KnownGood.objects.filter(bad_since=None, in_use=True), label="On a fixture", required=False, empty_label="none"
    )
    in_unit = UnitField(label="or in a machine", required=False)
    figure = forms.CharField(label="A figure: what was measured", max_length=40, required=False)
    measured = NumberField(label="It gave", max_digits=12, decimal_places=3, required=False)
    should_give = NumberField(label="Such a part should give", max_digits=12, decimal_places=3, required=False)
    words = forms.CharField(label="In words", max_length=200, required=False)

    def __init__(self, *args, part: Part, **kwargs):
        super().__init__(*args, **kwargs)
        self.checks = checks_for(part.is_what)
        for check in self.checks:
            self.fields[f"check-{check.code}"] = forms.ChoiceField(
                label=check.words, choices=self.ANSWERS, required=False
            )
            if check.unit:
                self.fields[f"value-{check.code}"] = forms.CharField(label=check.unit, max_length=40, required=False)

    @property
    def rows(self):
        """Each check with its two boxes; the second is None where nothing is read."""
        return [
            (check, self[f"check-{check.code}"], self[f"value-{check.code}"] if check.unit else None)
            for check in self.checks
        ]

    @property
    def seen(self) -> Seen:
        data = self.cleaned_data
        answers = {"pass": True, "fail": False}
        plain = {name: data[name] for name in ("fixture", "in_unit", "words", "figure", "measured", "should_give")}
        return Seen(
            {check.code: answers.get(data[f"check-{check.code}"]) for check in self.checks},
            {check.code: data[f"value-{check.code}"] for check in self.checks if check.unit},
            **plain,
        )

    def clean(self):
        data = super().clean() or {}
        if data.get("fixture") and data.get("in_unit"):
            self.add_error("in_unit", "On a fixture, or in a machine: one of them.")
        return data


class ReasonForm(forms.Form):
    reason = forms.CharField(label="What became of it", max_length=160, error_messages={"required": "Say it."})


class NotSanitisedForm(forms.Form):
    why = forms.CharField(label="What was found", max_length=160, error_messages={"required": "Say what was found."})


class VerifiedForm(forms.Form):
    verified = forms.CharField(
        label="How it was verified",
        max_length=160,
        error_messages={"required": "Say how it was verified: what was read back, what is left of it."},
    )


class BesideForm(forms.Form):
    other = UnitField(
        label="Beside",
        error_messages={"required": "Which other machine?"},
        widget=forms.TextInput({"data-scan": True}),
    )
