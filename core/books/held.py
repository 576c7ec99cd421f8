"""How well the shop’s own forecasts held: of lots that are closed, how many came within their band."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal

from core.bench.assurance import failure_bounds
from core.books.earnings import INCOME
from core.buying.planned import PlannedTax
from core.money import ZERO

# What a band is meant to hold: from 5 to 95 in 100.
MEANT = 0.9


@dataclass(frozen=True)
class Left:
    """What a closed lot left before what it cost to buy, base currency: before a tax on its margin, as a forecast’s
    worth is, and after."""

    before_tax: Decimal
    after_tax: Decimal


def left_by(money: Mapping[str, Decimal], landed: Decimal, bought_for: Decimal, tax: PlannedTax) -> Left:
    """What a lot left by its ledger sums a kind (income below 0), `landed` all-in, of which `bought_for` counts where
    tax is on the margin. It is as the books have it, so that what went into drawers counts at the cost it took along.
    """
    left, paid = landed - sum(money.values(), ZERO), money.get("tax", ZERO)
    if tax.scheme == "margin":
        return Left(left + paid, left)
    if tax.scheme == "global":
        # The tax of a period stands on no lot: its part is reckoned here.
        fraction = tax.percent / (100 + tax.percent)
        before = left + paid + sum((money.get(kind, ZERO) for kind in INCOME), ZERO) * fraction
        return Left(before, before + bought_for * fraction)
    return Left(left, left)


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
