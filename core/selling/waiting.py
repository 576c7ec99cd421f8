"""How long a sale takes at a price, what to ask week by week, and what makes an offer better than waiting."""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from decimal import Decimal
from math import exp, log

import numpy as np

from core.money import to_cent
from core.selling.robust import Floats

# Common practice, no source: at the likely price 11 in 100 go in a week, and a tenth more halves the pace nearly.
USUAL_PACE, USUAL_STEEPNESS = 0.12, 6.0
# How far a shop's own may lie from them: of the logarithm of the pace, and of the steepness.
PACE_OFF, STEEPNESS_OFF = 0.5, 2.0
# So many sales without haggling are taken for known before there is one. Common practice, no source.
PAID_IN_FULL = 4
# By how much better another answer has to be than the plain one.
PLAINLY = 1.02
WEEKS = 26
PRICES = 60
_STEEPEST = 40.0


@dataclass(frozen=True)
class Exposure:
    """One thing on offer at one price: `ratio` is what was asked over what was likely then, `weeks` how long it stood,
    above 0; `sold` whether a sale ended it, and `paid` what was paid of what was asked (1: all), None where that says
    nothing."""

    ratio: float
    weeks: float
    sold: bool
    paid: float | None = None


@dataclass(frozen=True)
class Stay:
    """One thing on offer at one price, through the channel of that key; `ended_at` is None while it is. Otherwise as an
    `Exposure`."""

    channel: int
    ratio: float
    begun_at: datetime
    ended_at: datetime | None
    sold: bool
    paid: float | None = None

    def seen(self, moment: datetime) -> Exposure | None:
        """What was known of it at a moment; None before it had stood any time."""
        over = self.ended_at is not None and self.ended_at <= moment
        until = moment if self.ended_at is None else min(self.ended_at, moment)
        weeks = (until - self.begun_at) / timedelta(weeks=1)
        if weeks <= 0:
            return None
        return Exposure(self.ratio, weeks, over and self.sold, self.paid if over else None)


@dataclass(frozen=True)
class Pace:
    """Sales come at ``pace · exp(−steepness · (ratio − 1))`` a week; `told` is how many sales say so, `paid` the part
    of what is asked that buyers pay on average."""

    pace: float = USUAL_PACE
    steepness: float = USUAL_STEEPNESS
    told: int = 0
    paid: float = 1.0

    @property
    def off_in_100(self) -> int:
        """What buyers take off, in a hundred of what is asked."""
        return round(100 * (1 - self.paid))

    def hazard(self, ratio: float) -> float:
        return self.pace * exp(min(50.0, -self.steepness * (ratio - 1)))

    def chance(self, ratio: float, weeks: float = 1.0) -> float:
        """Of a sale within so many weeks, 0 to 1: ``1 − exp(−hazard · weeks)``."""
        return 1 - exp(-self.hazard(ratio) * weeks)

    def pays(self, offered: float, asked: float) -> float:
        """The chance that who offers one ratio would pay another: buyers thin out with the price as sales do."""
        return 1.0 if asked <= offered else exp(-self.steepness * (asked - offered))


def learn(seen: Iterable[Exposure], usual: Pace | None = None) -> Pace:
    """Pace and steepness from weeks on offer: regression with the complementary log-log link, drawn to the usual ones.

    With the length of each stay as exposure it is exact for stays of any length. Steepness is held from 0 to 40. What
    is paid of what is asked is the mean, drawn to the usual one by four sales; more than all counts as all.
    Raises ValueError for a stay or a price of nothing.
    """
    usual = usual or Pace()
    rows = list(seen)
    if any(one.weeks <= 0 or one.ratio <= 0 for one in rows):
        raise ValueError("What was on offer stood for some time, at a price above 0.")
    if not rows:
        return usual
    apart = np.array([one.ratio - 1 for one in rows])
    weeks, sold = np.array([one.weeks for one in rows]), np.array([one.sold for one in rows], dtype=float)
    design = np.column_stack((np.ones(len(rows)), -apart))
    begin, trust = np.array([log(usual.pace), usual.steepness]), np.array([PACE_OFF**-2.0, STEEPNESS_OFF**-2.0])
    at = begin.copy()
    value = _against(design, weeks, sold, at, begin, trust)
    for _ in range(100):
        gone = np.minimum(weeks * np.exp(design @ at), 1e6)
        # A week that ended unsold adds its hazard; a stay that ended in a sale tells of the moment it ended at.
        slope = design.T @ (sold - gone) - trust * (at - begin)
        curve = (design * gone[:, None]).T @ design + np.diag(trust)
        step = np.linalg.solve(curve, slope)
        size = 1.0
        while size > 1e-6 and _against(design, weeks, sold, at + size * step, begin, trust) > value:
            size /= 2
        at = at + size * step
        fresh = _against(design, weeks, sold, at, begin, trust)
        if abs(value - fresh) < 1e-10:
            break
        value = fresh
    paid = [min(1.0, one.paid) for one in rows if one.paid is not None]
    part = (usual.paid * PAID_IN_FULL + sum(paid)) / (PAID_IN_FULL + len(paid))
    return Pace(exp(float(at[0])), min(_STEEPEST, max(0.0, float(at[1]))), int(sold.sum()), part)


def pace_at(stays: Iterable[Stay], channel: int | None, moment: datetime) -> Pace:
    """What stays taught by a moment: those elsewhere first, then those through the channel; None for no channel."""
    here: list[Exposure] = []
    elsewhere: list[Exposure] = []
    for stay in stays:
        if seen := stay.seen(moment):
            (here if stay.channel == channel else elsewhere).append(seen)
    others = learn(elsewhere)
    mine = learn(here, others)
    return replace(mine, told=mine.told + others.told) if here else others


def _against(design: Floats, weeks: Floats, sold: Floats, at: Floats, begin: Floats, trust: Floats) -> float:
    """What speaks against these coefficients: the less the better."""
    rate = design @ at
    gone = weeks * np.exp(np.minimum(rate, 50))
    return float((gone - sold * rate).sum() + (trust * (at - begin) ** 2).sum() / 2)


@dataclass(frozen=True)
class Week:
    """What to ask in a week (from 1), the chance that it goes then if it comes so far, and what having it is worth at
    the beginning of that week."""

    week: int
    price: Decimal
    chance: float
    worth: float


@dataclass(frozen=True)
class MarkdownPlan:
    """`worth`: what going on like this brings, in base currency, after everything; `sold` the chance that it goes
    within the weeks of the plan; `expected_weeks` how long it stands on average, at most those; `after` what it brings
    when none came, and how."""

    weeks: tuple[Week, ...]
    worth: float
    sold: float
    expected_weeks: float
    after: float
    after_words: str

    def steps(self) -> tuple[Week, ...]:
        """The weeks in which the price changes, the first one among them."""
        before = [None, *(week.price for week in self.weeks)]
        return tuple(week for week, last in zip(self.weeks, before, strict=False) if week.price != last)


def markdown(
    likely: Decimal,
    prices: Sequence[Decimal],
    left: Callable[[Decimal], Decimal],
    pace: Pace,
    *,
    weeks: int = WEEKS,
    holding: Decimal = Decimal(0),
    after: Sequence[tuple[Decimal, str]] = ((Decimal(0), "hold it"),),
) -> MarkdownPlan:
    """The price of each week that brings most, by dynamic programming from the last week back.

    V(w) = max over p of q(p)·left(p) + (1 − q(p))·(V(w + 1) − holding); V after the last week is the best of `after`.
    `left` is what a sale at a price leaves, `holding` what a week more costs. Raises ValueError without a price above
    0, or a week.
    """
    if not prices or min(prices) <= 0 or likely <= 0 or weeks < 1 or not after:
        raise ValueError("A plan needs prices above 0, a likely price and at least a week.")
    chances = np.array([pace.chance(float(price / likely)) for price in prices])
    nets = np.array([float(left(price)) for price in prices])
    last, words = max(after, key=lambda one: one[0])
    value, found = float(last), list[Week]()
    for week in range(weeks, 0, -1):
        worth = chances * nets + (1 - chances) * (value - float(holding))
        best = int(np.argmax(worth))
        value = float(worth[best])
        found.append(Week(week, prices[best], float(chances[best]), value))
    found.reverse()
    stands = np.cumprod([1.0, *(1 - week.chance for week in found)])
    return MarkdownPlan(tuple(found), value, float(1 - stands[-1]), float(stands[:-1].sum()), float(last), words)


def price_grid(low: Decimal, high: Decimal, ends: Callable[[Decimal], Decimal], most: int = PRICES) -> list[Decimal]:
    """At most so many prices from `low` to `high`, evenly by ratio, each ending as the channel has it."""
    if not 0 < low <= high:
        raise ValueError("Prices go from above 0 upwards.")
    ratio = float(high / low)
    found = {ends(low * Decimal(repr(ratio ** (step / (most - 1))))) for step in range(most)}
    return sorted(price for price in found if price > 0)


class Ending:
    """How a channel’s prices end."""

    EXACT, WHOLE, FIVES, NINES = "exact", "whole", "fives", "nines"
    LABELS = ((EXACT, "to the cent"), (WHOLE, "whole amounts"), (FIVES, "by fives"), (NINES, "9 at the end"))


def ending(how: str) -> Callable[[Decimal], Decimal]:
    """Rounds a price to the channel’s customs, never to 0."""

    def to(step: int, less: int) -> Callable[[Decimal], Decimal]:
        return lambda price: max(Decimal(step), (price + less) / step // 1 * step + _half(price + less, step)) - less

    return {Ending.WHOLE: to(1, 0), Ending.FIVES: to(5, 0), Ending.NINES: to(10, 1)}.get(how, to_cent)


def _half(price: Decimal, step: int) -> int:
    """A step more from the middle on."""
    return step if price % step * 2 >= step else 0


@dataclass(frozen=True)
class Answer:
    """To an offer: what it leaves, what waiting is worth, and what to say. `counter` is the price to ask instead, None
    where there is none better; `likely_yes` the chance that the buyer takes it."""

    leaves: Decimal
    waiting: Decimal
    take: bool
    counter: Decimal | None
    likely_yes: float


def answer(
    offered: Decimal,
    asking: Decimal,
    likely: Decimal,
    waiting: Decimal,
    left: Callable[[Decimal], Decimal],
    pace: Pace,
    prices: Sequence[Decimal],
) -> Answer:
    """Compare an offer with what waiting is worth, and find the price that is best to ask of this buyer.

    Who offers one price would pay another with the chance that `Pace.pays` says; if he does not, waiting is left.
    An offer that beats waiting is taken unless asking for more is plainly better still; nobody is asked for what
    anybody can have it for.
    """
    leaves = left(offered)
    best, counter, chance = float(max(leaves, waiting)), None, 1.0
    for price in prices:
        if offered < price < asking:
            yes = pace.pays(float(offered / likely), float(price / likely))
            worth = yes * float(left(price)) + (1 - yes) * float(waiting)
            if worth > max(best, PLAINLY * float(max(leaves, waiting))):
                best, counter, chance = worth, price, yes
    return Answer(leaves, waiting, leaves >= waiting and counter is None, counter, chance)
