from decimal import Decimal
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from core.books.forecast import Piece, PlannedCase, difference, planned_case
from core.buying.calibration import EXACT
from core.buying.planned import BidTerms, Case, PlannedTax, net_value

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


class ACaseAsItWasPlanned(TestCase):
    @given(
        st.integers(0, 300),
        st.integers(0, 60),
        st.integers(0, 240),
        st.floats(0, 0.2),
        st.integers(0, 20),
        st.sampled_from(["none", "standard"]),
    )
    def test_it_leaves_what_the_forecast_said(self, price, cost, minutes, fee, postage, scheme):
        case = Case(0.4, price, price, price, cost, minutes)
        terms = BidTerms(fee, 24.0, postage=postage, tax=PlannedTax(scheme, Decimal(25)), calibration=EXACT)
        planned = planned_case(case, terms, Decimal(0))
        self.assertAlmostEqual(float(planned.price - planned.costs - planned.labour), net_value(case, terms), places=6)

    def test_what_it_carries_is_set_against_its_price(self):
        case = Case(1.0, 100, 100, 100)
        for scheme, carried, tax in (
            ("margin", 40, 12),
            ("margin", 140, 0),
            ("global", 40, 12),
            ("global", 140, -8),
            ("standard", 40, 20),
            ("none", 40, 0),
        ):
            terms = BidTerms(tax=PlannedTax(scheme, Decimal(25)), calibration=EXACT)
            self.assertAlmostEqual(float(planned_case(case, terms, Decimal(carried)).costs), tax, places=6)
