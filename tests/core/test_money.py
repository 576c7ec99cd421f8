from decimal import Decimal
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from core.money import allocate, convert, to_cent, up_to_cent

CENTS = st.integers(-(10**9), 10**9).map(lambda cents: Decimal(cents) / 100)
WEIGHTS = st.lists(st.decimals(0, 10**6, places=4), min_size=1, max_size=60).filter(lambda w: sum(w) > 0)


class Allocation(TestCase):
    @given(CENTS, WEIGHTS)
    def test_shares_always_sum_to_the_total(self, total, weights):
        self.assertEqual(sum(allocate(total, weights)), total)

    @given(CENTS, WEIGHTS)
    def test_no_share_is_a_cent_or_more_from_its_quota(self, total, weights):
        whole = sum(weights)
        for share, weight in zip(allocate(total, weights), weights, strict=True):
            self.assertLess(abs(share - total * weight / whole), Decimal("0.01"))

    @given(CENTS, WEIGHTS, st.integers(2, 1000))
    def test_only_the_ratio_of_weights_matters(self, total, weights, factor):
        self.assertEqual(allocate(total, weights), allocate(total, [w * factor for w in weights]))

    @given(CENTS, WEIGHTS)
    def test_a_weight_of_nothing_gets_nothing(self, total, weights):
        self.assertEqual(allocate(total, [*weights, Decimal(0)])[-1], 0)

    def test_equal_remainders_go_to_the_earlier(self):
        self.assertEqual(allocate(Decimal("0.02"), [Decimal(1)] * 3), (Decimal("0.01"), Decimal("0.01"), 0))

    def test_refuses_what_cannot_be_shared(self):
        for total, weights in (("1", []), ("1", [Decimal(0)]), ("1", [Decimal(-1)]), ("0.001", [Decimal(1)])):
            with self.subTest(total=total, weights=weights), self.assertRaises(ValueError):
                allocate(Decimal(total), weights)


class Rounding(TestCase):
    def test_half_goes_to_even(self):
        self.assertEqual([to_cent(Decimal(x)) for x in ("0.005", "0.015", "-0.005")], [0, Decimal("0.02"), 0])

    def test_up_covers(self):
        self.assertEqual(up_to_cent(Decimal("1.0001")), Decimal("1.01"))

    def test_a_rate_of_nothing_is_refused(self):
        with self.assertRaises(ValueError):
            convert(Decimal(1), Decimal(0))
