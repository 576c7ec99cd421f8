from decimal import Decimal
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

from core.books.held import Came, held

D = Decimal


def lots(inside: int, outside: int) -> list[Came]:
    return [Came(D(0), D(10), D(5))] * inside + [Came(D(0), D(10), D(11))] * outside


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
