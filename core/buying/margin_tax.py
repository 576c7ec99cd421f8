"""Tax within the margin of each piece of a lot, for any amount the lot is bought for."""

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from core.buying.draws import DrawnLine
from core.buying.planned import BidLine, BidTerms, expected_price

Floats = npt.NDArray[np.float64]
# Between so many amounts up to all that the lot is expected to sell for, the tax is worked out; between two of them it
# is all but straight, and laid straight.
STEPS = 24


class MarginTax:
    """What is paid for a lot is shared over its pieces by what they are expected to sell for. A piece that sells for
    more is taxed on the difference; one that sells for less is set against nothing."""

    def __init__(self, lines: Sequence[BidLine], terms: BidTerms, drawn: Sequence[DrawnLine]) -> None:
        self._fraction = terms.tax.fraction
        self._prices = [np.array([expected_price(case, terms) for case in line.cases]) for line in lines]
        expected = [
            float(np.array([case.odds for case in line.cases]) @ p) for line, p in zip(lines, self._prices, strict=True)
        ]
        self._whole = sum(line.quantity * one for line, one in zip(lines, expected, strict=True))
        self._share = [one / self._whole if self._whole else 0.0 for one in expected]
        self._of_line = [line.quantity * one for line, one in zip(lines, self._share, strict=True)]
        self._counts = [line.counts for line in drawn]
        # How far the prices of a line came above what its outcomes alone make.
        self._above = []
        for line, prices in zip(drawn, self._prices, strict=True):
            usual = prices @ line.counts
            above = np.divide(line.gross, usual, out=np.ones_like(usual), where=usual > 0)
            self._above.append(above.astype(np.float32))
        self._known: dict[int, Floats] = {}

    def drawn(self, bought_for: float, without: int | None = None) -> Floats:
        """The tax in each draw, `bought_for` in base currency; `without` a line, whose part the others then carry."""
        if not self._whole:
            return np.zeros(len(self._above[0]))
        if without is None:
            return self._between(bought_for)
        left = 1 - self._of_line[without]
        if left <= 1e-9:
            return np.zeros(len(self._above[0]))
        # The others carry as much as if the whole lot had cost so much more.
        return self._between(bought_for / left) - self._line(without, bought_for / left)

    def _between(self, bought_for: float) -> Floats:
        step = self._whole / STEPS
        place = int(bought_for // step)
        part = bought_for / step - place
        return (1 - part) * self._at(place) + part * self._at(place + 1)

    def _at(self, place: int) -> Floats:
        if place not in self._known:
            amount = place * self._whole / STEPS
            self._known[place] = np.sum([self._line(one, amount) for one in range(len(self._prices))], axis=0)
        return self._known[place]

    def _line(self, index: int, bought_for: float) -> Floats:
        carried = np.float32(bought_for * self._share[index])
        total = np.zeros(len(self._above[index]), dtype=np.float32)
        for price, counts in zip(self._prices[index], self._counts[index], strict=True):
            if price > 0:
                total += counts * np.maximum(np.float32(price) * self._above[index] - carried, np.float32(0))
        return self._fraction * total.astype(np.float64)
