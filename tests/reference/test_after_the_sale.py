"""Parcels and tax against what stands in published places, and against another way to reckon."""

import itertools
import random
from decimal import Decimal
from unittest import TestCase

import numpy as np

from core.books.tax import Turnover, global_accounting
from core.selling.carriers import girth
from core.selling.packing import GAP_MM, LIFT_ALONE_G, Box, Size, choose_box, volumetric_g
from core.selling.price import SellingTerms, tax_within

D = Decimal


class VolumetricWeight(TestCase):
    def test_express_carriers_example(self):
        """Length × width × height in cm ÷ 5,000 is kg: the usual worked example of express carriers (from memory)."""
        for edges, kg in (((60, 50, 45), "27"), ((40, 30, 20), "4.8"), ((100, 50, 50), "50")):
            size = Size(*(10 * edge for edge in edges))
            self.assertEqual(D(volumetric_g(size, 5000)) / 1000, D(kg))

    def test_air_cargo(self):
        """Air cargo: 6,000 cm³ are a kilogram, 166.67 kg a cubic metre (IATA, The Air Cargo Tariff, from memory)."""
        self.assertEqual(round(volumetric_g(Size(1000, 1000, 1000), 6000) / 1000, 2), 166.67)


class Girth(TestCase):
    def test_length_and_girth(self):
        """Parcel post limits say length plus girth, the girth measured round the other way: 2 × (width + height)
        (Universal Postal Union, Parcel Post Regulations, from memory)."""
        self.assertEqual(girth(Size(1000, 400, 300)), 1000 + 2 * (400 + 300))
        self.assertEqual(girth(Size(300, 1000, 400)), girth(Size(1000, 400, 300)))


class LiftingAlone(TestCase):
    def test_the_recommended_weight_limit(self):
        """The load constant of the NIOSH lifting equation is 23 kg, at best posture (Waters and others, 1994)."""
        self.assertEqual(LIFT_ALONE_G, 23_000)


class BoxesTriedInNumpy(TestCase):
    def test_the_same_least_volume(self):
        """All boxes and all six turns at once, in another library."""
        dice = random.Random(5)
        turns = np.array(list(itertools.permutations(range(3))))
        for _ in range(300):
            inner = np.array([[dice.randrange(100, 900) for _ in range(3)] for _ in range(40)])
            boxes = [
                Box(str(n), Size(*map(int, row)), Size(*(int(x) + 12 for x in row)), 1) for n, row in enumerate(inner)
            ]
            thing = np.array([dice.randrange(20, 700) for _ in range(3)])
            need = (thing + 2 * GAP_MM)[turns]
            goes = (need[None, :, :] <= inner[:, None, :]).all(axis=2).any(axis=1)
            volumes = (inner + 12).prod(axis=1)
            least = int(volumes[goes].min()) if goes.any() else None
            chosen = choose_box(Size(*map(int, thing)), boxes)
            self.assertEqual(chosen.outer.outer.volume if chosen else None, least)


class Tax(TestCase):
    def test_global_accounting_over_three_periods(self):
        """The method of a tax authority’s notice on margin schemes (purchases of a period off its sales, a loss carried
        on; from memory), with figures worked by hand: a sixth of 3,000; nothing; a sixth of 5,000 - 1,000 - 2,000."""
        turnovers = [Turnover(D(8000), D(5000)), Turnover(D(4000), D(6000)), Turnover(D(5000), D(1000))]
        found = global_accounting(turnovers, D(20))
        self.assertEqual([one.tax for one in found], [D("500.00"), D(0), D("333.33")])
        self.assertEqual([one.carried_out for one in found], [D(0), D(-2000), D(0)])

    def test_by_the_item_and_by_the_period_agree_where_every_item_earns(self):
        """Tax on each margin, before rounding, sums to that on the sum of margins: algebra."""
        dice = random.Random(3)
        for _ in range(100):
            items = [(D(dice.randrange(1, 300)), D(dice.randrange(300, 900))) for _ in range(dice.randrange(1, 30))]
            terms = SellingTerms(D(0), tax_scheme="margin", tax_percent=D(19))
            each = sum(tax_within(sold, bought, terms) for bought, sold in items)
            whole = Turnover(sum((s for _, s in items), D(0)), sum((b for b, _ in items), D(0)))
            (period,) = global_accounting([whole], D(19))
            self.assertAlmostEqual(each, period.tax, delta=D("0.005") * (len(items) + 1))

    def test_standard_tax_within_a_price(self):
        """119.00 at 19 % holds 19.00: net 100.00 (the usual example)."""
        self.assertEqual(tax_within(D(119), D(0), SellingTerms(D(0), tax_scheme="standard", tax_percent=D(19))), D(19))
