"""What the shop learned, against tables, other ways to reckon it, and shops whose truth is known.

Median: ranks of the interval of the sign test (Conover, Practical Nonparametric Statistics, from memory), and the same
share by counting. Poisson: Garwood (1936), the table of 95 % limits, from memory; and the distribution itself.
"""

from datetime import datetime, timedelta
from itertools import product
from math import prod
from unittest import TestCase

import numpy as np
from scipy.stats import binom, poisson

from core.books.lessons import against, awaited, came_of, middle, named
from core.selling.waiting import Stay

# Of so many values, the ranks of the two between which the median of all lies 95 times in 100.
RANKS = {6: (1, 6), 8: (1, 8), 9: (2, 8), 12: (3, 10), 20: (6, 15), 25: (8, 18), 100: (40, 61)}
# Of so many that came: lowest and highest mean.
GARWOOD = {0: (0, 3.69), 1: (0.0253, 5.57), 2: (0.242, 7.22), 5: (1.62, 11.67), 10: (4.80, 18.39), 30: (20.24, 42.83)}


class Median(TestCase):
    def test_ranks(self):
        for count, (low, high) in RANKS.items():
            found = middle(range(1, count + 1))
            self.assertEqual((found.low, found.high), (low, high), count)
            self.assertGreaterEqual(1 - 2 * binom.cdf(low - 1, count, 0.5), 0.95)
            # One rank farther in holds it less often.
            self.assertLess(1 - 2 * binom.cdf(low, count, 0.5), 0.95)

    def test_it_holds_the_middle_of_what_is_skew(self):
        drawn = np.random.default_rng(5).lognormal(-0.1, 0.4, (2000, 15))
        held = [found.low <= np.exp(-0.1) <= found.high for found in map(middle, drawn)]
        # Exactly .965 by the ranks 4 and 12.
        self.assertAlmostEqual(np.mean(held), 0.965, delta=0.012)


class Poisson(TestCase):
    def test_published_limits(self):
        for came, (low, high) in GARWOOD.items():
            found = against(came, 1.0)
            self.assertAlmostEqual(found.low, low, delta=0.006)
            self.assertAlmostEqual(found.high, high, delta=0.006)

    def test_by_the_distribution(self):
        for came in (1, 4, 17):
            found = against(came, 2.0)
            self.assertAlmostEqual(poisson.sf(came - 1, found.low * 2), 0.025)
            self.assertAlmostEqual(poisson.cdf(came, found.high * 2), 0.025)


class FirstSuspects(TestCase):
    def test_against_every_way_it_could_have_come(self):
        odds = (0.35, 0.5, 0.6, 0.22, 0.9, 0.41)
        chances = np.zeros(len(odds) + 1)
        for ways in product((False, True), repeat=len(odds)):
            chances[sum(ways)] += prod(p if hit else 1 - p for p, hit in zip(odds, ways, strict=True))
        found = named([(p, True) for p in odds])
        below = np.cumsum(chances)
        self.assertEqual(found.fewest, min(k for k in range(7) if below[k] > 0.025))
        self.assertEqual(found.most, min(k for k in range(7) if below[k] >= 0.975))
        self.assertEqual((found.hits, found.count, found.off), (6, 6, 1))
        self.assertAlmostEqual(found.expected, sum(odds))

    def test_what_is_certain(self):
        found = named([(1.0, True)] * 4)
        self.assertEqual((found.fewest, found.most, found.off), (4, 4, 0))
        self.assertEqual(named([]).off, 0)


class Trade:
    """Shops where things sell at a pace of their own, watched for a year; many still stand there at its end."""

    def __init__(self, pace: float, shops: int) -> None:
        self.chance = np.random.default_rng(11)
        self.pace, self.begin = pace, datetime(2026, 1, 1)
        self.now = self.begin + timedelta(days=365)
        self.found = [came_of(awaited(self._stays(), self.now)) for _ in range(shops)]

    def _stays(self) -> list[Stay]:
        stays = []
        for day, ratio in zip(self.chance.uniform(0, 360, 40), self.chance.uniform(0.8, 1.3, 40), strict=True):
            begun = self.begin + timedelta(days=day)
            weeks = self.chance.exponential(1 / (self.pace * np.exp(-6 * (ratio - 1))))
            # A third is priced anew after eight weeks.
            waited = min(weeks, 8.0) if self.chance.random() < 1 / 3 else weeks
            ended = begun + timedelta(weeks=waited)
            sold = waited == weeks
            stays.append(Stay(1, ratio, begun, ended if ended <= self.now else None, sold and ended <= self.now))
        return stays


class Waiting(TestCase):
    def test_a_shop_that_sells_as_we_begin_to_reckon_is_not_called_another(self):
        found = Trade(0.12, 200).found
        times = sum(one.came for one in found) / sum(one.expected for one in found)
        self.assertAlmostEqual(times, 1, delta=0.05)
        self.assertLessEqual(np.mean([one.off != 0 for one in found]), 0.05)

    def test_one_that_sells_much_slower_at_first_is_seen(self):
        """Its pace is learned as the year goes; it is judged by what was known before."""
        found = Trade(0.03, 40).found
        self.assertGreater(np.mean([one.off < 0 for one in found]), 0.8)
        self.assertEqual([one for one in found if one.off > 0], [])
