"""Two settings tried against one another by a number."""

from decimal import Decimal as D
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from core.workshop.settings import better

FIGURES = st.decimals(D(-1000), D(1000), places=3)


class Better(TestCase):
    @given(FIGURES, FIGURES, st.booleans())
    def test_turned_round_the_other_is_better(self, one, other, more):
        turned = {"first": "second", "second": "first", "neither": "neither"}
        self.assertEqual(better(one, other, more), turned[better(other, one, more)])
        self.assertEqual(better(one, other, more) == "neither", one == other)

    def test_more_or_less(self):
        self.assertEqual(better(D(30), D(24), True), "first")
        self.assertEqual(better(D(30), D(24), False), "second")
