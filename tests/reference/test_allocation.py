"""Sharing against published worked examples and an apportionment worked by hand."""

from decimal import Decimal
from unittest import TestCase

from core.buying.share import Basis, ShareLine, share_cost
from core.money import allocate

D = Decimal


class BasketPurchase(TestCase):
    """Relative fair value: the basket purchase of intermediate-accounting textbooks (from memory)."""

    def test_eighty_thousand_over_three_things(self):
        worth = [D(25000), D(25000), D(50000)]
        self.assertEqual(allocate(D(80000), worth), (D(20000), D(20000), D(40000)))
        lines = [ShareLine(1, worth_low=w, worth_likely=w, worth_high=w) for w in worth]
        self.assertEqual(share_cost(D(80000), lines, Basis.VALUE).shares, (D(20000), D(20000), D(40000)))


class LargestRemainder(TestCase):
    """Hamilton's method of largest remainders, as used for seats in parliaments."""

    def test_a_hundred_over_three(self):
        self.assertEqual(allocate(D(100), [D(1)] * 3), (D("33.34"), D("33.33"), D("33.33")))

    def test_hundred_thousand_votes_for_ten_seats(self):
        """Worked example of the Hare quota: 47000, 16000, 15900, 12000, 6000, 3100 votes, 10 seats ->
        5, 2, 1, 1, 1, 0 (widely reproduced table of the largest remainder method; from memory)."""
        votes = [D(v) for v in (47000, 16000, 15900, 12000, 6000, 3100)]
        self.assertEqual([int(s * 100) for s in allocate(D("0.10"), votes)], [5, 2, 1, 1, 1, 0])
