from datetime import date, timedelta
from decimal import Decimal
from itertools import accumulate
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from core.books.earnings import INCOME, PARTS, STEPS, ToCome, an_hour, day_even, earnings

KINDS = [kind for _, kinds in STEPS for kind in kinds]
CENTS = st.integers(-(10**6), 10**6).map(lambda cents: Decimal(cents) / 100)
CALCULATIONS = st.dictionaries(st.sampled_from([*KINDS, *INCOME]), CENTS)
WORTH = st.lists(st.integers(0, 500).map(Decimal), max_size=7)


class TheWaterfall(TestCase):
    @given(CALCULATIONS)
    def test_nothing_is_lost_between_the_entries_and_the_margin(self, sums):
        found = earnings(sums)
        self.assertEqual(found.margin, -sum(sums.values(), Decimal(0)))
        self.assertEqual(found.before_labour - found.margin, sums.get("labour", 0))

    @given(CALCULATIONS)
    def test_each_bar_begins_where_the_one_before_ended(self, sums):
        bars = earnings(sums).bars
        ends = [Decimal(0), *(bar.end for bar in bars)]
        self.assertEqual([bar.start for bar in bars], ends[:-1])
        self.assertEqual(ends[-1], earnings(sums).cost)
        self.assertTrue(all(bar.amount for bar in bars))

    def test_a_kind_without_a_bar_is_an_error_not_a_gap(self):
        with self.assertRaisesRegex(ValueError, "No bar holds gift"):
            earnings({"gift": Decimal(1)})


class HowManyToEven(TestCase):
    @given(st.integers(-100, 3000).map(Decimal), WORTH)
    def test_one_fewer_is_not_enough(self, to_go, worth):
        ranked = sorted(worth, reverse=True)
        count = ToCome(worth).pieces_to_even(to_go)
        if count is None:
            self.assertLess(sum(ranked), to_go)
        else:
            self.assertGreaterEqual(sum(ranked[:count]), to_go)
            self.assertTrue(count == 0 or sum(ranked[: count - 1]) < to_go)


class OutAsParts(TestCase):
    @given(CALCULATIONS)
    def test_what_is_spent_and_what_left_with_parts_come_to_the_cost(self, sums):
        money = earnings(sums)
        others = money.cost - sum((sums.get(kind, Decimal(0)) for kind in PARTS), Decimal(0))
        self.assertGreaterEqual(money.as_parts, 0)
        # Never both: parts that moved from one machine of a lot to another are neither spent nor gone.
        self.assertEqual(money.cost + money.as_parts, others + max(Decimal(0), money.cost - others))


class WhatNobodyPutAWorthTo(TestCase):
    @given(WORTH, st.integers(1, 9), st.integers(-100, 3000).map(Decimal), CENTS)
    def test_counts_as_unknown_and_never_as_nothing(self, worth, unsaid, to_go, margin):
        known, mixed = ToCome(worth), ToCome([*worth, *[None] * unsaid])
        self.assertEqual((mixed.known, mixed.unsaid), (sum(worth), unsaid))
        self.assertIsNone(mixed.expected(margin))
        self.assertEqual(known.expected(margin), margin + sum(worth))
        self.assertEqual(mixed.pieces_to_even(to_go), known.pieces_to_even(to_go))

    def test_nothing_left_is_known_to_bring_nothing(self):
        self.assertEqual(ToCome().expected(Decimal(-5)), Decimal(-5))


class TheDayItCameEven(TestCase):
    @given(st.lists(CENTS, max_size=20))
    def test_from_that_day_on_and_not_before(self, results):
        days = [(date(2026, 1, 1) + timedelta(days=n), result) for n, result in enumerate(results)]
        running = list(accumulate(results))
        found = day_even(days)
        if not running or running[-1] < 0:
            self.assertIsNone(found)
            return
        place = (found - date(2026, 1, 1)).days
        self.assertTrue(all(total >= 0 for total in running[place:]))
        self.assertTrue(place == 0 or running[place - 1] < 0)


class AnHour(TestCase):
    def test_it_is_before_our_own_labour_and_of_what_came_in(self):
        """Sold for 150, of which 60 were its cost and 20 labour: 70, or 90 before it; of 90 minutes 60 an hour."""
        money = earnings({"purchase": Decimal(60), "labour": Decimal(20), "sale": Decimal(-150)})
        self.assertEqual(an_hour(money, 90), Decimal("60.00"))
        self.assertIsNone(an_hour(money, 0))
        self.assertIsNone(an_hour(earnings({"purchase": Decimal(60)}), 90))
