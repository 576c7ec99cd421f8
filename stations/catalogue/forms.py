from typing import Any

from django import forms

from core.intake.serial import PatternError, compile_pattern
from core.intake.shots import read_shots
from core.machine.mains import read_plate
from stations.catalogue import bank
from stations.catalogue.models import MachineModel, SerialPattern, VariantRule
from stations.common.details import names_of
from stations.common.forms import SeenForm
from stations.common.typed import as_typed


class ModelForm(SeenForm, forms.ModelForm):
    """A model for the bank; what belongs with it as lines, the weightiest first: "4 keyboard"."""

    wide = ("expected", "offers", "hazards", "together")
    # Whether two are one is asked where another is called so.
    when_needed = ("together",)

    expected = forms.CharField(
        label="What belongs with it: how much it matters (1 to 9), thing, cost of a replacement",
        required=False,
        widget=forms.Textarea(attrs={"rows": 5, "placeholder": "4 keyboard 25\n2 mouse"}),
    )

    together = forms.BooleanField(
        label="The same as one that is there: put them together, and what is known of that one stays", required=False
    )

    class Meta:
        model = MachineModel
        formfield_callback = as_typed
        fields = names_of(bank.ModelDetails)
        widgets = {
            "offers": forms.Textarea(attrs={"rows": 3, "placeholder": "two slots, 16 KiB in sockets"}),
            "hazards": forms.Textarea(attrs={"rows": 3, "placeholder": "the clips at the back break"}),
            "adapter": forms.TextInput(attrs={"placeholder": "9 V DC 1 A centre minus"}),
            "shots": forms.TextInput(attrs={"placeholder": "front, keyboard, inside"}),
        }
        labels = {
            "form_factor": "Form factor",
            "year_from": "Made from",
            "year_to": "until",
            "width_mm": "Width, mm",
            "height_mm": "Height, mm",
            "depth_mm": "Depth, mm",
            "picture_tube": "CRT inside",
            "keyboard": "Keyboard to test",
            "keeps_data": "Storage in it that keeps data",
            "needs_cell": "Its switch needs a good cell",
        }

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        if self.instance.pk is None:
            del self.fields["in_use"], self.fields["together"]

    def _get_validation_exclusions(self):
        # Another of the same name is asked about, or refused in better words, by what keeps it.
        return super()._get_validation_exclusions() | {"name"}

    def shown(self, row: MachineModel) -> dict[str, Any]:
        things = [bank.Expected(e.name, e.weight, e.estimate) for e in row.expected.all()]
        return super().shown(row) | {"expected": "\n".join(map(str, things))}

    def clean_expected(self) -> list[bank.Expected]:
        try:
            return bank.read_expected(self.cleaned_data["expected"])
        except ValueError as problem:
            raise forms.ValidationError(str(problem)) from problem

    def clean_adapter(self) -> str:
        text = self.cleaned_data["adapter"].strip()
        if text:
            try:
                read_plate(text)
            except ValueError as problem:
                raise forms.ValidationError(str(problem)) from problem
        return text

    def clean_shots(self) -> str:
        try:
            return ", ".join(read_shots(self.cleaned_data["shots"]))
        except ValueError as problem:
            raise forms.ValidationError(str(problem)) from problem

    def clean(self):
        data = super().clean()
        if data.get("year_from") and data.get("year_to") and data["year_to"] < data["year_from"]:
            self.add_error("year_to", "It can’t have ended before it began.")
        for name in ("width_mm", "height_mm", "depth_mm"):
            if data.get(name) == 0:
                self.add_error(name, "Above 0.")
        return data


class PatternForm(forms.ModelForm):
    """How a maker numbered."""

    class Meta:
        model = SerialPattern
        fields = ["maker", "model", "pattern", "note"]

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        self.fields["model"].empty_label = "all of this maker’s"
        self.fields["model"].queryset = MachineModel.objects.to_choose()

    def clean_pattern(self) -> str:
        text = self.cleaned_data["pattern"].strip()
        try:
            compile_pattern(text)
        except PatternError as problem:
            raise forms.ValidationError(str(problem)) from problem
        return text


class RuleForm(forms.ModelForm):
    class Meta:
        model = VariantRule
        formfield_callback = as_typed
        fields = ["maker", "base", "at_base", "at_next"]
