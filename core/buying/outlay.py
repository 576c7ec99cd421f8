"""What a lot costs all-in at any bid, and turned round: the highest bid for what may be spent."""

from decimal import ROUND_DOWN, Decimal
from functools import cached_property

import numpy as np
import numpy.typing as npt

from core.buying.landed import Charge, ChargeKind, landed_cost
from core.buying.planned import BidTerms
from core.money import CENT

Floats = npt.NDArray[np.float64]
# Charges that go in bands bend; so many places follow them.
PLACES = 129


class Outlay:
    """Bids are in the lot’s currency, what is paid for it in base currency; `top` is the most it could be worth."""

    def __init__(self, terms: BidTerms, top: float) -> None:
        self._terms, self._top = terms, top

    def at(self, bid: Decimal) -> tuple[Decimal, float]:
        """What is paid all-in at this bid, and what of it counts as bought for where tax is on the margin."""
        cost = landed_cost((Charge(ChargeKind.PRICE, amount=bid), *self._terms.charges), self._terms.rate)
        counted = self._terms.tax.counted
        return cost.total, float(sum(one.base for one in cost.charges if one.charge.kind in counted))

    def landed(self, bid: Decimal) -> Decimal:
        """What is paid all-in at this bid."""
        return self.at(bid)[0]

    def highest(self, most_landed: float) -> Decimal | None:
        """The highest bid, to the cent, whose landed cost stays within `most_landed`; None if 0 does not."""
        if not self._within(0, most_landed):
            return None
        low, high = 0, max(1, int(most_landed / float(self._terms.rate) * 100) + 200)
        # Charges are straight in the bid but for rounding, so the answer lies within cents of a straight guess.
        guess = int((most_landed - self._least) / self._slope * 100)
        if self._within(guess - 8, most_landed) and not self._within(guess + 8, most_landed):
            low, high = max(guess - 8, 0), guess + 7
        while low < high:
            middle = (low + high + 1) // 2
            if self._within(middle, most_landed):
                low = middle
            else:
                high = middle - 1
        return (Decimal(low) / 100).quantize(CENT, rounding=ROUND_DOWN)

    @cached_property
    def _least(self) -> float:
        return float(self.landed(Decimal(0)))

    @cached_property
    def _slope(self) -> float:
        """What one more unit of the bid adds to the landed cost, in base currency."""
        return (float(self.landed(Decimal(1_000_000))) - self._least) / 1_000_000

    def _within(self, cents: int, most_landed: float) -> bool:
        return float(self.landed(Decimal(max(cents, 0)) / 100)) <= most_landed

    def bought_for(self, landed: float) -> float:
        """What counts as bought for when so much is paid all-in."""
        return float(np.interp(landed, *self._curve))

    @cached_property
    def _curve(self) -> tuple[Floats, Floats]:
        """All-in and bought for, side by side, up to all that the lot could be worth: straight but for bands."""
        top = max(1.0, self._top) / float(self._terms.rate)
        places = PLACES if any(charge.bands for charge in self._terms.charges) else 2
        paid = [self.at(Decimal(round(bid, 2))) for bid in np.linspace(0.0, top, places)]
        return np.array([float(landed) for landed, _ in paid]), np.array([counted for _, counted in paid])
