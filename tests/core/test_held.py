from decimal import Decimal
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

from core.books.held import Came, held, left_by
from core.buying.planned import PlannedTax

D = Decimal


def lots(inside: int, outside: int) -> list[Came]:
    return [Came(D(0), D(10), D(5))] * inside + [Came(D(0), D(10), D(11))] * outside


class WhatALotLeft(TestCase):
    # Bought for 40 and 5 freight, sold for 100, of which 8 fee, 6 parts and 10 labour.
    MONEY = {"purchase": D(45), "sale": D(-100), "fee": D(8), "part_issued": D(6), "labour": D(10)}

    def left(self, scheme, tax=None, **terms):
        money = self.MONEY if tax is None else {**self.MONEY, "tax": D(tax)}
        found = left_by(money, D(45), D(40), PlannedTax(scheme, D(25), **terms))
        return found.before_tax, found.after_tax

    def test_without_tax_it_is_what_was_sold_less_what_selling_and_mending_took(self):
        self.assertEqual(self.left("none"), (76, 76))

    def test_tax_on_all_that_is_sold_is_taken_either_way(self):
        self.assertEqual(self.left("standard", 20), (56, 56))

    def test_a_tax_on_the_margin_is_put_back_for_the_forecast(self):
        self.assertEqual(self.left("margin", 12), (76, 64))

    def test_a_tax_over_a_period_is_the_lots_own_part_of_it(self):
        """A fifth of 100 sold, and a fifth of the 40 it was bought for set against that."""
        self.assertEqual(self.left("global"), (56, 64))

    @given(st.sampled_from(["none", "standard", "margin", "global"]), st.integers(0, 300), st.integers(0, 90))
    def test_the_tax_of_a_period_and_of_one_lot_that_gained_come_to_the_same(self, scheme, sold, fee):
        money = {"purchase": D(45), "sale": D(-sold), "fee": D(fee)}
        found = left_by(money, D(45), D(40), PlannedTax(scheme, D(25)))
        self.assertGreaterEqual(found.after_tax, found.before_tax - D(1) / 1000)
        if scheme == "global" and sold >= 40:
            taxed = left_by({**money, "tax": D(sold - 40) / 5}, D(45), D(40), PlannedTax("margin", D(25)))
            self.assertEqual(found.after_tax, taxed.after_tax)

    @given(
        st.lists(st.tuples(st.sampled_from(["price", "premium", "freight"]), st.integers(0, 500)), max_size=4),
        st.booleans(),
    )
    def test_only_what_counts_is_set_against_a_tax_of_the_period(self, charges, premium_counts):
        """The lot’s own part of the tax falls by r ÷ (100 + r) of it."""
        tax = PlannedTax("global", D(25), premium_counts)
        bought_for = sum((D(amount) for kind, amount in charges if kind in tax.counted), D(0))
        left = left_by({"sale": D(-300)}, D(0), bought_for, tax)
        self.assertEqual(left.after_tax - left.before_tax, bought_for / 5)
        self.assertLessEqual(bought_for, sum(amount for kind, amount in charges if kind != "freight"))

    def test_what_counts_as_bought_for(self):
        self.assertEqual({str(kind) for kind in PlannedTax("margin", D(25)).counted}, {"price", "premium"})
        self.assertEqual({str(kind) for kind in PlannedTax("margin", D(25), False).counted}, {"price"})


class Held(TestCase):
    @given(st.integers(0, 40), st.integers(0, 40))
    def test_the_interval_is_that_of_clopper_and_pearson(self, inside, outside):
        """Against scipy’s exact interval of a binomial share."""
        found = held(lots(inside, outside))
        if inside + outside:
            exact = stats.binomtest(inside, inside + outside).proportion_ci(0.95, "exact")
            self.assertAlmostEqual(found.low, exact.low, places=6)
            self.assertAlmostEqual(found.high, exact.high, places=6)
        self.assertEqual((found.inside, found.lots), (inside, inside + outside))

    def test_one_lot_outside_says_little_and_ten_of_ten_say_much(self):
        self.assertTrue(held(lots(0, 1)).as_meant)
        self.assertFalse(held(lots(0, 10)).as_meant)
        self.assertTrue(held(lots(20, 2)).as_meant)
        self.assertEqual((held([]).low, held([]).high), (0, 1))

    def test_where_it_came(self):
        self.assertEqual([Came(D(10), D(20), D(x)).place for x in (5, 10, 15, 20)], [-0.5, 0, 0.5, 1])
        self.assertEqual(Came(D(3), D(3), D(3)).place, 0.5)
        self.assertTrue(Came(D(3), D(3), D(3)).inside)
