"""The air paint is laid in, the daylight that whitens, and colours compared before any is bought."""

from datetime import date
from decimal import Decimal as D
from unittest import TestCase

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from core.intake.align import shift_between
from core.intake.colour import Lab
from core.workshop.care import CareError
from core.workshop.care.air import Air, Limits, read_air
from core.workshop.care.coats import ANY_AIR, read_coats
from core.workshop.care.daylight import Place, first_sun, high_noon, sun_from, sun_hours
from core.workshop.care.match import advice, compare, read_candidates
from core.workshop.care.plans import repaint

NORTH = Place(54.5, 3.0)


class TheAir(TestCase):
    def test_too_cold_too_warm_too_moist_and_dew_are_told_apart(self):
        limits = Limits(10, 28, 80)
        for air, words in (
            (Air(9, 50), "too cold"),
            (Air(29, 50), "too warm"),
            (Air(20, 81), "turns dull"),
            (Air(12, 80), ""),
        ):
            self.assertIn(words, limits.against(air))
        self.assertIn("Dew comes down", Limits(0, 30, 100).against(Air(15, 85)))
        self.assertEqual(limits.against(Air(20, 50)), "")

    @given(st.floats(-40, 50), st.floats(1, 100))
    def test_dew_never_comes_down_above_the_air(self, celsius, humidity):
        air = Air(celsius, humidity)
        self.assertLessEqual(air.dew_point, celsius + 1e-9)
        if humidity < 99:
            self.assertLess(air.dew_point, Air(celsius, humidity + 1).dew_point)

    def test_what_no_workshop_has_is_refused(self):
        for figures in ([], [20], [20, 50, 3], [20, 0], [20, 101], [70, 50], [-80, 50]):
            with self.subTest(figures), self.assertRaises(CareError):
                read_air(figures)
        with self.assertRaises(CareError):
            Limits(30, 10)

    def test_a_can_says_its_own_air(self):
        (coat,) = read_coats("primer: from 20 min; air 10 to 25 °C, 70 %")
        self.assertEqual(coat.limits, Limits(10, 25, 70))
        (plain,) = read_coats("primer: from 20 min")
        self.assertEqual(plain.limits, ANY_AIR)
        for typed in ("air warm", "air 10 to 25", "air 25 to 10 °C, 70 %", "air 10 to 25 °C, 170 %"):
            with self.subTest(typed), self.assertRaises(CareError):
                read_coats(f"primer: from 20 min; {typed}")

    def test_every_coat_asks_for_its_air(self):
        recipe = repaint(D(620), read_coats("primer: from 20 min; air 10 to 25 °C, 70 %\ncolour: from 1 h"), "front")
        laid = [step for step in recipe.steps if step.most_humid]
        self.assertEqual(
            [(s.low, s.high, s.most_humid) for s in laid], [(D("10.0"), D("25.0"), 70), (D("15.0"), D("30.0"), 65)]
        )


class Daylight(TestCase):
    def test_in_november_the_sun_does_not_rise_high_enough_there(self):
        sun = sun_from(NORTH, date(2026, 11, 27))
        self.assertFalse(sun.works)
        self.assertIn("nothing whitens", sun.words)
        self.assertGreater(high_noon(NORTH, sun.again), 30)
        self.assertLess(high_noon(NORTH, date(2026, 11, 27)), 30)

    def test_in_june_it_does(self):
        sun = sun_from(NORTH, date(2026, 6, 21))
        self.assertTrue(sun.works)
        self.assertGreater(sun.hours_a_day, 9)
        self.assertIn("h a day", sun.words)

    def test_near_a_pole_it_never_does(self):
        self.assertIsNone(first_sun(Place(89, 0), date(2026, 1, 1)))
        self.assertIn("no day of the year", sun_from(Place(89, 0), date(2026, 1, 1)).words)

    def test_south_of_the_equator_november_is_summer(self):
        self.assertGreater(sun_hours(Place(-35, 0), date(2026, 11, 27)), 8)

    def test_a_place_is_on_the_earth(self):
        for latitude, longitude in ((91, 0), (-91, 0), (0, 181)):
            with self.assertRaises(CareError):
                Place(latitude, longitude)


CASE = Lab(80.0, 0.5, 9.0)


class Matches(TestCase):
    def test_the_closest_comes_first_and_says_what_to_do(self):
        found = compare(CASE, read_candidates("catalogue grey: 86 0.4 4\nprimer: 80.6 0.5 9.4\nmud: #554433"))
        self.assertEqual([one.candidate.name for one in found], ["primer", "catalogue grey", "mud"])
        self.assertEqual(found[0].words, "close enough to be bought")
        self.assertIn("too light by 6", found[1].words)
        self.assertIn("too dark", found[2].words)
        self.assertIn("buy that", advice(found))
        self.assertIn("Buy a sample first", advice(found[1:]))
        self.assertIn("Measure before you buy", advice([]))

    def test_a_hue_that_is_off_is_told_apart_from_lightness(self):
        (one,) = compare(CASE, read_candidates("pink: 80.2 12 9"))
        self.assertEqual(one.words, "off in hue")

    def test_what_is_no_colour_is_refused_with_its_line(self):
        for typed in (
            "grey",
            ": #ffffff",
            "grey: #fff",
            "grey: 80 1",
            "grey: 120 0 0",
            "grey: 80 900 0",
            "grey: a b c",
            "grey: nan 0 0",
        ):
            with self.subTest(typed), self.assertRaises(CareError) as caught:
                read_candidates(typed)
            self.assertEqual(caught.exception.at, "candidates")
        with self.assertRaises(CareError):
            read_candidates("\n".join(f"grey {n}: #c9c2b0" for n in range(13)))

    @given(st.lists(st.tuples(st.floats(0, 100), st.floats(-100, 100), st.floats(-100, 100)), max_size=8))
    def test_the_order_is_by_what_is_off(self, labs):
        typed = "\n".join(f"c{n}: {light:.2f} {a:.2f} {b:.2f}" for n, (light, a, b) in enumerate(labs))
        found = compare(CASE, read_candidates(typed))
        self.assertEqual([one.off for one in found], sorted(one.off for one in found))
        self.assertEqual(len(found), len(labs))


class Alignment(TestCase):
    def picture(self, seed: int = 1, side: int = 96) -> np.ndarray:
        noise = np.random.default_rng(seed).random((side, side))
        spectrum = np.fft.fft2(noise) / (1 + np.hypot(*np.meshgrid(np.fft.fftfreq(side), np.fft.fftfreq(side))) * 60)
        return np.real(np.fft.ifft2(spectrum))

    def test_a_moved_picture_is_found_again(self):
        large = self.picture(side=128)
        for down, right in ((0, 0), (5, -7), (-9, 3), (12, 12)):
            first, second = large[16:112, 16:112], large[16 + down : 112 + down, 16 + right : 112 + right]
            shift = shift_between(first, second)
            self.assertAlmostEqual(shift.down * 96, down, delta=0.01)
            self.assertAlmostEqual(shift.right * 96, right, delta=0.01)

    def test_pictures_of_other_things_are_not_laid_on_one_another(self):
        self.assertIsNone(shift_between(self.picture(1), np.random.default_rng(9).random((96, 96))))
        self.assertIsNone(shift_between(np.zeros((8, 8)), np.zeros((8, 8))))

    def test_another_shape_is_an_error(self):
        with self.assertRaises(ValueError):
            shift_between(np.zeros((8, 8)), np.zeros((8, 9)))
