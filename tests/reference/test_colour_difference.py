"""CIEDE2000 and L*a*b* against the published test pairs and an independent library."""

from unittest import TestCase

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from skimage import color

from core.intake.colour import Lab, delta_e, lab_of, measure

# Sharma, Wu, Dalal: The CIEDE2000 color-difference formula, Color Research and Application 30 (2005), table 1.
# L a b of both and the difference; a selection of the 34 pairs, from memory, checked against the library below.
PAIRS = (
    (50.0, 2.6772, -79.7751, 50.0, 0.0, -82.7485, 2.0425),
    (50.0, 3.1571, -77.2803, 50.0, 0.0, -82.7485, 2.8615),
    (50.0, 2.8361, -74.0200, 50.0, 0.0, -82.7485, 3.4412),
    (50.0, -1.3802, -84.2814, 50.0, 0.0, -82.7485, 1.0000),
    (50.0, -1.1848, -84.8006, 50.0, 0.0, -82.7485, 1.0000),
    (50.0, 0.0, 0.0, 50.0, -1.0, 2.0, 2.3669),
    (50.0, 2.4900, -0.0010, 50.0, -2.4900, 0.0009, 7.1792),
    (50.0, 2.4900, -0.0010, 50.0, -2.4900, 0.0011, 7.2195),
    (50.0, 2.5, 0.0, 73.0, 25.0, -18.0, 27.1492),
    (50.0, 2.5, 0.0, 61.0, -5.0, 29.0, 22.8977),
    (50.0, 2.5, 0.0, 56.0, -27.0, -3.0, 31.9030),
    (50.0, 2.5, 0.0, 58.0, 24.0, 15.0, 19.4535),
    (60.2574, -34.0099, 36.2677, 60.4626, -34.1751, 39.4387, 1.2644),
    (22.7233, 20.0904, -46.6940, 23.0331, 14.9730, -42.5619, 2.0373),
    (90.8027, -2.0831, 1.4410, 91.1528, -1.6435, 0.0447, 1.4441),
    (2.0776, 0.0795, -1.1350, 0.9033, -0.0636, -0.5514, 0.9082),
)
LABS = st.builds(Lab, st.floats(0, 100), st.floats(-100, 100), st.floats(-100, 100))
CHANNEL = st.integers(0, 255)


class Difference(TestCase):
    def test_the_published_pairs(self):
        for *labs, wanted in PAIRS:
            one, two = Lab(*labs[:3]), Lab(*labs[3:])
            self.assertAlmostEqual(delta_e(one, two), wanted, places=4)
            self.assertAlmostEqual(float(color.deltaE_ciede2000(labs[:3], labs[3:])), wanted, places=4)

    @given(LABS, LABS)
    def test_any_pair_is_the_librarys(self, one, two):
        wanted = float(color.deltaE_ciede2000([one.l, one.a, one.b], [two.l, two.a, two.b]))
        self.assertAlmostEqual(delta_e(one, two), wanted, places=5)
        self.assertAlmostEqual(delta_e(one, two), delta_e(two, one), places=5)

    @given(CHANNEL, CHANNEL, CHANNEL)
    def test_lab_of_srgb_is_the_librarys(self, r, g, b):
        wanted = color.rgb2lab(np.array([[[r, g, b]]]) / 255)[0, 0]
        ours = lab_of((r, g, b))
        for got, want in zip((ours.l, ours.a, ours.b), wanted, strict=True):
            self.assertAlmostEqual(got, want, delta=0.02)


class Balance(TestCase):
    @given(st.integers(60, 255), st.integers(60, 255), st.integers(60, 255))
    def test_the_neutral_patch_itself_comes_out_grey(self, r, g, b):
        balanced = lab_of((r, g, b), (r, g, b))
        self.assertLess(abs(balanced.a) + abs(balanced.b), 0.1)

    def test_a_cast_over_the_whole_picture_is_taken_out(self):
        plain = measure((220, 215, 200), [(215, 195, 150)], (200, 200, 200))
        warm = [
            tuple(c * f for c, f in zip(spot, (1.0, 0.92, 0.8), strict=True))
            for spot in ((220, 215, 200), (215, 195, 150), (200, 200, 200))
        ]
        again = measure(warm[0], [warm[1]], warm[2])
        self.assertAlmostEqual(plain.yellowing, again.yellowing, delta=0.6)
        self.assertIn("yellowed", plain.words)

    def test_no_spot_and_a_black_patch_are_refused(self):
        for act in (lambda: measure((1, 2, 3), []), lambda: measure((1, 2, 3), [(1, 2, 3)], (0, 9, 9))):
            with self.assertRaises(ValueError):
                act()
