"""Weighted quantiles against numpy's own."""

import random
from decimal import Decimal
from unittest import TestCase

import numpy as np

from core.selling.robust import weighted_quantile


class WeightedQuantiles(TestCase):
    def test_numpy_inverted_cdf(self):
        dice = random.Random(1090)
        for _ in range(400):
            count = dice.randrange(1, 40)
            values = [Decimal(dice.randrange(1, 100_000)) / 100 for _ in range(count)]
            # Whole weights keep both sums exact, so that a tie at the quantile is the same tie.
            weights = [dice.randrange(0, 50) for _ in range(count)]
            if not sum(weights):
                continue
            for q in (0.0, 0.125, 0.25, 0.5, 0.75, 1.0):
                theirs = np.quantile([float(v) for v in values], q, weights=weights, method="inverted_cdf")
                self.assertAlmostEqual(float(weighted_quantile(values, [float(w) for w in weights], q)), float(theirs))
