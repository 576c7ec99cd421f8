"""What sales teach of a buyer, against scikit-learn's ridge regression, on made-up sales whose truth is known."""

import unittest
from decimal import Decimal

import numpy as np
from sklearn.linear_model import Ridge

from core.workshop.upgrades.buyers import DOUBT, SPREAD, Buyer, Sold, read_effects, ridge, taught

NAMES = ("sound", "network", "maths chip", "modern part", "memory 8 mib")
TRUE = np.array([0.30, 0.05, 0.12, -0.15, 0.0])
TABLE = "sound: +10 %\nnetwork: +10 %\nmaths chip: +10 %\nmodern part: -10 %\nmemory 8 MiB: +10 %"


def sales(count: int, seed: int = 3, noise: float = 0.1) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """What each had, the logarithm of its price, and how much it counts."""
    dice = np.random.default_rng(seed)
    shown = (dice.random((count, len(NAMES))) < 0.5).astype(float)
    logs = 5 + shown @ TRUE + dice.normal(0, noise, count)
    return shown, logs, dice.uniform(0.2, 1.5, count)


class AgainstScikitLearn(unittest.TestCase):
    """The penalty is on the distance from the table: of what the table leaves unexplained it is plain ridge."""

    def test_the_same_to_nine_places(self):
        table = np.log(np.array([1.1, 1.1, 1.1, 0.9, 1.1]))
        for count, strength in ((8, 2.25), (20, 0.5), (200, 10.0), (40, 1e-6)):
            shown, logs, weights = sales(count)
            theirs = Ridge(alpha=strength, fit_intercept=True, tol=1e-12)
            theirs.fit(shown, logs - shown @ table, sample_weight=weights)
            ours = ridge(shown, logs, weights, table, strength)
            np.testing.assert_allclose(ours, theirs.coef_ + table, atol=1e-9)

    def test_with_many_sales_the_truth_is_found_and_with_few_the_table_holds(self):
        table = np.log(np.array([1.1, 1.1, 1.1, 0.9, 1.1]))
        shown, logs, weights = sales(5000)
        np.testing.assert_allclose(ridge(shown, logs, weights, table, (SPREAD / DOUBT) ** 2), TRUE, atol=0.02)
        shown, logs, weights = sales(8)
        near = np.abs(ridge(shown, logs, weights, table, 1e6) - table).max()
        self.assertLess(near, 1e-4)


class Taught(unittest.TestCase):
    buyer = Buyer("games", "Period games", "", read_effects(TABLE))

    def sold(self, count: int, buyer: str = "games") -> list[Sold]:
        shown, logs, weights = sales(count)
        return [
            Sold(
                Decimal(round(float(np.exp(log)), 2)),
                frozenset(name for name, there in zip(NAMES, row, strict=True) if there),
                float(weight),
                buyer,
            )
            for row, log, weight in zip(shown, logs, weights, strict=True)
        ]

    def test_seven_sales_teach_nothing_eight_do(self):
        self.assertEqual(taught(self.buyer, Decimal(200), self.sold(7)), self.buyer)
        learned = taught(self.buyer, Decimal(200), self.sold(8))
        self.assertEqual(learned.sales, 8)
        self.assertNotEqual(learned.effects, self.buyer.effects)

    def test_sales_to_others_teach_nothing_of_him_and_those_to_nobody_known_do(self):
        self.assertEqual(taught(self.buyer, Decimal(200), self.sold(30, "collector")).sales, 0)
        self.assertEqual(taught(self.buyer, Decimal(200), self.sold(30, "")).sales, 30)

    def test_many_sales_come_to_the_truth_in_percent(self):
        learned = taught(self.buyer, Decimal(200), self.sold(3000))
        for effect, true in zip(learned.effects, np.expm1(TRUE) * 100, strict=True):
            self.assertAlmostEqual(float(effect.percent or 0), true, delta=2.5)

    def test_a_feature_that_all_or_none_had_stays_as_the_table_has_it(self):
        all_had = [Sold(one.price, one.features | {"sound"}, one.weight, "games") for one in self.sold(30)]
        learned = taught(self.buyer, Decimal(200), all_had)
        self.assertEqual(learned.effects[0], self.buyer.effects[0])
        self.assertNotEqual(learned.effects[1], self.buyer.effects[1])

    def test_a_machine_worth_nothing_and_sales_that_weigh_nothing_teach_nothing(self):
        self.assertEqual(taught(self.buyer, Decimal(0), self.sold(30)).sales, 0)
        weightless = [Sold(one.price, one.features, 0.0, "games") for one in self.sold(30)]
        self.assertEqual(taught(self.buyer, Decimal(200), weightless).sales, 0)
