from decimal import Decimal
from typing import Any

from django import forms
from django.forms import BaseFormSet, formset_factory

from core.bench.plan import Outcome
from core.catalogue.recipes import JobKind
from core.intake.completeness import Presence
from core.safety import Hazard
from core.stock.parts import Condition, PartKind
from core.workshop.jobs import USUAL_MINUTES
from core.workshop.labour import LONGEST_ENTRY
from core.workshop.settings import Judged
from stations.bench.services import latest, steps_of
from stations.catalogue.recipes import recipes
from stations.common.forms import SaidSelect, SeenForm, VersionedForm, date_input, to_choose
from stations.common.happened import day_field
from stations.common.typed import CountField, NumberField, as_typed
from stations.stock.models import StockItem
from stations.workshop import care_results
from stations.workshop.models import Job, Knowledge, LabourEntry, Setting, SettingTrial, StateAsFound, TreatmentNote
from stations.workshop.new_job import of_recipe
from stations.workshop.recipe_record import recipe_record
from stations.workshop.services import JobResult
from stations.workshop.settings import Tried
from stations.workshop.strip_downs import strip_down_as_read
from stations.workshop.taking_apart import SalvagedPart


class JobForm(VersionedForm):
    class Meta:
        model = Job
        formfield_callback = as_typed
        fields = [
            "title",
            "recipe",
            "kind",
            "estimate_minutes",
            "finding",
            "source",
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
            "reversible": SaidSelect,
        }
        error_messages = {"title": {"required": "Say what is to be done."}}

    involves = forms.MultipleChoiceField(
        label="What it involves",
        required=False,
        choices=[(hazard.value, hazard.label) for hazard in Hazard],
        widget=forms.CheckboxSelectMultiple,
    )

    # One line is enough to open a job; the rest is asked for where somebody wants to say it.
    BRIEF = ("version", "title", "recipe")

    def __init__(self, *args, unit, brief: bool = False, **kwargs):
        super().__init__(*args, **kwargs)
        self.book = recipes()
        if self.instance.pk:
            del self.fields["recipe"]
        else:
            by_title = [("", "none: as you know it"), *((code, r.title) for code, r in self.book.items())]
            self.fields["recipe"] = forms.ChoiceField(label="by which recipe", required=False, choices=by_title)
            # What is not said is the recipe's, or usual.
            for name in ("title", "kind", "estimate_minutes"):
                self.fields[name].required = False
        if brief:
            self.fields = {name: self.fields[name] for name in self.BRIEF}
            return
        self.fields["finding"].queryset = unit.findings.filter(status="open")
        self.fields["finding"].empty_label = "none"
        names = list(strip_down_as_read(unit).assemblies)
        if self.instance.assembly and self.instance.assembly not in names:
            names.append(self.instance.assembly)
        self.fields["assembly"] = forms.ChoiceField(
            label="where in the machine", required=False, choices=[("", "not said"), *((name, name) for name in names)]
        )
        self.fields["source"] = forms.ChoiceField(
            label="what else it answers to", required=False, choices=answers_to(unit, self.instance.source)
        )

    def clean(self):
        data = super().clean()
        recipe = self.book.get(data.get("recipe") or "")
        if not self.instance.pk:
            if not data.get("title") and "title" not in self.errors:
                if recipe:
                    data["title"] = recipe.title
                else:
                    self.add_error("title", self.fields["title"].error_messages["required"])
            data["kind"] = data.get("kind") or (recipe.kind.value if recipe else JobKind.REPAIR.value)
            usual = recipe_record().minutes(recipe) if recipe else USUAL_MINUTES
            if "estimate_minutes" not in self.errors and data.get("estimate_minutes") is None:
                data["estimate_minutes"] = max(1, usual)
        if recipe:
            data.update({name: value for name, value in of_recipe(recipe).items() if not data.get(name)})
            if data.get("reversible") is None:
                data["reversible"] = recipe.reversible
        return data

    def _get_validation_exclusions(self):
        # The rule on temporary fixes is said at its two fields by the service, not once for the whole form.
        return super()._get_validation_exclusions() | {"temporary"}


def answers_to(unit, now: str = "") -> list[tuple[str, str]]:
    """What a job may answer to besides a finding: failed checks, what is missing, temporary fixes."""
    there = [("", "nothing said")]
    run = unit.runs.order_by("-number").first()
    if run:
        results = latest(run)
        there += [
            (f"check:{step.check.code}", f"failed: {step.check.title}")
            for step in steps_of(run, results)
            if step.check.code in results and results[step.check.code].outcome == Outcome.FAIL
        ]
    there += [
        (f"content:{c.pk}", f"missing: {c.name}")
        for c in unit.contents.all()
        if c.presence in {Presence.MISSING, Presence.WRONG} and not c.done_without
    ]
    there += [(f"temporary:{job.pk}", f"temporary fix: {job.title}") for job in unit.jobs.all() if job.temporary_open]
    if now and now not in dict(there):
        there.append((now, "as it was opened"))
    return there


class StateForm(VersionedForm):
    class Meta:
        model = StateAsFound
        fields = ["what", "found", "after"]
        error_messages = {"what": {"required": "Say what."}, "found": {"required": "Say how it was found."}}


class StepDoneForm(forms.Form):
    """What closes the step in hand."""

    at = forms.IntegerField(widget=forms.HiddenInput, min_value=0, max_value=99)
    typed = forms.CharField(label="Reading or count", max_length=80, required=False)
    # A button that sends what was measured on a photo.
    from_photo = forms.CharField(max_length=80, required=False)
    photo = forms.FileField(label="Photo", required=False)
    air = forms.CharField(label="The air: °C, then % humidity", max_length=20, required=False)
    note = forms.CharField(label="Note", max_length=200, required=False)


class LeaveOutForm(forms.Form):
    at = forms.IntegerField(widget=forms.HiddenInput, min_value=0, max_value=99)
    why = forms.CharField(
        label="Why is it left out?", max_length=160, error_messages={"required": "Say why it is left out."}
    )


class KnowledgeForm(VersionedForm):
    of_model = forms.BooleanField(label="it holds for every machine of this model", required=False)
    file = forms.FileField(label="The file, up to 16 MB", required=False)
    expected = forms.CharField(label="Checksum it should have, SHA-256", max_length=64, required=False)

    class Meta:
        model = Knowledge
        fields = ["title", "kind", "sure", "edition", "words", "from_whom", "due", "answer", "may_pass_on"]
        widgets = {
            "words": forms.Textarea(attrs={"rows": 4}),
            "answer": forms.Textarea(attrs={"rows": 3}),
            "due": date_input(),
            "may_pass_on": SaidSelect(unsaid="not known"),
        }
        error_messages = {"title": {"required": "Say what it is."}}

    def __init__(self, *args, has_model: bool, **kwargs):
        super().__init__(*args, **kwargs)
        if self.instance.pk or not has_model:
            del self.fields["of_model"]


class SettingForm(VersionedForm):
    class Meta:
        model = Setting
        fields = ["name", "kind", "was", "set_to", "means"]
        error_messages = {"name": {"required": "Say which."}, "was": {"required": "Say how it is set."}}


class TrialForm(forms.Form):
    """Two states of a setting tried against one another."""

    what = forms.CharField(
        label="What is compared: sound, picture, frames a second",
        max_length=60,
        error_messages={"required": "Say what is compared."},
    )
    first = forms.CharField(label="The first state", max_length=80, error_messages={"required": "Say how it is set."})
    second = forms.CharField(label="The second", max_length=80, error_messages={"required": "Say how it is set."})
    judged = forms.ChoiceField(label="Told apart by", choices=[(one.value, one.value) for one in Judged])
    first_value = NumberField(label="the first measures", max_digits=12, decimal_places=3, required=False)
    second_value = NumberField(label="the second", max_digits=12, decimal_places=3, required=False)
    less = forms.BooleanField(label="less is better", required=False)
    better = forms.ChoiceField(
        label="by eye or ear, better is", choices=[("", "choose"), *SettingTrial.Better.choices], required=False
    )

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **{"auto_id": "trial_%s"} | kwargs)

    @property
    def tried(self) -> Tried:
        data = {name: value for name, value in self.cleaned_data.items() if name != "less"}
        return Tried(**data | {"judged": Judged(data["judged"]), "more_is_better": not self.cleaned_data["less"]})


class TreatmentForm(VersionedForm):
    class Meta:
        model = TreatmentNote
        fields = ["not_done", "advice"]
        widgets = {"not_done": forms.Textarea(attrs={"rows": 4}), "advice": forms.Textarea(attrs={"rows": 4})}


# So many drawers are offered in a list; any other one is found by its name.
MOST_OFFERED = 60


def _at_hand(field: "ItemField", job: Job) -> list[tuple[int, str]]:
    """What is likeliest wanted: what is held for the job, what fits the model, then the rest by name. Three queries."""
    rows = field.queryset.order_by("name", "condition")
    held = rows.filter(reservations__job=job)
    fits = rows.filter(fits=job.unit.model_id) if job.unit.model_id else rows.none()
    found = {item.pk: item for some in (held, fits, rows) for item in some[:MOST_OFFERED]}
    return [(pk, field.label_from_instance(item)) for pk, item in list(found.items())[:MOST_OFFERED]]


class ItemField(forms.ModelChoiceField):
    """A drawer by its name, with what is free in it."""

    def label_from_instance(self, item: StockItem) -> str:
        return f"{item.name}, {item.get_condition_display()}: {item.free_amount} free in {item.drawer or '–'}"


class IssueForm(forms.Form):
    item = ItemField(
        StockItem.objects.filter(quantity__gt=0).exclude(condition=Condition.FAULTY),
        label="Part",
        empty_label="choose a part",
        required=False,
    )
    named = forms.CharField(label="or by its name", max_length=80, required=False)
    quantity = forms.CharField(
        label="How much", max_length=24, initial="1", error_messages={"required": "Say how much."}
    )

    def __init__(self, *args, job: Job, **kwargs):
        super().__init__(*args, **kwargs)
        self.fields["item"].choices = [("", "choose a part"), *_at_hand(self.fields["item"], job)]

    def clean(self):
        data = super().clean()
        if not data.get("item") and "item" not in self.errors:
            data["item"] = self._by_name(data.get("named", ""))
        return data

    def _by_name(self, named: str) -> StockItem | None:
        """The one drawer that is called so; more than one, or none, is said."""
        if not named:
            self.add_error("item", "Choose a part, or type its name.")
            return None
        found = list(self.fields["item"].queryset.filter(name__iexact=named)[:2])
        found = found or list(self.fields["item"].queryset.filter(name__icontains=named).order_by("name")[:6])
        if len(found) != 1:
            named_so = "; ".join(f"{item.name}, {item.get_condition_display()}" for item in found)
            self.add_error("named", f"Which one: {named_so}?" if found else "Nothing in the drawers is called so.")
            return None
        return found[0]


class FitForm(forms.Form):
    """Where a single piece that was issued sits."""

    kind = to_choose("It is a", [(k.value, k.label) for k in PartKind], "Say what kind of part it is.")
    slot = forms.CharField(label="Slot, bay or socket", max_length=40, required=False)
    serial = forms.CharField(label="Serial", max_length=40, required=False)

    @property
    def chosen(self) -> PartKind:
        return PartKind(self.cleaned_data["kind"])


class MinutesForm(forms.Form):
    minutes = CountField(
        label="Minutes",
        min_value=1,
        max_value=LONGEST_ENTRY,
        error_messages=dict.fromkeys(("min_value", "max_value"), f"From 1 to {LONGEST_ENTRY} minutes."),
    )
    on = day_field("Worked on")


class LabourForm(SeenForm, forms.Form):
    minutes = CountField(
        label="Minutes of work",
        min_value=0,
        max_value=LONGEST_ENTRY,
        error_messages=dict.fromkeys(("min_value", "max_value"), f"From 0 to {LONGEST_ENTRY} minutes."),
    )
    why = forms.CharField(label="why it is corrected", required=False, max_length=120)

    def __init__(self, *args, entry: LabourEntry, **kwargs):
        self.instance, self.held_first = entry, entry.job.unit
        super().__init__(*args, **kwargs)

    def shown(self, row: LabourEntry) -> dict[str, Any]:
        return {"minutes": row.minutes}


class CancelForm(forms.Form):
    why = forms.CharField(label="Why", max_length=140, error_messages={"required": "Say why it is not wanted."})


class DoneForm(forms.Form):
    worked = forms.NullBooleanField(
        label="Did it do what it was for?",
        help_text="what it was for stays open until you say yes, here or later",
        required=False,
        widget=SaidSelect(unsaid="can’t say yet"),
    )
    result = forms.CharField(
        label="What came of it, for us",
        max_length=200,
        error_messages={"required": "Say in a few words what came of it."},
    )
    publish_result = forms.BooleanField(label="these words may be told to buyers", required=False)
    workaround = forms.CharField(
        label="A workaround that stays, such as a command at start: the buyer is told", max_length=160, required=False
    )
    fitted_original = forms.TypedChoiceField(
        label="What was fitted is",
        choices=[("", "choose"), ("yes", "an original one"), ("no", "not an original one")],
        coerce=lambda said: said == "yes",
        required=False,
        empty_value=None,
    )
    original_kept = forms.CharField(label="Where the original part is kept", max_length=80, required=False)
    original_goes = forms.NullBooleanField(
        label="It goes with the machine at sale",
        required=False,
        widget=SaidSelect(unsaid="not decided"),
    )

    original_gone = forms.CharField(label="or why it was disposed of", max_length=160, required=False)
    also = forms.TypedMultipleChoiceField(
        label="It also settles", coerce=int, required=False, widget=forms.CheckboxSelectMultiple
    )
    accepted = forms.BooleanField(label="what is still seen is accepted as patina", required=False)

    def __init__(self, *args, job: Job | None = None, **kwargs):
        super().__init__(*args, **kwargs)
        there = care_results.seen_there(job) if job is not None and job.is_open else []
        also: Any = self.fields["also"]
        also.choices = [(finding.pk, str(finding)) for finding in there]
        also.initial = [finding.pk for finding in there]

    @property
    def came_of_it(self) -> JobResult:
        return JobResult(**self.cleaned_data | {"also": tuple(self.cleaned_data["also"])})

    def clean(self):
        data = super().clean()
        if data.get("original_goes") and not data.get("original_kept"):
            self.add_error("original_kept", "Say where it is kept, so that it can go with the machine.")
        if data.get("original_gone") and (data.get("original_kept") or data.get("original_goes")):
            self.add_error("original_gone", "It is kept, or it was disposed of: one of them.")
        return data


class KeptForm(forms.Form):
    """One part that is kept of a unit taken apart."""

    name = forms.CharField(label="Part", max_length=80, error_messages={"required": "Say what part it is."})
    condition = forms.ChoiceField(
        choices=[(c.value, c.label) for c in Condition if c.used], initial=Condition.UNTESTED.value
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
        error_messages={
            "required": "Say what it is worth: the cost goes by that.",
            "min_value": "This may not be below 0.",
            "invalid": "Type an amount, for example 12.50.",
        },
    )


class KeptSet(BaseFormSet):
    @property
    def parts(self) -> list[SalvagedPart]:
        return [SalvagedPart(**form.cleaned_data) for form in self.forms if form.has_changed()]

    def clean(self) -> None:
        if not any(self.errors) and not self.parts:
            raise forms.ValidationError("Name at least one part that is kept; if nothing is, write the unit off.")


KeptParts = formset_factory(KeptForm, formset=KeptSet, extra=4, max_num=60, absolute_max=61, validate_max=True)
