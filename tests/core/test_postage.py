"""What sending is reckoned to take, by what it took."""

from decimal import Decimal
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from core.selling.postage import sent

D = Decimal
AMOUNTS = st.lists(st.integers(0, 60).map(D), max_size=8)


class Postage(TestCase):
    def test_by_model_by_shape_and_as_usual(self):
        known = sent(D(9), [(1, "monitor", D(30)), (2, "monitor", D(24)), (None, "board", D(5))])
        # (9 + 30 + 24) ÷ 3, and (21 + 30) ÷ 2.
        for model, shape, amount, words in (
            (3, "monitor", "21.00", "as 2 of its shape took"),
            (None, "monitor", "21.00", "as 2 of its shape took"),
            (1, "monitor", "25.50", "as 1 of its model took"),
            (None, "board", "7.00", "as 1 of its shape took"),
            (1, "board", "18.50", "as 1 of its model took"),
            (None, "tower", "9.00", ""),
        ):
            found = known.postage(model, shape)
            self.assertEqual((found.amount, found.words), (D(amount), words), (model, shape))

    @given(st.integers(0, 60).map(D), AMOUNTS, AMOUNTS)
    def test_it_lies_within_what_was_seen_and_what_is_usual(self, usual, mine, others):
        rows = [(1, "tower", took) for took in mine] + [(2, "tower", took) for took in others]
        amount = sent(usual, rows).postage(1, "tower").amount
        self.assertTrue(min([usual, *mine, *others]) <= amount <= max([usual, *mine, *others]))

    @given(st.integers(0, 60).map(D))
    def test_what_is_often_so_is_learned(self, took):
        self.assertLess(abs(sent(D(9), [(1, "tower", took)] * 99).postage(1, "tower").amount - took), 1)
