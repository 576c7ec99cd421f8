from typing import cast

from django import forms

from core.intake.condition import FindingKind
from core.intake.triage import open_paths
from core.machine.approach import Approach
from core.machine.casing import FormFactor, face_label, faces_of
from core.machine.mains import Mains
from core.machine.supply import Supply
from stations.catalogue.models import MachineModel
from stations.common.forms import VersionedForm
from stations.common.typed import CountField, as_typed
from stations.intake.settling import HOW
from stations.stock.models import CONDITIONS, MEASURES
from stations.stock.services import Sort
from stations.units.models import APPROACHES, PRESENCES, Finding, OwnersTerms, Unit


class ReceiveForm(forms.Form):
    """How many pieces of a line came, and what they are."""

    line = forms.IntegerField(widget=forms.HiddenInput)
    count = CountField(label="How many came", min_value=1, error_messages={"min_value": "At least one."})
    model = forms.ModelChoiceField(
        MachineModel.objects.all(), label="Model, if known", required=False, empty_label="not known yet"
    )
    place = forms.CharField(label="Put them where", max_length=40, required=False)


class DrawerForm(forms.Form):
    """Pieces of a line that go into a drawer: how many of the line, as what, and how much that is there."""

    count = CountField(label="How many of the line", min_value=1, error_messages={"min_value": "At least one."})
    name = forms.CharField(label="What it is", max_length=80, error_messages={"required": "Say what part it is."})
    condition = forms.ChoiceField(choices=CONDITIONS, initial="untested")
    measure = forms.ChoiceField(label="Counted in", choices=MEASURES)
    amount = forms.CharField(label="How much that is, empty for as many pieces", max_length=24, required=False)
    drawer = forms.CharField(label="Drawer", max_length=20, required=False)
    modern = forms.BooleanField(label="Modern part, not of the machine’s time", required=False)
    keeps_data = forms.BooleanField(label="Used storage: may hold somebody’s data", required=False)

    @property
    def sort(self) -> Sort:
        return Sort(**{name: self.cleaned_data[name] for name in Sort.__dataclass_fields__})


class UnitForm(VersionedForm):
    class Meta:
        model = Unit
        formfield_callback = as_typed
        fields = [
            "model",
            "title",
            "serial",
            "form_factor",
            "place",
            "mains_variant",
            "mains",
            "supply",
            "adapter_volts",
            "adapter_amps",
            "adapter_polarity",
            "battery",
            "drives",
            "picture_tube",
            "keyboard",
        ]
        error_messages = {"title": {"required": "Say what it is, as well as you can."}}

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        self.fields["model"].empty_label = "not in the bank"

    def clean(self):
        data = super().clean()
        adapters = {Mains.ADAPTER_AC: Supply.EXTERNAL_AC, Mains.ADAPTER_DC: Supply.EXTERNAL_DC}
        other = {Supply.EXTERNAL_AC: Mains.ADAPTER_DC, Supply.EXTERNAL_DC: Mains.ADAPTER_AC}
        if data.get("mains_variant") and other.get(data.get("supply")) == data["mains_variant"]:
            self.add_error("mains_variant", "The supply says the other kind of current. Which is it, AC or DC?")
        elif data.get("mains_variant") in adapters and data.get("supply") in {Supply.LINEAR, Supply.SWITCHING}:
            self.add_error("supply", "It plugs into an adapter, so its supply is not inside.")
        return data


class HoldingForm(forms.ModelForm):
    class Meta:
        model = Unit
        formfield_callback = as_typed
        fields = ["holding", "owner_name"]

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        self.agreed = forms.fields_for_model(OwnersTerms, exclude=["unit"], formfield_callback=as_typed)
        self.fields |= self.agreed
        self.initial |= forms.model_to_dict(self.instance.agreed, self.agreed)
        self.fields["commission_percent"].required = False
        if not self.instance.consigned:
            self.initial["commission_percent"] = None

    def clean(self):
        data = super().clean()
        if data.get("holding") != Unit.Holding.OWNED and not data.get("owner_name"):
            self.add_error("owner_name", "Whose is it? Type the owner’s name.")
        read = {name: data[name] for name in self.agreed if data.get(name) is not None}
        try:
            OwnersTerms(**read).clean_fields(exclude={"unit", *(self.agreed.keys() - read)})
        except forms.ValidationError as problem:
            self.add_error(None, problem)
        return data

    def _get_validation_exclusions(self):
        # An owner that is typed while it is still ours is let go by the service, not refused by the constraint.
        return super()._get_validation_exclusions() | {"holding"}


class DataForm(forms.ModelForm):
    class Meta:
        model = Unit
        formfield_callback = as_typed
        fields = ["data_on_board", "data_keep", "data_note"]


class FindingForm(forms.ModelForm):
    class Meta:
        model = Finding
        formfield_callback = as_typed
        fields = ["face", "x", "y", "kind", "severity", "extent_percent", "extent_mm", "words"]
        widgets = {"x": forms.HiddenInput, "y": forms.HiddenInput}

    def __init__(self, *args, form_factor: str, **kwargs):
        super().__init__(*args, **kwargs)
        form = FormFactor(form_factor)
        self.fields["face"].choices = [(face.value, face_label(face, form)) for face in faces_of(form)]
        self.fields["x"].initial = self.fields["y"].initial = 0.5
        self.fields["face"].initial, self.fields["kind"].initial = faces_of(form)[0], FindingKind.SCRATCH


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


class PathForm(forms.Form):
    """What shall become of a unit; `best` is the path that should leave most, where they could be weighed."""

    path = forms.ChoiceField(
        label="What shall become of it",
        error_messages=dict.fromkeys(("required", "invalid_choice"), "Choose one of the paths."),
    )
    reason = forms.CharField(label="Why", max_length=200, required=False)

    def __init__(self, *args, unit: Unit, best: str = "", **kwargs):
        given = {"path": unit.path or best, "reason": unit.path_reason}
        super().__init__(*args, initial=given, auto_id="path_%s", **kwargs)
        undecided = [] if unit.path or best else [("", "not decided")]
        paths = [(path.value, path.label) for path in open_paths(unit.ours)]
        cast(forms.ChoiceField, self.fields["path"]).choices = [*undecided, *paths]


class ApproachForm(forms.Form):
    approach = forms.ChoiceField(label="Restoration approach", choices=APPROACHES, widget=forms.RadioSelect)
    reason = forms.CharField(label="Why, if it changes later", max_length=200, required=False)

    @property
    def chosen(self) -> Approach:
        return Approach(self.cleaned_data["approach"])


class ParkForm(forms.Form):
    reason = forms.CharField(label="Why it is put aside", max_length=120, error_messages={"required": "Say why."})


class ReasonForm(forms.Form):
    reason = forms.CharField(
        label="Why",
        max_length=120,
        error_messages={"required": "Say why: the reason stays in the record."},
    )
    sure = forms.BooleanField(
        label="I have read what will happen",
        error_messages={"required": "Read what will happen, then tick this."},
    )


class GiveBackForm(forms.Form):
    to_whom = forms.CharField(label="Who took it, if not the owner", max_length=80, required=False)


class SanitiseForm(forms.Form):
    how = forms.ChoiceField(
        label="Storage was sanitised by",
        choices=[("", "choose how"), *HOW.items()],
        error_messages={"required": "Say how: clear, purge or destroy."},
    )
    verified = forms.CharField(
        label="How it was verified",
        max_length=160,
        error_messages={"required": "Say how it was verified: what was read back, what is left of it."},
    )
    imaged = forms.BooleanField(label="The image that is wanted is kept", required=False)


class SettleForm(forms.Form):
    """How a hazard that was found was dealt with."""

    words = forms.CharField(
        label="What was done about it", max_length=160, error_messages={"required": "Say what was done about it."}
    )


class ClipForm(forms.Form):
    clip = forms.FileField(
        label="A sound, 30 seconds at most",
        max_length=200,
        error_messages={"required": "Record a sound, or choose a file.", "empty": "The file is empty."},
    )
    words = forms.CharField(label="What is heard", max_length=120, required=False)
