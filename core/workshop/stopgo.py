"""Stop or go: whether to go on with what is in hand, and how many more minutes before the answer turns.

What was spent is spent: it is shown, never counted. Minutes that went by without a result are evidence about the odds.

The time to a result, if there is to be one, is exponential with a rate nobody knows: gamma, from how long it took
before (conjugate; the mixture is a Lomax distribution). Whether there is to be one is as likely as the record says, and
less so with each minute that brings nothing (Bayes). As its hazard only ever falls, looking one stretch ahead is the
best there is (Chow, Robbins and Siegmund 1971, the monotone case; from memory).
"""

from collections.abc import Sequence
from dataclasses import dataclass
from math import expm1, log1p

import numpy as np
from numpy.typing import NDArray
from scipy.special import ndtr

from core.workshop.learning import UP_TO_9_IN_10

Floats = NDArray[np.float64]

# So many results as expected are taken for known before any was timed. Common practice, no source.
PRIOR_RESULTS = 3.0
# Nobody takes work up for less than so many minutes, and beyond so many it is said that no limit is in sight.
STRETCH, HORIZON = 15.0, 120.0
_POINTS = 129


@dataclass(frozen=True)
class Odds:
    """Of a piece of work in hand: `chance` (0 to 1) that it can be done at all, as it stood at its begin, and of its
    time to a result a gamma over the rate: `shape` above 1, `scale` in minutes; the mean is scale ÷ (shape − 1)."""

    chance: float
    shape: float
    scale: float

    def __post_init__(self) -> None:
        if not 0 <= self.chance <= 1 or self.shape <= 1 or self.scale <= 0:
            raise ValueError("A chance from 0 to 1, a shape above 1, a scale above 0.")

    @property
    def mean(self) -> float:
        """Minutes to a result, where there is one, at the begin."""
        return self.scale / (self.shape - 1)

    def none_by(self, minutes: float | Floats) -> float | Floats:
        """How likely nothing has come yet after so many minutes, where something is to come: (b ÷ (b + t))^a."""
        return (self.scale / (self.scale + minutes)) ** self.shape

    def after(self, minutes: float) -> "Odds":
        """After so many minutes without a result."""
        if minutes < 0:
            raise ValueError("Minutes from 0.")
        still = self.chance * float(self.none_by(minutes))
        left = still + (1 - self.chance)
        return Odds(still / left if left else 0.0, self.shape, self.scale + minutes)


def odds_of(chance: float, minutes: float, took: Sequence[float] = ()) -> Odds:
    """From the chance of the record, the minutes it is thought to take, and those that results took before.

    As many results as PRIOR_RESULTS are taken for known, each of `minutes`, so that nothing timed gives a mean of that.
    """
    if minutes <= 0 or any(one <= 0 for one in took):
        raise ValueError("Minutes above 0.")
    return Odds(chance, 1 + PRIOR_RESULTS + len(took), PRIOR_RESULTS * minutes + sum(took))


@dataclass(frozen=True)
class Stakes:
    """What is at stake from now on, in base currency: `stop` is what stopping now leaves, `done` what is left once a
    result is there and everything after it was paid, at its lowest and highest in 8 of 10 cases; `minute` is what a
    minute of hands costs, with the place it takes."""

    stop: float
    done: float
    low: float
    high: float
    minute: float

    def __post_init__(self) -> None:
        if self.minute < 0 or not self.low <= self.done <= self.high:
            raise ValueError("A minute costs at least nothing; low, likely, high in that order.")


def going_on(odds: Odds, stakes: Stakes, minutes: float) -> float:
    """What is left on average by going on for at most so many minutes, and stopping then, in closed form.

    stop + p·F(τ)·(done − stop) − minute·∫₀^τ (1 − p + p·S(u)) du
    """
    p, a, b = odds.chance, odds.shape, odds.scale
    ratio = log1p(minutes / b)
    found = -expm1(-a * ratio)
    # The integral of S from 0 to τ: b ÷ (a − 1) · (1 − (b ÷ (b + τ))^(a − 1)).
    waiting = -b / (a - 1) * expm1((1 - a) * ratio)
    spent = (1 - p) * minutes + p * waiting
    return stakes.stop + p * found * (stakes.done - stakes.stop) - stakes.minute * spent


def best_stretch(odds: Odds, stakes: Stakes) -> float:
    """For how long to go on from here if nothing comes, at least a STRETCH: where the next minute costs what it brings.

    At most HORIZON is looked ahead. p(τ)·hazard(τ)·(done − stop) = minute, by halving: the left side only falls.
    """
    gain, p, a, b = stakes.done - stakes.stop, odds.chance, odds.shape, odds.scale

    def pays(minutes: float) -> bool:
        still = p * (b / (b + minutes)) ** a
        return bool(still / (still + 1 - p) * a / (b + minutes) * gain > stakes.minute)

    if gain <= 0 or not pays(STRETCH):
        return STRETCH
    if pays(HORIZON):
        return HORIZON
    low, high = STRETCH, HORIZON
    while high - low > 1e-3:
        middle = (low + high) / 2
        low, high = (middle, high) if pays(middle) else (low, middle)
    return (low + high) / 2


def go(odds: Odds, stakes: Stakes) -> float:
    """What going on is worth: for the best stretch, at least a STRETCH."""
    return going_on(odds, stakes, best_stretch(odds, stakes))


def limit(odds: Odds, stakes: Stakes) -> float | None:
    """Minutes more before the answer turns, if nothing comes until then; 0 where stopping is better already, None where
    no limit is in sight."""
    if go(odds, stakes) <= stakes.stop:
        return 0.0
    if go(odds.after(HORIZON), stakes) > stakes.stop:
        return None
    low, high = 0.0, HORIZON
    # Where a minute moves what going on is worth by tens, a thousandth of one is more than a cent.
    while high - low > 1e-6:
        middle = (low + high) / 2
        low, high = (middle, high) if go(odds.after(middle), stakes) > stakes.stop else (low, middle)
    return (low + high) / 2


def regret(odds: Odds, stakes: Stakes, minutes: float) -> float:
    """How likely going on for at most so many minutes ends worse than stopping now.

    Worse is no result by then, or one that came late for what it fetches. What it fetches is normal, 8 in 10 of it
    between low and high.
    """
    if minutes <= 0:
        return 0.0
    p, a, b = odds.chance, odds.shape, odds.scale
    none = 1 - p + p * float(odds.none_by(minutes)) if stakes.minute > 0 else 0.0
    at = np.linspace(0.0, minutes, _POINTS)
    density = p * a / b * (b / (b + at)) ** (a + 1)
    worse = _below(stakes, stakes.stop + stakes.minute * at)
    return float(min(1.0, none + np.trapezoid(density * worse, at)))


def _below(stakes: Stakes, values: Floats) -> Floats:
    """How likely what is left once it is done lies below each value."""
    sigma = (stakes.high - stakes.low) / (2 * UP_TO_9_IN_10)
    if sigma <= 0:
        return (values > stakes.done).astype(float)
    return np.asarray(ndtr((values - stakes.done) / sigma), dtype=float)


@dataclass(frozen=True)
class Point:
    """Going on after so many more minutes without a result: likely, and between low and high."""

    minutes: float
    likely: float
    low: float
    high: float


@dataclass(frozen=True)
class Answer:
    """Stop or go: what each leaves, the chance that going on ends worse, and minutes before the answer turns (0: stop
    now, None: no limit in sight). `in_100` it works, as things stand."""

    stop: float
    go: float
    regret: float
    limit: float | None
    in_100: int
    points: tuple[Point, ...]

    @property
    def lead(self) -> float:
        """What going on leaves more than stopping; below 0 it is the other way round."""
        return self.go - self.stop

    @property
    def goes_on(self) -> bool:
        return self.limit is None or self.limit > 0


def answer(odds: Odds, stakes: Stakes, *, look_ahead: float = 60.0, steps: int = 24) -> Answer:
    """For the odds as they are now. Drawn `look_ahead` minutes on."""
    stretch = best_stretch(odds, stakes)
    worth = going_on(odds, stakes, stretch)
    points = []
    for minutes in np.linspace(0.0, look_ahead, steps + 1):
        later = odds.after(float(minutes))
        likely = go(later, stakes)
        low, high = (
            go(later, Stakes(stakes.stop, done, done, done, stakes.minute)) for done in (stakes.low, stakes.high)
        )
        points.append(Point(float(minutes), likely, low, high))
    return Answer(
        stakes.stop,
        worth,
        regret(odds, stakes, stretch),
        limit(odds, stakes),
        round(100 * odds.chance),
        tuple(points),
    )


def per_minute(hourly: float, holding_a_day: float = 0.0, minutes_a_day: float = 8 * 60) -> float:
    """What a minute of hands costs: its rate, and its share of what a day on the shelf costs."""
    return hourly / 60 + holding_a_day / minutes_a_day


@dataclass(frozen=True)
class Way:
    """One thing that can be done from now on: what it is worth, what is still to be spent on it, and how it is called;
    `worth` None where nobody can say."""

    name: str
    worth: float | None
    spend: float

    @property
    def left(self) -> float | None:
        return None if self.worth is None else self.worth - self.spend
