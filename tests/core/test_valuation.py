from decimal import Decimal
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from core.books.valuation import AGE_WORDS, HeldUnit, together

D = Decimal
CENTS = st.integers(0, 10**6).map(lambda cents: D(cents) / 100)
UNITS = st.builds(HeldUnit, st.none() | CENTS, st.none() | CENTS, st.integers(0, 2000))


class AtTheLower(TestCase):
    @given(st.lists(UNITS, max_size=12))
    def test_it_is_the_lower_of_the_two_unit_by_unit_and_judged_only_where_both_are_known(self, units):
        found = together(units)
        known = [(unit.cost, unit.brings) for unit in units if unit.cost is not None]
        lower = (cost if brings is None else min(cost, brings) for cost, brings in known)
        self.assertEqual(found.at_lower, sum(lower, D(0)))
        self.assertEqual(found.cost, sum((cost for cost, _ in known), D(0)))
        self.assertEqual(found.unknown + len(known), found.pieces)

    def test_a_gain_of_one_does_not_make_good_the_loss_of_another(self):
        """IAS 2 ¶29: item by item. 100 that brings 60 and 50 that brings 200 stand at 110, not at 150."""
        found = together([HeldUnit(D(100), D(60), 5), HeldUnit(D(50), D(200), 5)])
        self.assertEqual((found.at_lower, found.too_much, found.dear), (110, 40, 1))

    def test_the_day_that_ends_an_age_belongs_to_it(self):
        for days, words in ((0, 0), (30, 0), (31, 1), (90, 1), (91, 2), (180, 2), (181, 3)):
            aged = together([HeldUnit(D(7), None, days)]).aged
            self.assertEqual([name for name, amount in aged if amount], [AGE_WORDS[words]], days)
