"""Forms of care: a cleaning, a whitening, a repaint, something reconditioned, feet and badges stuck on."""

from decimal import Decimal
from typing import Any

from django import forms

from core.machine.casing import BOX, Face
from core.workshop.care import CareError, plans, recondition
from core.workshop.care.agents import Agent, Chemistry, Surface
from core.workshop.care.capacitors import read_board
from core.workshop.care.coats import MOST_AREA, read_coats
from core.workshop.care.match import Match, advice, compare, read_candidates
from core.workshop.care.placing import Placed, Stuck, stick
from core.workshop.care.recondition import Kind, Mended, Runs
from core.workshop.care.region import Region
from core.workshop.care.strength import Basis, Mixture, percent_wv
from stations.common.forms import to_choose
from stations.common.typed import CountField, NumberField
from stations.people import shop_settings
from stations.units.models import Unit
from stations.workshop import placing
from stations.workshop.care_planning import (
    FINISHES,
    Planned,
    SchoolBeside,
    case_colour,
    schools_beside,
    size_of,
    sun_here,
)

_FACES = [("", "choose"), *((face.value, face.value) for face in BOX)]
_SURFACES = [(one.value, one.value) for one in Surface]
_NUMBER: dict[str, Any] = {
    "max_digits": 10,
    "decimal_places": 2,
    "required": False,
    "min_value": Decimal(0),
    "error_messages": {"min_value": "This may not be below 0.", "invalid": "Type a number, for example 12.5."},
}
_SHARE = _NUMBER | {
    "max_value": Decimal(100),
    "error_messages": _NUMBER["error_messages"] | {"max_value": "100 %% of the face at most."},
}


_MM: dict[str, Any] = {
    "max_digits": 6,
    "decimal_places": 1,
    "min_value": Decimal(0),
    "error_messages": {"required": "Measure it.", "min_value": "This may not be below 0."},
}


def _choices(kinds) -> list[tuple[str, str]]:
    return [("", "choose"), *((one.value, one.value) for one in kinds)]


def _or_whole(share: Decimal | None, whole: Decimal) -> Decimal:
    return whole if share is None else share / 100


class CareForm(forms.Form):
    """A plan: `planned` once it can be made; what can't be is said at its field."""

    part = forms.CharField(label="Of what", max_length=40, error_messages={"required": "Say of what: top case, keys."})
    finding = forms.IntegerField(widget=forms.HiddenInput, required=False)
    planned: Planned | None = None

    def __init__(self, *args, unit: Unit, **kwargs):
        super().__init__(*args, **kwargs)
        self.unit = unit

    def clean(self):
        data = super().clean() or {}
        if not self.errors:
            try:
                self.planned = self.plan(data)
            except CareError as problem:
                self.add_error(problem.at if problem.at in self.fields else None, str(problem))
        return data

    def plan(self, data: dict[str, Any]) -> Planned:
        raise NotImplementedError

    # Fields that only one choice asks for: the field that chooses, and by choice their names.
    chooses = ""
    asks: dict[str, tuple[str, ...]] = {}
    on_the_map: tuple[str, ...] = ()

    @property
    def where(self) -> list[Any]:
        """The fields that say where on the case, drawn beside the map."""
        return [self[name] for name in self.on_the_map]

    @property
    def others(self) -> list[tuple[Any, str]]:
        """Those that are always asked, with how wide they stand."""
        apart = {*self.on_the_map, *(name for names in self.asks.values() for name in names)}
        return [_spanned(field) for field in self.visible_fields() if field.name not in apart]

    @property
    def asked_by_kind(self) -> list[tuple[str, str, list[tuple[Any, str]], bool]]:
        """By choice: what chooses, the choice, its fields, and whether it is chosen."""
        if not self.asks:
            return []
        choices: Any = self.fields[self.chooses]
        chosen = self[self.chooses].value() or choices.choices[0][0]
        return [
            (self.chooses, kind, [_spanned(self[name]) for name in names], kind == chosen)
            for kind, names in self.asks.items()
        ]


def _spanned(field: Any) -> tuple[Any, str]:
    return field, "span-2" if isinstance(field.field.widget, forms.Textarea) else ""


class OnTheCase(CareForm):
    """A plan for a region of the case: a face picked on the map, and how much of it."""

    on_the_map = ("face", "left", "top", "wide", "high", "openings", "area")

    face = forms.ChoiceField(label="On the", choices=_FACES, required=False)
    left = NumberField(label="from the left, %", **_SHARE)
    top = NumberField(label="from the top, %", **_SHARE)
    wide = NumberField(label="wide, %", **_SHARE)
    high = NumberField(label="high, %", **_SHARE)
    openings = NumberField(label="Open in it, cm²", **_NUMBER)
    area = NumberField(label="or its area as measured, cm²", **_NUMBER)

    def region(self, data: dict[str, Any]) -> Region | None:
        if not data["face"]:
            return None
        left, top = (_or_whole(data[name], Decimal(0)) for name in ("left", "top"))
        wide = _or_whole(data["wide"], 1 - left)
        return Region(Face(data["face"]), left, top, wide, _or_whole(data["high"], 1 - top))

    def size(self, data: dict[str, Any]) -> Decimal | None:
        """As typed, else that of the region by the measures of the model; None where nobody can say."""
        if data["area"] is not None:
            if not 0 < data["area"] <= MOST_AREA:
                raise CareError(f"An area from above 0 to {MOST_AREA:,} cm².", "area")
            return data["area"]
        region, size = self.region(data), size_of(self.unit)
        return region.area(size, data["openings"] or Decimal(0)) if region and size else None

    def known_size(self, data: dict[str, Any]) -> Decimal:
        if (area := self.size(data)) is None:
            raise CareError("Say how large it is, cm², or choose a face of a model whose size is known.", "area")
        return area


class CleanForm(OnTheCase):
    part = forms.CharField(label="Of what", max_length=40, required=False)
    surface = to_choose("Surface", _SURFACES, "Say what surface it is.")
    first = forms.ChoiceField(label="With")
    second = forms.ChoiceField(label="then", required=False)
    third = forms.ChoiceField(label="then", required=False)

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        agents = [(one.value, one.value) for one in Agent]
        for name in ("first", "second", "third"):
            field: Any = self.fields[name]
            field.choices = agents if name == "first" else [("", "nothing more"), *agents]

    def plan(self, data: dict[str, Any]) -> Planned:
        agents = [Agent(data[name]) for name in ("first", "second", "third") if data.get(name)]
        try:
            recipe = plans.clean(Surface(data["surface"]), agents, data["part"])
            return Planned(recipe, data["part"] or data["surface"], self.region(data), self.size(data))
        except CareError as problem:
            raise CareError(str(problem), "first" if problem.at == "agents" else problem.at) from problem


class WhitenForm(OnTheCase):
    school = forms.ChoiceField(label="How", choices=[(one.code, one.title) for one in plans.SCHOOLS])
    bottle = NumberField(label="The bottle says", **_NUMBER)
    basis = forms.ChoiceField(
        label="that is",
        choices=[("", "choose: it makes a difference"), *((one.value, one.label) for one in Basis)],
        required=False,
    )
    wanted = NumberField(label="Wanted, % w/v", **_NUMBER)
    tub = NumberField(label="Bath: the tub holds, ml", **_NUMBER)
    displaced = NumberField(label="and the part takes of it, ml", **_NUMBER)
    rounds = CountField(label="Rounds", initial=4)
    minutes = CountField(label="Minutes a round", required=False)
    chooses = "school"
    asks = {"bath": ("tub", "displaced")}
    mixture: Mixture | None = None

    def beside(self) -> list[SchoolBeside]:
        """The schools side by side, with what was typed so far."""
        data = self.cleaned_data if self.is_bound and not self.errors else {}
        return schools_beside(self.unit, self.mixture, data.get("school") or "", data.get("rounds") or 1)

    def plan(self, data: dict[str, Any]) -> Planned:
        school = plans.school_of(data["school"])
        region, area = self.region(data), self.size(data)
        if school.mixes:
            if data["bottle"] is None:
                raise CareError("Say what the bottle has.", "bottle")
            if not data["basis"]:
                raise CareError("Say of what: w/v and w/w are not the same, and volumes are neither.", "basis")
            bottle = percent_wv(data["bottle"], Basis(data["basis"]))
            if data["wanted"] is None:
                raise CareError("Say how strong it is to be.", "wanted")
            gel = shop_settings.settings().gel_ml_cm2
            area = self.known_size(data)
            amount = plans.amount_ml(school, area, data["tub"], data["displaced"] or Decimal(0), gel)
            self.mixture = plans.mixture_for(school, bottle, data["wanted"], amount)
        recipe = plans.whiten(
            school, self.mixture, data["part"], data["rounds"], data["minutes"] or school.alone, _daylight(school)
        )
        return Planned(recipe, data["part"], region, area)


def _daylight(school: plans.School) -> str:
    """What the sun brings to a school that lives of it. Raises CareError where it brings nothing now."""
    if not school.daylight:
        return ""
    sun = sun_here()
    if sun is None:
        return "How high the sun stands is not reckoned: the settings do not say where the workshop is."
    if not sun.works:
        raise CareError(sun.words, "school")
    return sun.words


class RepaintForm(OnTheCase):
    coats = forms.CharField(
        label="Coats, a line each in the order they are laid",
        max_length=2000,
        widget=forms.Textarea(attrs={"rows": 6, "spellcheck": "false"}),
        error_messages={"required": "At least one coat."},
    )
    candidates = forms.CharField(
        label="Colours to choose from, a line each: harbour grey: #c9c2b0",
        max_length=1200,
        required=False,
        widget=forms.Textarea(attrs={"rows": 3, "spellcheck": "false"}),
    )
    cure = CountField(label="Days it cures", initial=7)
    matches: list[Match] = []

    def plan(self, data: dict[str, Any]) -> Planned:
        candidates = read_candidates(data["candidates"])
        case = case_colour(self.unit)
        if candidates and case is None:
            raise CareError("Measure the colour of the case first, where no light came: on its page.", "candidates")
        self.matches = compare(case[0], candidates) if case else []
        area = self.known_size(data)
        recipe = plans.repaint(area, read_coats(data["coats"]), data["part"], data["cure"], advice(self.matches))
        return Planned(recipe, data["part"], self.region(data), area)


class StickForm(CareForm):
    """Feet, badges or a label, where they were measured on machines of this model."""

    face = forms.ChoiceField(label="On the")
    what = forms.ChoiceField(
        label="What", choices=[("", "all of it"), *((one.value, one.value) for one in Stuck)], required=False
    )
    surface = to_choose("Stuck on", _SURFACES, "Say what it is stuck on.")
    residue = forms.BooleanField(label="old glue is still on it", required=False, initial=True)
    reproduction = forms.BooleanField(label="a reproduction, not the one that came with it", required=False)

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        self.kept = placing.kept(self.unit)
        faces = dict.fromkeys(one.face for one in self.kept)
        field: Any = self.fields["face"]
        field.choices = [(face.value, face.value) for face in faces] or [("", "nothing is measured yet")]
        field.error_messages["required"] = "Nothing is measured yet: measure one that is still on."

    def plan(self, data: dict[str, Any]) -> Planned:
        size = size_of(self.unit)
        if size is None:
            raise CareError("Say which model it is, and how large that is, first: places are kept with it.", "face")
        chosen = [one for one in self.kept if one.face == data["face"] and data["what"] in {"", one.what}]
        recipe = stick(chosen, size, Surface(data["surface"]), data["part"], data["residue"])
        return Planned(recipe, data["part"], Region(Face(data["face"])), None, data["reproduction"])


class ReconditionForm(CareForm):
    part = forms.CharField(
        label="On what", max_length=40, error_messages={"required": "Say on what: drive, main board, lid."}
    )
    kind = forms.ChoiceField(label="What is done", choices=[(one.value, one.value) for one in Kind])
    runs = forms.ChoiceField(label="Bearings: what runs", choices=_choices(Runs), required=False)
    drive = NumberField(label="Belt: the pulley that drives, mm", **_NUMBER)
    driven = NumberField(label="the one it drives, mm", **_NUMBER)
    apart = NumberField(label="axle to axle, mm", **_NUMBER)
    crossed = forms.BooleanField(label="the belt is crossed", required=False)
    area = NumberField(label="Paste: area of the chip, cm²", **_NUMBER)
    capacitors = forms.CharField(
        label="Capacitors, a line a kind: C12, C14: 220 µF 16 V ⌀8 pitch 3.5",
        max_length=3000,
        required=False,
        widget=forms.Textarea(attrs={"rows": 4, "spellcheck": "false"}),
    )
    chemistry = forms.ChoiceField(label="Battery: what it is", choices=_choices(Chemistry), required=False)
    leaked = forms.ChoiceField(
        label="did it leak", choices=[("", "not known"), ("yes", "it did"), ("no", "it did not")], required=False
    )
    broke = forms.CharField(label="Mechanism: what broke", max_length=40, required=False)
    mended = forms.ChoiceField(label="and is", choices=_choices(Mended), required=False)
    chooses = "kind"
    asks = {
        Kind.BEARINGS.value: ("runs",),
        Kind.BELTS.value: ("drive", "driven", "apart", "crossed"),
        Kind.PASTE.value: ("area",),
        Kind.CAPACITORS.value: ("capacitors",),
        Kind.BATTERY.value: ("chemistry", "leaked"),
        Kind.MECHANISM.value: ("broke", "mended"),
    }

    def plan(self, data: dict[str, Any]) -> Planned:
        kind, part = Kind(data["kind"]), data["part"]
        match kind:
            case Kind.BEARINGS:
                recipe = recondition.bearings(part, Runs(_chosen(data, "runs")))
            case Kind.BELTS:
                recipe = recondition.belts(part, self._way(data))
            case Kind.PASTE:
                recipe = recondition.paste(part, _typed(data, "area"))
            case Kind.CAPACITORS:
                recipe = recondition.capacitors(part, read_board(data["capacitors"]))
            case Kind.BATTERY:
                leaked = {"yes": True, "no": False}.get(data["leaked"])
                recipe = recondition.battery(part, Chemistry(_chosen(data, "chemistry")), leaked)
            case Kind.MECHANISM:
                recipe = recondition.mechanism(part, data["broke"], Mended(_chosen(data, "mended")))
            case _:
                recipe = recondition.ready(kind, part)
        return Planned(recipe, part)

    @staticmethod
    def _way(data: dict[str, Any]) -> Decimal:
        drive, driven, apart = (_typed(data, name) for name in ("drive", "driven", "apart"))
        return recondition.belt_length(drive, driven, apart, data["crossed"])


def _typed(data: dict[str, Any], name: str) -> Decimal:
    if data[name] is None:
        raise CareError("Measure it and type it here.", name)
    return data[name]


def _chosen(data: dict[str, Any], name: str) -> str:
    if not data[name]:
        raise CareError("Choose what it is.", name)
    return data[name]


class PlacementForm(forms.Form):
    """Where one sits on a face, as it is looked at."""

    what = forms.ChoiceField(label="What", choices=[(one.value, one.value) for one in Stuck])
    face = forms.ChoiceField(label="On the", choices=_FACES[1:], initial=Face.UNDERSIDE.value)
    left = NumberField(label="from the left edge, mm", **_MM)
    top = NumberField(label="from the top edge, mm", **_MM)
    wide = NumberField(label="width, mm", **_MM)
    high = NumberField(label="height, mm", **_MM)

    def __init__(self, *args, **kwargs):
        # It stands beside a plan whose fields have the same names.
        super().__init__(*args, **{"auto_id": "place_%s"} | kwargs)

    @property
    def placed(self) -> Placed:
        data = self.cleaned_data
        figures = (data[name] for name in ("left", "top", "wide", "high"))
        return Placed(Stuck(data["what"]), Face(data["face"]), *figures)


class FinishForm(forms.Form):
    which = forms.ChoiceField(
        label="The finish is", choices=[("", "choose"), *FINISHES.items()], error_messages={"required": "Say which."}
    )
    seen = forms.CharField(
        label="by", max_length=60, error_messages={"required": "Say where it shows: inside of the lid, an edge."}
    )


FORMS: dict[str, type[CareForm]] = {
    "clean": CleanForm,
    "whiten": WhitenForm,
    "repaint": RepaintForm,
    "recondition": ReconditionForm,
    "stick": StickForm,
}
