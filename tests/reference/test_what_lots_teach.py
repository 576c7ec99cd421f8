"""What sold lines teach a plan, against a published analysis of variance, a posterior on a grid, and scipy."""

from dataclasses import replace
from unittest import TestCase
from unittest.mock import patch

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats

from core.buying import calibration
from core.buying.calibration import (
    EXACT,
    FURTHEST,
    STATED,
    Calibration,
    SoldLine,
    learn_spreads,
    learn_width,
    relative_variance,
)

# Calcium in four leaves of turnip greens, four samples of each: Snedecor and Cochran, Statistical Methods, the example
# of components of variance in a one-way classification (from memory). There the mean square between leaves is 0.2961,
# within 0.0066, and the components come to 0.0724 and 0.0066.
LEAVES = (
    (3.28, 3.09, 3.03, 3.03),
    (3.52, 3.48, 3.38, 3.38),
    (2.88, 2.80, 2.81, 2.76),
    (3.34, 3.38, 3.23, 3.26),
)
BETWEEN, WITHIN = 0.0724, 0.0066


def as_lines(rows) -> list[SoldLine]:
    """Rows of logarithms as lines that sold for so much and took so long, brought to lie around 1."""
    centre = np.mean(np.concatenate(rows))
    ratios = [tuple(np.exp(np.array(row) - centre).tolist()) for row in rows]
    return [SoldLine(of_line, of_line) for of_line in ratios]


class ComponentsOfVariance(TestCase):
    def nothing_beside(self):
        return patch.multiple(calibration, LINES_BESIDE=0.0, PIECES_BESIDE=0.0)

    def test_a_published_example(self):
        with self.nothing_beside():
            found = learn_spreads(as_lines(LEAVES))
        self.assertAlmostEqual(found.line_price**2, BETWEEN, places=4)
        self.assertAlmostEqual(found.sale_price**2, WITHIN, places=4)

    def test_the_mean_square_between_lines_is_that_of_scipy(self):
        """F of the one-way analysis is (within + n · between) ÷ within."""
        with self.nothing_beside():
            found = learn_spreads(as_lines(LEAVES))
        between, within = found.line_price**2, found.sale_price**2
        self.assertAlmostEqual((within + 4 * between) / within, stats.f_oneway(*LEAVES).statistic, places=4)

    def test_what_is_stated_counts_for_as_many_as_it_says(self):
        """Sums of squares and counts of both, added up."""
        stated = replace(STATED, line_price=0.5, sale_price=0.2)
        found = learn_spreads(as_lines(LEAVES), stated)
        inside = 12 * WITHIN
        own = (8 * 0.04 + inside) / (8 + 12)
        self.assertAlmostEqual(found.sale_price**2, own, places=4)
        centres = 3 * (BETWEEN + WITHIN / 4)
        self.assertAlmostEqual(found.line_price**2, (4 * 0.25 + centres - own / 4 * 3) / (4 + 3), places=4)

    def test_lines_of_different_length_are_unbiased(self):
        """Many shops with lines of one to six pieces: on average the components come out as they are."""
        dice = np.random.default_rng(8)
        between, within = [], []
        with self.nothing_beside():
            for _ in range(400):
                rows = [
                    dice.normal(0.3 * dice.standard_normal(), 0.2, size=int(dice.integers(1, 7))) for _ in range(12)
                ]
                found = learn_spreads(as_lines(rows))
                between.append(found.line_price**2)
                within.append(found.sale_price**2)
        self.assertAlmostEqual(float(np.mean(between)), 0.09, delta=0.006)
        self.assertAlmostEqual(float(np.mean(within)), 0.04, delta=0.002)


class TheMeanOfPrices(TestCase):
    @given(
        st.floats(0.6, 1.6),
        st.floats(0.05, 0.4),
        st.lists(st.lists(st.floats(0.5, 2.0), min_size=1, max_size=4), min_size=1, max_size=5),
    )
    @settings(max_examples=25, deadline=None)
    def test_it_is_the_posterior_on_a_grid(self, mean, known_to, lines):
        """Each line’s mean logarithm is normal around that of all, with what its spreads make it; before, the logarithm
        of the level is normal around what is stated. Worked out point by point, with no formula for the answer."""
        stated = replace(STATED, price=mean, price_open=known_to)
        found = learn_spreads([SoldLine(tuple(line)) for line in lines], stated)
        around = max(known_to, 0.2)
        grid = np.linspace(np.log(mean) - 8 * around - 1, np.log(mean) + 8 * around + 1, 40_001)
        told = stats.norm.logpdf(grid, np.log(mean) - known_to**2 / 2, known_to)
        for line in lines:
            own = (found.line_price**2 + found.sale_price**2 / len(line)) ** 0.5
            # The mean of a lognormal lies above its middle by half the variance of one piece.
            middle = grid - (found.line_price**2 + found.sale_price**2) / 2
            told += stats.norm.logpdf(float(np.mean(np.log(line))), middle, max(own, 1e-3))
        weights = np.exp(told - told.max())
        weights /= weights.sum()
        self.assertAlmostEqual(found.price, float(weights @ np.exp(grid)), delta=2e-3 * found.price)
        centre = float(weights @ grid)
        self.assertAlmostEqual(found.price_open, float(weights @ (grid - centre) ** 2) ** 0.5, delta=1e-3)

    @given(st.lists(st.floats(0.2, 5.0), min_size=2, max_size=6), st.randoms(use_true_random=False))
    @settings(max_examples=40, deadline=None)
    def test_the_order_in_which_lines_sold_does_not_matter(self, ratios, dice):
        lines = [SoldLine((ratio, ratio * 1.1), (1 / ratio,)) for ratio in ratios]
        shuffled = lines[:]
        dice.shuffle(shuffled)
        for one, other in zip(vars(learn_spreads(lines)).values(), vars(learn_spreads(shuffled)).values(), strict=True):
            self.assertAlmostEqual(one, other)

    def test_what_is_known_for_certain_is_not_moved(self):
        """Nothing open: prices that came to half leave the level where it was stated."""
        found = learn_spreads([SoldLine((0.5,))] * 20, EXACT)
        self.assertEqual((found.price, found.price_open), (1.0, 0.0))

    def test_a_slip_of_the_pen_counts_as_the_furthest(self):
        slip, furthest = (learn_spreads([SoldLine((ratio,))]).price for ratio in (1e6, FURTHEST))
        self.assertEqual(slip, furthest)


class HowFarLotsLie(TestCase):
    def test_the_variance_of_a_lognormal_of_mean_one(self):
        for spread in (0.05, 0.2, 0.6, 1.1):
            law = stats.lognorm(spread, scale=np.exp(-(spread**2) / 2))
            self.assertAlmostEqual(law.mean(), 1.0)
            self.assertAlmostEqual(relative_variance(spread), law.var())

    def test_lots_as_far_off_as_they_should_be_leave_the_width_at_one(self):
        """Standard normal distances, those beyond three cut to three: 1 less a hair."""
        off = stats.norm.ppf((np.arange(4000) + 0.5) / 4000)
        self.assertAlmostEqual(learn_width(STATED, list(off)).width, 1.0, delta=0.01)

    def test_lots_twice_as_far_off_are_found_out_as_fast_as_a_mean_of_squares(self):
        """With n lots the width is the square root of (10 + 4 n) ÷ (10 + n), n the squares of lots at two spreads."""
        for n in (1, 5, 30, 400):
            width = learn_width(Calibration(), [2.0] * n).width
            self.assertAlmostEqual(width, ((10 + 4 * n) / (10 + n)) ** 0.5)
