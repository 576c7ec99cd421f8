"""A sheet as it is typed: a field a group, a line a record."""

from typing import Any, Generic, TypeVar, cast

from django import forms

from core.catalogue.fit.needs import Needs, checked_needs
from core.catalogue.fit.offers import Offers, checked_offers
from core.catalogue.fit.schema import FitError, groups_of, read_records, sheet_from, told_of, write_records
from stations.catalogue.models import MachineModel, Tried
from stations.common.forms import date_input

T = TypeVar("T", Offers, Needs)


class SheetForm(forms.Form, Generic[T]):
    """Every group of a sheet; empty is not known, the word “none” that there is nothing of it."""

    version = forms.IntegerField(widget=forms.HiddenInput)
    kind: type[T]

    def __init__(self, *args, sheet: T, seen: int = 0, **kwargs):
        super().__init__(*args, **kwargs)
        self.fields["version"].initial = seen
        self.sheet: T | None = None
        self.wide = tuple(groups_of(self.kind))
        for name, (record, label) in groups_of(self.kind).items():
            lines = getattr(sheet, name)
            self.fields[name] = forms.CharField(
                label=label[:1].upper() + label[1:],
                required=False,
                max_length=20_000,
                initial=write_records(lines),
                help_text=keys_of(record),
                widget=forms.Textarea(attrs={"rows": _rows(write_records(lines)), "spellcheck": "false"}),
            )

    @property
    def groups(self):
        """The fields of the groups, in their order."""
        return [self[name] for name in groups_of(self.kind)]

    def clean(self):
        data = super().clean() or {}
        found: dict[str, Any] = {}
        for name, (record, _) in groups_of(self.kind).items():
            if name not in data:
                continue
            try:
                found[name] = read_records(record, data[name])
            except FitError as problem:
                self.add_error(name, f"{problem}.")
        if not self.errors:
            sheet = self.kind(**found)
            try:
                self.sheet = (
                    checked_offers(sheet)
                    if isinstance(sheet, Offers)
                    else checked_needs(sheet, " ".join(str(data.get("name", "")).split()))
                )
            except FitError as problem:
                self.add_error(problem.at if problem.at in self.fields else None, f"{problem}.")
        return data

    def row_as_typed(self, current: Any) -> dict[str, str]:
        """What the row as it is now has in each field."""
        sheet = sheet_from(self.kind, current.offers if self.kind is Offers else current.needs)
        return {name: write_records(getattr(sheet, name)) for name in groups_of(self.kind)}


def _rows(text: str) -> int:
    """So many lines a field is high that all of it is seen, long lines folded."""
    return min(20, max(2, 1 + sum(1 + len(line) // 80 for line in text.splitlines())))


def keys_of(record: type) -> str:
    """How a line of a group is typed: every key with an example."""
    return "; ".join(f"{key} {told.example.split(', ')[0]}" for key, told in told_of(record).items())


class OffersForm(SheetForm[Offers]):
    kind = Offers


class NeedsForm(SheetForm[Needs]):
    kind = Needs
    name = forms.CharField(
        label="Part, as drawers and orders call it", max_length=80, error_messages={"required": "Say which part it is."}
    )

    field_order = ("version", "name")


class TriedForm(forms.ModelForm):
    wide = ("words",)

    class Meta:
        model = Tried
        fields = ["model", "runs", "part_version", "who", "on", "region", "words"]
        widgets = {"on": date_input()}
        labels = {"runs": "What came of it"}
        error_messages = {
            "runs": {"required": "Say whether it ran."},
            "who": {"required": "Say who tried it."},
            "on": {"required": "Say when."},
        }

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        model = cast(forms.ModelChoiceField, self.fields["model"])
        model.empty_label, model.queryset = "choose", MachineModel.objects.to_choose()
        for name, empty in (("runs", "choose"), ("region", "not said")):
            field = cast(Any, self.fields[name])
            field.choices = [("", empty), *((value, label) for value, label in field.choices if value != "")]
