"""What is typed while a machine is taken apart."""

from dataclasses import replace

from django import forms

from core.catalogue.assemblies import Assembly, AssemblyError, StripDown
from core.catalogue.assembly_text import read_fasteners, read_plugs
from core.machine.names import as_seen
from stations.common.typed import CountField
from stations.workshop.inside import jobs_inside


class OddForm(forms.Form):
    """At the assembly in hand: how many of each kind of fastener were there, or were added; what else is odd."""

    odd = forms.CharField(label="Odd: tape for a screw, glued, another kind", required=False, max_length=160)
    broke = forms.CharField(label="Broke: what, if anything did", required=False, max_length=120)
    tray = CountField(label="Tray", min_value=1, max_value=999, required=False)

    def __init__(self, *args, hand, **kwargs) -> None:
        super().__init__(*args, **kwargs)
        self.hand, row = hand, hand.row if hand else None
        self.name = hand.assembly.name if hand else ""
        self.counts = []
        going_on = row is not None and row.off_at is not None and row.on_at is None
        for index, group in enumerate(hand.assembly.fasteners if hand else ()):
            found = row.found[index] if row else group.count
            if row is not None and going_on:
                name, label = (
                    f"added_{index}",
                    f"{group.kind}: added from elsewhere, {found} of {group.count} were there",
                )
                self.fields[name] = CountField(label=label, min_value=0, initial=row.added[index])
            else:
                name, label = f"found_{index}", f"{group.kind}: were there, of {group.count}"
                self.fields[name] = CountField(label=label, min_value=0, initial=found)
            self.counts.append(name)
        for name in ("odd", "broke", "tray"):
            self.fields[name].initial = getattr(row, name, "")
        self.order_fields([*self.counts, "odd", "broke", "tray"])

    @property
    def given(self) -> dict:
        """As `openings.note_odd` takes it."""
        data = self.cleaned_data
        counted = [data[name] for name in self.counts]
        what = {"added" if self.counts and self.counts[0].startswith("added") else "found": counted} if counted else {}
        return {"odd": data["odd"], "broke": data["broke"], "tray": data["tray"], **what}

    def add_error(self, field, error) -> None:
        """A refusal of the counts stands at the first of them."""
        super().add_error(self.counts[0] if field in {"found", "added"} and self.counts else field, error)


class UnlistedForm(forms.Form):
    """One line for what comes off a machine without a strip-down."""

    name = forms.CharField(label="What comes off", max_length=40, error_messages={"required": "Say what it is."})
    fasteners = forms.CharField(label="Fasteners, such as 4 × M3 × 6 cross", required=False, max_length=400)
    plugs = forms.CharField(label="Plugs, such as P8 to main board, colours: bk bk", required=False, max_length=600)
    clips = CountField(label="Clips", min_value=0, max_value=100, required=False)
    minutes = CountField(label="Minutes", min_value=0, max_value=600, initial=2)

    def __init__(self, *args, strip: StripDown, **kwargs) -> None:
        super().__init__(*args, **kwargs)
        self.strip = strip

    def clean_name(self) -> str:
        name = self.cleaned_data["name"].strip()
        if as_seen(name) in map(as_seen, self.strip.assemblies):
            raise forms.ValidationError(f"{name} is there already.")
        return name

    def clean_fasteners(self):
        return _read(read_fasteners, self.cleaned_data["fasteners"])

    def clean_plugs(self):
        return _read(read_plugs, self.cleaned_data["plugs"])

    def assembly(self, off: list[str]) -> Assembly:
        """It stood on all that is off by now, one layer below the lowest of it."""
        data = self.cleaned_data
        layer = max((self.strip[name].layer + 1 for name in off if name in self.strip.assemblies), default=0)
        made = Assembly(data["name"], min(layer, 20), 0, 400, data["minutes"] or 0, data["minutes"] or 0)
        ways = (frozenset(off),) if off else ()
        return replace(made, ways=ways, fasteners=data["fasteners"], plugs=data["plugs"], clips=data["clips"] or 0)


def _read(read, text: str):
    try:
        return read(text)
    except AssemblyError as problem:
        raise forms.ValidationError(str(problem)) from problem


def targets_of(unit, strip: StripDown) -> list[dict]:
    """What one may want to reach, layer by layer, with the jobs that are open there."""
    jobs = jobs_inside(unit)
    return [
        {
            "layer": layer,
            "names": [
                {"name": a.name, "jobs": jobs.get(a.name, ())}
                for a in sorted(strip.assemblies.values(), key=lambda a: a.x_from)
                if a.layer == layer
            ],
        }
        for layer in strip.layers
    ]
