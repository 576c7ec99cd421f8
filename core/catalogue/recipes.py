"""Recipes: how a piece of work is done, step by step, as data that the shop edits.

What comes with the application stands in recipe_library.py; which recipe answers to what was found, and how well it
went before, is worked out in core/workshop.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from decimal import Decimal, InvalidOperation
from enum import StrEnum
from typing import Any

from core.machine.casing import FormFactor
from core.safety import Hazard

MOST_STEPS = 40
MOST_MINUTES = 600
MOST_ALONE = 14 * 24 * 60
MOST_RESTARTS = 40
MOST_WITHIN = 60 * 24 * 60
_CODE = frozenset("abcdefghijklmnopqrstuvwxyz0123456789-")


class RecipeError(ValueError):
    """What is wrong with a recipe or a step, in words, and at which field."""

    def __init__(self, message: str, at: str = "") -> None:
        super().__init__(message)
        self.at = at


class JobKind(StrEnum):
    """What kind of work a job or a recipe is."""

    CLEAN = "clean"
    REPAIR = "repair"
    RECONDITION = "recondition"
    WHITEN = "whiten"
    REFINISH = "refinish"
    UPGRADE = "upgrade"
    SOFTWARE = "software"
    REASSEMBLE = "reassemble"


class Proof(StrEnum):
    """What closes a step."""

    YES = "yes"
    READING = "reading"
    COUNT = "count"
    COLOUR = "colour"
    PHOTO = "photo"

    @property
    def label(self) -> str:
        return {
            "yes": "a yes",
            "reading": "a reading within limits",
            "count": "a count",
            "colour": "a colour difference, ΔE00",
            "photo": "a photo",
        }[self.value]

    @property
    def is_typed(self) -> bool:
        """A figure is to be typed."""
        return self in {Proof.READING, Proof.COUNT, Proof.COLOUR}

    @property
    def is_colour(self) -> bool:
        return self is Proof.COLOUR

    @property
    def is_photo(self) -> bool:
        return self is Proof.PHOTO


@dataclass(frozen=True)
class Need:
    """A tool, or so much of a consumable; `light`, `air` or a second pair of hands are needs like any other."""

    name: str
    amount: Decimal | None = None
    unit: str = ""

    def __str__(self) -> str:
        return f"{self.name}, {self.amount.normalize():f} {self.unit}" if self.amount is not None else self.name


@dataclass(frozen=True)
class Step:
    """One thing to do. Minutes of hands (0 to 600), then by itself (to 14 days), powered or watched where `attended`.

    `asks` is what the proof asks for in words; `low` and `high` its limits, either of which may be open. `undone` is
    False for what can't be taken back. `within_minutes`: it has to begin so soon after the step before was begun (0: at
    any time); `late` says what has to be done where it did not. `most_humid` above 0: the air is measured as it begins,
    °C within `low` and `high`, humidity up to so many %. `restarts`: so often the machine is started anew.
    """

    instruction: str
    minutes: int = 5
    alone_minutes: int = 0
    why: str = ""
    hazards: tuple[Hazard, ...] = ()
    caution: str = ""
    needs: tuple[Need, ...] = ()
    proof: Proof = Proof.YES
    asks: str = ""
    unit: str = ""
    low: Decimal | None = None
    high: Decimal | None = None
    undone: bool = True
    attended: bool = False
    within_minutes: int = 0
    late: str = ""
    most_humid: int = 0
    restarts: int = 0

    def __post_init__(self) -> None:
        if not 1 <= len(self.instruction) <= 300:
            raise RecipeError("An instruction of 1 to 300 characters.", "instruction")
        if not 0 <= self.minutes <= MOST_MINUTES:
            raise RecipeError(f"From 0 to {MOST_MINUTES} minutes of hands.", "minutes")
        if not 0 <= self.alone_minutes <= MOST_ALONE:
            raise RecipeError("From 0 minutes to 14 days by itself.", "alone_minutes")
        if not 0 <= self.within_minutes <= MOST_WITHIN:
            raise RecipeError("From 0 minutes to 60 days after the step before.", "within_minutes")
        if not 0 <= self.restarts <= MOST_RESTARTS:
            raise RecipeError(f"From 0 to {MOST_RESTARTS} restarts.", "restarts")
        if not 0 <= self.most_humid <= 100:
            raise RecipeError("Humidity from 0 to 100 %.", "most_humid")
        if self.proof.is_typed and not self.asks:
            raise RecipeError("Say what is to be read or counted.", "asks")
        if self.low is not None and self.high is not None and self.low > self.high:
            raise RecipeError("The lower limit is above the upper one.", "low")

    @property
    def powered(self) -> bool:
        """The machine has power at it, or may have: somebody has to be near, or it is measured live."""
        return self.attended or Hazard.LIVE in self.hazards

    def within(self, value: Decimal) -> bool:
        """Whether what was read lies within the limits, both included."""
        return (self.low is None or value >= self.low) and (self.high is None or value <= self.high)

    @property
    def limits(self) -> str:
        """In words: "4.75 to 5.25 V"; empty when there are none."""
        low, high = (None if limit is None else f"{limit.normalize():f}" for limit in (self.low, self.high))
        if low is None and high is None:
            return ""
        said = f"{low} to {high}" if low and high else f"at least {low}" if low else f"at most {high}"
        return f"{said} {self.unit}".strip()


@dataclass(frozen=True)
class Recipe:
    """A piece of work. What it is for: kinds of finding from so much of a face, groups of checks that failed, shapes
    and approaches (none named: all); `at` are words in the name of the assembly it is done on.

    `due_months` and `due_hours` say when it is due again, None for never.
    """

    code: str
    title: str
    kind: JobKind
    steps: tuple[Step, ...] = ()
    findings: tuple[str, ...] = ()
    extent_from: int = 0
    checks: tuple[str, ...] = ()
    forms: tuple[FormFactor, ...] = ()
    approaches: tuple[str, ...] = ()
    at: tuple[str, ...] = ()
    due_months: int | None = None
    due_hours: int | None = None
    visible_modern: bool = False

    def __post_init__(self) -> None:
        if not 1 <= len(self.code) <= 40 or not set(self.code) <= _CODE:
            raise RecipeError("A code of small letters, digits and hyphens, at most 40.", "code")
        if not 1 <= len(self.title) <= 80:
            raise RecipeError("A title of 1 to 80 characters.", "title")
        if len(self.steps) > MOST_STEPS:
            raise RecipeError(f"At most {MOST_STEPS} steps.", "steps")
        if not 0 <= self.extent_from <= 100:
            raise RecipeError("From 0 to 100 % of the face.", "extent_from")
        for name, due, most in (("due_months", self.due_months, 600), ("due_hours", self.due_hours, 100_000)):
            if due is not None and not 1 <= due <= most:
                raise RecipeError(f"From 1 to {most}.", name)

    @property
    def minutes(self) -> int:
        """Of hands, for all steps as written."""
        return sum(step.minutes for step in self.steps)

    @property
    def restarts(self) -> int:
        return sum(step.restarts for step in self.steps)

    @property
    def alone_minutes(self) -> int:
        return sum(step.alone_minutes for step in self.steps)

    @property
    def reversible(self) -> bool:
        return all(step.undone for step in self.steps)

    @property
    def hazards(self) -> tuple[Hazard, ...]:
        return tuple(dict.fromkeys(hazard for step in self.steps for hazard in step.hazards))

    @property
    def needs(self) -> tuple[Need, ...]:
        """Of all steps; consumables of one name and unit added up."""
        return added_up(need for step in self.steps for need in step.needs)


def added_up(needs: Iterable[Need]) -> tuple[Need, ...]:
    """Those of one name and unit as one."""
    found: dict[tuple[str, str], Need] = {}
    for need in needs:
        before = found.get((need.name, need.unit))
        whole = None if need.amount is None else need.amount + (before.amount or 0 if before else 0)
        found[need.name, need.unit] = replace(need, amount=whole)
    return tuple(found.values())


def read_needs(text: str) -> tuple[Need, ...]:
    """Needs as typed, with a semicolon between them: "soft brush; isopropanol 20 ml; daylight"."""
    found = []
    for part in filter(None, (part.strip() for part in text.replace("\n", ";").split(";"))):
        words = part.split()
        if len(words) >= 3 and words[-1] in MEASURES:
            try:
                amount = Decimal(words[-2].replace(",", "."))
            except InvalidOperation:
                amount = Decimal(-1)
            if not amount.is_finite() or not 0 < amount <= 100_000:
                raise RecipeError(f"“{part}”: how much is that? Such as isopropanol 20 ml.", "needs")
            found.append(Need(" ".join(words[:-2]).rstrip(","), amount, words[-1]))
        else:
            found.append(Need(part))
    return tuple(found)


# How consumables are measured.
MEASURES = ("ml", "g", "m", "cm", "sheets", "pieces")


def written_needs(needs: tuple[Need, ...]) -> str:
    """As they are typed."""
    return "; ".join(
        need.name if need.amount is None else f"{need.name} {need.amount.normalize():f} {need.unit}" for need in needs
    )


def as_data(recipe: Recipe) -> dict[str, Any]:
    """For JSON; what is empty is left out."""
    row: dict[str, Any] = {
        "code": recipe.code,
        "title": recipe.title,
        "kind": recipe.kind.value,
        "findings": list(recipe.findings),
        "extent_from": recipe.extent_from,
        "checks": list(recipe.checks),
        "forms": [form.value for form in recipe.forms],
        "approaches": list(recipe.approaches),
        "at": list(recipe.at),
        "due_months": recipe.due_months,
        "due_hours": recipe.due_hours,
        "visible_modern": recipe.visible_modern,
        "steps": [step_as_data(step) for step in recipe.steps],
    }
    return {name: value for name, value in row.items() if value not in (None, [], 0, False)}


def step_as_data(step: Step) -> dict[str, Any]:
    row: dict[str, Any] = {
        "instruction": step.instruction,
        "minutes": step.minutes,
        "alone_minutes": step.alone_minutes or None,
        "why": step.why,
        "hazards": [hazard.value for hazard in step.hazards],
        "caution": step.caution,
        "needs": written_needs(step.needs),
        "proof": step.proof.value,
        "asks": step.asks,
        "unit": step.unit,
        "low": None if step.low is None else str(step.low),
        "high": None if step.high is None else str(step.high),
        "undone": step.undone,
        "attended": step.attended or None,
        "within_minutes": step.within_minutes or None,
        "late": step.late,
        "most_humid": step.most_humid or None,
        "restarts": step.restarts or None,
    }
    return {name: value for name, value in row.items() if value not in (None, [], "")}


def from_data(row: Mapping[str, Any]) -> Recipe:
    """From JSON; RecipeError says what is wrong, and where."""
    try:
        return Recipe(
            code=str(row["code"]),
            title=str(row["title"]),
            kind=JobKind(row["kind"]),
            steps=tuple(step_from_data(step) for step in row.get("steps", ())),
            findings=tuple(map(str, row.get("findings", ()))),
            extent_from=int(row.get("extent_from", 0)),
            checks=tuple(map(str, row.get("checks", ()))),
            forms=tuple(FormFactor(form) for form in row.get("forms", ())),
            approaches=tuple(map(str, row.get("approaches", ()))),
            at=tuple(map(str, row.get("at", ()))),
            due_months=row.get("due_months"),
            due_hours=row.get("due_hours"),
            visible_modern=bool(row.get("visible_modern", False)),
        )
    except RecipeError:
        raise
    except (KeyError, TypeError, ValueError) as problem:
        raise RecipeError(f"This is no recipe: {problem}.") from problem


def step_from_data(row: Mapping[str, Any]) -> Step:
    def limit(name: str) -> Decimal | None:
        return Decimal(str(row[name])) if row.get(name) is not None else None

    try:
        return Step(
            instruction=str(row["instruction"]),
            minutes=int(row.get("minutes", 5)),
            alone_minutes=int(row.get("alone_minutes", 0)),
            why=str(row.get("why", "")),
            hazards=tuple(Hazard(name) for name in row.get("hazards", ())),
            caution=str(row.get("caution", "")),
            needs=read_needs(row.get("needs", "")),
            proof=Proof(row.get("proof", "yes")),
            asks=str(row.get("asks", "")),
            unit=str(row.get("unit", "")),
            low=limit("low"),
            high=limit("high"),
            undone=bool(row.get("undone", True)),
            attended=bool(row.get("attended", False)),
            within_minutes=int(row.get("within_minutes", 0)),
            late=str(row.get("late", "")),
            most_humid=int(row.get("most_humid", 0)),
            restarts=int(row.get("restarts", 0)),
        )
    except RecipeError:
        raise
    except (KeyError, TypeError, ValueError, InvalidOperation) as problem:
        raise RecipeError(f"This is no step: {problem}.") from problem
