"""How well the shop’s own forecasts held: of lots that are closed, how many came within their band."""

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from core.bench.assurance import failure_bounds

# What a band is meant to hold: from 5 to 95 in 100.
MEANT = 0.9


@dataclass(frozen=True)
class Came:
    """One closed lot: the band it was forecast in, `low` up to `high`, and what came; base currency."""

    low: Decimal
    high: Decimal
    came: Decimal

    @property
    def inside(self) -> bool:
        return self.low <= self.came <= self.high

    @property
    def place(self) -> float:
        """Where it came: 0 at the low end of its band, 1 at the high end, below and above outside of it."""
        width = self.high - self.low
        return float((self.came - self.low) / width) if width else 0.5


@dataclass(frozen=True)
class Held:
    """`inside` of `lots` came within their band. The true share lies between `low` and `high`, 95 times in 100: the
    exact interval of Clopper and Pearson (1934), 0 to 1 while there is none."""

    inside: int
    lots: int
    low: float
    high: float

    @property
    def as_meant(self) -> bool:
        """What was seen does not speak against the band holding what it is meant to."""
        return self.low <= MEANT <= self.high


def held(came: Sequence[Came]) -> Held:
    inside = sum(one.inside for one in came)
    low, high = failure_bounds(len(came), inside, 0.975)
    return Held(inside, len(came), low, high)
