"""One assembly as it is typed."""

from decimal import Decimal

from django import forms

from core.catalogue.assemblies import Assembly, AssemblyError, StoredCharge, StripDown
from core.catalogue.assembly_text import (
    read_fasteners,
    read_names,
    read_plugs,
    read_ways,
    write_fasteners,
    write_names,
    write_plugs,
    write_ways,
)
from core.catalogue.changes import renamed
from core.machine.names import as_seen
from core.safety import Hazard
from stations.common.typed import CountField, NumberField

# What stands in the form as it stands in an assembly.
_PLAIN: tuple[str, ...] = ("layer", "x_from", "x_to", "minutes_off", "minutes_on", "brittle", "two_people", "stays")
_PLAIN += ("must_be_in", "board", "side", "worth", "test", "how_off", "how_on")


class AssemblyForm(forms.Form):
    """`was` is the name it had; the whole machine is checked with it, so a ring is said at its field."""

    version = forms.IntegerField(widget=forms.HiddenInput, required=False)
    was = forms.CharField(widget=forms.HiddenInput, required=False)
    name = forms.CharField(label="Name", max_length=40, error_messages={"required": "Say what it is."})
    layer = CountField(label="Layer, 0 is outside", min_value=0, max_value=20)
    x_from = CountField(label="From, mm from the left", min_value=0)
    x_to = CountField(label="To, mm", min_value=0)
    minutes_off = CountField(label="Minutes off", min_value=0, max_value=600)
    minutes_on = CountField(label="Minutes on", min_value=0, max_value=600)
    ways = forms.CharField(
        label="What must be off first: lid or left panel + bracket",
        required=False,
        widget=forms.Textarea(attrs={"rows": 2}),
    )
    on_after = forms.CharField(label="Goes on only after", required=False)
    fasteners = forms.CharField(label="Fasteners: 4 × M3 × 6 cross; 2 × M4", required=False, max_length=400)
    plugs = forms.CharField(
        label="Plugs: P8 to main board, colours: bk bk rd; lamp, tied",
        required=False,
        max_length=600,
        widget=forms.Textarea(attrs={"rows": 2}),
    )
    clips = CountField(label="Clips", min_value=0, max_value=100, required=False)
    charge = forms.ChoiceField(
        label="Holds charge", required=False, choices=[(charge.value, charge.label) for charge in StoredCharge]
    )
    hazards = forms.MultipleChoiceField(
        label="Cautions",
        required=False,
        choices=[(hazard.value, hazard.label) for hazard in Hazard],
        widget=forms.CheckboxSelectMultiple,
    )
    brittle = forms.BooleanField(label="brittle: old plastic, glue", required=False)
    two_people = forms.BooleanField(label="takes two people", required=False)
    stays = forms.BooleanField(label="is made safe and stays in", required=False)
    must_be_in = forms.BooleanField(label="earth strap, insulator or fuse: never closed without", required=False)
    board = forms.BooleanField(label="a bare board lies under its screws", required=False)
    side = forms.CharField(label="Worked at from: top, left …", required=False, max_length=12)
    worth = NumberField(
        label="Costs to replace, if known", min_value=Decimal(0), max_digits=9, decimal_places=2, required=False
    )
    test = forms.CharField(label="Test due before it is shut in", required=False, max_length=80)
    how_off = forms.CharField(
        label="How it comes off", required=False, max_length=300, widget=forms.Textarea(attrs={"rows": 2})
    )
    how_on = forms.CharField(
        label="How it goes on", required=False, max_length=300, widget=forms.Textarea(attrs={"rows": 2})
    )
    wide = ("ways", "plugs", "hazards", "how_off", "how_on", "fasteners")

    def __init__(self, *args, strip: StripDown, **kwargs) -> None:
        super().__init__(*args, **kwargs)
        self.strip = strip

    @classmethod
    def values_of(cls, assembly: Assembly) -> dict:
        """What stands in the fields for an assembly."""
        return {name: getattr(assembly, name) for name in ("name", "clips", *_PLAIN)} | {
            "was": assembly.name,
            "ways": write_ways(assembly.ways),
            "on_after": write_names(assembly.on_after),
            "fasteners": write_fasteners(assembly.fasteners),
            "plugs": write_plugs(assembly.plugs),
            "charge": assembly.charge.value,
            "hazards": [hazard.value for hazard in assembly.hazards],
        }

    def clean(self) -> dict:
        """Everything that is typed in the trade’s notation is read, each mistake said at its field."""
        data = super().clean() or {}
        others = [name for name in self.strip.assemblies if name != data.get("was")]
        name = (data.get("name") or "").strip()
        if as_seen(name) in map(as_seen, others):
            self.add_error("name", f"{name} is there already.")
        for field, read in (
            ("ways", lambda text: read_ways(text, others)),
            ("on_after", lambda text: read_names(text, others, "on_after")),
            ("fasteners", read_fasteners),
            ("plugs", read_plugs),
        ):
            try:
                data[field] = read(data.get(field) or "")
            except AssemblyError as problem:
                self.add_error(field, str(problem))
        if not self.errors:
            try:
                self.changed(data)
            except AssemblyError as problem:
                self.add_error(problem.at if problem.at in self.fields else None, str(problem))
        return data

    def changed(self, data: dict) -> StripDown:
        """The machine with this assembly put in, or in the place of the one it was; other mentions follow its name."""
        made = Assembly(
            name=data["name"].strip(),
            clips=data["clips"] or 0,
            charge=StoredCharge(data["charge"]),
            hazards=tuple(Hazard(name) for name in data["hazards"]),
            **{name: data[name] for name in ("ways", "on_after", "fasteners", "plugs", *_PLAIN)},
        )
        was = data["was"]
        kept = [
            made if assembly.name == was else renamed(assembly, was, made.name)
            for assembly in self.strip.assemblies.values()
        ]
        if was not in self.strip.assemblies:
            kept.append(made)
        return StripDown({assembly.name: assembly for assembly in kept})
