"""The drawn worth of a lot against distributions of scipy and closed forms worked independently."""

from decimal import Decimal
from unittest import TestCase

import numpy as np
from scipy import stats

from core.buying.bid import forecast
from core.buying.calibration import EXACT, STATED, Calibration
from core.buying.landed import Charge, ChargeKind
from core.buying.moments import moments
from core.buying.odds import (
    FAMILY_STRENGTH,
    SHOP_STRENGTH,
    STARTING,
    SUPPLIER_STRENGTH,
    SeenLine,
    effective,
    learn,
)
from core.buying.planned import BidLine, BidTerms, Case, PlannedTax, Targets

DRAWS = 60_000
# Nothing but the cases themselves: for laws that are known without errors of price and minutes.
PLAIN = BidTerms(lot_rho=0.0, calibration=EXACT)


def all_or_nothing(quantity: int, odds: float, rho: float, value: float = 1.0) -> BidLine:
    yes, no = Case(odds, value, value, value), Case(1 - odds)
    return BidLine("all or nothing", quantity, (yes, Case(0.0), Case(0.0), no), rho)


class Counts(TestCase):
    def assertFollows(self, quantity, odds, rho, probability):
        worth = forecast([all_or_nothing(quantity, odds, rho)], PLAIN, DRAWS, seed=7).total
        counts = np.bincount(np.rint(worth).astype(int), minlength=quantity + 1)
        expected = probability(np.arange(quantity + 1)) * DRAWS
        keep = expected > 5
        statistic = float((((counts - expected) ** 2) / np.maximum(expected, 1e-9))[keep].sum())
        # The seed is fixed: the bound is the 99.99 % point, so that only a wrong law can pass it.
        self.assertLess(statistic, stats.chi2.ppf(0.9999, keep.sum() - 1))

    def test_independent_pieces_are_binomial(self):
        for quantity, odds in ((1, 0.3), (4, 0.35), (10, 0.6)):
            self.assertFollows(quantity, odds, 0.0, stats.binom(quantity, odds).pmf)

    def test_pieces_stored_together_are_beta_binomial(self):
        for quantity, odds, rho in ((2, 0.5, 0.15), (8, 0.35, 0.15), (12, 0.6, 0.4)):
            weight = (1 - rho) / rho
            law = stats.betabinom(quantity, odds * weight, (1 - odds) * weight)
            self.assertFollows(quantity, odds, rho, law.pmf)

    def test_large_lines_too(self):
        weight = 0.85 / 0.15
        law = stats.betabinom(40, 0.35 * weight, 0.65 * weight)
        self.assertFollows(40, 0.35, 0.15, law.pmf)
        self.assertFollows(40, 0.35, 0.0, stats.binom(40, 0.35).pmf)

    def test_a_common_factor_keeps_the_odds_of_each_line(self):
        lines = [all_or_nothing(3, 0.35, 0.15), all_or_nothing(5, 0.7, 0.0)]
        drawn = forecast(lines, BidTerms(lot_rho=0.3, calibration=EXACT), DRAWS, seed=3)
        for line, worth in zip(lines, drawn.worth, strict=True):
            self.assertAlmostEqual(worth.mean() / line.quantity, line.cases[0].odds, delta=0.01)
        self.assertGreater(np.corrcoef(drawn.worth)[0, 1], 0.1)


class Moments(TestCase):
    LINES = (
        BidLine(
            "a",
            3,
            (Case(0.4, 60, 100, 150, 10, 60), Case(0.3, 40, 70, 90, 30, 150), Case(0.2, 10, 20, 40, 0, 20), Case(0.1)),
            0.15,
        ),
        BidLine("b", 20, (Case(0.5, 8, 10, 15), Case(0.2, 4, 6, 9, 1, 5), Case(0.2, 1, 2, 3), Case(0.1)), 0.3),
    )

    def test_mean_and_variance_of_the_draws(self):
        for lot_rho in (0.0, 0.25):
            for known in (
                EXACT,
                STATED,
                Calibration(0.9, 0.3, 0.2, 1.2, 0.4, 0.5, 1.3, price_open=0.2, minutes_open=0.4),
            ):
                terms = BidTerms(
                    0.1, 24, lot_rho, postage=4, calibration=known, tax=PlannedTax("standard", Decimal(20))
                )
                drawn = forecast(self.LINES, terms, DRAWS, seed=11)
                mean, variance = moments(self.LINES, terms)
                self.assertAlmostEqual(drawn.total.mean(), mean, delta=4 * (variance / DRAWS) ** 0.5)
                self.assertAlmostEqual(drawn.total.var() / variance, 1, delta=0.03)

    def test_the_binomial_closed_form(self):
        mean, variance = moments([all_or_nothing(10, 0.3, 0.0, 50)], PLAIN)
        self.assertAlmostEqual(mean, 150)
        self.assertAlmostEqual(variance, 2500 * 10 * 0.3 * 0.7)

    def test_the_beta_binomial_closed_form(self):
        law = stats.betabinom(10, 0.3 * 4, 0.7 * 4)  # weight 4: rho = 1 / 5
        _, variance = moments([all_or_nothing(10, 0.3, 0.2, 50)], PLAIN)
        self.assertAlmostEqual(variance, 2500 * law.var())

    def test_pert_prices(self):
        """Mean and variance of scipy's beta on [60, 150] with the PERT shape through 100."""
        case = Case(1.0, 60, 100, 150)
        law = stats.beta(1 + 4 * 40 / 90, 1 + 4 * 50 / 90, 60, 90)
        self.assertAlmostEqual(case.mean_price, law.mean())
        self.assertAlmostEqual(case.price_variance, law.var())


class TheBidSolvesItsOwnCondition(TestCase):
    def test_to_the_cent(self):
        charges = (
            Charge(ChargeKind.PREMIUM, percent=Decimal(18)),
            Charge(ChargeKind.PREMIUM_TAX, percent=Decimal(20)),
            Charge(ChargeKind.FREIGHT, Decimal(45)),
            Charge(ChargeKind.DUTY, percent=Decimal("2.5")),
        )
        drawn = forecast(Moments.LINES, BidTerms(0.1, 24, 0.1, charges, Decimal("1.17")), seed=5)
        targets = Targets(margin=0.2, loss=0.3, hourly=5)
        keeps = {
            "margin": lambda at: at.profit >= targets.margin * drawn.expected.sales,
            "loss": lambda at: at.loss <= targets.loss,
            "hourly": lambda at: at.hourly >= targets.hourly,
        }
        for limit in drawn.limits(targets):
            self.assertTrue(keeps[limit.name](drawn.at(limit.bid)), limit)
            self.assertFalse(keeps[limit.name](drawn.at(limit.bid + Decimal("0.03"))), limit)
        most = drawn.most(targets)
        self.assertTrue(all(keep(drawn.at(most.bid)) for keep in keeps.values()))


class Learning(TestCase):
    def test_the_dirichlet_posterior_mean_worked_by_hand(self):
        """Conjugate updating: (prior weight x prior + counts) / (prior weight + n), level by level."""
        prior, elsewhere, family, supplier = STARTING["untested"], (30, 20, 10, 5), (4, 8, 2, 1), (7, 2, 2, 0)
        wide = [(SHOP_STRENGTH * p + n) / (SHOP_STRENGTH + 65) for p, n in zip(prior, elsewhere, strict=True)]
        middle = [(FAMILY_STRENGTH * m + n) / (FAMILY_STRENGTH + 15) for m, n in zip(wide, family, strict=True)]
        wanted = [(SUPPLIER_STRENGTH * m + n) / (SUPPLIER_STRENGTH + 11) for m, n in zip(middle, supplier, strict=True)]
        # Every piece a line of its own, and every other supplier with one: each counts whole.
        far, kin = ([SeenLine(*one) for one in enumerate(_one_by_one(counts), 2)] for counts in (elsewhere, family))
        learned = learn(prior, far, kin, [SeenLine(1, one) for one in _one_by_one(supplier)])
        for got, want in zip(learned.odds, wanted, strict=True):
            self.assertAlmostEqual(got, want)
        # The variance of a share around a share that is itself known only so well, as a part of p (1 - p): of the shop
        # by 12 + 65, of the family around it by 10 and then 15 seen, of the supplier around that by 8 and then 11 seen.
        shop = 1 / (SHOP_STRENGTH + 65 + 1)
        around = shop + (1 - shop) / (FAMILY_STRENGTH + 1)
        of_family = 1 / (1 / around + 15)
        around = of_family + (1 - of_family) / (SUPPLIER_STRENGTH + 1)
        weight = 1 / around - 1 + 11
        law = stats.beta(wanted[0] * weight, (1 - wanted[0]) * weight)
        self.assertAlmostEqual(learned.low, law.ppf(0.05))
        self.assertAlmostEqual(learned.high, law.ppf(0.95))

    def test_the_design_effect_of_clusters(self):
        """n of one cluster count n ÷ (1 + (n − 1) ρ): Kish, Survey Sampling, 1965; 25 at 0.15 are 25 ÷ 4.6."""
        self.assertAlmostEqual(sum(effective([SeenLine(1, (10, 10, 5, 0))])), 25 / 4.6)


def _one_by_one(counts: tuple[int, ...]) -> list[tuple[int, ...]]:
    """Counts of outcomes as so many lines of one piece."""
    return [tuple(int(other == place) for other in range(4)) for place, n in enumerate(counts) for _ in range(n)]
