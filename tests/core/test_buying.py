from dataclasses import replace
from decimal import Decimal
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from core.buying.landed import Charge, ChargeError, ChargeKind, landed_cost, read_bands
from core.buying.share import Basis, ShareError, ShareLine, ToShare, share_charges, share_cost

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
                Charge(ChargeKind.PRICE, D(260)),
                Charge(ChargeKind.PREMIUM, percent=D(18)),
                Charge(ChargeKind.PREMIUM_TAX, percent=D(20)),
                Charge(ChargeKind.FREIGHT, D(64)),
                Charge(ChargeKind.DUTY, percent=D("2.5")),
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
        price = Charge(ChargeKind.PRICE, D(1))
        for charge, field in (
            (Charge(ChargeKind.FREIGHT, D(-1)), "amount"),
            (Charge(ChargeKind.PREMIUM, percent=D(101)), "percent"),
            (Charge(ChargeKind.PREMIUM, D(3), percent=D(10)), "amount"),
            (Charge(ChargeKind.DUTY, percent=D(-1)), "percent"),
            (Charge(ChargeKind.DUTY, percent=D(5), of=(ChargeKind.DUTY,)), "of"),
            (Charge(ChargeKind.FREIGHT, D(1), currency="SEK", rate=D(0)), "rate"),
            (price, "kind"),
        ):
            with self.assertRaises(ChargeError) as caught:
                landed_cost([price, charge], D(1))
            self.assertEqual((caught.exception.index, caught.exception.field), (1, field))
        with self.assertRaises(ChargeError):
            landed_cost([Charge(ChargeKind.PRICE, percent=D(5))], D(1))

    def test_charges_that_rest_on_one_another_are_named(self):
        duty = Charge(ChargeKind.DUTY, percent=D(5), of=(ChargeKind.OTHER,))
        with self.assertRaisesRegex(ChargeError, "import duty.*other charges|other charges.*import duty"):
            landed_cost([duty, Charge(ChargeKind.OTHER, percent=D(5), of=(ChargeKind.DUTY,))], D(1))

    def test_a_percentage_stays_in_the_currency_it_rests_on(self):
        freight = Charge(ChargeKind.FREIGHT, D(50), currency="GBP", rate=D("1.2"))
        duty = Charge(ChargeKind.DUTY, percent=D(10), of=(ChargeKind.FREIGHT,))
        mixed = Charge(ChargeKind.OTHER, percent=D(10), of=(ChargeKind.PRICE, ChargeKind.FREIGHT))
        cost = landed_cost([Charge(ChargeKind.PRICE, D(1000)), freight, duty, mixed], D("0.1"), "SEK", "EUR")
        self.assertEqual(
            [(c.currency, c.foreign, c.base) for c in cost.charges[2:]],
            [("GBP", D(5), D(6)), ("EUR", D(16), D(16))],
        )

    @given(st.decimals(0, 10**6, places=2), st.integers(1, 5000), st.integers(1, 5000))
    def test_bands_grow_with_the_amount_and_never_past_the_dearest(self, amount, first, more):
        bands = read_bands(f"25 to {first}; 20 to {first + more}; 12")
        premium = landed_cost(
            [Charge(ChargeKind.PRICE, amount), Charge(ChargeKind.PREMIUM, bands=bands)], D(1)
        ).charges[1]
        low = min(amount, D(first)) * 25 + max(D(0), min(amount, D(first + more)) - first) * 20
        wanted = (low + max(D(0), amount - first - more) * 12) / 100
        self.assertAlmostEqual(premium.base, wanted, delta=D("0.01"))
        self.assertLessEqual(premium.base, amount / 4 + D("0.01"))

    def test_bands_that_are_none_are_refused_in_words(self):
        for text in ("", "25 to 1000", "25 to 1000; 20 to 900; 5", "130; 2", "a; b", "25 to 0; 5", "20; 10 to 5"):
            with self.subTest(text), self.assertRaises(ValueError):
                read_bands(text)


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
        self.assertEqual(shared.shares, (D(30), D(60)))
        self.assertIn("by count", shared.notes[0])

    def test_a_worth_that_only_some_lines_have_is_asked_for_at_its_line(self):
        said = ShareLine(1, worth_low=D(5), worth_likely=D(5), worth_high=D(5))
        with self.assertRaisesRegex(ShareError, "Line 2 has no worth") as caught:
            share_cost(D(9), [said, ShareLine(2)], Basis.VALUE)
        self.assertEqual(caught.exception.line, 1)
        # What is left of it is none, or it carries what was set by hand: then nothing hangs on its worth.
        self.assertEqual(share_cost(D(9), [said, ShareLine(0)], Basis.VALUE).shares, (D(9), D(0)))
        self.assertEqual(share_cost(D(9), [said, ShareLine(2, fixed=D(4))], Basis.VALUE).shares, (D(5), D(4)))
        self.assertIsNone(ShareLine(2).net_value)

    @given(
        st.lists(st.tuples(st.integers(0, 10**6), st.sampled_from(Basis)), min_size=1, max_size=5),
        LINES,
        st.lists(st.integers(0, 10**4) | st.none(), min_size=20, max_size=20),
    )
    def test_a_table_adds_up_by_row_and_by_column(self, cents, lines, by_hand):
        charges = [ToShare(D(c) / 100, basis) for c, basis in cents]
        lines = [
            replace(line, fixed=None if f is None else D(f) / 100) for line, f in zip(lines, by_hand, strict=False)
        ]
        try:
            shared = share_charges(charges, lines)
        except ShareError:  # by hand more or less than there is
            return
        for column, charge in enumerate(charges):
            self.assertEqual(sum(row[column] for row in shared.table), charge.amount)
        for line, share in zip(lines, shared.shares, strict=True):
            self.assertTrue(line.fixed is None or share == line.fixed)
            self.assertGreaterEqual(share, 0)

    def test_a_missing_weight_names_its_line(self):
        with self.assertRaises(ShareError) as caught:
            share_cost(D(1), [ShareLine(1, D(2)), ShareLine(1)], Basis.WEIGHT)
        self.assertEqual(caught.exception.line, 1)

    def test_no_lines_is_said(self):
        with self.assertRaises(ShareError):
            share_cost(D(1), [], Basis.COUNT)
