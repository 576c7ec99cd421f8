"""Minutes that learn: an estimate times how the work went before, pulled towards as estimated while little is known."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import exp, log, sqrt

from scipy import stats

# So many times “as estimated” before anything was measured, and the spread of log(actual / estimate) then.
# Common practice, no source.
PRIOR_TIMES, PRIOR_SIGMA = 4, 0.5
UP_TO_9_IN_10 = float(stats.norm.ppf(0.9))


@dataclass(frozen=True)
class Learned:
    """`ratio` actual to estimated, of `count` times; 8 in 10 lie between `low` and `high` times the estimate."""

    ratio: float
    low: float
    high: float
    count: int

    def minutes(self, estimate: int) -> int:
        """At least a minute when anything was estimated."""
        return max(1, round(estimate * self.ratio)) if estimate else 0


def learned(ratios: Sequence[float]) -> Learned:
    """From actual ÷ estimated of each time it was done, all above 0 (ValueError): the geometric mean, pulled towards 1
    by four times as estimated: exp(n·mean(log r) ÷ (n + 4)). All twice as long, 4 times: 1.414; 40 times: 1.878."""
    if any(ratio <= 0 for ratio in ratios):
        raise ValueError("A ratio is above 0.")
    logs = [log(ratio) for ratio in ratios]
    weight = len(logs) + PRIOR_TIMES
    middle = sum(logs) / weight
    squares = PRIOR_TIMES * (PRIOR_SIGMA**2 + middle**2) + sum((x - middle) ** 2 for x in logs)
    reach = UP_TO_9_IN_10 * sqrt(squares / weight)
    return Learned(exp(middle), exp(middle - reach), exp(middle + reach), len(logs))
