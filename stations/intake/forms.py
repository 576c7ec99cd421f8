import json
from collections.abc import Iterable
from typing import Any, cast

from django import forms
from django.http import QueryDict
from django.utils.functional import cached_property

from core.intake.condition import FindingKind
from core.intake.triage import open_paths
from core.machine.approach import Approach
from core.machine.casing import FormFactor, face_label, faces_of
from core.machine.mains import Mains
from core.machine.supply import Supply
from stations.catalogue.models import MachineModel
from stations.common.details import names_of
from stations.common.forms import OwnIds, SeenForm, VersionedForm, refuse_fractions
from stations.common.happened import day_field
from stations.common.refusals import StaleEdit
from stations.common.typed import CountField, as_typed
from stations.intake.services import Identity
from stations.intake.settling import HOW
from stations.stock.models import CONDITIONS, MEASURES
from stations.stock.services import Sort
from stations.units.models import APPROACHES, PRESENCES, Content, Finding, OwnersTerms, Unit
from stations.units.slips import Recorded


class ReceiveForm(forms.Form):
    """How many pieces of a line came, and what they are."""

    line = forms.IntegerField(widget=forms.HiddenInput)
    count = CountField(label="How many came", min_value=1, error_messages={"min_value": "At least one."})
    model = forms.ModelChoiceField(
        MachineModel.objects.to_choose(), label="Model, if known", required=False, empty_label="not known yet"
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
        fields = names_of(Identity)
        error_messages = {"title": {"required": "Say what it is, as well as you can."}}

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        self.fields["model"].empty_label = "not in the bank"
        self.fields["model"].queryset = MachineModel.objects.to_choose(self.instance.model_id)

    def clean(self):
        data = super().clean()
        adapters = {Mains.ADAPTER_AC: Supply.EXTERNAL_AC, Mains.ADAPTER_DC: Supply.EXTERNAL_DC}
        other = {Supply.EXTERNAL_AC: Mains.ADAPTER_DC, Supply.EXTERNAL_DC: Mains.ADAPTER_AC}
        if data.get("mains_variant") and other.get(data.get("supply")) == data["mains_variant"]:
            self.add_error("mains_variant", "The supply says the other kind of current. Which is it, AC or DC?")
        elif data.get("mains_variant") in adapters and data.get("supply") in {Supply.LINEAR, Supply.SWITCHING}:
            self.add_error("supply", "It plugs into an adapter, so its supply is not inside.")
        if data.get("supply") in {Supply.LINEAR, Supply.SWITCHING} and data.get("form_factor") != FormFactor.ADAPTER:
            for name in ("adapter_volts", "adapter_amps"):
                if data.get(name) is not None and name in self.changed_data:
                    self.add_error(name, "Its supply is inside, it says above: this is of one that an adapter feeds.")
        return data


class HoldingForm(SeenForm, forms.ModelForm):
    class Meta:
        model = Unit
        formfield_callback = as_typed
        fields = ["holding", "owner_name"]

    def __init__(self, *args, **kwargs):
        self.agreed = forms.fields_for_model(OwnersTerms, exclude=["unit"], formfield_callback=as_typed)
        super().__init__(*args, **kwargs)
        self.fields |= self.agreed
        self.fields["commission_percent"].required = False

    def shown(self, row: Unit) -> dict[str, Any]:
        asked = {} if row.consigned else {"commission_percent": None}
        return super().shown(row) | forms.model_to_dict(row.agreed, self.agreed) | asked

    def clean(self):
        data = super().clean()
        if data.get("holding") != Unit.Holding.OWNED:
            if not data.get("owner_name"):
                self.add_error("owner_name", "Whose is it? Type the owner’s name.")
        elif self.instance.ours:
            for name in ("owner_name", *self.agreed):
                if data.get(name) not in (None, ""):
                    self.add_error(name, "This is kept of what is somebody else’s: choose above whose it is.")
        if data.get("holding") == self.instance.holding == Unit.Holding.CUSTODY and data.get("commission_percent"):
            self.add_error("commission_percent", "A commission is for what we sell for its owner: this is in custody.")
        refuse_fractions(self, "commission_percent")
        read = {name: data[name] for name in self.agreed if data.get(name) is not None}
        try:
            OwnersTerms(**read).clean_fields(exclude={"unit", *(self.agreed.keys() - read)})
        except forms.ValidationError as problem:
            self.add_error(None, problem)
        return data

    def _get_validation_exclusions(self):
        # An owner that is typed while it is still ours is let go by the service, not refused by the constraint.
        return super()._get_validation_exclusions() | {"holding"}


class DataForm(SeenForm, forms.ModelForm):
    class Meta:
        model = Unit
        formfield_callback = as_typed
        fields = ["data_on_board", "data_keep", "data_note"]

    def clean(self):
        data = super().clean()
        if data.get("data_on_board") is False and data.get("data_keep"):
            self.add_error("data_keep", "Nothing in it keeps data, it says above: then there is nothing to image.")
        return data


class FindingForm(SeenForm, forms.ModelForm):
    class Meta:
        model = Finding
        formfield_callback = as_typed
        fields = ["face", "x", "y", "kind", "severity", "extent_percent", "extent_mm", "words"]
        widgets = {"x": forms.HiddenInput, "y": forms.HiddenInput}
        labels = {"x": "Across", "y": "Down"}

    def __init__(self, *args, form_factor: str, **kwargs):
        super().__init__(*args, **kwargs)
        self.held_first = self.instance.unit if self.instance.pk else None
        form = FormFactor(form_factor)
        self.fields["face"].choices = [(face.value, face_label(face, form)) for face in faces_of(form)]
        self.fields["x"].initial = self.fields["y"].initial = 0.5
        self.fields["face"].initial, self.fields["kind"].initial = faces_of(form)[0], FindingKind.SCRATCH


class ContentsForm(SeenForm, forms.Form):
    """One choice for each thing that is on the unit's list. Two may tick at once: what it showed of each goes with it,
    so that only what is chosen anew is said, and refused where somebody else said something else of the same thing."""

    extra = forms.CharField(label="Came with it, not expected", max_length=60, required=False)
    missing = forms.CharField(label="Missing, not on the list", max_length=60, required=False)

    def __init__(self, data=None, *, unit: Unit, contents: Iterable[Content]):
        self.instance, self.contents = unit, list(contents)
        super().__init__(data)
        for content in self.contents:
            self.fields[f"content-{content.pk}"] = forms.ChoiceField(
                label=content.name, choices=PRESENCES, initial=content.presence, required=False
            )

    @property
    def ticks(self):
        return [self[name] for name in self.fields if name.startswith("content-")]

    def standing(self) -> Unit:
        self.contents = list(self.instance.contents.select_for_update())
        return self.instance

    def shown(self, row: Unit) -> dict[str, Any]:
        return {f"content-{content.pk}": content.presence for content in self.contents}

    def mark_of(self, shown: dict[str, Any]) -> str:
        return json.dumps(shown)

    def showing(self, row: Unit) -> dict[str, Any]:
        """As it was sent, which is not what others said meanwhile."""
        return {name: self.cleaned_data[name] for name in self.shown(row) if name in self.cleaned_data}

    @cached_property
    def showed(self) -> dict[str, str]:
        """What the form showed of each thing; nothing of those it can't tell."""
        try:
            sent = json.loads(self.data.get("seen", ""))
        except ValueError:
            return {}
        return sent if isinstance(sent, dict) else {}

    def refuse_if_changed(self) -> None:
        now = self.shown(unit := self.standing())
        if any(self.showed.get(name, now.get(name)) != now.get(name) != said for name, said in self.chosen.items()):
            # Only what both said differs.
            self.cleaned_data |= {name: said for name, said in now.items() if name not in self.chosen}
            raise StaleEdit(unit)

    def take_up(self, data: QueryDict, now: Unit) -> None:
        """What nobody touched here stands as the others said it."""
        super().take_up(data, now)
        for name, presence in self.shown(now).items():
            if name not in self.chosen:
                data[name] = presence

    @cached_property
    def chosen(self) -> dict[str, str]:
        """What is said anew, by the names of the fields."""
        said = {name: said for name, said in self.cleaned_data.items() if name.startswith("content-") and said}
        return {name: presence for name, presence in said.items() if presence != self.showed.get(name)}

    @property
    def presences(self) -> dict[int, str]:
        return {int(name.removeprefix("content-")): said for name, said in self.chosen.items()}


class PathForm(OwnIds, SeenForm, forms.Form):
    """What shall become of a unit; `best` is the path that should leave most, where they could be weighed."""

    ids = "path"

    path = forms.ChoiceField(
        label="What shall become of it",
        error_messages=dict.fromkeys(("required", "invalid_choice"), "Choose one of the paths."),
    )
    reason = forms.CharField(label="Why", max_length=200, required=False)

    def __init__(self, *args, unit: Unit, best: str = "", **kwargs):
        self.instance = unit
        given = {"path": unit.path or best, "reason": unit.path_reason}
        super().__init__(*args, initial=given, **kwargs)
        undecided = [] if unit.path or best else [("", "not decided")]
        paths = [(path.value, path.label) for path in open_paths(unit.ours)]
        cast(forms.ChoiceField, self.fields["path"]).choices = [*undecided, *paths]

    def shown(self, row: Unit) -> dict[str, Any]:
        return {"path": row.path, "reason": row.path_reason}


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


class CameBackForm(ReasonForm):
    never_left = forms.BooleanField(label="It never left: it was said by mistake", required=False)
    on = day_field("Here again on")
    field_order = ("reason", "on", "never_left", "sure")


class WriteOffForm(ReasonForm):
    on = day_field("Written off on")
    field_order = ("reason", "on", "sure")


class SlipForm(forms.Form):
    """What was recorded by a slip, and why it is taken off."""

    why = forms.CharField(
        label="Why", max_length=120, error_messages={"required": "Say why: it stands in the story of the unit."}
    )

    def __init__(self, *args, there: list[Recorded], **kwargs):
        super().__init__(*args, **kwargs)
        self.fields["mark"] = forms.ChoiceField(
            label="What",
            choices=[(one.mark, one.words) for one in there if not one.keeps],
            error_messages=dict.fromkeys(("required", "invalid_choice"), "Choose what it is."),
        )


class GiveBackForm(forms.Form):
    to_whom = forms.CharField(label="Who took it, if not the owner", max_length=80, required=False)
    on = day_field("Given back on")


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
