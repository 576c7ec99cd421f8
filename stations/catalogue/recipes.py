"""The recipes in force: those the application comes with, and the shop's own laid over them."""

from collections.abc import Callable
from dataclasses import replace

from django.db import transaction
from django.utils.text import slugify

from core.catalogue.recipe_library import COMES_WITH
from core.catalogue.recipes import Recipe, RecipeError, Step, as_data, from_data
from stations.catalogue.models import ShopRecipe
from stations.common.refusals import Refused
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.people.screens import save_versioned

BY_CODE = {recipe.code: recipe for recipe in COMES_WITH}


def recipes() -> dict[str, Recipe]:
    """Every recipe in use, by code: one query. A row of the shop's takes the place of the recipe with its code."""
    rows = {row.code: row for row in ShopRecipe.objects.all()}
    found = {code: recipe for code, recipe in BY_CODE.items() if code not in rows}
    found |= {code: from_data(row.recipe) for code, row in rows.items() if row.active}
    return dict(sorted(found.items(), key=lambda pair: (pair[1].kind.value, pair[1].title)))


def resting() -> list[Recipe]:
    """Those the shop put aside."""
    return [from_data(row.recipe) for row in ShopRecipe.objects.filter(active=False)]


def recipe_and_version(code: str) -> tuple[Recipe, int]:
    """As it is now, used or put aside, with the version of the shop's row, 0 without one. KeyError for none."""
    row = ShopRecipe.objects.filter(code=code).first()
    return (from_data(row.recipe), row.version) if row else (BY_CODE[code], 0)


def is_in_use(code: str) -> bool:
    return not ShopRecipe.objects.filter(code=code, active=False).exists()


def new_code(title: str) -> str:
    """A code for a recipe of this title that none has yet."""
    taken = set(BY_CODE) | set(ShopRecipe.objects.values_list("code", flat=True))
    begin = slugify(title)[:34].strip("-_").replace("_", "-") or "recipe"
    return next(code for n in range(1, 10_000) if (code := begin if n == 1 else f"{begin}-{n}") not in taken)


@transaction.atomic
def keep(person: Person, recipe: Recipe, seen_version: int) -> Recipe:
    """Keep a recipe as the shop does it; a step that comes with cautions keeps them."""
    require(person, "change the recipes")
    lost = _cautions_lost(recipe)
    if lost:
        raise Refused(f"This recipe keeps its cautions; missing now: {', '.join(lost)}.", "hazards")
    made(lambda: from_data(as_data(recipe)))
    row = ShopRecipe.objects.filter(code=recipe.code).first()
    now = from_data(row.recipe) if row else BY_CODE.get(recipe.code)
    # One that comes with us becomes the shop's own by a change, not by a look.
    if now and as_data(now) == as_data(recipe):
        return recipe
    words = f"Recipe “{recipe.title}” put down: {len(recipe.steps)} steps"
    history.record(person, "catalogue.keep", HistoryEntry.Subject.RECIPE, 0, words, code=recipe.code)
    if row is None:
        ShopRecipe.objects.create(code=recipe.code, recipe=as_data(recipe))
    else:
        save_versioned(row, seen_version, {"recipe": as_data(recipe)})
    return recipe


def made(make: Callable[[], Recipe]) -> Recipe:
    """The recipe that `make` gives; Refused at its field when it can’t be one."""
    try:
        return make()
    except RecipeError as problem:
        raise Refused(str(problem), problem.at) from problem


def _cautions_lost(recipe: Recipe) -> list[str]:
    """Cautions the recipe came with that stand at none of its steps any more."""
    comes_with = BY_CODE.get(recipe.code)
    return [hazard.label for hazard in comes_with.hazards if hazard not in recipe.hazards] if comes_with else []


@transaction.atomic
def put_aside(person: Person, code: str, aside: bool) -> None:
    """Take a recipe out of use, or into use again; jobs that are done by it go on as they are."""
    require(person, "change the recipes")
    recipe, version = recipe_and_version(code)
    if not version:
        ShopRecipe.objects.create(code=code, recipe=as_data(recipe), active=not aside)
    else:
        ShopRecipe.objects.filter(code=code).update(active=not aside)
    words = f"Recipe “{recipe.title}” {'put aside' if aside else 'in use again'}"
    history.record(person, "catalogue.put_aside", HistoryEntry.Subject.RECIPE, 0, words, code=code)


def with_step(recipe: Recipe, index: int | None, step: Step) -> Recipe:
    """The recipe with a step put right, or added at its end when `index` is None."""
    steps = list(recipe.steps)
    if index is None:
        steps.append(step)
    else:
        steps[index] = step
    return made(lambda: replace(recipe, steps=tuple(steps)))


def moved(recipe: Recipe, index: int, by: int) -> Recipe:
    """The recipe with a step so many places further on; at either end it stays."""
    steps = list(recipe.steps)
    there = min(max(index + by, 0), len(steps) - 1)
    steps.insert(there, steps.pop(index))
    return replace(recipe, steps=tuple(steps))


def cautions_of(recipe: Recipe, index: int) -> list[str]:
    """The cautions for which a step can’t be taken out: the recipe came with them, and no other step has them."""
    return _cautions_lost(without_step(recipe, index)) if len(recipe.steps) > 1 else []


def without_step(recipe: Recipe, index: int) -> Recipe:
    return replace(recipe, steps=tuple(step for place, step in enumerate(recipe.steps) if place != index))
