from django import forms

from core.bench.plan import Outcome


class StepForm(forms.Form):
    """What came of a step. The service decides what may be recorded."""

    code = forms.CharField(widget=forms.HiddenInput)
    outcome = forms.ChoiceField(choices=[(o.value, o.label) for o in Outcome])
    reading = forms.CharField(required=False, max_length=24)
    reason = forms.CharField(required=False, max_length=200)

    def clean_reason(self) -> str:
        return self.cleaned_data["reason"].strip()
