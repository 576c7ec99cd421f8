"""Forms of care: a cleaning, a whitening, a repaint."""

from decimal import Decimal
from typing import Any

from django import forms

from core.catalogue.recipes import Recipe
from core.machine.casing import Face
from core.workshop.care import CareError, plans
from core.workshop.care.agents import Agent, Surface
from core.workshop.care.coats import read_coats
from core.workshop.care.strength import Basis, Mixture, percent_wv
from stations.common.typed import CountField, NumberField
from stations.units.models import Unit
from stations.workshop.care import area_of

_FACES = [("", "choose"), *((face.value, face.value) for face in Face if face not in {Face.INSIDE, Face.SCREEN})]
_AMOUNT: dict[str, Any] = {
    "max_digits": 10,
    "decimal_places": 2,
    "required": False,
    "min_value": Decimal(0),
    "error_messages": {"min_value": "This may not be below 0.", "invalid": "Type a number, for example 12.5."},
}


class CareForm(forms.Form):
    """A plan: `recipe` once it can be made; what can't be is said at its field."""

    recipe: Recipe | None = None

    def __init__(self, *args, unit: Unit, **kwargs):
        super().__init__(*args, **kwargs)
        self.unit = unit

    def clean(self):
        data = super().clean() or {}
        if not self.errors:
            try:
                self.recipe = self.plan(data)
            except CareError as problem:
                self.add_error(problem.at if problem.at in self.fields else None, str(problem))
        return data

    def plan(self, data: dict[str, Any]) -> Recipe:
        raise NotImplementedError

    def size(self, data: dict[str, Any]) -> Decimal:
        """As typed, else that of the face by the measures of the model."""
        area = data["area"] if data["area"] is not None else area_of(self.unit, data["face"])
        if area is None:
            raise CareError("Say how large it is, cm², or choose a face of a model whose size is known.", "area")
        return area


class CleanForm(CareForm):
    part = forms.CharField(label="Of what", max_length=40, required=False)
    surface = forms.ChoiceField(label="Surface", choices=[(one.value, one.value) for one in Surface])
    first = forms.ChoiceField(label="With")
    second = forms.ChoiceField(label="then", required=False)
    third = forms.ChoiceField(label="then", required=False)

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        agents = [(one.value, one.value) for one in Agent]
        for name in ("first", "second", "third"):
            field: Any = self.fields[name]
            field.choices = agents if name == "first" else [("", "nothing more"), *agents]

    def clean(self):
        data = super().clean()
        for problem in self.errors.pop("agents", []):
            self.add_error("first", problem)
        return data

    def plan(self, data: dict[str, Any]) -> Recipe:
        agents = [Agent(data[name]) for name in ("first", "second", "third") if data.get(name)]
        try:
            return plans.clean(Surface(data["surface"]), agents, data["part"])
        except CareError as problem:
            raise CareError(str(problem), "first") from problem


class WhitenForm(CareForm):
    part = forms.CharField(label="Of what", max_length=40, error_messages={"required": "Say of what: top case, keys."})
    face = forms.ChoiceField(label="Which face it is", choices=_FACES, required=False)
    area = NumberField(label="or its area, cm²", **_AMOUNT)
    school = forms.ChoiceField(label="How", choices=[(one.code, one.title) for one in plans.SCHOOLS])
    bottle = NumberField(label="The bottle says", **_AMOUNT)
    basis = forms.ChoiceField(
        label="that is",
        choices=[("", "choose: it makes a difference"), *((one.value, one.label) for one in Basis)],
        required=False,
    )
    wanted = NumberField(label="Wanted, % w/v", **_AMOUNT)
    tub = NumberField(label="Bath: the tub holds, ml", **_AMOUNT)
    displaced = NumberField(label="and the part takes of it, ml", **_AMOUNT)
    rounds = CountField(label="Rounds", initial=4)
    minutes = CountField(label="Minutes a round", required=False)
    mixture: Mixture | None = None

    def plan(self, data: dict[str, Any]) -> Recipe:
        school = plans.school_of(data["school"])
        if school.mixes:
            if data["bottle"] is None:
                raise CareError("Say what the bottle has.", "bottle")
            if not data["basis"]:
                raise CareError("Say of what: w/v and w/w are not the same, and volumes are neither.", "basis")
            bottle = percent_wv(data["bottle"], Basis(data["basis"]))
            if data["wanted"] is None:
                raise CareError("Say how strong it is to be.", "wanted")
            amount = plans.amount_ml(school, self.size(data), data["tub"], data["displaced"] or Decimal(0))
            self.mixture = plans.mixture_for(school, bottle, data["wanted"], amount)
        return plans.whiten(school, self.mixture, data["part"], data["rounds"], data["minutes"] or school.alone)


class RepaintForm(CareForm):
    part = forms.CharField(
        label="Of what", max_length=40, error_messages={"required": "Say of what: front, foot rail."}
    )
    face = forms.ChoiceField(label="Which face it is", choices=_FACES, required=False)
    area = NumberField(label="or its area, cm²", **_AMOUNT)
    coats = forms.CharField(
        label="Coats, a line each in the order they are laid",
        max_length=2000,
        widget=forms.Textarea(attrs={"rows": 6, "spellcheck": "false"}),
        error_messages={"required": "At least one coat."},
    )
    cure = CountField(label="Days it cures", initial=7)

    def plan(self, data: dict[str, Any]) -> Recipe:
        return plans.repaint(self.size(data), read_coats(data["coats"]), data["part"], data["cure"])


FORMS: dict[str, type[CareForm]] = {"clean": CleanForm, "whiten": WhitenForm, "repaint": RepaintForm}
