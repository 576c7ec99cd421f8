"""A recipe and one of its steps as they are typed."""

from django import forms

from core.bench.checks import Group
from core.catalogue.recipes import (
    MOST_ALONE,
    MOST_MINUTES,
    MOST_RESTARTS,
    MOST_WITHIN,
    JobKind,
    Proof,
    Recipe,
    RecipeError,
    Step,
    read_needs,
    written_needs,
)
from core.intake.condition import FindingKind
from core.machine.approach import Approach
from core.machine.casing import FormFactor
from core.safety import Hazard
from stations.common.typed import CountField, NumberField


def _several(label: str, choices) -> forms.MultipleChoiceField:
    return forms.MultipleChoiceField(label=label, required=False, choices=choices, widget=forms.CheckboxSelectMultiple)


class RecipeForm(forms.Form):
    version = forms.IntegerField(widget=forms.HiddenInput, required=False)
    title = forms.CharField(label="Title", max_length=80, error_messages={"required": "Say what is done."})
    kind = forms.ChoiceField(label="Kind of work", choices=[(kind.value, kind.value) for kind in JobKind])
    findings = _several("Answers to findings", [(kind.value, kind.label) for kind in FindingKind])
    extent_from = CountField(label="From so many % of the face", min_value=0, max_value=100, required=False)
    checks = _several("Answers to failed checks", [(group.value, group.label) for group in Group])
    shapes = _several("Only for these shapes", [(form.value, form.label) for form in FormFactor])
    approaches = _several("Only under", [(approach.value, approach.label) for approach in Approach])
    at = forms.CharField(label="Done on the assembly named (words, commas between)", max_length=120, required=False)
    due_months = CountField(label="Due again after months", min_value=1, max_value=600, required=False)
    due_hours = CountField(label="or after hours run", min_value=1, max_value=100_000, required=False)
    visible_modern = forms.BooleanField(label="leaves a modern part in sight", required=False)
    boxes = ("findings", "checks", "shapes", "approaches")

    @staticmethod
    def values_of(recipe: Recipe) -> dict[str, object]:
        return {
            "title": recipe.title,
            "kind": recipe.kind.value,
            "findings": recipe.findings,
            "extent_from": recipe.extent_from,
            "checks": recipe.checks,
            "shapes": [form.value for form in recipe.forms],
            "approaches": recipe.approaches,
            "at": ", ".join(recipe.at),
            "due_months": recipe.due_months,
            "due_hours": recipe.due_hours,
            "visible_modern": recipe.visible_modern,
        }

    @property
    def groups(self):
        return [self[name] for name in self.boxes]

    def recipe(self, code: str, steps: tuple[Step, ...] = ()) -> Recipe:
        data = self.cleaned_data
        return Recipe(
            code,
            data["title"],
            JobKind(data["kind"]),
            steps,
            findings=tuple(data["findings"]),
            extent_from=data["extent_from"] or 0,
            checks=tuple(data["checks"]),
            forms=tuple(FormFactor(form) for form in data["shapes"]),
            approaches=tuple(data["approaches"]),
            at=tuple(filter(None, (word.strip() for word in data["at"].split(",")))),
            due_months=data["due_months"],
            due_hours=data["due_hours"],
            visible_modern=data["visible_modern"],
        )


class StepForm(forms.Form):
    version = forms.IntegerField(widget=forms.HiddenInput, required=False)
    instruction = forms.CharField(
        label="What is done",
        max_length=300,
        widget=forms.Textarea(attrs={"rows": 3}),
        error_messages={"required": "Say what is done."},
    )
    why = forms.CharField(label="Why", max_length=200, required=False)
    minutes = CountField(label="Minutes of hands", min_value=0, max_value=MOST_MINUTES)
    alone_minutes = CountField(label="then by itself, minutes", min_value=0, max_value=MOST_ALONE, required=False)
    attended = forms.BooleanField(label="somebody has to be near: powered, heated, charging", required=False)
    within_minutes = CountField(
        label="begun within minutes of the step before, empty for any time",
        min_value=0,
        max_value=MOST_WITHIN,
        required=False,
    )
    late = forms.CharField(label="What is done where it is later", max_length=160, required=False)
    most_humid = CountField(
        label="The air is measured as it begins, humidity at most, %", min_value=0, max_value=100, required=False
    )
    restarts = CountField(label="Restarts", min_value=0, max_value=MOST_RESTARTS, required=False)
    needs = forms.CharField(label="Needs: soft brush; isopropanol 20 ml; daylight", max_length=300, required=False)
    caution = forms.CharField(label="A caution of this very step", max_length=200, required=False)
    hazards = _several("Cautions at the step", [(hazard.value, hazard.label) for hazard in Hazard])
    proof = forms.ChoiceField(label="What closes it", choices=[(proof.value, proof.label) for proof in Proof])
    asks = forms.CharField(label="What is read or counted", max_length=80, required=False)
    unit = forms.CharField(label="in which unit", max_length=12, required=False)
    low = NumberField(label="at least", max_digits=12, decimal_places=3, required=False)
    high = NumberField(label="at most", max_digits=12, decimal_places=3, required=False)
    final = forms.BooleanField(label="can’t be undone", required=False)

    @staticmethod
    def values_of(step: Step) -> dict[str, object]:
        return {
            "instruction": step.instruction,
            "why": step.why,
            "minutes": step.minutes,
            "alone_minutes": step.alone_minutes or None,
            "attended": step.attended,
            "within_minutes": step.within_minutes or None,
            "late": step.late,
            "most_humid": step.most_humid or None,
            "restarts": step.restarts or None,
            "needs": written_needs(step.needs),
            "caution": step.caution,
            "hazards": [hazard.value for hazard in step.hazards],
            "proof": step.proof.value,
            "asks": step.asks,
            "unit": step.unit,
            "low": step.low,
            "high": step.high,
            "final": not step.undone,
        }

    def clean(self):
        super().clean()
        if not self.errors:
            try:
                self.cleaned_data["step"] = self._step(self.cleaned_data)
            except RecipeError as problem:
                self.add_error(problem.at if problem.at in self.fields else None, str(problem))
        return self.cleaned_data

    @staticmethod
    def _step(data) -> Step:
        return Step(
            data["instruction"],
            data["minutes"],
            data["alone_minutes"] or 0,
            data["why"],
            tuple(Hazard(name) for name in data["hazards"]),
            data["caution"],
            read_needs(data["needs"]),
            Proof(data["proof"]),
            data["asks"],
            data["unit"],
            data["low"],
            data["high"],
            not data["final"],
            data["attended"],
            data["within_minutes"] or 0,
            data["late"],
            data["most_humid"] or 0,
            data["restarts"] or 0,
        )
