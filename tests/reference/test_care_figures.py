"""Figures of care against what is published: volumes of peroxide, C1V1, falls against scipy’s curve_fit, cans."""

import unittest
from datetime import date
from decimal import Decimal as D

import numpy as np
from scipy.optimize import curve_fit
from skimage.registration import phase_cross_correlation

from core.intake.align import shift_between
from core.workshop.care.air import Air
from core.workshop.care.coats import cans
from core.workshop.care.daylight import HIGH_ENOUGH, Place, high_noon, sun_hours
from core.workshop.care.fall import Reading, fit
from core.workshop.care.recondition import belt_length
from core.workshop.care.strength import Basis, density, dilute, percent_wv


class Peroxide(unittest.TestCase):
    """British Pharmacopoeia, hydrogen peroxide solutions: 3 % is about 10 volumes, 6 % about 20 volumes, 27 % about 100
    volumes (from memory); molar masses by IUPAC 2021: H 1.008, O 15.999."""

    def test_volumes(self):
        for volumes, percent in ((10, "3.04"), (20, "6.07"), (30, "9.11"), (40, "12.15")):
            self.assertEqual(round(percent_wv(D(volumes), Basis.VOLUMES), 2), D(percent))
        # 100 volumes are 30.4 g in 100 ml, which are 27.3 % w/w at their density.
        strong = percent_wv(D(100), Basis.VOLUMES)
        self.assertAlmostEqual(float(strong / density(D("27.3"))), 27.6, delta=0.3)

    def test_a_mole(self):
        self.assertAlmostEqual(2 * 1.008 + 2 * 15.999, 34.0147, delta=0.001)

    def test_densities(self):
        """Handbook of chemistry, 20 °C, g/ml (from memory): 10 % 1.0362, 20 % 1.0725, 30 % 1.1122."""
        for percent, grams in ((10, 1.0362), (20, 1.0725), (30, 1.1122)):
            self.assertAlmostEqual(float(density(D(percent))), grams, delta=0.003 * grams)

    def test_c1_v1(self):
        """The worked example of the design: 500 ml of 6 % from 40 volumes take 247 ml."""
        made = dilute(percent_wv(D(40), Basis.VOLUMES), D(6), D(500))
        self.assertEqual((made.bottle_ml, made.water_ml), (247, 253))

    def test_cans(self):
        self.assertEqual(cans(D(6200), 3, D(18000)), 2)
        self.assertEqual(cans(D(6000), 3, D(18000)), 1)


class AgainstScipy(unittest.TestCase):
    def test_the_least_squares_are_as_small(self):
        def model(hours, floor, drop, rate):
            return floor + drop * np.exp(-rate * hours)

        dice = np.random.default_rng(7)
        for _ in range(40):
            hours = np.arange(0, 2 * dice.integers(4, 8), 2.0)
            truth = model(hours, dice.uniform(0, 2), dice.uniform(4, 9), dice.uniform(0.1, 0.5))
            values = np.maximum(0.1, truth + dice.normal(0, 0.1, len(hours)))
            found = fit([Reading(float(h), (float(v),)) for h, v in zip(hours, values, strict=True)])
            bounds = ([0, 0, 1e-4], [50, 100, 20])
            theirs, _ = curve_fit(model, hours, values, p0=(1, 6, 0.2), bounds=bounds, max_nfev=20_000)
            ours = ((values - [found.at(float(h)) for h in hours]) ** 2).sum()
            self.assertLessEqual(ours, ((values - model(hours, *theirs)) ** 2).sum() * 1.0001 + 1e-9)

    def test_the_interval_is_that_of_curve_fit(self):
        def model(hours, floor, drop, rate):
            return floor + drop * np.exp(-rate * hours)

        hours, values = np.array([0, 2, 4, 6, 8.0]), np.array([8.0, 5.9, 4.6, 3.7, 3.3])
        found = fit([Reading(float(h), (float(v),)) for h, v in zip(hours, values, strict=True)])
        theirs, covariance = curve_fit(model, hours, values, p0=(1, 6, 0.2))
        np.testing.assert_allclose(theirs, [found.floor, found.drop, found.rate], rtol=1e-4)
        np.testing.assert_allclose(covariance, np.array(found._covariance), rtol=1e-2)


class AirAndLight(unittest.TestCase):
    def test_dew_points(self):
        """ISO 8502-4, table of dew points (from memory): °C, % and the dew point to 0.2 °C."""
        for celsius, humidity, dew in ((10, 50, 0.1), (20, 50, 9.3), (20, 80, 16.4), (25, 50, 13.9), (30, 60, 21.4)):
            self.assertAlmostEqual(Air(celsius, humidity).dew_point, dew, delta=0.2)

    def test_noon_at_the_solstices_and_the_equinox(self):
        """Astronomical Almanac: obliquity 23.44°; at noon the sun stands 90° less latitude, and declination."""
        for latitude in (0, 30, 54.5):
            for day, declination in ((date(2026, 6, 21), 23.44), (date(2026, 12, 21), -23.44), (date(2026, 3, 20), 0)):
                height = 90 - abs(latitude - declination)
                self.assertAlmostEqual(high_noon(Place(latitude, 0), day), height, delta=0.3)

    def test_hours_above_a_height_by_the_hour_angle(self):
        """Spherical triangle of pole, zenith and sun: cos H = (sin a − sin φ sin δ) / (cos φ cos δ)."""
        for latitude, day, declination in ((54.5, date(2026, 6, 21), 23.44), (40, date(2026, 3, 20), 0)):
            a, phi, delta = np.radians([HIGH_ENOUGH, latitude, declination])
            angle = np.degrees(np.arccos((np.sin(a) - np.sin(phi) * np.sin(delta)) / (np.cos(phi) * np.cos(delta))))
            self.assertAlmostEqual(sun_hours(Place(latitude, 0), day), 2 * angle / 15, delta=0.2)


class Belts(unittest.TestCase):
    def test_the_handbook_formula_against_the_way_itself(self):
        """Two tangents and two arcs, exactly; the handbook’s formula leaves out terms of the fourth order."""
        for drive, driven, apart in ((12, 60, 80), (20, 20, 100), (8, 30, 120)):
            lean = np.arcsin((driven - drive) / 2 / apart)
            way = 2 * apart * np.cos(lean) + np.pi * (drive + driven) / 2 + lean * (driven - drive)
            self.assertAlmostEqual(float(belt_length(D(drive), D(driven), D(apart))), way, delta=0.003 * way)


class Pictures(unittest.TestCase):
    def test_a_shift_is_what_scikit_image_finds(self):
        seeds = np.random.default_rng(4)
        large = np.cumsum(np.cumsum(seeds.standard_normal((140, 140)), 0), 1)
        for down, right in ((4, 6), (-8, 2), (0, -11)):
            first, second = large[20:116, 20:116], large[20 + down : 116 + down, 20 + right : 116 + right]
            ours = shift_between(first, second)
            fade = np.outer(np.hanning(96), np.hanning(96))
            theirs, _, _ = phase_cross_correlation((first - first.mean()) * fade, (second - second.mean()) * fade)
            self.assertIsNotNone(ours)
            self.assertEqual((round(ours.down * 96), round(ours.right * 96)), tuple(theirs))
