"""How likely a piece of work does what it is for, from how it went before.

Beta, pooled from the table to the kind to the recipe: with nothing done the table’s, with much done the recipe’s own.
"""

from collections.abc import Mapping
from dataclasses import dataclass

from core.buying.odds import pooled
from core.catalogue.recipes import JobKind

# How often a piece of work of a kind does what it is for (common practice, no source), and how many times done the
# circle above is worth to the next.
USUAL: Mapping[JobKind, float] = {
    JobKind.CLEAN: 0.95,
    JobKind.REPAIR: 0.60,
    JobKind.RECONDITION: 0.80,
    JobKind.WHITEN: 0.70,
    JobKind.REFINISH: 0.75,
    JobKind.UPGRADE: 0.85,
    JobKind.SOFTWARE: 0.75,
    JobKind.REASSEMBLE: 0.95,
}
KIND_STRENGTH, RECIPE_STRENGTH = 8.0, 4.0
# That a plan run to its end passes when all that is known to be broken was mended. Common practice, no source.
PASSES = 0.9


@dataclass(frozen=True)
class Tries:
    """How often it was done to its end, and did or did not do what it was for."""

    worked: int = 0
    failed: int = 0

    def __post_init__(self) -> None:
        if self.worked < 0 or self.failed < 0:
            raise ValueError("Nothing was tried less than never.")

    @property
    def count(self) -> int:
        return self.worked + self.failed

    def __sub__(self, other: "Tries") -> "Tries":
        return Tries(self.worked - other.worked, self.failed - other.failed)


def chance(kind: JobKind, of_kind: Tries, of_recipe: Tries | None = None) -> float:
    """That it works the next time: between 0 and 1.

    `of_kind` counts every job of the kind, those of the recipe among them; they are counted once.
    """
    own = of_recipe or Tries()
    others = of_kind - own
    kinds = pooled((USUAL[kind], 1 - USUAL[kind]), KIND_STRENGTH, (others.worked, others.failed))
    return pooled(kinds, RECIPE_STRENGTH, (own.worked, own.failed))[0]


def plan_passes(again: Tries) -> float:
    """That the test plan passes, from how it went when it was run `again`: between 0 and 1."""
    return pooled((PASSES, 1 - PASSES), KIND_STRENGTH, (again.worked, again.failed))[0]
