"""Stop or go: what work leaves that is stopped when it is advised."""

import numpy as np
from scipy import stats

from benchmarks.advice.said import left_of_the_best, say
from core.bench.suspects import Floats
from core.workshop.stopgo import HORIZON, Odds, Stakes, limit, odds_of

RATE = 24.0
# Pieces of work that were taken up, and minutes beyond which nobody goes on without a result.
TAKEN_UP, LONGEST = 3000, 480


def stop() -> bool:
    """What work leaves when it is gone on with for as long as is advised, and stopped then; beside it the best moment
    to stop by the true law of its time, which nobody knows, and two rules of thumb. Times are lognormal; the shop knows
    only what it estimated and what a few results took before. Answers whether 85 in 100 of the gain over stopping at
    once is got: a target of ours, since the best here is not to be had."""
    dice = np.random.default_rng(11)
    at = np.arange(1.0, LONGEST + 1)
    sums = {"the best": 0.0, "advised": 0.0, "twice the estimate": 0.0, "to the end": 0.0}
    for _ in range(TAKEN_UP):
        chance, middle, spread = dice.uniform(0.2, 0.95), dice.lognormal(3.6, 0.5), dice.uniform(0.5, 0.9)
        took = [float(middle * np.exp(spread * z)) for z in dice.standard_normal(int(dice.integers(0, 7)))]
        estimate = float(middle * np.exp(spread**2 / 2 + dice.normal(0, 0.3)))
        gain, minute = float(dice.lognormal(4.0, 0.7)), RATE / 60
        found = chance * stats.norm.cdf(np.log(at / middle) / spread)
        # Nothing is left by stopping at once; each minute costs as long as nothing is found.
        left = found * gain - minute * np.cumsum(1 - np.concatenate([[0.0], found[:-1]]))
        believed = float(np.clip(chance + dice.normal(0, 0.1), 0.02, 0.98))
        advised = _gone_on(odds_of(believed, estimate, took), Stakes(0.0, gain, gain, gain, minute))

        def after(minutes: float, left: Floats = left) -> float:
            return float(left[min(round(minutes), LONGEST) - 1]) if round(minutes) >= 1 else 0.0

        sums["the best"] += max(0.0, float(left.max()))
        sums["advised"] += after(advised)
        sums["twice the estimate"] += after(2 * estimate)
        sums["to the end"] += after(LONGEST)
    say(f"stop or go: what {TAKEN_UP:,} pieces of work leave each over stopping at once; wanted 85 in 100 of the best")
    return left_of_the_best(sums, TAKEN_UP, 85)


def _gone_on(odds: Odds, stakes: Stakes) -> float:
    """Minutes that are gone on with if nothing comes: where no limit is in sight it is asked again later."""
    minutes = 0.0
    while (left := limit(odds.after(minutes), stakes)) is None and minutes < LONGEST:
        minutes += HORIZON
    return min(float(LONGEST), minutes + (left or 0.0))
