"""Tax within the margin of each piece of a lot, for any amount the lot is bought for."""

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from core.buying.draws import DrawnLine, Singles
from core.buying.planned import BidLine, BidTerms, expected_price

Floats = npt.NDArray[np.float64]
# Between so many amounts up to all that the lot is expected to sell for, the tax is worked out; between two of them it
# is all but straight, and laid straight.
STEPS = 24


def shares(lines: Sequence[BidLine], terms: BidTerms) -> tuple[float, list[float]]:
    """What a lot is expected to sell for, and the part of it that is one piece of each line: by these parts the pieces
    carry what the lot was bought for. All 0 where nothing is expected."""
    expected = [sum(case.odds * expected_price(case, terms) for case in line.cases) for line in lines]
    whole = sum(line.quantity * one for line, one in zip(lines, expected, strict=True))
    return whole, [one / whole if whole else 0.0 for one in expected]


class MarginTax:
    """What is paid for a lot is shared over its pieces by what they are expected to sell for. A piece that sells for
    more is taxed on the difference; one that sells for less is set against nothing."""

    def __init__(self, lines: Sequence[BidLine], terms: BidTerms, drawn: Sequence[DrawnLine]) -> None:
        self._fraction = terms.tax.fraction
        self._prices = [np.array([expected_price(case, terms) for case in line.cases]) for line in lines]
        self._whole, self._share = shares(lines, terms)
        self._of_line = [line.quantity * one for line, one in zip(lines, self._share, strict=True)]
        # How far the prices of a line came above what its outcomes alone make.
        self._above: list[Singles] = []
        # What tax comes to for each unit that prices lie so above, by outcome.
        self._taxed: list[Singles] = []
        for line, prices in zip(drawn, self._prices, strict=True):
            each = prices.astype(np.float32)
            usual = each @ line.counts
            self._above.append(np.divide(line.gross, usual, out=np.ones_like(usual), where=usual > 0))
            self._taxed.append(line.counts * (np.float32(self._fraction) * each)[:, None])
        self._furthest = [float(above.max()) for above in self._above]
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
            self._known[place] = np.zeros(len(self._above[0]))
            for one in range(len(self._prices)):
                self._known[place] += self._line(one, amount)
        return self._known[place]

    def _line(self, index: int, bought_for: float) -> Singles:
        carried, above = bought_for * self._share[index], self._above[index]
        total, part = np.zeros_like(above), np.empty_like(above)
        for price, taxed in zip(self._prices[index], self._taxed[index], strict=True):
            if price * self._furthest[index] > carried:
                # In place: a page asks this some ten times over.
                np.subtract(above, np.float32(carried / price), out=part)
                np.maximum(part, np.float32(0), out=part)
                part *= taxed
                total += part
        return total
