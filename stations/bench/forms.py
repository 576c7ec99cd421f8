from django import forms

from core.bench.codebook import FAMILIES
from core.bench.fault_library import BY_CODE, SYMPTOMS
from core.bench.plan import Outcome
from stations.bench.models import BenchCheck, Benchmark, Instrument, KnownGood
from stations.people.forms import VersionedForm, date_input


class StepForm(forms.Form):
    """What came of a step. The service decides what may be recorded."""

    code = forms.CharField(widget=forms.HiddenInput)
    outcome = forms.ChoiceField(choices=[(o.value, o.label) for o in Outcome])
    reading = forms.CharField(required=False, max_length=600)
    taken = forms.CharField(required=False, max_length=400)
    reason = forms.CharField(required=False, max_length=200)

    def clean_reason(self) -> str:
        return self.cleaned_data["reason"].strip()


class CheckForm(VersionedForm):
    class Meta:
        model = BenchCheck
        fields = [
            "group",
            "title",
            "instruction",
            "why",
            "caution",
            "when",
            "kind",
            "low",
            "nominal",
            "high",
            "unit",
            "needs",
            "minutes",
            "alone_minutes",
            "gate",
            "safety",
            "active",
        ]
        widgets = {
            "instruction": forms.Textarea(attrs={"rows": 3}),
            "caution": forms.Textarea(attrs={"rows": 2}),
        }
        error_messages = {
            "title": {"required": "Give the check a name."},
            "instruction": {"required": "Say what to do."},
        }


class NewCheckForm(CheckForm):
    class Meta(CheckForm.Meta):
        fields = ["code", *CheckForm.Meta.fields]


class SymptomForm(forms.Form):
    symptom = forms.ChoiceField(label="What it does", choices=[(s.code, s.words) for s in SYMPTOMS])
    words = forms.CharField(label="What exactly", max_length=160, required=False)
    family = forms.ChoiceField(
        label="Firmware", required=False, choices=[("", "no beep, no code"), *((f.code, f.words) for f in FAMILIES)]
    )
    code = forms.CharField(label="Beeps or code", max_length=12, required=False)


class CauseForm(forms.Form):
    """What it was; the suspects of the symptom, or something else in words."""

    cause = forms.ChoiceField(label="What it was", required=False)
    cause_words = forms.CharField(label="In words", max_length=160, required=False)
    fix = forms.CharField(label="What was done (empty: not repaired)", max_length=160, required=False)

    def __init__(self, *args, symptom: str, **kwargs):
        super().__init__(*args, **kwargs)
        suspects = BY_CODE[symptom].suspects
        self.fields["cause"].choices = [*((s.code, s.words) for s in suspects), ("", "something else")]


class KnownGoodForm(forms.ModelForm):
    class Meta:
        model = KnownGood
        fields = ["name", "kind", "stands_in", "place", "verified_on"]
        widgets = {"verified_on": date_input()}

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        needs = sorted({a.needs for s in SYMPTOMS for a in s.actions if a.needs})
        self.fields["stands_in"] = forms.ChoiceField(label="Stands in for", choices=[(n, n) for n in needs])


class BenchmarkForm(forms.ModelForm):
    values = forms.CharField(
        label="The runs", max_length=400, error_messages={"required": "Type the runs like this: 15.2; 15.0; 15.4."}
    )

    class Meta:
        model = Benchmark
        fields = ["name", "setting", "moment", "values", "by_hand", "scores"]


class InstrumentForm(forms.ModelForm):
    class Meta:
        model = Instrument
        fields = ["name", "role", "host", "port", "percent", "digits", "resolution"]
