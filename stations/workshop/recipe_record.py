"""How recipes and test plans went here before: how often they did what they were for, and how long recipes took."""

from collections import Counter, defaultdict
from collections.abc import Iterable
from dataclasses import dataclass

from django.db.models import Count, Exists, OuterRef, Sum

from core.bench.plan import Outcome
from core.catalogue.recipes import JobKind, Recipe, Step
from core.workshop.chances import Tries, chance
from core.workshop.learning import Learned, learned
from stations.bench.models import StepResult, TestRun
from stations.workshop.models import Job, JobStep


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


def _left_out(jobs: Iterable[int]) -> dict[int, int]:
    """Written minutes of steps that were left out, by job: a job that was stopped before its end was not quick."""
    minutes: dict[int, int] = defaultdict(int)
    rows = JobStep.objects.filter(job__in=list(jobs)).exclude(left_out="")
    for pk, index, steps in rows.values_list("job_id", "index", "job__steps"):
        minutes[pk] += steps[index].get("minutes", Step.minutes) if index < len(steps) else 0
    return minutes


def recipe_record() -> RecipeRecord:
    """Three queries."""
    counted = Job.objects.filter(worked__isnull=False).values_list("kind", "recipe", "worked").annotate(n=Count("id"))
    kinds: dict[str, Counter[bool]] = defaultdict(Counter)
    recipes: dict[str, Counter[bool]] = defaultdict(Counter)
    for kind, code, worked, count in counted:
        kinds[kind][worked] += count
        if code:
            recipes[code][worked] += count
    timed = Job.objects.filter(done_at__isnull=False, recipe_minutes__gt=0).exclude(recipe="")
    ratios: dict[str, list[float]] = defaultdict(list)
    newest = timed.annotate(took=Sum("labour__minutes")).order_by("-id")[:2000]
    jobs = list(newest.values_list("pk", "recipe", "recipe_minutes", "took"))
    spared = _left_out(pk for pk, *_ in jobs)
    for pk, code, whole, took in jobs:
        written = whole - spared.get(pk, 0)
        if took and written > 0 and len(ratios[code]) < NEWEST:
            ratios[code].append(took / written)
    return RecipeRecord(
        {kind: Tries(count[True], count[False]) for kind, count in kinds.items()},
        {code: Tries(count[True], count[False]) for code, count in recipes.items()},
        {code: tuple(found) for code, found in ratios.items()},
    )


def runs_again() -> Tries:
    """How the newest runs of a plan went that was not the first of its unit: one query."""
    newer = StepResult.objects.filter(run=OuterRef("run"), code=OuterRef("code"), id__gt=OuterRef("id"))
    failed = StepResult.objects.filter(~Exists(newer), run=OuterRef("pk"), outcome=Outcome.FAIL)
    runs = TestRun.objects.filter(number__gt=1, finished_at__isnull=False).annotate(failed=Exists(failed))
    went = Counter(runs.order_by("-id").values_list("failed", flat=True)[:NEWEST])
    return Tries(went[False], went[True])
