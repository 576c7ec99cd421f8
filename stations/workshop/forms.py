from decimal import Decimal

from django import forms
from django.forms import BaseFormSet, formset_factory

from core.safety import Hazard
from core.workshop.costing import LONGEST_ENTRY
from stations.common.forms import VersionedForm, date_input
from stations.common.typed import CountField, NumberField, as_typed
from stations.stock.models import StockItem
from stations.workshop.models import Job, Setting, TreatmentNote
from stations.workshop.openings import strip_down_of
from stations.workshop.taking_apart import SalvagedPart


class JobForm(VersionedForm):
    class Meta:
        model = Job
        formfield_callback = as_typed
        fields = [
            "title",
            "kind",
            "estimate_minutes",
            "finding",
            "assembly",
            "reversible",
            "involves",
            "visible_modern",
            "temporary",
            "temporary_reason",
            "made_good_by",
            "made_good_due",
            "waiting_for",
            "waiting_until",
            "decision",
            "override_reason",
        ]
        widgets = {
            "waiting_until": date_input(),
            "made_good_due": date_input(),
            "reversible": forms.Select(choices=[("", "not said"), ("true", "yes"), ("false", "no")]),
        }
        error_messages = {"title": {"required": "Say what is to be done."}}

    involves = forms.MultipleChoiceField(
        label="What it involves",
        required=False,
        choices=[(hazard.value, hazard.label) for hazard in Hazard],
        widget=forms.CheckboxSelectMultiple,
    )

    def __init__(self, *args, unit, **kwargs):
        super().__init__(*args, **kwargs)
        self.fields["finding"].queryset = unit.findings.filter(status="open")
        self.fields["finding"].empty_label = "none"
        names = list(strip_down_of(unit).assemblies)
        if self.instance.assembly and self.instance.assembly not in names:
            names.append(self.instance.assembly)
        self.fields["assembly"] = forms.ChoiceField(
            label="where in the machine", required=False, choices=[("", "not said"), *((name, name) for name in names)]
        )

    def _get_validation_exclusions(self):
        # The rule on temporary fixes is said at its two fields by the service, not once for the whole form.
        return super()._get_validation_exclusions() | {"temporary"}


class SettingForm(VersionedForm):
    class Meta:
        model = Setting
        fields = ["name", "kind", "was", "set_to", "means"]
        error_messages = {"name": {"required": "Say which."}, "was": {"required": "Say how it is set."}}


class TreatmentForm(VersionedForm):
    class Meta:
        model = TreatmentNote
        fields = ["not_done", "advice"]
        widgets = {"not_done": forms.Textarea(attrs={"rows": 4}), "advice": forms.Textarea(attrs={"rows": 4})}


class IssueForm(forms.Form):
    item = forms.ModelChoiceField(StockItem.objects.filter(quantity__gt=0), label="Part", empty_label="choose a part")
    quantity = CountField(label="How many", min_value=1, initial=1, error_messages={"min_value": "At least one."})


class MinutesForm(forms.Form):
    minutes = CountField(
        label="Minutes",
        min_value=1,
        max_value=LONGEST_ENTRY,
        error_messages=dict.fromkeys(("min_value", "max_value"), f"From 1 to {LONGEST_ENTRY} minutes."),
    )


class LabourForm(forms.Form):
    minutes = CountField(
        label="Minutes of work",
        min_value=0,
        max_value=LONGEST_ENTRY,
        error_messages=dict.fromkeys(("min_value", "max_value"), f"From 0 to {LONGEST_ENTRY} minutes."),
    )
    why = forms.CharField(label="why it is corrected", required=False, max_length=120)


class DoneForm(forms.Form):
    result = forms.CharField(
        label="What came of it, for us",
        max_length=200,
        error_messages={"required": "Say in a few words what came of it."},
    )
    publish_result = forms.BooleanField(label="these words may be told to buyers", required=False)
    workaround = forms.CharField(
        label="A workaround that stays, such as a command at start: the buyer is told", max_length=160, required=False
    )
    original_kept = forms.CharField(label="Where the original part is kept", max_length=80, required=False)
    original_goes = forms.NullBooleanField(
        label="It goes with the machine at sale",
        required=False,
        widget=forms.Select(choices=[("", "not decided"), ("true", "yes"), ("false", "no")]),
    )

    def clean(self):
        data = super().clean()
        if data.get("original_goes") and not data.get("original_kept"):
            self.add_error("original_kept", "Say where it is kept, so that it can go with the machine.")
        return data


class KeptForm(forms.Form):
    """One part that is kept of a unit taken apart."""

    name = forms.CharField(label="Part", max_length=80, error_messages={"required": "Say what part it is."})
    condition = forms.ChoiceField(
        choices=[(c.value, c.label) for c in StockItem.Condition if "used" in c.label], initial="tested"
    )
    drawer = forms.CharField(max_length=20, required=False)
    quantity = CountField(
        label="How many", min_value=1, max_value=1000, initial=1, error_messages={"min_value": "At least one."}
    )
    keeps_data = forms.BooleanField(label="storage that may hold data", required=False)
    worth = NumberField(
        label="Worth each",
        min_value=Decimal(0),
        max_digits=9,
        decimal_places=2,
        initial=Decimal(0),
        error_messages={"min_value": "This may not be below 0.", "invalid": "Type an amount, for example 12.50."},
    )


class KeptSet(BaseFormSet):
    @property
    def parts(self) -> list[SalvagedPart]:
        return [SalvagedPart(**form.cleaned_data) for form in self.forms if form.has_changed()]

    def clean(self) -> None:
        if not any(self.errors) and not self.parts:
            raise forms.ValidationError("Name at least one part that is kept; if nothing is, write the unit off.")


KeptParts = formset_factory(KeptForm, formset=KeptSet, extra=4, max_num=60, absolute_max=61, validate_max=True)
