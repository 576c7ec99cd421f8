"""What should have come is asked after."""

from datetime import date
from unittest import TestCase

from core.flow.awaited import is_late


class Awaited(TestCase):
    def test_after_the_day_that_was_said_else_after_three_weeks(self):
        bought = date(2026, 3, 2)
        for today, expected, late in (
            (date(2026, 3, 23), None, False),
            (date(2026, 3, 24), None, True),
            (date(2026, 3, 5), date(2026, 3, 5), False),
            (date(2026, 3, 6), date(2026, 3, 5), True),
            (date(2026, 4, 30), date(2026, 5, 1), False),
        ):
            with self.subTest(today=today, expected=expected):
                self.assertEqual(is_late(bought, today, expected), late)
