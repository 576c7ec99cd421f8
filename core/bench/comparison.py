"""Benchmarks before and after: time saved and speed gained, never confused, and whether it is a difference at all."""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from math import exp, log, sqrt

from scipy import stats

# What a person with a stopwatch is off by, in seconds (common practice, no source).
STOPWATCH = 0.3
# So many runs on each side are wanted before a difference is said flatly: fewer say nothing of how runs differ.
OF_EACH = 3


@dataclass(frozen=True)
class Compared:
    """`less` is the share of time saved (1 − t1/t0), `faster` the gain in speed (t0/t1 − 1).

    `low` to `high` is the 95 % interval of the ratio after to before. `scores`: it was told in scores, where more is
    better, and no time was taken. `few`: fewer than OF_EACH runs on a side.
    """

    before: float
    after: float
    less: float
    faster: float
    low: float
    high: float
    scores: bool = False
    few: bool = False

    @property
    def is_faster(self) -> bool:
        return self.verdict == "faster" and not self.few

    @property
    def verdict(self) -> str:
        if self.low <= 1 <= self.high:
            return "no real difference"
        return "faster" if self.high < 1 else "slower"

    @property
    def said(self) -> str:
        """The verdict as it may be said of so many runs, and of what was measured."""
        if self.few:
            return "too few runs to tell"
        better, worse = ("higher", "lower") if self.scores else ("faster", "slower")
        return {"faster": better, "slower": worse}.get(self.verdict, self.verdict)

    @property
    def words(self) -> str:
        """In a sentence; a score is an index and is never told as time."""
        if self.few:
            return f"So far it {self._came_out}. Take {OF_EACH} runs on each side: fewer don’t show how they differ."
        if self.verdict == "no real difference":
            return "No real difference: the runs differ among themselves by as much."
        return f"{self._came_out[:1].upper()}{self._came_out[1:]}."

    @property
    def _came_out(self) -> str:
        if self.scores:
            more = f"scores {abs(self.faster) * 100:.0f} % {'more' if self.faster >= 0 else 'less'}"
            return f"{more} (an index: it says nothing of how long anything takes)"
        if self.less >= 0:
            return f"takes {self.less * 100:.0f} % less time, which is {self.faster * 100:.0f} % faster"
        return f"takes {-self.less * 100:.0f} % more time"


def read_time(word: str) -> float | None:
    """Seconds of a time as people write it, 1:03 or 1:02:03.5; None for anything else. A number is seconds already."""
    parts = word.replace(",", ".").split(":")
    if not 2 <= len(parts) <= 3 or not all(re.fullmatch(r"\d{1,3}", part, re.ASCII) for part in parts[:-1]):
        return None
    if not re.fullmatch(r"[0-5]?\d(\.\d{1,3})?", parts[-1], re.ASCII):
        return None
    if len(parts) == 3 and int(parts[1]) > 59:
        return None
    seconds = float(parts[-1])
    for place, part in enumerate(reversed(parts[:-1]), 1):
        seconds += int(part) * 60**place
    return seconds


def compare(before: Sequence[float], after: Sequence[float], by_hand: bool = False, scores: bool = False) -> Compared:
    """Times in seconds (or `scores`, where more is better) of several runs each, all above 0 (ValueError).

    The interval is Welch's t interval of the log ratio; with one run on a side the error of the stopwatch,
    or 2 % for a machine's own clock (common practice, no source), stands in for the spread.
    """
    if not before or not after or min(*before, *after) <= 0:
        raise ValueError("At least one run on each side, every time above 0.")
    sides = [[log(1 / t if scores else t) for t in side] for side in (before, after)]
    means = [sum(side) / len(side) for side in sides]
    variances, freedoms = [], []
    for side, raw, mean in zip(sides, (before, after), means, strict=True):
        floor = (
            (STOPWATCH / (sum(raw) / len(raw))) ** 2 if by_hand and not scores else 0.02**2 if len(side) < 2 else 0.0
        )
        spread = sum((x - mean) ** 2 for x in side) / (len(side) - 1) if len(side) > 1 else 0.0
        variances.append(max(spread, floor) / len(side))
        freedoms.append(len(side) - 1 if len(side) > 1 and spread > floor else 1000)
    total = sum(variances)
    ratio = means[1] - means[0]
    if total > 0:
        parts = sum(v * v / f for v, f in zip(variances, freedoms, strict=True))
        half = float(stats.t.ppf(0.975, total * total / parts if parts else 1000)) * sqrt(total)
    else:
        half = 0.0
    t0, t1 = exp(means[0]), exp(means[1])
    few = min(len(before), len(after)) < OF_EACH
    return Compared(t0, t1, 1 - t1 / t0, t0 / t1 - 1, exp(ratio - half), exp(ratio + half), scores, few)
