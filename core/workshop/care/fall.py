"""How a colour difference falls under treatment, what the next round still brings, and when to stop."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from math import exp, log, sqrt

import numpy as np
from scipy.optimize import minimize_scalar
from scipy.special import stdtrit

from core.workshop.care import CareError

# Under the first nobody sees a difference; a round that brings less than the second is not worth its hours; spots that
# lie further apart than the third are seen. Common practice, no source.
STOP_AT, LEAST_GAIN, MOST_UNEVEN = 2.0, 0.5, 3.0
FIT_FROM, INTERVAL_FROM = 3, 4
MOST_ROUNDS = 12
# Per hour: slower than the first is no fall, faster than the second is over before the first look.
_SLOWEST, _FASTEST = 1e-4, 20.0


# From which difference on what is left is plain, bad, grave on the map. Common practice, no source.
_PLAIN, _BAD, _GRAVE = 2.5, 5.0, 10.0


def severity_of(value: float) -> int:
    """1 slight to 4 grave, of a colour that is so far off."""
    return 1 + sum(value >= least for least in (_PLAIN, _BAD, _GRAVE))


@dataclass(frozen=True)
class Reading:
    """ΔE00 to the sheltered patch after so many hours of treatment in all: the mean of its spots."""

    hours: float
    spots: tuple[float, ...]

    def __post_init__(self) -> None:
        if self.hours < 0 or not self.spots or not all(0 <= spot < 200 for spot in self.spots):
            raise CareError("A colour difference is a figure from 0, after hours from 0.", "typed")

    @property
    def value(self) -> float:
        return sum(self.spots) / len(self.spots)

    @property
    def evenness(self) -> float | None:
        """The largest difference between its spots; None for a single one."""
        return max(self.spots) - min(self.spots) if len(self.spots) > 1 else None

    @property
    def lags(self) -> int | None:
        """Which spot is furthest from done, from 0; None for a single one."""
        return self.spots.index(max(self.spots)) if len(self.spots) > 1 else None


@dataclass(frozen=True)
class Fall:
    """d(t) = floor + drop·e^(−rate·t), hours and ΔE00; `spread` is the standard deviation of what is left over, None
    under four points."""

    floor: float
    drop: float
    rate: float
    spread: float | None = None
    _covariance: tuple[tuple[float, ...], ...] = ()
    _freedom: int = 0

    def at(self, hours: float) -> float:
        return self.floor + self.drop * exp(-self.rate * hours)

    def between(self, hours: float, sure: float = 0.8) -> tuple[float, float] | None:
        """Where a reading then lies, 8 of 10 times; None under four points."""
        if self.spread is None:
            return None
        slope = np.array([1.0, exp(-self.rate * hours), -self.drop * hours * exp(-self.rate * hours)])
        wide = float(slope @ np.array(self._covariance) @ slope)
        reach = float(stdtrit(self._freedom, (1 + sure) / 2)) * sqrt(max(0.0, wide) + self.spread**2)
        value = self.at(hours)
        return max(0.0, value - reach), value + reach


def fit(readings: Sequence[Reading]) -> Fall | None:
    """The exponential of least squares with a floor from 0; None under three points or where nothing falls.

    For each rate floor and drop are linear: one search over the rate (variable projection, Golub and Pereyra 1973, from
    memory).
    """
    times = np.array([one.hours for one in readings])
    values = np.array([one.value for one in readings])
    if len(readings) < FIT_FROM or len(set(times)) < FIT_FROM or values[0] <= values[-1]:
        return None

    def off(log_rate: float) -> float:
        _, _, left = _linear(times, values, exp(log_rate))
        return left

    grid = np.linspace(log(_SLOWEST), log(_FASTEST), 60)
    best = int(np.argmin([off(one) for one in grid]))
    low, high = grid[max(0, best - 1)], grid[min(len(grid) - 1, best + 1)]
    found = minimize_scalar(off, bounds=(low, high), method="bounded", options={"xatol": 1e-9})
    rate = exp(float(found.x))
    floor, drop, left = _linear(times, values, rate)
    if drop <= 0:
        return None
    freedom = len(readings) - 3
    if len(readings) < INTERVAL_FROM:
        return Fall(floor, drop, rate)
    falls = np.exp(-rate * times)
    slopes = np.column_stack([np.ones_like(times), falls, -drop * times * falls])
    spread = sqrt(left / freedom)
    covariance = np.linalg.pinv(slopes.T @ slopes) * spread**2
    return Fall(floor, drop, rate, spread, tuple(map(tuple, covariance.tolist())), freedom)


def _linear(times: np.ndarray, values: np.ndarray, rate: float) -> tuple[float, float, float]:
    """Floor from 0 and drop of least squares at a rate, and what is left over, squared."""
    falls = np.exp(-rate * times)
    mean, middle = float(falls.mean()), float(values.mean())
    apart = falls - mean
    wide = float(apart @ apart)
    drop = float(apart @ values) / wide if wide else 0.0
    floor = middle - drop * mean
    if floor < 0:
        floor, drop = 0.0, float(falls @ values / (falls @ falls))
    left = values - floor - drop * falls
    return floor, drop, float(left @ left)


@dataclass(frozen=True)
class Advice:
    """Whether to go on, in a sentence with its figures; `rounds` are so many more worth doing, None while that can't be
    said."""

    stop: bool
    words: str
    rounds: int | None = None
    fall: Fall | None = None


def advise(readings: Sequence[Reading], round_hours: float) -> Advice:
    """From what was measured so far, the first before any treatment. Rounds of `round_hours`, above 0."""
    if round_hours <= 0:
        raise CareError("A round takes time.", "minutes")
    if any(later.hours <= earlier.hours for earlier, later in pairwise(readings)):
        raise CareError("Readings follow one another in time.", "typed")
    if not readings:
        return Advice(False, "Measure it before the first round: nothing can be said without.")
    last = readings[-1]
    if last.value <= STOP_AT:
        return Advice(True, f"Stop: it reads {last.value:.1f}, under {STOP_AT:.1f} nobody sees it.", 0, fit(readings))
    uneven = last.evenness
    before = readings[-2].evenness if len(readings) > 1 else None
    if uneven is not None and uneven > MOST_UNEVEN and (before is None or uneven > before):
        return Advice(
            True,
            f"Stop: its spots lie {uneven:.1f} apart, over {MOST_UNEVEN:.1f}, and drift. Another round adds to that.",
            0,
            fit(readings),
        )
    if len(readings) > 1 and last.value >= readings[-2].value:
        return Advice(True, f"Stop: the last round brought nothing, it reads {last.value:.1f}.", 0, fit(readings))
    found = fit(readings)
    if found is None:
        return Advice(False, f"Go on, and measure: {last.value:.1f} now, three readings tell how it falls.", None, None)
    worth, now = 0, found.at(last.hours)
    for number in range(1, MOST_ROUNDS + 1):
        then = found.at(last.hours + number * round_hours)
        if now <= STOP_AT or now - then < LEAST_GAIN:
            break
        worth, now = number, then
    if not worth:
        gain = found.at(last.hours) - found.at(last.hours + round_hours)
        return Advice(
            True,
            f"Stop: the next round would bring {max(0.0, gain):.1f}, less than {LEAST_GAIN} is not seen.",
            0,
            found,
        )
    rounds = f"{worth} more round{'s' if worth > 1 else ''}"
    return Advice(False, f"Go on: {rounds}, then it reads about {now:.1f}.", worth, found)
