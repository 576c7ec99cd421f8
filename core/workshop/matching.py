"""Which recipe answers to what was found on a machine, and where in the machine it is done."""

from collections.abc import Iterable
from dataclasses import dataclass

from core.catalogue.assemblies import StripDown
from core.catalogue.recipes import JobKind, Recipe
from core.machine.approach import Approach
from core.machine.casing import FormFactor
from core.machine.names import as_seen
from core.workshop.jobs import refusal


@dataclass(frozen=True)
class Treated:
    """What decides which recipes are for a machine; None where nobody said."""

    form: FormFactor
    approach: Approach | None = None


def why_not(recipe: Recipe, treated: Treated) -> str:
    """Why the approach refuses a recipe; empty when it does not."""
    if treated.approach is None:
        return ""
    if recipe.approaches and treated.approach.value not in recipe.approaches:
        return f"not for {treated.approach.label}"
    return refusal(treated.approach, recipe.kind, recipe.reversible, recipe.visible_modern)


def for_finding(
    recipes: Iterable[Recipe], treated: Treated, kind: str, extent: int, words: str = ""
) -> tuple[Recipe, ...]:
    """Those that answer to a finding of so much of its face (percent), the fittest first."""
    found = [r for r in recipes if kind in r.findings and extent >= r.extent_from and _of_shape(r, treated)]
    return tuple(sorted(found, key=lambda recipe: (-_speaks_of(recipe, words), -recipe.extent_from, recipe.code)))


def for_check(recipes: Iterable[Recipe], treated: Treated, group: str, words: str) -> tuple[Recipe, ...]:
    """Those that answer to a failed check of a group, the fittest first; `words` is its title."""
    found = [r for r in recipes if group in r.checks and _of_shape(r, treated)]
    return tuple(sorted(found, key=lambda r: (-_speaks_of(r, words), r.kind is not JobKind.REPAIR, r.code)))


def place_of(recipe: Recipe, strip: StripDown) -> str:
    """The assembly it is done on: the first whose name holds one of its words; empty when there is none."""
    for word in recipe.at:
        for name in strip.assemblies:
            if as_seen(word) in as_seen(name):
                return name
    return ""


def _of_shape(recipe: Recipe, treated: Treated) -> bool:
    return not recipe.forms or treated.form in recipe.forms


def _speaks_of(recipe: Recipe, words: str) -> int:
    """2 when the words name what it is done on, 1 when it is for anything, 0 when it is for something else."""
    if not recipe.at:
        return 1
    return 2 if any(as_seen(word) in as_seen(words) for word in recipe.at) else 0
