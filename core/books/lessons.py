"""What came of what was thought: prices, waiting and repairs, each against what was said of it beforehand."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime

import numpy as np
from scipy.special import chdtri
from scipy.stats import binom

from core.bench.assurance import failure_bounds
from core.selling.waiting import Exposure, Pace, Stay, pace_at

# Every interval here holds what is true at least so often.
SURE = 0.95
_TAIL = (1 - SURE) / 2


@dataclass(frozen=True)
class Middle:
    """Half of `count` values lie under `at`; half of all there might be lie under one between `low` and `high`, None
    while too few are seen to say so."""

    count: int
    at: float
    low: float | None
    high: float | None

    @property
    def off(self) -> int:
        """Of parts of what was thought: 1 where more was seen for sure, -1 where less, 0 where neither is said."""
        return _off(self.low or 0.0, self.high or float("inf"))


def _off(low: float, high: float) -> int:
    return 1 if low > 1 else -1 if high < 1 else 0


def middle(values: Iterable[float]) -> Middle | None:
    """The median with an interval of two of the values themselves, whatever they are drawn from: as many lie outside on
    each side as a fair coin allows (sign test; Conover, Practical Nonparametric Statistics, section 3.2). None of none.
    """
    order = sorted(values)
    count = len(order)
    if not count:
        return None
    at = (order[(count - 1) // 2] + order[count // 2]) / 2
    outside = _outside(count)
    if not outside:
        return Middle(count, at, None, None)
    return Middle(count, at, order[outside - 1], order[-outside])


def _outside(count: int) -> int:
    """The largest r for which fewer than r of `count` throws of a coin are heads no oftener than a tail has it; 0 where
    not even none is as rare."""
    heads = int(binom.ppf(_TAIL, count, 0.5))
    return heads + int(binom.cdf(heads, count, 0.5) <= _TAIL)


@dataclass(frozen=True)
class Share:
    """`hits` of `count`; of all there might be between `low` and `high` (Clopper and Pearson 1934)."""

    hits: int
    count: int
    low: float
    high: float


def share(hits: int, count: int) -> Share:
    """ValueError where there are more hits than there were; of none it may be 0 to 1."""
    return Share(hits, count, *failure_bounds(count, hits, 1 - _TAIL))


@dataclass(frozen=True)
class Against:
    """`came` where `expected` (above 0) were; the true number is between `low` and `high` times that."""

    came: int
    expected: float
    low: float
    high: float

    @property
    def times(self) -> float:
        return self.came / self.expected

    @property
    def off(self) -> int:
        """1 where more came for sure, -1 where fewer, 0 where neither is said."""
        return _off(self.low, self.high)


def against(came: int, expected: float) -> Against:
    """With the exact interval of a Poisson mean (Garwood 1936): of 0 up to 3.69, of 10 from 4.80 to 18.39."""
    if expected <= 0 or came < 0:
        raise ValueError("Something must have been expected.")
    low = 0.0 if came == 0 else float(chdtri(2 * came, 1 - _TAIL)) / 2
    high = float(chdtri(2 * came + 2, _TAIL)) / 2
    return Against(came, expected, low / expected, high / expected)


# What was asked of what was thought likely, and how that is called.
ASKED = ((0.95, "asked less than likely"), (1.05, "asked what was likely"), (float("inf"), "asked more than likely"))


def asked(ratio: float) -> str:
    return next(words for most, words in ASKED if ratio <= most)


@dataclass(frozen=True)
class Named:
    """How often what was thought likeliest was it: `hits` of `count`. By the odds themselves `expected` were to be, and
    between `fewest` and `most` 95 times in 100."""

    hits: int
    count: int
    expected: float
    fewest: int
    most: int

    @property
    def off(self) -> int:
        """1 where it was so oftener than the odds say, -1 where less often, 0 where that speaks against nothing."""
        return 1 if self.hits > self.most else -1 if self.hits < self.fewest else 0


def named(seen: Sequence[tuple[float, bool]]) -> Named:
    """Of each its odds, 0 to 1, and whether it was so: the number of hits is Poisson-binomial, taken exactly."""
    chances = np.ones(1)
    for odds, _ in seen:
        chances = np.convolve(chances, (1 - odds, odds))
    below = np.cumsum(chances)
    fewest = int(np.searchsorted(below, _TAIL, side="right"))
    most = int(np.searchsorted(below, 1 - _TAIL - 1e-12))
    return Named(sum(hit for _, hit in seen), len(seen), sum(odds for odds, _ in seen), fewest, min(most, len(seen)))


@dataclass(frozen=True)
class Awaited:
    """A stay on offer by what was seen of it, the key of its channel, and how many sales of it (mostly under one) were
    to be expected by what was known when it began."""

    channel: int
    seen: Exposure
    expected: float


def awaited(stays: Sequence[Stay], moment: datetime) -> list[Awaited]:
    """The stays up to a moment, each by the pace that was known when the month began in which it did: what it taught
    itself is not used to judge it. A sale that is expected at a rate comes, on the whole, as often as the rate says
    summed over the time that was waited for it, sold or not."""
    paces: dict[tuple[int, datetime], Pace] = {}
    found = []
    for stay in stays:
        begins = stay.begun_at.replace(day=1, hour=0, minute=0, second=0, microsecond=0)
        at = stay.channel, begins
        if at not in paces:
            paces[at] = pace_at(stays, stay.channel, begins)
        if seen := stay.seen(moment):
            found.append(Awaited(stay.channel, seen, paces[at].hazard(seen.ratio) * seen.weeks))
    return found


def came_of(some: Iterable[Awaited]) -> Against | None:
    """All of them together; None where nothing was to be expected."""
    rows = list(some)
    expected = sum(one.expected for one in rows)
    return against(sum(one.seen.sold for one in rows), expected) if expected > 0 else None
