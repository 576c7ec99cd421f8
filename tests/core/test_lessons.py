"""What came of what was thought: the small cases, and what became of a repair."""

from datetime import datetime, timedelta
from unittest import TestCase

from core.bench.assurance import Condition, Fate, Trial, fate
from core.books.lessons import against, asked, awaited, came_of, middle, named, share
from core.selling.waiting import Exposure, Pace, Stay, pace_at

T0 = datetime(2026, 3, 1)


def after(hours, passed=True, *conditions):
    return Trial(T0 + timedelta(hours=hours), frozenset(conditions), passed)


PROOF = [after(13, True, Condition.COLD), after(14, True, Condition.CLOSED)]


class Repair(TestCase):
    def test_what_became_of_it(self):
        for trials, again, became in (
            ([], None, Fate.NOT_KNOWN),
            ([after(1)], None, Fate.NOT_KNOWN),
            (PROOF, None, Fate.HELD),
            ([after(1, False)], None, Fate.BACK_UNPROVEN),
            ([*PROOF, after(40, False)], None, Fate.BACK_PROVEN),
            # Proven only after it had failed again: the first repair was not.
            ([after(1, False), *PROOF], None, Fate.BACK_UNPROVEN),
            (PROOF, True, Fate.BACK_PROVEN),
            ([], True, Fate.BACK_UNPROVEN),
            # The start that failed was another fault.
            ([*PROOF, after(40, False)], False, Fate.HELD),
            ([after(1, False)], False, Fate.NOT_KNOWN),
            # What was tried before it says nothing of it.
            ([after(-2, False), *PROOF], None, Fate.HELD),
        ):
            with self.subTest(trials=trials, again=again):
                self.assertIs(fate(T0, trials, again), became)


class Figures(TestCase):
    def test_a_middle(self):
        self.assertIsNone(middle([]))
        few = middle([0.9, 0.7, 1.0, 0.8])
        self.assertAlmostEqual(few.at, 0.85)
        self.assertEqual((few.count, few.low, few.high, few.off), (4, None, None, 0))
        self.assertEqual(middle([0.8, 0.81, 0.82, 0.83, 0.84, 0.9]).off, -1)
        self.assertEqual(middle([1.8, 1.81, 1.82, 1.83, 1.84, 1.9]).off, 1)
        self.assertEqual(middle([0.8, 0.81, 0.82, 0.83, 0.84, 1.01]).off, 0)

    def test_what_came_against_what_was_expected(self):
        self.assertEqual([against(came, 10.0).off for came in (3, 4, 9, 17, 18)], [-1, 0, 0, 0, 1])
        self.assertEqual(against(0, 0.5).low, 0)
        for came, expected in ((1, 0.0), (1, -2.0), (-1, 2.0)):
            with self.assertRaises(ValueError):
                against(came, expected)
        self.assertIsNone(came_of([]))

    def test_a_share(self):
        self.assertEqual((share(0, 0).low, share(0, 0).high), (0, 1))
        with self.assertRaises(ValueError):
            share(2, 1)

    def test_rarer_than_the_odds_say(self):
        self.assertEqual(named([(0.9, False)] * 5).off, -1)

    def test_prices_by_what_was_asked(self):
        self.assertEqual([asked(ratio)[:10] for ratio in (0.95, 1.0, 1.06)], ["asked less", "asked what", "asked more"])


class Waited(TestCase):
    def stay(self, begun, ended, sold=False, channel=1, ratio=1.0, paid=None):
        ended_at = None if ended is None else T0 + timedelta(days=ended)
        return Stay(channel, ratio, T0 + timedelta(days=begun), ended_at, sold, paid)

    def test_what_was_known_of_a_stay_at_a_moment(self):
        stay = self.stay(0, 14, True, paid=0.9)
        self.assertIsNone(stay.seen(T0))
        self.assertEqual(stay.seen(T0 + timedelta(days=7)), Exposure(1.0, 1.0, False))
        self.assertEqual(stay.seen(T0 + timedelta(days=14)), Exposure(1.0, 2.0, True, 0.9))
        self.assertEqual(stay.seen(T0 + timedelta(days=99)), Exposure(1.0, 2.0, True, 0.9))

    def test_the_first_is_judged_by_what_we_begin_with_and_the_next_month_by_what_it_taught(self):
        first, second = self.stay(3, 10, True), self.stay(40, None)
        now = T0 + timedelta(days=54)
        found = awaited([second, first], now)
        usual, learned = Pace(), pace_at([first], 1, datetime(2026, 4, 1))
        self.assertAlmostEqual(found[1].expected, usual.hazard(1.0))
        self.assertAlmostEqual(found[0].expected, 2 * learned.hazard(1.0))
        self.assertGreater(learned.pace, usual.pace)
        self.assertEqual(came_of(found).came, 1)

    def test_elsewhere_teaches_first(self):
        here, there = self.stay(0, 7, True), self.stay(0, 70, channel=2)
        now = T0 + timedelta(days=70)
        self.assertLess(pace_at([there], 1, now).pace, Pace().pace)
        self.assertEqual(pace_at([here, there], 1, now).told, 1)
        self.assertEqual(pace_at([here, there], None, now).told, 1)
        self.assertGreater(pace_at([here, there], 1, now).pace, pace_at([here, there], 2, now).pace)
