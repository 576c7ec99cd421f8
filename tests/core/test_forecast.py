from decimal import Decimal
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from core.books.forecast import Piece, PlannedCase, difference

D = Decimal
AMOUNT = st.integers(0, 50_000).map(lambda cents: D(cents) / 100)
WORKS, FAILS = PlannedCase(D("0.6"), D(100), D(10), D(20)), PlannedCase(D("0.4"), D(20), D(0), D(5))
CASES = (WORKS, FAILS)
PIECES = st.lists(st.builds(Piece, st.just(CASES), st.sampled_from([None, 0, 1]), AMOUNT, AMOUNT, AMOUNT), max_size=12)


class AgainstThePlan(TestCase):
    @given(PIECES, AMOUNT, AMOUNT)
    def test_the_steps_always_sum_to_the_difference(self, pieces, planned, paid):
        found = difference(pieces, planned, paid)
        self.assertEqual(sum(amount for _, amount in found.steps), found.gap)
        self.assertEqual(found.actual, sum((p.price - p.costs - p.labour for p in pieces), D(0)) - paid)

    def test_each_cause_by_itself(self):
        mean = D("48")  # 0.6 x 70 + 0.4 x 15
        for piece, paid, cause, amount in (
            (Piece(CASES, 0, D(100), D(10), D(20)), D(30), "odds", 70 - mean),
            (Piece(CASES, 1, D(20), D(0), D(5)), D(30), "odds", 15 - mean),
            (Piece(CASES, None, D(68) + 9, D(6), D(14)), D(30), "prices", D(9)),
            (Piece(CASES, None, D(68), D(6) + 4, D(14)), D(30), "costs", D(-4)),
            (Piece(CASES, None, D(68), D(6), D(14) - 7), D(30), "hours", D(7)),
            (Piece(CASES, None, D(68), D(6), D(14)), D(35), "charges", D(-5)),
        ):
            found = difference([piece], D(30), paid)
            self.assertEqual(found.planned, mean - 30)
            self.assertEqual(getattr(found, cause), amount, cause)
            others = [getattr(found, name) for name in ("odds", "prices", "costs", "hours", "charges") if name != cause]
            self.assertEqual(sum(others), 0, cause)
