"""What to ask at least in an auction, and what it brings: out of the same curve as a sale at a fixed price."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from decimal import Decimal

import numpy as np

from core.selling.waiting import Pace


@dataclass(frozen=True)
class AuctionPlan:
    """`reserve`: under it nothing is sold; `start`: where bidding begins. `chance` of a sale, 0 to 1; `ends_at`: what
    it ends at on average, if it is sold; `worth`: what the auction brings, in base currency, with what waiting is
    worth afterwards where nobody bids enough."""

    start: Decimal
    reserve: Decimal
    chance: float
    ends_at: Decimal
    worth: float


def plan_auction(
    likely: Decimal,
    prices: Sequence[Decimal],
    left: Callable[[Decimal], Decimal],
    pace: Pace,
    *,
    weeks: float,
    waiting: Decimal,
    covers: Decimal,
) -> AuctionPlan:
    """The reserve that brings most in an auction of so many weeks.

    Who would pay a price or more comes as buyers at a fixed price do: in `weeks` a Poisson number of them, with mean
    ``hazard(p) · weeks``. The best bid pays what the second one would, or the reserve where there is no second. Nobody
    there: `waiting` is left. `covers` is the lowest price at which selling costs nothing: bidding starts there, or at
    the reserve where that is lower. `prices` in rising order; raises ValueError without one above 0.
    """
    if not prices or prices[0] <= 0 or likely <= 0 or weeks <= 0:
        raise ValueError("An auction needs prices above 0, a likely price and some time.")
    keen = np.array([pace.hazard(float(price / likely)) * weeks for price in prices])
    nets = np.array([float(left(price)) for price in prices])
    # The second-best bid lies under a price where at most one would pay that.
    second_under = np.exp(-keen) * (1 + keen)
    # Its share between this price and the next one; past the last one at the last.
    between = np.append(second_under[1:], 1.0) - second_under
    best, found = -np.inf, 0
    for place in range(len(prices)):
        worth = _nobody(keen[place]) * float(waiting) + _one(keen[place]) * nets[place]
        worth += float(between[place:] @ nets[place:])
        if worth > best + 1e-9:
            best, found = worth, place
    sold = 1 - _nobody(keen[found])
    amounts = np.array([float(price) for price in prices])
    ends = _one(keen[found]) * amounts[found] + float(between[found:] @ amounts[found:])
    reserve = prices[found]
    start = next((price for price in prices if price >= covers), reserve)
    mean = Decimal(repr(round(float(ends / sold), 2))) if sold > 0 else reserve
    return AuctionPlan(min(start, reserve), reserve, float(sold), mean, float(best))


def _nobody(keen: float) -> float:
    return float(np.exp(-keen))


def _one(keen: float) -> float:
    return float(keen * np.exp(-keen))
