"""Ridge regression that outliers do not carry away, and the spread of what it explains.

Huber, Robust Statistics (1981): his weights, and his second proposal for the spread.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import nnls
from scipy.special import betainc

Floats = NDArray[np.float64]
# Huber’s constant: 95 in 100 as good as least squares where nothing is an outlier.
HUBER = 1.345
# A usual spread counts like half a row that was seen.
SPREAD_SEEN = 0.5


def weighted_quantile(values: Sequence[Decimal], weights: Sequence[float], q: float) -> Decimal:
    """The least value at which the share of weight reaches `q` (0 to 1): the inverted distribution function.

    Weights are 0 or more and not all 0 (ValueError otherwise).
    """
    whole = sum(weights)
    if not len(values) or whole <= 0:
        raise ValueError("A quantile needs at least one value with a weight.")
    running = 0.0
    ranked = sorted((value, weight) for value, weight in zip(values, weights, strict=True) if weight > 0)
    for value, weight in ranked:
        running += weight
        if running >= q * whole:
            return value
    return ranked[-1][0]


def held_square(freedom: float, cut: float = HUBER) -> float:
    """What the square of a residual over the spread is on average when it is held at `cut`, with so many degrees of
    freedom: dividing by it makes Huber’s second proposal right where there are no outliers.

    The square over `freedom` is Beta(1/2, (freedom − 1)/2); with few it never comes as far as `cut`.
    """
    if freedom <= cut * cut:
        return 1.0
    a, b, x = 0.5, (freedom - 1) / 2, cut * cut / freedom
    return float(betainc(a + 1, b, x) + cut * cut * (1 - betainc(a, b, x)))


@dataclass(frozen=True)
class Solved:
    learned: Floats
    residuals: Floats
    inverse: Floats

    def leverage(self, rows: Floats, weights: Floats) -> Floats:
        """How far each sale pulls what is said of itself, from 0 to under 1."""
        pull: Floats = weights * ((rows @ self.inverse) * rows).sum(axis=1)
        return np.minimum(pull, 0.999)


@dataclass(frozen=True)
class Fit:
    learned: Floats
    residuals: Floats
    inverse: Floats
    leverage: Floats
    huber: Floats
    spread: float
    freedom: float


def solve(rows: Floats, over: Floats, weights: Floats, penalty: Floats) -> Solved:
    """Ridge: the weighted least squares with a penalty on each column."""
    weighed = rows * weights[:, None]
    return _solved(rows, over, rows.T @ weighed, weighed.T @ over, penalty)


def _solved(rows: Floats, over: Floats, squares: Floats, products: Floats, penalty: Floats) -> Solved:
    inverse: Any = np.linalg.inv(squares + np.diag(penalty))
    learned = inverse @ products
    return Solved(learned, over - rows @ learned, inverse)


def left_out(
    rows: Floats, over: Floats, weights: Floats, penalty: Floats, times: Sequence[float]
) -> Iterator[tuple[float, float]]:
    """For the penalty as many times as each of `times`: the weighted square of the errors where each row is told by
    all the others."""
    weighed = rows * weights[:, None]
    squares, products = rows.T @ weighed, weighed.T @ over
    for factor in times:
        solved = _solved(rows, over, squares, products, factor * penalty)
        error = solved.residuals / (1 - solved.leverage(rows, weights))
        yield factor, float((weights * error**2).sum())


def fit(
    rows: Floats,
    over: Floats,
    weights: Floats,
    penalty: Floats,
    count: float,
    *,
    spread: float,
    begin: Floats | None = None,
) -> Fit:
    """Ridge with Huber’s weights, and the spread of one row by his second proposal.

    `rows` (n, p) with `over` (n) beside; `weights` add up to `count`, how many rows they are worth; `penalty` (p) is 0
    or more. `spread` is what is usual, counted like a part of a row more. `begin`: Huber’s weights to begin with.
    """
    # One row alone says nothing of the spread: then what is usual counts whole.
    seen = max(SPREAD_SEEN, 2 - count)
    usual = _Usual(spread, seen, count - 1 + seen, held_square(count - 1))
    huber = np.ones(len(over)) if begin is None else begin
    solved = solve(rows, over, weights * huber, penalty)
    found = _middle(solved.residuals, spread)
    for _ in range(30):
        found = _spread(solved, weights, penalty, found, usual)
        held = np.minimum(1.0, HUBER * found / np.maximum(np.abs(solved.residuals), 1e-12))
        settled = bool(np.max(np.abs(held - huber)) < 1e-3)
        huber = held
        solved = solve(rows, over, weights * huber, penalty)
        if settled:
            break
    leverage = solved.leverage(rows, weights * huber)
    return Fit(solved.learned, solved.residuals, solved.inverse, leverage, huber, found, usual.freedom)


def in_order(fitted: Fit, rows: Floats, over: Floats, order: Floats, table: Floats) -> Fit:
    """The fit of least squares among those with ``order @ (table + learned) >= 0``, Huber’s weights as they are.

    `order` has a row a condition, `table` (p) is what is learned against. Exact, by its dual: non-negative least
    squares (Lawson and Hanson, Solving Least Squares Problems, 1974).
    """
    if (order @ (table + fitted.learned) >= 0).all():
        return fitted
    root = np.linalg.cholesky(fitted.inverse)
    held, _ = nnls((order @ root).T, -np.linalg.solve(root, table + fitted.learned))
    learned = fitted.learned + fitted.inverse @ order.T @ held
    return replace(fitted, learned=learned, residuals=over - rows @ learned)


class _Usual(NamedTuple):
    """A usual spread, how many rows it counts as, the degrees of freedom with them, and `held_square` of them."""

    spread: float
    seen: float
    freedom: float
    even: float


def _middle(residuals: Floats, usual: float) -> float:
    """A first spread that outliers do not move: of the middle of the residuals, as for a normal distribution."""
    return max(float(np.median(np.abs(residuals))) * 1.4826, 0.25 * usual)


def _spread(solved: Solved, weights: Floats, penalty: Floats, start: float, usual: _Usual) -> float:
    spread, far = start, np.abs(solved.residuals)
    bent = float((penalty * solved.learned**2).sum()) + usual.seen * usual.spread**2
    for _ in range(20):
        whole = float((weights * np.minimum(far, HUBER * spread) ** 2).sum()) / usual.even + bent
        again = (whole / usual.freedom) ** 0.5
        if abs(again - spread) < 1e-6:
            break
        spread = again
    return spread
