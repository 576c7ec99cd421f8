from decimal import Decimal
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from core.buying.landed import Charge, ChargeError, ChargeKind, landed_cost
from core.buying.share import Basis, ShareError, ShareLine, share_cost

D = Decimal
AMOUNT = st.decimals(0, 10**6, places=2)
PERCENT = st.decimals(0, 100, places=2)
LINES = st.lists(
    st.builds(
        ShareLine,
        st.integers(1, 50),
        st.decimals(0, 100, places=2),
        AMOUNT,
        AMOUNT,
        AMOUNT,
        AMOUNT,
    ),
    min_size=1,
    max_size=20,
)


class LandedCosts(TestCase):
    def test_every_charge_with_its_reason(self):
        cost = landed_cost(
            [
                Charge(ChargeKind.DUTY, percent=D("2.5")),
                Charge(ChargeKind.PRICE, D(260)),
                Charge(ChargeKind.PREMIUM, percent=D(18)),
                Charge(ChargeKind.PREMIUM_TAX, percent=D(20)),
                Charge(ChargeKind.FREIGHT, D(64)),
            ],
            D("1.17"),
        )
        self.assertEqual([c.foreign for c in cost.charges], [D(260), D("46.80"), D("9.36"), D(64), D("8.10")])
        self.assertEqual(cost.total, D("304.20") + D("54.76") + D("10.95") + D("74.88") + D("9.48"))
        self.assertEqual(cost.charges[-1].how, "2.5 % of price + freight")

    @given(AMOUNT, PERCENT, AMOUNT, PERCENT, st.decimals("0.0001", 100, places=4))
    def test_the_table_adds_up(self, price, premium, freight, duty, rate):
        cost = landed_cost(
            [
                Charge(ChargeKind.PRICE, price),
                Charge(ChargeKind.PREMIUM, percent=premium),
                Charge(ChargeKind.FREIGHT, freight),
                Charge(ChargeKind.DUTY, percent=duty),
            ],
            rate,
        )
        self.assertEqual(cost.total, sum(c.base for c in cost.charges))
        self.assertTrue(all(c.base >= 0 and c.base == round(c.base, 2) for c in cost.charges))

    def test_what_cannot_be_is_refused_at_its_charge(self):
        for charge in (
            Charge(ChargeKind.PRICE, D(-1)),
            Charge(ChargeKind.PREMIUM, percent=D(101)),
            Charge(ChargeKind.PRICE, percent=D(5)),
            Charge(ChargeKind.DUTY, percent=D(-1)),
        ):
            with self.assertRaises(ChargeError) as caught:
                landed_cost([charge], D(1))
            self.assertEqual(caught.exception.kind, charge.kind)
        with self.assertRaises(ChargeError):
            landed_cost([Charge(ChargeKind.PRICE, D(1))] * 2, D(1))


class Sharing(TestCase):
    @given(st.integers(0, 10**8).map(lambda c: D(c) / 100), LINES, st.sampled_from(Basis))
    def test_sums_exactly_on_every_basis(self, total, lines, basis):
        self.assertEqual(sum(share_cost(total, lines, basis).shares), total)

    def test_value_is_what_is_left_after_finishing(self):
        lines = [
            ShareLine(1, worth_low=D(60), worth_likely=D(100), worth_high=D(140), finish_cost=D(40)),
            ShareLine(2, worth_low=D(30), worth_likely=D(30), worth_high=D(30), finish_cost=D(60)),
        ]
        self.assertEqual(share_cost(D(90), lines, Basis.VALUE).shares, (D(90), D(0)))

    def test_nothing_of_value_falls_back_to_count_and_says_so(self):
        shared = share_cost(D(90), [ShareLine(1), ShareLine(2)], Basis.VALUE)
        self.assertEqual((shared.shares, shared.basis), ((D(30), D(60)), Basis.COUNT))
        self.assertIn("by count", shared.note)

    def test_a_missing_weight_names_its_line(self):
        with self.assertRaises(ShareError) as caught:
            share_cost(D(1), [ShareLine(1, D(2)), ShareLine(1)], Basis.WEIGHT)
        self.assertEqual(caught.exception.line, 1)

    def test_no_lines_is_said(self):
        with self.assertRaises(ShareError):
            share_cost(D(1), [], Basis.COUNT)
