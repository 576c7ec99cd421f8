"""What a lot costs all-in at any bid, and the highest bid for what may be spent."""

import unittest
from decimal import Decimal as D

from hypothesis import given, settings
from hypothesis import strategies as st

from core.buying.landed import Band, Charge, ChargeKind
from core.buying.outlay import Outlay
from core.buying.planned import BidTerms, PlannedTax

CENT = D("0.01")
RATES = st.sampled_from([D(1), D("1.17"), D("0.0871")])
PREMIUMS = st.sampled_from(
    [
        Charge(ChargeKind.PREMIUM, percent=D(18)),
        Charge(ChargeKind.PREMIUM, bands=(Band(D(25), D(1000)), Band(D(20), D(5000)), Band(D(12)))),
    ]
)


@st.composite
def outlays(draw) -> Outlay:
    charges = [draw(PREMIUMS)]
    if draw(st.booleans()):
        charges.append(Charge(ChargeKind.FREIGHT, amount=draw(st.decimals(0, 400, places=2))))
    if draw(st.booleans()):
        charges.append(Charge(ChargeKind.DUTY, percent=draw(st.decimals(0, 20, places=1))))
    return Outlay(BidTerms(charges=tuple(charges), rate=draw(RATES)), 9000.0)


class AllIn(unittest.TestCase):
    @given(outlays(), st.decimals(0, 9000, places=2))
    @settings(max_examples=60, deadline=None)
    def test_the_highest_bid_just_stays_within(self, outlay, most):
        bid = outlay.highest(float(most))
        if bid is None:
            self.assertGreater(outlay.landed(D(0)), most)
            return
        self.assertLessEqual(outlay.landed(bid), most)
        self.assertGreater(outlay.landed(bid + CENT), most)

    @given(outlays(), st.decimals(0, 5000, places=2), st.decimals("0.01", 500, places=2))
    @settings(max_examples=40, deadline=None)
    def test_a_higher_bid_never_costs_less(self, outlay, bid, more):
        self.assertLess(outlay.landed(bid), outlay.landed(bid + more) + CENT)
        self.assertLessEqual(outlay.at(bid)[1], float(outlay.landed(bid)) + 0.005)

    @given(outlays(), st.decimals(1, 4000, places=2))
    @settings(max_examples=40, deadline=None)
    def test_what_counts_as_bought_for_follows_from_what_is_paid(self, outlay, bid):
        landed, counted = outlay.at(bid)
        # Laid straight between 129 places where charges go in bands.
        self.assertAlmostEqual(outlay.bought_for(float(landed)), counted, delta=0.02 + 0.002 * counted)

    def test_price_and_premium_count_and_a_shop_may_say_the_price_alone(self):
        charges = (Charge(ChargeKind.PREMIUM, percent=D(18)), Charge(ChargeKind.FREIGHT, amount=D(30)))
        for premium_counts, counted in ((True, 118.0), (False, 100.0)):
            tax = PlannedTax("margin", D(25), premium_counts)
            outlay = Outlay(BidTerms(charges=charges, tax=tax), 500.0)
            self.assertEqual(outlay.at(D(100)), (D("148.00"), counted))
            self.assertAlmostEqual(outlay.bought_for(148.0), counted, delta=0.01)

    def test_a_lot_whose_freight_alone_is_too_much(self):
        outlay = Outlay(BidTerms(charges=(Charge(ChargeKind.FREIGHT, amount=D(90)),)), 100.0)
        self.assertIsNone(outlay.highest(89.99))
        self.assertEqual(outlay.highest(90.0), D("0.00"))
        self.assertEqual(outlay.highest(95.5), D("5.50"))
