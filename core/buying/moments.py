"""Exact mean and variance of what a planned lot is worth, the factor that its lines share integrated."""

from collections import defaultdict
from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from core.buying.calibration import relative_variance
from core.buying.draws import cumulative_odds
from core.buying.planned import (
    BidLine,
    BidTerms,
    expected_minutes,
    expected_price,
    extra_spread,
    net_value,
    shared_fate,
)

Floats = npt.NDArray[np.float64]
# Where the common factor is looked at to integrate over it, and how much each place weighs (Gauss and Hermite).
_NODES, _WEIGHTS = np.polynomial.hermite_e.hermegauss(40)
_WEIGHTS /= _WEIGHTS.sum()


def moments(lines: Sequence[BidLine], terms: BidTerms) -> tuple[float, float]:
    """Exact mean and variance of a lot's net worth, before a tax on the margin.

    Given the common factor, a line of n pieces has variance n (between + within) + n (n - 1) rho between:
    `between` of the case means, `within` of the prices; and what errors of price and minutes add, by the second moments
    of what they multiply: those of a line by the line’s, those of the whole lot by the lot’s. The factor itself is
    integrated by Gauss-Hermite quadrature.
    """
    nodes, weights = factor_nodes(lines, terms)
    known = terms.calibration
    means, variances = np.zeros(len(nodes)), np.zeros(len(nodes))
    # Of what all lines sell for and take: mean and variance at each value of the factor.
    sums, spreads = np.zeros((2, len(nodes))), np.zeros((2, len(nodes)))
    kept = 1 - terms.fee - terms.tax.of_price
    # The same of all lines that were one.
    of_kin: dict[int, Floats] = defaultdict(lambda: np.zeros((2, len(nodes))))
    for line in lines:
        odds, n = odds_at(line, nodes, terms), line.quantity
        values, prices, hours, within, extra = np.array(
            [
                (
                    net_value(case, terms),
                    kept * expected_price(case, terms),
                    terms.labour_rate * expected_minutes(case, terms) / 60,
                    case.price_variance * (kept * known.price) ** 2,
                    extra_spread(case, known),
                )
                for case in line.cases
            ]
        ).T
        mean = values @ odds
        between = values**2 @ odds - mean**2
        means += n * mean
        variances += n * (between + within @ odds) + n * (n - 1) * line.rho * between
        for row, (amounts, inside, shared, own) in enumerate(
            (
                (prices, within, known.line_price, extra * prices**2),
                (hours, np.zeros(len(hours)), known.line_minutes, relative_variance(known.piece_minutes) * hours**2),
            )
        ):
            square = n * ((amounts**2 + inside) @ odds)
            square += n * (n - 1) * (line.rho * (amounts**2 @ odds) + (1 - line.rho) * (amounts @ odds) ** 2)
            common = relative_variance(shared)
            added = common * square + (1 + common) * n * (own @ odds)
            variances += added
            whole = n * (amounts @ odds)
            if line.kin is not None:
                # Two of a kin are off by the same, so that their sums rise and fall together.
                together = common * 2 * of_kin[line.kin][row] * whole
                of_kin[line.kin][row] += whole
                variances += together
                spreads[row] += together
            sums[row] += whole
            spreads[row] += square + added - whole**2
    for row, level in enumerate((known.price_open, known.minutes_open)):
        variances += relative_variance(level) * (sums[row] ** 2 + spreads[row])
    mean = float(weights @ means)
    return mean, known.width**2 * float(weights @ (variances + (means - mean) ** 2))


def factor_nodes(lines: Sequence[BidLine], terms: BidTerms) -> tuple[Floats, Floats]:
    """Values of the common factor and their weights, to integrate over it."""
    if not any(shared_fate(line, terms) for line in lines):
        return np.zeros(1), np.ones(1)
    return _NODES, _WEIGHTS


def odds_at(line: BidLine, nodes: Floats, terms: BidTerms) -> Floats:
    """The odds of a line, a row an outcome, a column a value of the common factor."""
    return np.diff(cumulative_odds(line, nodes, shared_fate(line, terms)), axis=0, prepend=0.0)
