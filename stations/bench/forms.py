from django import forms

from core.bench.checks import BenchFacts
from core.bench.codebook import FAMILIES
from core.bench.fault_library import symptoms_for
from core.bench.plan import Outcome
from stations.bench.library import CheckDetails
from stations.bench.models import BenchCheck, Benchmark, Instrument
from stations.common.details import names_of
from stations.common.forms import VersionedForm
from stations.common.typed import as_typed


class StepForm(forms.Form):
    """What came of a step. The service decides what may be recorded."""

    code = forms.CharField(widget=forms.HiddenInput)
    outcome = forms.ChoiceField(choices=[(o.value, o.label) for o in Outcome])
    reading = forms.CharField(required=False, max_length=600)
    taken = forms.CharField(required=False, max_length=400)
    read_on = forms.CharField(required=False, max_length=12)
    reason = forms.CharField(required=False, max_length=200)

    def clean_reason(self) -> str:
        return self.cleaned_data["reason"].strip()

    @property
    def asked(self) -> Outcome:
        """What was pressed, so what its reason is asked for; a failure while nothing was."""
        pressed = self["outcome"].value()
        return Outcome(pressed) if pressed in set(Outcome) else Outcome.FAIL


class CheckForm(VersionedForm):
    wide = ("instruction", "caution", "why", "when")

    class Meta:
        model = BenchCheck
        formfield_callback = as_typed
        fields = names_of(CheckDetails)
        widgets = {
            "instruction": forms.Textarea(attrs={"rows": 3}),
            "caution": forms.Textarea(attrs={"rows": 2}),
        }
        error_messages = {
            "title": {"required": "Give the check a name."},
            "instruction": {"required": "Say what to do."},
        }

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        self.fields["model"].empty_label = "no model in particular"


class NewCheckForm(CheckForm):
    class Meta(CheckForm.Meta):
        fields = ["code", *CheckForm.Meta.fields]


class SymptomForm(forms.Form):
    symptom = forms.ChoiceField(label="Symptom", error_messages={"required": "Choose the symptom."})
    words = forms.CharField(label="What exactly", max_length=160, required=False)
    family = forms.ChoiceField(
        label="Firmware", required=False, choices=[("", "no beep, no code"), *((f.code, f.words) for f in FAMILIES)]
    )
    code = forms.CharField(label="Beeps or code", max_length=12, required=False)

    def __init__(self, *args, facts: BenchFacts, **kwargs):
        super().__init__(*args, **kwargs)
        # Nothing is chosen beforehand: what a machine does is seen, not assumed.
        self.fields["symptom"].choices = [
            ("", "choose what you see"),
            *((s.code, s.words) for s in symptoms_for(facts)),
        ]


class OwnTryForm(forms.Form):
    """Something tried that the library has not."""

    words = forms.CharField(label="What was tried", max_length=160, error_messages={"required": "Say what was tried."})
    answer = forms.CharField(
        label="What came of it", max_length=160, error_messages={"required": "Say what came of it."}
    )
    varied = forms.CharField(label="What was varied", max_length=120, required=False)
    setting = forms.CharField(label="How everything else was set", max_length=120, required=False)
    points_at = forms.ChoiceField(label="It speaks for", required=False)
    points_how = forms.ChoiceField(
        label="how strongly", required=False, choices=[("strong", "strongly"), ("weak", "a little")]
    )
    points_away = forms.BooleanField(label="rather against it", required=False)
    new_suspect = forms.CharField(label="or for a cause of your own", max_length=160, required=False)

    def __init__(self, *args, suspects, **kwargs):
        super().__init__(*args, **kwargs)
        self.fields["points_at"].choices = [("", "nobody in particular"), *((s.code, s.words) for s in suspects)]


class EndStopForm(forms.Form):
    words = forms.CharField(
        label="What it was, and what was done",
        max_length=200,
        error_messages={"required": "Say what it was, and what was done."},
    )


class CauseForm(forms.Form):
    """What it was; the suspects of the symptom, or something else in words."""

    cause = forms.ChoiceField(label="What it was", required=False)
    cause_words = forms.CharField(label="In words", max_length=160, required=False)
    fix = forms.CharField(label="What was done (empty: not repaired)", max_length=160, required=False)

    def __init__(self, *args, suspects, **kwargs):
        super().__init__(*args, **kwargs)
        self.fields["cause"].choices = [("", "something else, in words"), *((s.code, s.words) for s in suspects)]


class BenchmarkForm(forms.ModelForm):
    values = forms.CharField(
        label="The runs", max_length=400, error_messages={"required": "Type the runs like this: 15.2; 15.0; 15.4."}
    )

    class Meta:
        model = Benchmark
        formfield_callback = as_typed
        fields = ["name", "setting", "moment", "values", "changed", "by_hand", "scores"]


class InstrumentForm(forms.ModelForm):
    class Meta:
        model = Instrument
        formfield_callback = as_typed
        fields = ["name", "role", "host", "port", "percent", "digits", "resolution"]

    ACCURACY = ("percent", "digits", "resolution")

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        # How near it measures is read off its data sheet, never taken for granted.
        for name in self.ACCURACY:
            self.fields[name].initial, self.fields[name].required = None, False

    def clean(self):
        data = super().clean()
        for name in self.ACCURACY:
            if data.get(name) is not None or name in self.errors:
                continue
            if data.get("role") == Instrument.Role.METER:
                self.add_error(name, "As its data sheet says.")
            else:
                data[name] = Instrument._meta.get_field(name).get_default()
        return data
