"""Forms of storage: a system’s rules, a drive planned for systems, what failed, what was sanitised, bad tracks."""

from collections.abc import Iterator
from typing import Any

from django import forms

from core.workshop.storage import StorageError
from core.workshop.storage.install import Before, Driver, read_drivers
from core.workshop.storage.sanitise import Medium, Method
from core.workshop.storage.sizes import MIB, read_size
from core.workshop.storage.systems import Starts, System
from core.workshop.storage.volumes import ENDS, Drive, End, Shared, StoragePlan, Wish
from stations.common.forms import VersionedForm
from stations.common.typed import CountField
from stations.workshop.models import SystemRules
from stations.workshop.storage import Asked

_ENDS = [("", "not known to end"), *((name, f"{name}: {size:,}") for name, size in ENDS.items()), ("own", "as typed")]
MOST_FILES = 10_000_000


class SystemForm(VersionedForm):
    class Meta:
        model = SystemRules
        fields = ["name", "rules"]
        widgets = {"rules": forms.Textarea(attrs={"rows": 14, "spellcheck": "false", "class": "mono"})}
        error_messages = {
            "name": {"required": "Say which.", "unique": "There is a system called so already."},
            "rules": {"required": "Say at least what it writes."},
        }


class StorageForm(forms.Form):
    """A drive and the systems wanted on it: `found` once it can be planned; what can’t be is said at its field."""

    what = forms.CharField(
        label="The drive, card or image", max_length=60, error_messages={"required": "Say what it is."}
    )
    size = forms.CharField(label="How large", max_length=30, error_messages={"required": "Say how large it is."})
    sector = CountField(label="Bytes a sector", initial=512)
    firmware = forms.ChoiceField(label="The machine’s firmware ends at", choices=_ENDS, required=False)
    firmware_size = forms.CharField(label="typed", max_length=30, required=False)
    adapter = forms.ChoiceField(label="The adapter or controller ends at", choices=_ENDS, required=False)
    adapter_size = forms.CharField(label="typed", max_length=30, required=False)
    drive_id = CountField(label="Its id, where the bus has ids", min_value=0, max_value=15, required=False)
    overlay = forms.BooleanField(label="an overlay is loaded at start: it reaches beyond the firmware", required=False)
    share = forms.BooleanField(label="the rest is shared", required=False, initial=True)
    shared = forms.CharField(label="so much of it, empty for all", max_length=30, required=False)
    shared_files = CountField(label="Files there, about", min_value=0, max_value=MOST_FILES, required=False)
    labels = forms.CharField(label="Names of the volumes, front to back, with commas", max_length=200, required=False)
    keep_old = forms.BooleanField(label="what is on the old drive is kept as an image", required=False, initial=True)
    set_aside = forms.CharField(label="where the original drive is put", max_length=80, required=False)
    version = forms.CharField(label="Firmware of the adapter", max_length=20, required=False)
    newest = forms.CharField(label="newest known", max_length=20, required=False)
    drivers = forms.CharField(
        label="Drivers, a line each in their order: sound: 6 min, 1 restart",
        max_length=1000,
        required=False,
        widget=forms.Textarea(attrs={"rows": 3, "spellcheck": "false"}),
    )
    asked: Asked | None = None
    found: StoragePlan | None = None
    in_order: tuple[Driver, ...] = ()

    def __init__(self, *args, systems: dict[int, System], **kwargs):
        super().__init__(*args, **kwargs)
        self.systems = systems
        for key, system in systems.items():
            own = f"s{key}"
            self.fields[own] = forms.BooleanField(label=system.name, required=False)
            self.fields[f"{own}_space"] = forms.CharField(label="space for itself", max_length=30, required=False)
            self.fields[f"{own}_files"] = CountField(label="files", min_value=0, max_value=MOST_FILES, required=False)
            self.fields[f"{own}_shares"] = forms.BooleanField(label="shares", required=False, initial=True)

    def rows(self) -> Iterator[tuple[System, Any, Any, Any, Any]]:
        """Each system with its fields."""
        for key, system in self.systems.items():
            own = f"s{key}"
            yield system, self[own], self[f"{own}_space"], self[f"{own}_files"], self[f"{own}_shares"]

    @property
    def before(self) -> Before:
        data = self.cleaned_data
        return Before(data["keep_old"], data["set_aside"], data["version"], data["newest"])

    def clean(self):
        data = super().clean() or {}
        if self.errors:
            return data
        try:
            self.in_order = read_drivers(data["drivers"])
            self.asked = self._asked(data)
            self.found = self.asked.plan()
        except StorageError as problem:
            self.add_error(problem.at if problem.at in self.fields else None, str(problem))
        return data

    def _asked(self, data: dict[str, Any]) -> Asked:
        size = read_size(data["size"], "size")
        ends = [
            End("the machine’s firmware", end) if at == "firmware" else End("the adapter", end, drivers_too=True)
            for at in ("firmware", "adapter")
            if (end := self._end(data, at)) is not None
        ]
        wishes = tuple(self._wishes(data, size))
        shared = None
        if data["share"]:
            space = read_size(data["shared"], "shared") if data["shared"] else None
            if space is not None and space > size:
                raise StorageError("More than the drive has.", "shared")
            shared = Shared(space, data["shared_files"])
        labels = tuple(one.strip() for one in data["labels"].split(",")) if data["labels"] else ()
        return Asked(
            Drive(size, tuple(ends), data["sector"], data["overlay"], data["drive_id"]), wishes, shared, labels
        )

    @staticmethod
    def _end(data: dict[str, Any], at: str) -> int | None:
        if data[at] != "own":
            return ENDS.get(data[at])
        end = read_size(data[f"{at}_size"], f"{at}_size")
        if end < data["sector"]:
            raise StorageError("Below a sector.", f"{at}_size")
        return end

    def _wishes(self, data: dict[str, Any], size: int) -> Iterator[Wish]:
        for key, system in self.systems.items():
            own = f"s{key}"
            if not data[own]:
                continue
            typed = data[f"{own}_space"]
            space = read_size(typed, f"{own}_space") if typed else max(system.needs, MIB) if system.has_volume else 0
            if space > size:
                raise StorageError("More than the drive has.", f"{own}_space")
            yield Wish(system, space, data[f"{own}_files"], data[f"{own}_shares"] or system.starts is Starts.ON)


class _Beside(forms.Form):
    """Stands on a page beside another form that has fields of the same names: its own start with `called`."""

    called = ""

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **{"auto_id": f"{self.called}_%s"} | kwargs)


class FailedForm(_Beside):
    called = "failed"
    at = forms.IntegerField(widget=forms.HiddenInput, min_value=0, max_value=99)
    words = forms.CharField(
        label="What it said or did", max_length=200, error_messages={"required": "Say what it said or did."}
    )
    varied = forms.CharField(label="What is varied for the next go", max_length=160, required=False)


class _Files(forms.FileField):
    """Several files at once."""

    widget = type("SeveralFiles", (forms.FileInput,), {"allow_multiple_selected": True})

    def clean(self, data, initial=None):
        return [super(_Files, self).clean(one, initial) for one in data or [None]]


class ReadBackForm(_Beside):
    called = "read"
    at = forms.IntegerField(widget=forms.HiddenInput, min_value=0, max_value=99)
    read = _Files(label="What was read back, a file each", error_messages={"required": "Choose what was read back."})


class ReadOutForm(_Beside):
    called = "chip"
    chip = forms.CharField(label="Of which card or board", max_length=60, error_messages={"required": "Say which."})
    edition = forms.CharField(label="Version, as it says itself", max_length=40, required=False)
    first = forms.FileField(label="Read once", error_messages={"required": "Choose what was read."})
    second = forms.FileField(
        label="Read again", error_messages={"required": "One read may be a bad contact: read twice."}
    )


class FirmwareForm(_Beside):
    """What is done with a chip that was read out; `image` for another one, `read` for what it holds afterwards."""

    called = "firmware"
    chip = forms.CharField(widget=forms.HiddenInput, max_length=60)
    what = forms.ChoiceField(choices=[(one, one) for one in ("tried", "back", "stays")])
    image = forms.ChoiceField(label="Another image", required=False)
    read = forms.FileField(label="Read from it afterwards", required=False)
    words = forms.CharField(label="What came of it", max_length=200, required=False)

    def __init__(self, *args, images=(), **kwargs):
        super().__init__(*args, **kwargs)
        said = ((row.pk, f"{row}{f', {row.edition}' if row.edition else ''}") for row in images)
        self.fields["image"].choices = [("", "choose"), *said]  # type: ignore[attr-defined]


class SanitiseForm(_Beside):
    called = "wipe"
    what = forms.CharField(label="Which one", max_length=80, error_messages={"required": "Say which: disk, card."})
    serial = forms.CharField(label="Serial number", max_length=40, required=False)
    medium = forms.ChoiceField(label="It is a", choices=[("", "choose"), *((one.value, one.value) for one in Medium)])
    method = forms.ChoiceField(label="How", choices=[("", "choose"), *((one.value, one.value) for one in Method)])
    samples = CountField(label="Places read back", min_value=0, max_value=2_000_000_000, required=False)
    differing = CountField(label="of them not as written", min_value=0, max_value=2_000_000_000, required=False)
    imaged = forms.BooleanField(label="what was to be kept is imaged", required=False)


class TracksForm(_Beside):
    called = "tracks"
    what = forms.CharField(label="Which drive", max_length=60, error_messages={"required": "Say which drive."})
    cylinders = CountField(label="Cylinders", min_value=1, max_value=65_536, required=False)
    heads = CountField(label="Heads", min_value=1, max_value=256, required=False)
    label = forms.CharField(
        label="On its label: 120/3, 121/3", max_length=20_000, required=False, widget=forms.Textarea(attrs={"rows": 3})
    )
    scan = forms.CharField(
        label="Found by a scan", max_length=20_000, required=False, widget=forms.Textarea(attrs={"rows": 3})
    )
