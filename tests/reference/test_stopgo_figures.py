"""Stop or go against simulation, a published distribution and brute force over stopping times."""

import unittest

import numpy as np
from scipy.stats import lomax

from core.workshop.learning import UP_TO_9_IN_10
from core.workshop.stopgo import HORIZON, STRETCH, Stakes, best_stretch, going_on, odds_of, regret

CASES = (
    (odds_of(0.62, 40, [35, 60, 20]), Stakes(86, 190, 160, 230, 0.45)),
    (odds_of(0.62, 40).after(76), Stakes(86, 131, 120, 210, 0.4)),
    (odds_of(0.9, 15).after(10), Stakes(40, 70, 55, 80, 0.4)),
    (odds_of(0.3, 90), Stakes(20, 400, 250, 500, 0.6)),
)
RUNS = 100_000


class Simulated(unittest.TestCase):
    """100,000 days of work each: whether it can be done, then how long it takes, then what it fetches."""

    def runs(self, odds, stakes):
        dice = np.random.default_rng(20_261_127)
        can = dice.random(RUNS) < odds.chance
        rate = dice.gamma(odds.shape, 1 / odds.scale, RUNS)
        took = np.where(can, dice.exponential(1 / rate), np.inf)
        fetched = dice.normal(stakes.done, (stakes.high - stakes.low) / 2 / UP_TO_9_IN_10, RUNS)
        return took, fetched

    def test_what_going_on_leaves_and_how_often_it_is_regretted(self):
        for number, (odds, stakes) in enumerate(CASES):
            took, fetched = self.runs(odds, stakes)
            minutes = best_stretch(odds, stakes)
            left = np.where(took <= minutes, fetched - stakes.minute * took, stakes.stop - stakes.minute * minutes)
            with self.subTest(number):
                error = 4 * left.std() / RUNS**0.5
                self.assertAlmostEqual(going_on(odds, stakes, minutes), float(left.mean()), delta=error)
                # What it fetches need not lie even round its likely price: the chance is that of its spread.
                middle = np.where(
                    took <= minutes, fetched - stakes.minute * took, stakes.stop - stakes.minute * minutes
                )
                self.assertAlmostEqual(regret(odds, stakes, minutes), float((middle < stakes.stop).mean()), delta=0.01)

    def test_no_stopping_time_on_a_grid_is_better(self):
        for number, (odds, stakes) in enumerate(CASES):
            took, _ = self.runs(odds, stakes)
            grid = np.arange(STRETCH, HORIZON, 1.0)
            means = [
                float(np.where(took <= at, stakes.done - stakes.minute * took, stakes.stop - stakes.minute * at).mean())
                for at in grid
            ]
            best = going_on(odds, stakes, best_stretch(odds, stakes))
            with self.subTest(number):
                self.assertGreaterEqual(best, max(means) - 1.0)

    def test_minutes_without_a_result_condition_the_odds(self):
        """Of those runs that had no result by then, so many ever have one."""
        odds = CASES[0][0]
        took, _ = self.runs(*CASES[0])
        still = took[took > 50]
        self.assertAlmostEqual(odds.after(50).chance, float(np.isfinite(still).mean()), delta=0.01)


class Published(unittest.TestCase):
    def test_the_time_to_a_result_is_a_lomax(self):
        """An exponential whose rate is gamma is a Pareto of the second kind (Lomax 1954): scipy’s own."""
        for odds, _ in CASES:
            for minutes in (1.0, 20.0, 90.0):
                self.assertAlmostEqual(
                    float(odds.none_by(minutes)), float(lomax(odds.shape, scale=odds.scale).sf(minutes)), 12
                )
            self.assertAlmostEqual(odds.mean, float(lomax(odds.shape, scale=odds.scale).mean()), 9)


if __name__ == "__main__":
    unittest.main()
