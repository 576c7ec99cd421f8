"""What kinds of lots pay, against a published example, a shrinkage worked by hand and trades whose truth is known.

Eight schools: data of Rubin (1981) as in Gelman et al., Bayesian Data Analysis, 3rd ed., table 5.2; medians and
quartiles of table 5.3. Both from memory; the table’s figures are those of 200 draws, so they are compared within 2.
"""

from unittest import TestCase

import numpy as np

from core.books.pays import Mixture, Put, mixture, pays

EFFECTS = np.array([28, 8, -3, 7, -1, 1, 18, 12], dtype=float)
ERRORS = np.array([15, 10, 16, 11, 9, 11, 10, 18], dtype=float)
# Lower quartile, median, upper quartile.
PUBLISHED = [(7, 10, 16), (3, 8, 12), (2, 7, 11), (4, 8, 11), (1, 5, 10), (2, 6, 10), (7, 10, 15), (3, 8, 13)]


class EightSchools(TestCase):
    def test_quartiles_and_medians(self):
        # The book’s prior: every spread alike.
        found = Mixture(*mixture(EFFECTS, ERRORS**2, np.linspace(0.01, 60, 3000)))
        quartiles = np.array([found.quantiles(share) for share in (0.25, 0.5, 0.75)])
        np.testing.assert_allclose(quartiles.T, PUBLISHED, atol=2)

    def test_no_spread_is_one_mean_for_all_and_a_wide_one_each_its_own(self):
        """Complete pooling gives 7.7 with a standard error of 4.1 (same source, section 5.5)."""
        _, centres, deviations = mixture(EFFECTS, ERRORS**2, np.array([1e-9, 1e9]))
        np.testing.assert_allclose(centres[0], 7.69, atol=0.01)
        np.testing.assert_allclose(deviations[0], 4.07, atol=0.01)
        np.testing.assert_allclose(centres[1], EFFECTS, atol=0.01)
        np.testing.assert_allclose(deviations[1], ERRORS, atol=0.01)


class ByHand(TestCase):
    def test_three_kinds(self):
        """Means 10, 20, 30 with error variances 4, 4, 8 and a spread of 2 (variance 4): the sums 8, 8, 12 weigh
        3 : 3 : 2, so that the mean of all is 18.75; the kinds keep 1/2, 1/2 and 1/3 of their distance to it."""
        _, centres, _ = mixture(np.array([10.0, 20.0, 30.0]), np.array([4.0, 4.0, 8.0]), np.array([2.0]))
        np.testing.assert_allclose(centres[0], [14.375, 19.375, 22.5])


class TradesOfWhichTheTruthIsKnown(TestCase):
    """Kinds drawn from one distribution, lots from their kinds: nine in ten intervals hold the truth, within 3."""

    def share_held(self, kinds: int, most_lots: int, spread: float, seed: int, shops: int = 150) -> float:
        draw, held, asked = np.random.default_rng(seed), 0, 0
        for _ in range(shops):
            true = draw.normal(0.4, spread, kinds)
            seen = {}
            for kind in range(kinds):
                puts = draw.uniform(50, 500, draw.integers(1, most_lots + 1))
                # The variance of a lot grows with what was put in: 0.25 for a lot of 200 euros.
                came = draw.normal(true[kind] * puts, 0.5 * np.sqrt(200 * puts))
                seen[kind] = [Put(float(earned), float(put)) for earned, put in zip(came, puts, strict=True)]
            if max(map(len, seen.values())) < 2:
                continue
            for kind, one in pays(seen).items():
                held += one.likely.low <= true[kind] <= one.likely.high
                asked += 1
        return held / asked

    def test_nine_in_ten_hold(self):
        for kinds, lots, spread in ((4, 6, 0.5), (6, 3, 0.2), (3, 10, 1.0)):
            share = self.share_held(kinds, lots, spread, seed=kinds)
            self.assertLess(abs(share - 0.9), 0.03, (kinds, lots, spread, share))

    def test_where_kinds_hardly_differ_it_holds_more_rather_than_fewer(self):
        self.assertGreater(self.share_held(8, 4, 0.05, seed=8), 0.9)
