"""What was tried at an installation: which variant is offered first next time."""

from collections.abc import Iterable
from dataclasses import dataclass

AS_WRITTEN = "as written"


@dataclass(frozen=True)
class Attempt:
    """One go: what was varied (empty: done as written), and whether it worked."""

    varied: str
    worked: bool


@dataclass(frozen=True)
class Variant:
    """So often it worked, so often not."""

    varied: str
    worked: int
    failed: int

    @property
    def chance(self) -> float:
        """Drawn to one half while there is little to go by (rule of succession, Laplace)."""
        return (self.worked + 1) / (self.worked + self.failed + 2)

    @property
    def words(self) -> str:
        return f"{self.varied or AS_WRITTEN}: worked {self.worked} of {self.worked + self.failed} times"


def variants(attempts: Iterable[Attempt]) -> list[Variant]:
    """The one likeliest to work first; those alike but for case and spaces are one, by the words used first."""
    said: dict[str, str] = {}
    counted: dict[str, list[int]] = {}
    for one in attempts:
        key = " ".join(one.varied.lower().split())
        said.setdefault(key, one.varied.strip())
        counted.setdefault(key, [0, 0])[not one.worked] += 1
    found = [Variant(said[key], *counts) for key, counts in counted.items()]
    return sorted(found, key=lambda one: (-one.chance, -one.worked, one.varied))


def what_of(instruction: str) -> str:
    """Under what a step’s attempts are kept: its words up to the colon."""
    return instruction.partition(":")[0].strip()[:80]
