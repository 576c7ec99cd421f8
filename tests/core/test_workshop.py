from decimal import Decimal
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from core.catalogue.recipes import JobKind
from core.machine.approach import Approach
from core.stock.costing import issue_cost
from core.workshop.jobs import refusal
from core.workshop.labour import labour_cost


class Issuing(TestCase):
    @given(st.integers(0, 10**7), st.lists(st.integers(1, 9), min_size=1, max_size=20))
    def test_a_drawer_emptied_in_any_steps_leaves_no_cent_behind(self, cents, steps):
        held, value, out = sum(steps), Decimal(cents) / 100, Decimal(0)
        for step in steps:
            cost = issue_cost(held, value, step)
            self.assertGreaterEqual(cost, 0)
            held, value, out = held - step, value - cost, out + cost
        self.assertEqual((held, value, out), (0, 0, Decimal(cents) / 100))

    def test_never_more_than_there_are(self):
        with self.assertRaisesRegex(ValueError, "Only 2"):
            issue_cost(2, Decimal(5), 3)
        with self.assertRaises(ValueError):
            issue_cost(2, Decimal(5), 0)


class Labour(TestCase):
    def test_minutes_at_a_rate(self):
        self.assertEqual(labour_cost(50, Decimal("24.00")), Decimal("20.00"))
        self.assertEqual(labour_cost(0, Decimal("24.00")), 0)


class Approaches(TestCase):
    def test_each_school_refuses_its_own(self):
        self.assertIn(
            "can be undone", refusal(Approach.CONSERVE, JobKind.REPAIR, reversible=False, visible_modern_part=False)
        )
        self.assertIn(
            "no modification", refusal(Approach.CONSERVE, JobKind.UPGRADE, reversible=True, visible_modern_part=False)
        )
        self.assertIn(
            "out of sight", refusal(Approach.PERIOD, JobKind.REPAIR, reversible=True, visible_modern_part=True)
        )
        self.assertIn(
            "not upgraded", refusal(Approach.DONOR, JobKind.UPGRADE, reversible=True, visible_modern_part=False)
        )
        self.assertEqual(refusal(Approach.ENHANCED, JobKind.UPGRADE, reversible=False, visible_modern_part=True), "")
