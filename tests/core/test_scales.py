import math
import unittest
from itertools import pairwise

from hypothesis import assume, given
from hypothesis import strategies as st

from core.machine.scales import round_marks, round_step


class RoundScales(unittest.TestCase):
    def test_steps_by_example(self):
        rough = (0.0007, 0.03, 1.0, 1.2, 4.9, 60.0)
        for got, want in zip(map(round_step, rough), (0.001, 0.05, 1.0, 2.0, 5.0, 100.0), strict=True):
            self.assertAlmostEqual(got, want)

    @given(st.floats(-1e4, 1e4), st.floats(0.01, 1e4), st.integers(2, 8))
    def test_marks_are_few_inside_and_evenly_apart(self, low, span, about):
        high = low + span
        assume(high > low)
        marks = round_marks(low, high, about)
        self.assertLessEqual(len(marks), about + 1)
        self.assertTrue(all(low - 1e-6 <= mark <= high + 1e-6 for mark in marks))
        gaps = [b - a for a, b in pairwise(marks)]
        self.assertTrue(all(math.isclose(gap, gaps[0], rel_tol=1e-6) for gap in gaps))
