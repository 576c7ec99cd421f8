"""A job as it is asked for: by hand, by a recipe, or by what proposes it."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from typing import Any, Self

from core.catalogue.recipes import JobKind, Recipe
from core.workshop.jobs import USUAL_MINUTES
from stations.units.models import Finding
from stations.workshop import recipe_run


@dataclass(frozen=True)
class JobDetails:
    """What is to be done on a unit, in `estimate_minutes` of hands; fields are those of Job.

    `reversible` None: nobody said. `involves` are Hazards by their values. `source` is what it answers to beside a
    `finding` ("content:12").
    """

    title: str
    kind: str = JobKind.REPAIR.value
    estimate_minutes: int = USUAL_MINUTES
    reversible: bool | None = None
    involves: Sequence[str] = ()
    visible_modern: bool = False
    finding: Finding | None = None
    source: str = ""
    assembly: str = ""
    override_reason: str = ""
    waiting_for: str = ""
    waiting_until: date | None = None
    decision: str = ""
    temporary: bool = False
    temporary_reason: str = ""
    made_good_by: str = ""
    made_good_due: date | None = None


@dataclass(frozen=True)
class NewJob(JobDetails):
    """A job as it is opened; `is_weighed` where `said_to_add` is what its proposal said of it, be that nothing."""

    recipe: str = ""
    steps: Sequence[Any] = ()
    recipe_minutes: int = 0
    said_to_add: Decimal | None = None
    is_weighed: bool = False

    @classmethod
    def by_recipe(cls, recipe: Recipe, **said: Any) -> Self:
        """A job as its recipe has it, but for what is `said` otherwise."""
        usual = {
            "title": recipe.title,
            "kind": recipe.kind.value,
            "estimate_minutes": max(1, recipe.minutes),
            "reversible": recipe.reversible,
        }
        return cls(**{**usual, **of_recipe(recipe), **said})


def of_recipe(recipe: Recipe) -> dict[str, Any]:
    """What a job takes from its recipe and nobody types."""
    return {
        "recipe": recipe.code,
        "steps": recipe_run.as_kept(recipe),
        "recipe_minutes": recipe.minutes,
        "involves": [hazard.value for hazard in recipe.hazards],
        "visible_modern": recipe.visible_modern,
    }
