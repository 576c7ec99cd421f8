"""What to do next about a fault, tests and repairs weighed alike by the minutes to the end.

A repair of the right suspect ends the search; of a wrong one it rules that suspect out. A test takes its minutes and
moves the suspects. What is best first depends on all that may follow: a few steps are looked ahead (expectimax over the
likeliest few), and from there on the suspects are taken to be repaired one by one in the best order, which is exact for
repairs alone (by chance ÷ minutes; Smith 1956). Always following that advice costs no more than is said.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]
Flags = npt.NDArray[np.bool_]

# So many tests are followed up at each step, and so many at the first: the best by one look are seldom beaten.
FOLLOWED, FOLLOWED_FIRST = 3, 6
# Never further ahead than so many steps, nor more states times suspects times tests than keep a page quick.
STEPS, WORK = 5, 800_000


@dataclass(frozen=True)
class Way:
    """The expected minutes to the end when beginning with a test, or (`test` None) with repairing `suspect`."""

    minutes: float
    test: int | None = None
    suspect: int | None = None


def ways(
    now: Sequence[float] | Floats, repairs: Sequence[float], shows: Floats, minutes: Sequence[float]
) -> tuple[Way, ...]:
    """Every way to begin, the one with the least expected minutes first.

    `now` how likely each suspect is (adds up to 1), `repairs` the minutes of each repair (above 0); `shows` a row a
    test that was not made yet, a column a suspect: how likely its first answer is; `minutes` of each test (above 0).
    One entry a test, and one for the repair that begins the best order. Raises ValueError for figures that can't be.
    """
    weights, cost = np.asarray(now, dtype=float), np.asarray(repairs, dtype=float)
    took = np.asarray(minutes, dtype=float)
    if (cost <= 0).any() or (took <= 0).any() or (weights < 0).any() or not weights.sum() > 0:
        raise ValueError("Minutes above 0; chances from 0, not all 0.")
    plan = _Search(cost, np.asarray(shows, dtype=float).reshape(len(took), len(cost)), took)
    whole = weights / weights.sum()
    steps = plan.steps
    first = int(np.argmax(whole / cost))
    found = [Way(plan.after_repair(whole[None], np.zeros((1, len(took)), bool), steps)[0], suspect=first)]
    if len(took):
        quick = plan.one_test(whole[None], np.zeros((1, len(took)), bool))[0]
        followed = np.argsort(quick, kind="stable")[: FOLLOWED_FIRST if steps > 1 else 0]
        deep = plan.after_tests(whole[None], np.zeros((1, len(took)), bool), followed[None], steps)[0]
        quick[followed] = np.minimum(quick[followed], deep)
        # A test that is not followed up is never told better than one that is.
        found += [Way(float(quick[test]), test=test) for test in range(len(took))]
    return tuple(sorted(found, key=lambda way: way.minutes))


class _Search:
    """Weights are kept as they are and not brought back to 1: all costs are in proportion to them."""

    def __init__(self, repairs: Floats, shows: Floats, minutes: Floats) -> None:
        self._repairs, self._shows, self._minutes = repairs, shows, minutes

    @property
    def steps(self) -> int:
        """How far to look ahead, for the work to stay within bounds."""
        each, states, steps = max(1, self._shows.size), 1 + 2 * FOLLOWED_FIRST, 2
        while steps < STEPS and states * (2 * FOLLOWED + 1) * each <= WORK:
            states *= 2 * FOLLOWED + 1
            steps += 1
        return steps

    def repairs_alone(self, weights: Floats) -> Floats:
        """Expected minutes of repairing one by one in the best order; the last axis is suspects."""
        order = np.argsort(-weights / self._repairs, axis=-1)
        ranked = np.take_along_axis(weights, order, -1)
        # A repair is made unless the fault was found before: all that is left from it on.
        left = np.cumsum(ranked[..., ::-1], axis=-1)[..., ::-1]
        return np.asarray((left * self._repairs[order]).sum(axis=-1))

    def one_test(self, weights: Floats, used: Flags) -> Floats:
        """A row a state, a column a test: that test, and repairs alone from there on; used ones cost without end."""
        yes = weights[:, None, :] * self._shows
        both = self.repairs_alone(yes) + self.repairs_alone(weights[:, None, :] - yes)
        made = both + weights.sum(axis=1)[:, None] * self._minutes
        return np.asarray(np.where(used, np.inf, made))

    def least(self, weights: Floats, used: Flags, steps: int) -> Floats:
        """The least expected minutes found from each state."""
        found = self.repairs_alone(weights)
        if steps <= 0 or not self._minutes.size:
            return found
        quick = self.one_test(weights, used)
        found = np.asarray(np.minimum(found, quick.min(axis=1)))
        if steps == 1:
            return found
        followed = np.argsort(quick, axis=1, kind="stable")[:, :FOLLOWED]
        found = np.minimum(found, self.after_tests(weights, used, followed, steps).min(axis=1))
        return np.asarray(np.minimum(found, self.after_repair(weights, used, steps)))

    def after_tests(self, weights: Floats, used: Flags, tests: npt.NDArray[np.intp], steps: int) -> Floats:
        """A row a state, a column each of its `tests`: made first, the best that is found from there."""
        states, count = tests.shape
        if not count:
            return np.empty((states, 0))
        yes = weights[:, None, :] * self._shows[tests]
        children = np.stack([yes, weights[:, None, :] - yes], axis=2).reshape(states * count * 2, -1)
        marked = np.repeat(used, count, axis=0)
        marked[np.arange(states * count), tests.ravel()] = True
        worth = self.least(children, np.repeat(marked, 2, axis=0), steps - 1)
        made = worth.reshape(states, count, 2).sum(axis=2) + weights.sum(axis=1)[:, None] * self._minutes[tests]
        return np.asarray(np.where(np.take_along_axis(used, tests, 1), np.inf, made))

    def after_repair(self, weights: Floats, used: Flags, steps: int) -> Floats:
        """For each state: the repair that begins the best order, and if it was not that, the best from there."""
        rows = np.arange(len(weights))
        first = np.argmax(weights / self._repairs, axis=1)
        left = weights.copy()
        left[rows, first] = 0.0
        return np.asarray(weights.sum(axis=1) * self._repairs[first] + self.least(left, used, steps - 1))
