"""What kinds of lots pay: each kind judged with what all of them did, so that two lots don’t swing it.

What one lot earned is θ of its kind for each euro (or hour) put into it, give or take: its variance grows with what
was put in, so that the ratio of the sums is the best estimate of a kind by itself. The kinds are drawn from one normal
distribution (Gelman et al., Bayesian Data Analysis, 3rd ed., section 5.4). Its mean has a flat prior; the spread
between kinds and that of the lots within them are not plugged in but averaged over: a plugged-in spread makes intervals
too narrow.
"""

from collections.abc import Hashable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from typing import TypeVar

import numpy as np
from scipy.special import chdtri, ndtr

K = TypeVar("K", bound=Hashable)

# The interval that is shown holds so much.
SHOWN = 0.9
_SPREADS, _WITHIN = 40, 16


_SEASONS = ("January to March", "April to June", "July to September", "October to December")
# Lots up to so many pieces, and how they are called (common practice, no source).
_SIZES = ((1, "one piece"), (5, "2 to 5 pieces"), (20, "6 to 20 pieces"))


def season(day: date) -> str:
    """The quarter of the calendar, whatever the year."""
    return _SEASONS[(day.month - 1) // 3]


def size(pieces: int) -> str:
    """How a lot of so many pieces is called."""
    return next((words for most, words in _SIZES if pieces <= most), "over 20 pieces")


@dataclass(frozen=True)
class Put:
    """One lot within a kind: what it earned of what was `put` into it (base currency, or hours; above 0)."""

    earned: float
    put: float


@dataclass(frozen=True)
class Likely:
    """What is thought of a kind: `at` on the whole, between `low` and `high` nine times in ten."""

    at: float
    low: float
    high: float


@dataclass(frozen=True)
class Pays:
    """What a kind earns for each euro or hour: `was` as it came by itself, `likely` judged with the others; None while
    no kind has two lots that tell how far lots of one kind lie apart."""

    lots: int
    was: float
    likely: Likely | None = None

    @property
    def sure(self) -> int:
        """1: it pays; -1: it loses; 0: nobody can tell yet."""
        if self.likely is None:
            return 0
        return 1 if self.likely.low > 0 else -1 if self.likely.high < 0 else 0


def pays(kinds: Mapping[K, Sequence[Put]]) -> dict[K, Pays]:
    """What each kind earns; every kind has at least one lot. ValueError where nothing was put into one."""
    if any(one.put <= 0 for lots in kinds.values() for one in lots):
        raise ValueError("Nothing was put in: what it earned is of nothing.")
    weights = {kind: sum(one.put for one in lots) for kind, lots in kinds.items()}
    was = {kind: sum(one.earned for one in lots) / weights[kind] for kind, lots in kinds.items()}
    every = [(kind, one) for kind, lots in kinds.items() for one in lots]
    found = {kind: Pays(len(lots), was[kind]) for kind, lots in kinds.items()}
    free = len(every) - len(kinds)
    if not free:
        return found
    within = sum((one.earned - was[kind] * one.put) ** 2 / one.put for kind, one in every)
    if within <= 0:
        return found
    variances = _variances(within, free)
    order = list(kinds)
    means, weight = np.array([was[kind] for kind in order]), np.array([weights[kind] for kind in order])
    # Half-Cauchy (Gelman 2006), so wide that it says little: three times as wide as lots of usual size lie apart.
    whole = sum(one.earned for _, one in every) / weight.sum()
    around = sum((one.earned - whole * one.put) ** 2 / one.put for _, one in every) / (len(every) - 1)
    scale = 3 * np.sqrt(around * len(every) / weight.sum())
    spreads = scale * np.tan(np.pi / 2 * (np.arange(_SPREADS) + 0.5) / _SPREADS)
    parts = [mixture(means, variance / weight, spreads) for variance in variances]
    logs = np.concatenate([log for log, _, _ in parts])
    mixed = Mixture(logs, np.concatenate([m for _, m, _ in parts]), np.concatenate([s for _, _, s in parts]))
    ends = mixed.quantiles((1 - SHOWN) / 2), mixed.quantiles((1 + SHOWN) / 2)
    for kind, at, low, high in zip(order, mixed.means(), *ends, strict=True):
        found[kind] = Pays(len(kinds[kind]), was[kind], Likely(float(at), float(low), float(high)))
    return found


def _variances(within: float, free: int) -> np.ndarray:
    """Equally likely variances of a lot for each euro put in: scaled inverse χ² of what was seen within kinds, of
    `free` degrees of freedom, with nothing said before."""
    return np.asarray(within / chdtri(free, (np.arange(_WITHIN) + 0.5) / _WITHIN))


def mixture(means: np.ndarray, errors: np.ndarray, spreads: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """For each spread between kinds (equally likely before anything was seen): how likely it is by what was seen (log),
    and of each kind mean and standard deviation given it. `means` and `errors` (variances) by kind; shapes (spreads,),
    (spreads, kinds), (spreads, kinds). Bayesian Data Analysis, equations 5.17, 5.20 and 5.21.
    """
    each = errors + spreads[:, None] ** 2
    of_mean = 1 / (1 / each).sum(axis=1)
    mean = of_mean * (means / each).sum(axis=1)
    log = (np.log(of_mean) - np.log(each).sum(axis=1) - ((means - mean[:, None]) ** 2 / each).sum(axis=1)) / 2
    shrunk = errors / each
    centres = (1 - shrunk) * means + shrunk * mean[:, None]
    variance = (1 - shrunk) * errors + shrunk**2 * of_mean[:, None]
    return log, centres, np.sqrt(variance)


class Mixture:
    """Normal distributions by weight (logs, up to a constant): what is thought of each kind."""

    def __init__(self, logs: np.ndarray, centres: np.ndarray, deviations: np.ndarray) -> None:
        weights = np.exp(logs - logs.max())
        self.weights, self.centres, self.deviations = weights / weights.sum(), centres, deviations

    def means(self) -> np.ndarray:
        """By kind."""
        return np.asarray(self.weights @ self.centres)

    def quantiles(self, share: float) -> np.ndarray:
        """By kind, below what `share` of it lies (0 to 1, neither): by halving."""
        low = (self.centres - 12 * self.deviations).min(axis=0)
        high = (self.centres + 12 * self.deviations).max(axis=0)
        for _ in range(50):
            middle = (low + high) / 2
            below = self.weights @ ndtr((middle - self.centres) / self.deviations) < share
            low, high = np.where(below, middle, low), np.where(below, high, middle)
        return np.asarray((low + high) / 2)
