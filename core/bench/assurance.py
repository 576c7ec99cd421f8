"""How sure we may be after so many clean runs, and when a fix counts as confirmed."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from enum import StrEnum
from math import ceil, log

from scipy.special import betaincinv

CONFIDENCE = 0.95
# Off for so long counts as cold (common practice, no source).
COLD_AFTER = timedelta(hours=12)


def failure_bounds(runs: int, failures: int, confidence: float = CONFIDENCE) -> tuple[float, float]:
    """Lowest and highest failure rate that these runs allow, each by itself at `confidence`.

    Exact one-sided bounds (Clopper and Pearson 1934): quantiles of the beta distribution. `failures` from 0 to
    `runs`, confidence above 0 and under 1 (ValueError otherwise); no runs say nothing: 0 to 1.
    """
    if not 0 <= failures <= runs or not 0 < confidence < 1:
        raise ValueError("Failures go from 0 to the number of runs, confidence from 0 to 1.")
    if runs == 0:
        return 0.0, 1.0
    low = 0.0 if failures == 0 else float(betaincinv(failures, runs - failures + 1, 1 - confidence))
    high = 1.0 if failures == runs else float(betaincinv(failures + 1, runs - failures, confidence))
    return low, high


def failure_interval(runs: int, failures: int, confidence: float = CONFIDENCE) -> tuple[float, float]:
    """The failure rates that these runs allow, `confidence` for the whole interval.

    Without a failure the one-sided bound above (3 of 3 clean: up to 63 in 100); with failures the exact two-sided
    interval of Clopper and Pearson (1 of 4 failed: 1 to 81 in 100). Raises ValueError as `failure_bounds` does.
    """
    if not failures:
        return failure_bounds(runs, failures, confidence)
    return failure_bounds(runs, failures, 1 - (1 - confidence) / 2)


def clean_runs_needed(reliability: float, confidence: float = CONFIDENCE) -> int:
    """Clean runs in a row that show a `reliability` (share of runs that pass) at `confidence`; both in (0, 1).

    n = ceil(ln(1 - C) / ln R), the success-run theorem: 22 for 90/90, 29 for R 90, C 95, 59 for 95/95, 299 for 99/95.
    """
    if not (0 < reliability < 1 and 0 < confidence < 1):
        raise ValueError("Reliability and confidence lie between 0 and 1.")
    return ceil(log(1 - confidence) / log(reliability) - 1e-9)


@dataclass(frozen=True)
class Sureness:
    """So many starts, so many of them failed. `at_least` to `could_be` are the failure rates they allow at 95 %;
    `more` is how many clean ones in a row are still wanted before a rate under `claim` may be claimed."""

    runs: int
    failures: int
    at_least: float
    could_be: float
    claim: float
    more: int

    @property
    def words(self) -> str:
        if not self.runs:
            return "Nothing is known: not started once."
        clean = self.runs - self.failures
        return f"{clean} of {self.runs} starts clean: failure rate {self.rate_words} (95 % sure)."

    @property
    def rate_words(self) -> str:
        """The failure rates that are allowed, in words."""
        return rate_words(self.at_least, self.could_be)


def rate_words(low: float, high: float) -> str:
    worst = f"{high * 100:.0f} in 100"
    return f"{low * 100:.0f} to {worst}" if low > 0 else f"up to {worst}"


def how_sure(outcomes: Sequence[bool], claim: float = 0.1) -> Sureness:
    """What starts in order (True: clean) allow to be claimed. A failure makes the count of clean ones begin again."""
    failures = list(outcomes).count(False)
    since = len(outcomes) - 1 - max((i for i, ok in enumerate(outcomes) if not ok), default=-1)
    low, high = failure_interval(len(outcomes), failures)
    return Sureness(len(outcomes), failures, low, high, claim, max(0, clean_runs_needed(1 - claim) - since))


class Condition(StrEnum):
    """How a machine was when it was run."""

    COLD = "cold"
    WARM = "warm"
    CLOSED = "closed"

    @property
    def label(self) -> str:
        return {"cold": "from cold", "warm": "warm", "closed": "closed up"}[self.value]


@dataclass(frozen=True)
class Trial:
    """One run of the step that failed: when, under which conditions, and whether it passed."""

    when: datetime
    conditions: frozenset[Condition]
    passed: bool


class Fix(StrEnum):
    NONE = "none"
    FAILED = "failed"
    PROVISIONAL = "provisional"
    CONFIRMED = "confirmed"


@dataclass(frozen=True)
class FixStatus:
    """Where a fix stands, and in words what is still wanted before it may be trusted."""

    fix: Fix
    wanted: tuple[str, ...]


def fix_status(fixed_at: datetime, trials: Sequence[Trial]) -> FixStatus:
    """A fix is confirmed once the failing step passed from cold, off for 12 hours or more after the fix, and closed up.

    Only trials after the fix count; one that fails ends its trust. Trials in the order of time.
    """
    after = [t for t in trials if t.when > fixed_at]
    if any(not t.passed for t in after):
        return FixStatus(Fix.FAILED, ("it failed again since: the cause is not found",))
    cold = any(Condition.COLD in t.conditions and t.when - fixed_at >= COLD_AFTER for t in after)
    closed = any(Condition.CLOSED in t.conditions for t in after)
    wanted = []
    if not cold:
        wanted.append("a pass from cold, off for twelve hours or more, on another day")
    if not closed:
        wanted.append("a pass closed up, with shields and covers on")
    return FixStatus(Fix.PROVISIONAL if wanted else Fix.CONFIRMED, tuple(wanted))


def refuted(fixed_at: datetime, trials: Sequence[Trial], again: bool | None) -> bool:
    """Whether the cause that a fix was made for was not it after all: it failed again before it was confirmed.

    `trials` up to the next fault of the same machine; `again` says whether that showed the same symptom, None where
    there was none since. A start that failed and turned out to be another fault speaks against nothing.
    """
    found = fix_status(fixed_at, trials).fix
    return found is not Fix.CONFIRMED if again else found is Fix.FAILED and again is None


class Fate(StrEnum):
    """What became of a repair: it was proven and held, was proven and came back all the same, came back before it was
    proven, or nobody knows yet."""

    HELD = "held"
    BACK_PROVEN = "back_proven"
    BACK_UNPROVEN = "back_unproven"
    NOT_KNOWN = "not_known"


def fate(fixed_at: datetime, trials: Sequence[Trial], again: bool | None) -> Fate:
    """As `refuted`: `trials` up to the next fault of the same machine, of which `again` says whether it showed the same
    symptom, None where there was none since."""
    after = [t for t in trials if t.when > fixed_at]
    # One that failed is that of another fault, where there was another.
    back = again or (again is None and any(not t.passed for t in after))
    until = next((t.when for t in after if not t.passed), None)
    clean = [t for t in after if until is None or t.when < until]
    proven = fix_status(fixed_at, clean).fix is Fix.CONFIRMED
    if back:
        return Fate.BACK_PROVEN if proven else Fate.BACK_UNPROVEN
    return Fate.HELD if proven else Fate.NOT_KNOWN


# So many runs of each kind are wanted before a dependence is said to be one.
OF_EACH = 3


def depends_on(trials: Sequence[Trial]) -> str:
    """What the outcome seems to hang on, with what to try next; empty when nothing shows.

    A condition counts when it was run both ways, OF_EACH times each, and always failed one way and always passed the
    other. With fewer it is only perhaps so. How often a fault that comes and goes at random, as often as this one
    failed, looks the same by chance is said with it: p ** a * (1 - p) ** b + p ** b * (1 - p) ** a.
    """
    for condition, one_way, other_way, what, then in (
        (Condition.COLD, "cold", "warm", "temperature", "Heat or cool one area at a time."),
        (Condition.CLOSED, "closed up", "open", "the case", "Put covers and shields on one at a time."),
    ):
        with_it = [t.passed for t in trials if condition in t.conditions]
        without = [t.passed for t in trials if condition not in t.conditions]
        if not with_it or not without or len({*with_it}) > 1 or len({*without}) > 1 or with_it[0] == without[0]:
            continue
        does = ("passes", "fails") if with_it[0] else ("fails", "passes")
        seen = f"{does[0]} {one_way}, {does[1]} {other_way}"
        rate = (len(without) if with_it[0] else len(with_it)) / len(trials)
        a, b = len(with_it), len(without)
        chance = rate**a * (1 - rate) ** b + rate**b * (1 - rate) ** a
        alarm = f"a fault that comes and goes at random looks so {max(1, round(chance * 100))} times in 100"
        if min(a, b) >= OF_EACH:
            return f"Depends on {what}: {seen} ({alarm}). {then}"
        return f"Perhaps it depends on {what}: {seen}, but {alarm}. Start it {OF_EACH} times each way."
    return ""
