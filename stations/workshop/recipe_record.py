"""How recipes went here before: how often they did what they were for, and how long they took."""

from collections import Counter, defaultdict
from dataclasses import dataclass

from django.db.models import Count, Sum

from core.catalogue.recipes import JobKind, Recipe
from core.workshop.chances import Tries, chance
from core.workshop.learning import Learned, learned
from stations.workshop.models import Job


@dataclass(frozen=True)
class RecipeRecord:
    """Of all recipes and kinds together; what was never done has no entry."""

    kinds: dict[str, Tries]
    recipes: dict[str, Tries]
    ratios: dict[str, tuple[float, ...]]

    def chance(self, kind: JobKind, recipe: Recipe | None = None) -> float:
        return chance(kind, self.kinds.get(kind, Tries()), self.recipes.get(recipe.code) if recipe else None)

    def took(self, code: str) -> Learned:
        """How the recipe’s minutes went against what is written."""
        return learned(self.ratios.get(code, ()))

    def minutes(self, recipe: Recipe) -> int:
        """Of hands, as learned here."""
        return self.took(recipe.code).minutes(recipe.minutes)


# Of one recipe, the newest count: a shop gets quicker. Common practice, no source.
NEWEST = 40


def recipe_record() -> RecipeRecord:
    """Two queries."""
    counted = Job.objects.filter(worked__isnull=False).values_list("kind", "recipe", "worked").annotate(n=Count("id"))
    kinds: dict[str, Counter[bool]] = defaultdict(Counter)
    recipes: dict[str, Counter[bool]] = defaultdict(Counter)
    for kind, code, worked, count in counted:
        kinds[kind][worked] += count
        if code:
            recipes[code][worked] += count
    timed = Job.objects.filter(done_at__isnull=False, recipe_minutes__gt=0).exclude(recipe="")
    ratios: dict[str, list[float]] = defaultdict(list)
    for code, written, took in (
        timed.annotate(took=Sum("labour__minutes"))
        .order_by("-id")
        .values_list("recipe", "recipe_minutes", "took")[:2000]
    ):
        if took and len(ratios[code]) < NEWEST:
            ratios[code].append(took / written)
    return RecipeRecord(
        {kind: Tries(count[True], count[False]) for kind, count in kinds.items()},
        {code: Tries(count[True], count[False]) for code, count in recipes.items()},
        {code: tuple(found) for code, found in ratios.items()},
    )
