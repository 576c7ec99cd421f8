from django import forms

from core.intake.approach import Approach
from core.intake.casing import Face
from core.intake.condition import FindingKind
from stations.intake.models import APPROACHES, PRESENCES, Finding, MachineModel, Unit
from stations.people.forms import VersionedForm


class ReceiveForm(forms.Form):
    """How many pieces of a line came, and what they are."""

    line = forms.IntegerField(widget=forms.HiddenInput)
    count = forms.IntegerField(label="How many came", min_value=1, error_messages={"min_value": "At least one."})
    model = forms.ModelChoiceField(
        MachineModel.objects.all(), label="Model, if known", required=False, empty_label="not known yet"
    )
    place = forms.CharField(label="Put them where", max_length=40, required=False)


class UnitForm(VersionedForm):
    class Meta:
        model = Unit
        fields = [
            "model",
            "title",
            "serial",
            "form_factor",
            "mains",
            "supply",
            "battery",
            "drives",
            "picture_tube",
            "keyboard",
            "data_on_board",
            "owner_name",
            "place",
        ]
        error_messages = {"title": {"required": "Say what it is, as well as you can."}}

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        self.fields["model"].empty_label = "not in the bank"


class FindingForm(forms.ModelForm):
    class Meta:
        model = Finding
        fields = ["face", "x", "y", "kind", "severity", "extent_percent", "words"]
        widgets = {"x": forms.HiddenInput, "y": forms.HiddenInput}
        error_messages = {"words": {"required": "Say in a few words what is wrong."}}

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        self.fields["x"].initial = self.fields["y"].initial = 0.5
        self.fields["face"].initial, self.fields["kind"].initial = Face.FRONT, FindingKind.SCRATCH


class ContentsForm(forms.Form):
    """One choice for each thing that is on the unit's list."""

    extra = forms.CharField(label="Came with it, not expected", max_length=60, required=False)
    missing = forms.CharField(label="Missing, not on the list", max_length=60, required=False)

    def __init__(self, data=None, *, contents):
        super().__init__(data)
        for content in contents:
            self.fields[f"content-{content.pk}"] = forms.ChoiceField(
                label=content.name, choices=PRESENCES, initial=content.presence, required=False
            )

    @property
    def ticks(self):
        return [self[name] for name in self.fields if name.startswith("content-")]

    @property
    def presences(self) -> dict[int, str]:
        return {
            int(name.removeprefix("content-")): value
            for name, value in self.cleaned_data.items()
            if name.startswith("content-") and value
        }


class ApproachForm(forms.Form):
    approach = forms.ChoiceField(label="Approach", choices=APPROACHES, widget=forms.RadioSelect)
    reason = forms.CharField(label="Why, if it changes later", max_length=200, required=False)

    @property
    def chosen(self) -> Approach:
        return Approach(self.cleaned_data["approach"])


class ModelForm(forms.ModelForm):
    """A model for the bank; what belongs with it as lines, the weightiest first: "4 keyboard"."""

    expected = forms.CharField(
        label="What belongs with it, a line each, with its weight",
        required=False,
        widget=forms.Textarea(attrs={"rows": 5, "placeholder": "4 keyboard\n2 mouse"}),
    )

    class Meta:
        model = MachineModel
        fields = [
            "maker",
            "name",
            "form_factor",
            "year_from",
            "year_to",
            "width_mm",
            "height_mm",
            "depth_mm",
            "supply",
            "battery",
            "drives",
            "photos_wanted",
            "picture_tube",
            "keyboard",
        ]
        labels = {
            "form_factor": "Shape",
            "year_from": "Made from",
            "year_to": "until",
            "width_mm": "Width, mm",
            "height_mm": "Height, mm",
            "depth_mm": "Depth, mm",
            "picture_tube": "Picture tube inside",
            "keyboard": "Keyboard to test",
        }

    def clean_expected(self) -> list[tuple[str, int]]:
        items: dict[str, int] = {}
        for number, line in enumerate(self.cleaned_data["expected"].splitlines(), 1):
            weight, _, name = line.strip().partition(" ")
            if not line.strip():
                continue
            if not weight.isdecimal() or not 1 <= int(weight) <= 9 or not name.strip():
                raise forms.ValidationError(
                    f"Line {number}: a weight from 1 to 9, then the thing, such as: 4 keyboard."
                )
            if name.strip() in items:
                raise forms.ValidationError(f"Line {number}: {name.strip()} stands there twice.")
            items[name.strip()[:60]] = int(weight)
        return list(items.items())

    def clean(self):
        data = super().clean()
        if data.get("year_from") and data.get("year_to") and data["year_to"] < data["year_from"]:
            self.add_error("year_to", "It can’t have ended before it began.")
        for name in ("width_mm", "height_mm", "depth_mm"):
            if data.get(name) == 0:
                self.add_error(name, "Above 0.")
        return data
