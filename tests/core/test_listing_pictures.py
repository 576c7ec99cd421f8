"""Pictures of a listing: their order, how they are cut, where marks come to stand."""

from math import cos, radians, sin
from unittest import TestCase

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from core.intake.shots import Shot
from core.selling.pictures import ORDER, Cut, by_worth, upright_within


class Order(TestCase):
    def test_every_shot_has_a_place(self):
        self.assertEqual(set(ORDER), set(Shot))

    def test_the_front_first_then_what_works_and_what_is_wrong(self):
        shots = ["", "back", "defect", "front", "screen", "front"]
        self.assertEqual(
            [shots[place] for place in by_worth(shots)], ["front", "front", "screen", "defect", "back", ""]
        )
        self.assertEqual(by_worth(shots)[:2], [3, 5])


class Cuts(TestCase):
    @given(st.integers(40, 3000), st.integers(40, 3000), st.floats(-15, 15))
    def test_what_a_turn_leaves_lies_within_it(self, width, height, turn):
        inner = upright_within(width, height, turn)
        angle = radians(turn)
        for across, down in ((1, 1), (1, -1)):
            x, y = across * inner[0] / 2, down * inner[1] / 2
            # Turned back, each corner lies in the picture as it was.
            back = x * cos(-angle) - y * sin(-angle), x * sin(-angle) + y * cos(-angle)
            self.assertLessEqual(abs(back[0]), width / 2 + 1e-6)
            self.assertLessEqual(abs(back[1]), height / 2 + 1e-6)

    def test_no_larger_one_of_any_shape_would_fit(self):
        for width, height, turn in ((400, 300, 7), (300, 400, -12), (1000, 120, 14), (500, 500, 3)):
            angle = abs(radians(turn))
            best = 0.0
            for slope in np.linspace(0.02, 40, 4000):
                # The largest half side for this shape: both corners have to lie in the picture turned back.
                half = min(
                    width / 2 / (cos(angle) + slope * sin(angle)), height / 2 / (sin(angle) + slope * cos(angle))
                )
                best = max(best, 4 * half * half * slope)
            inner = upright_within(width, height, turn)
            self.assertGreaterEqual(inner[0] * inner[1], best * 0.9999)

    def test_a_mark_stays_on_what_it_marks(self):
        """A white dot, turned and cut as the picture is by Pillow, lies where the mark is said to be."""
        for turn, cut in ((0, (0.1, 0.2, 0.8, 0.7)), (8, (0, 0, 1, 1)), (-11, (0.1, 0.1, 0.7, 0.8))):
            whole = np.zeros((300, 400), dtype=np.uint8)
            whole[118:123, 158:163] = 255
            made = Cut(*cut, turn=turn)
            box = made.box(400, 300)
            part = (
                Image.fromarray(whole).rotate(-turn, Image.Resampling.BICUBIC).crop(tuple(round(side) for side in box))
            )
            rows, columns = np.nonzero(np.asarray(part) > 128)
            there = made.place(160.5 / 400, 120.5 / 300, 400, 300)
            self.assertAlmostEqual(there[0] * part.width, columns.mean() + 0.5, delta=1.5)
            self.assertAlmostEqual(there[1] * part.height, rows.mean() + 0.5, delta=1.5)

    def test_what_was_cut_away_has_no_mark(self):
        self.assertIsNone(Cut(0.5, 0, 0.5, 1).place(0.2, 0.5, 100, 100))

    def test_too_much_is_refused_in_words(self):
        for cut, words in (
            ({"turn": 20}, "15 degrees"),
            ({"width": 0.1}, "another picture"),
            ({"left": 0.5, "width": 0.6}, "within the picture"),
            ({"left": -0.1}, "within the picture"),
        ):
            with self.assertRaisesRegex(ValueError, words):
                Cut(**cut)
