"""What the workshop asks of selling: what a machine would be graded and fetch if this and that were changed on it."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, fields
from decimal import Decimal
from functools import reduce
from typing import Protocol

from core.workshop.upgrades.buyers import Sold


@dataclass(frozen=True)
class Changes:
    """What work would change of a record: findings resolved, contents there, failed checks that pass (by code),
    temporary fixes made good and faults found, each by its number; work that takes away what was proven, and the test
    plan run to its end after it. `substituted`: contents of which another one does the work."""

    findings: frozenset[int] = frozenset()
    contents: frozenset[int] = frozenset()
    passed: frozenset[str] = frozenset()
    made_good: frozenset[int] = frozenset()
    faults: frozenset[int] = frozenset()
    worked: bool = False
    tested: bool = False
    substituted: frozenset[int] = frozenset()

    def __or__(self, other: "Changes") -> "Changes":
        return Changes(
            self.findings | other.findings,
            self.contents | other.contents,
            self.passed | other.passed,
            self.made_good | other.made_good,
            self.faults | other.faults,
            self.worked or other.worked,
            self.tested or other.tested,
            self.substituted | other.substituted,
        )

    @property
    def any(self) -> bool:
        return any(getattr(self, part.name) for part in fields(self))


NOTHING = Changes()


def all_of(changes: Iterable[Changes]) -> Changes:
    return reduce(lambda one, other: one | other, changes, NOTHING)


@dataclass(frozen=True)
class Priced:
    """What it is then: its grade in words, and the price band at it in base currency; `few`: too few sales of the like
    for more than a guess."""

    grade: str
    low: Decimal
    likely: Decimal
    high: Decimal
    few: bool = False

    @property
    def caveat(self) -> str:
        """To be said after the price; empty where enough sales stand behind it."""
        return ", a guess from few sales" if self.few else ""


class Appraisal(Protocol):
    """What somebody who knows the market says of one unit; None where nothing can be compared."""

    def at(self, changes: Changes) -> Priced | None: ...

    def sold(self) -> Sequence[Sold]:
        """Sales of such machines with their features said, brought to the grade it has now."""
        ...
