"""Figures of care against what is published: volumes of peroxide, C1V1, falls against scipy’s curve_fit, cans."""

import unittest
from decimal import Decimal as D

import numpy as np
from scipy.optimize import curve_fit

from core.workshop.care.coats import cans
from core.workshop.care.fall import Reading, fit
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
