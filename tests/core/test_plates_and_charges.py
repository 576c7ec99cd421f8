"""Adapters that must not be mixed up, charges that rest on one another, and the colour of plastic from a picture."""

import unittest
from dataclasses import replace
from decimal import Decimal as D

from hypothesis import given
from hypothesis import strategies as st

from core.buying.landed import Band, Charge, ChargeError, ChargeKind, landed_cost, read_bands, usual_charges
from core.intake.colour import Lab, delta_e, lab_of, measure
from core.machine.mains import (
    Adapter,
    Mains,
    Polarity,
    SuffixRule,
    compare_adapters,
    mains_known,
    mains_words,
    read_plate,
    variant_by_number,
)

ADAPTERS = st.builds(
    Adapter,
    st.decimals(1, 30, places=1),
    st.decimals("0.1", 5, places=1),
    st.booleans(),
    st.sampled_from(Polarity),
)
CHANNEL = st.integers(1, 255)
SPOTS = st.tuples(CHANNEL, CHANNEL, CHANNEL)


class Plates(unittest.TestCase):
    def test_as_plates_say_it(self):
        for text, volts, amps, alternating, poles in (
            ("9 V DC 1 A centre minus", "9", "1", False, Polarity.CENTRE_MINUS),
            ("9V~ 850mA", "9", "0.85", True, Polarity.NONE),
            ("12 V = 2,5 A center +", "12", "2.5", False, Polarity.CENTRE_PLUS),
            ("7.5V 300 mA DC", "7.5", "0.3", False, Polarity.UNKNOWN),
            ("5 v dc, 2 a; centre positive", "5", "2", False, Polarity.CENTRE_PLUS),
            ("5 v dc, 2 a; centre −", "5", "2", False, Polarity.CENTRE_MINUS),
        ):
            self.assertEqual(read_plate(text), Adapter(D(volts), D(amps), alternating, poles), text)

    def test_what_is_no_plate(self):
        for text in ("", "9 V", "9 V 1 A", "nine volts DC 1 A", "0 V DC 1 A", "9 V DC 0 mA", "9 V DC 1 A centre"):
            with self.assertRaises(ValueError):
                read_plate(text)

    @given(ADAPTERS)
    def test_its_words_say_all_that_is_known(self, adapter):
        self.assertIn(f"{adapter.volts.normalize():f} V", adapter.words)
        self.assertEqual("AC" in adapter.words, adapter.alternating)
        self.assertEqual("not known" in adapter.words, not adapter.whole)

    @given(ADAPTERS, ADAPTERS, st.booleans())
    def test_never_a_yes_where_something_differs_or_is_not_known(self, wanted, offered, of_its_sort):
        if of_its_sort:
            offered = replace(wanted, amps=offered.amps)
        verdict = compare_adapters(wanted, offered)
        self.assertTrue(verdict.words)
        if verdict.may:
            self.assertEqual(wanted.alternating, offered.alternating)
            self.assertTrue(wanted.whole and offered.whole)
            self.assertGreaterEqual(offered.amps, wanted.amps)
            self.assertLessEqual(abs(offered.volts - wanted.volts), wanted.volts * D("0.05"))
            if not wanted.alternating:
                self.assertIs(wanted.polarity, offered.polarity)
        if wanted.alternating != offered.alternating:
            self.assertIs(verdict.may, False)

    @given(ADAPTERS)
    def test_its_own_adapter_may_unless_its_poles_are_not_known(self, adapter):
        self.assertIs(compare_adapters(adapter, adapter).may, True if adapter.whole else None)

    def test_the_mains_in_words(self):
        self.assertEqual(mains_words(Mains.UNKNOWN, ""), "not known")
        self.assertEqual(mains_words(Mains.UNKNOWN, "110 V"), "110 V")
        self.assertEqual(mains_words(Mains.V220_240, ""), "220–240 V")
        self.assertEqual(mains_words(Mains.V220_240, "50 Hz"), "220–240 V, 50 Hz")
        self.assertEqual(mains_words(Mains.AUTO, "auto-ranging"), "auto-ranging")
        self.assertEqual([mains_known(Mains.UNKNOWN, ""), mains_known(Mains.UNKNOWN, "110 V")], [False, True])
        self.assertEqual(len({one.label for one in Mains}), len(Mains))

    def test_a_number_that_stands_for_a_variant(self):
        rule = SuffixRule(1500, {0: Mains.V100_120, 1: Mains.V220_240})
        found = [variant_by_number(rule, number) for number in (1499, 1500, 1501, 1502)]
        self.assertEqual(found, [None, Mains.V100_120, Mains.V220_240, None])


class Charges(unittest.TestCase):
    def test_bands_as_people_write_them(self):
        self.assertEqual(
            read_bands("25 to 1000; 20% to 5000; 12"), (Band(D(25), D(1000)), Band(D(20), D(5000)), Band(D(12)))
        )
        for text, words in (
            ("25 up to 1000; 12", "Write bands"),
            ("", "Write bands"),
            ("125", "from 0 to 100"),
            ("25 to 1000", "Every band but the last"),
            ("25; 12", "Every band but the last"),
            ("25 to 1000; 20 to 1000; 12", "rise"),
            ("25 to 0; 12", "rise"),
        ):
            with self.assertRaisesRegex(ValueError, words):
                read_bands(text)

    @given(st.decimals(0, 9000, places=2), st.decimals(0, 2000, places=2))
    def test_each_band_takes_its_slice_and_more_is_never_less(self, price, more):
        def premium(amount: D) -> D:
            charges = usual_charges({"price": amount}, "25 to 1000; 20 to 5000; 12")
            return sum(
                (one.base for one in landed_cost(charges, D(1)).charges if one.charge.kind is ChargeKind.PREMIUM), D(0)
            )

        slices = min(price, D(1000)) * 25 + max(D(0), min(price, D(5000)) - 1000) * 20 + max(D(0), price - 5000) * 12
        self.assertLessEqual(abs(premium(price) - slices / 100), D("0.005"))
        self.assertLessEqual(premium(price), premium(price + more))

    def test_charges_that_rest_on_one_another_are_refused(self):
        charges = (
            Charge(ChargeKind.PRICE, amount=D(100)),
            Charge(ChargeKind.DUTY, percent=D(5), of=(ChargeKind.IMPORT_TAX,)),
            Charge(ChargeKind.IMPORT_TAX, percent=D(20), of=(ChargeKind.DUTY,)),
        )
        with self.assertRaisesRegex(ChargeError, "rest on one another"):
            landed_cost(charges, D(1))

    def test_a_percentage_of_two_currencies_is_worked_out_in_ours(self):
        cost = landed_cost(
            (
                Charge(ChargeKind.PRICE, amount=D(100)),
                Charge(ChargeKind.FREIGHT, amount=D(50), currency="SEK", rate=D("0.1")),
                Charge(ChargeKind.DUTY, percent=D(10), of=(ChargeKind.PRICE, ChargeKind.FREIGHT)),
            ),
            D("1.2"),
        )
        # 120 + 5 in ours, a tenth of that.
        self.assertEqual([one.base for one in cost.charges], [D("120.00"), D("5.00"), D("12.50")])
        self.assertEqual(cost.total, D("137.50"))


class Plastic(unittest.TestCase):
    def test_white_black_and_grey(self):
        white, black, grey = lab_of((255, 255, 255)), lab_of((0, 0, 0)), lab_of((119, 119, 119))
        self.assertAlmostEqual(white.l, 100, places=2)
        self.assertAlmostEqual(black.l, 0, places=4)
        # sRGB 119 is the middle grey of L* 50 (IEC 61966-2-1 with CIE 15, worked by hand: light 0.1845).
        self.assertAlmostEqual(grey.l, 50.03, delta=0.05)
        for one in (white, black, grey):
            self.assertLess(abs(one.a) + abs(one.b), 0.02)

    @given(SPOTS, SPOTS)
    def test_a_difference_is_the_same_both_ways_and_nothing_to_itself(self, one, two):
        first, second = lab_of(one), lab_of(two)
        self.assertAlmostEqual(delta_e(first, second), delta_e(second, first), places=9)
        self.assertAlmostEqual(delta_e(first, first), 0, places=9)
        self.assertGreaterEqual(delta_e(first, second), 0)

    @given(SPOTS)
    def test_a_neutral_patch_comes_out_grey(self, patch):
        found = lab_of(patch, patch)
        self.assertLess(abs(found.a) + abs(found.b), 0.02)

    @given(SPOTS, SPOTS)
    def test_the_same_as_the_sheltered_part_is_no_yellowing(self, spot, neutral):
        found = measure(spot, [spot, spot], neutral)
        self.assertAlmostEqual(found.yellowing, 0, places=6)
        self.assertEqual(found.words, "No difference that can be seen.")

    def test_in_words(self):
        sheltered = (205, 200, 188)
        self.assertIn("yellowed, evenly", measure(sheltered, [(205, 190, 140)] * 3).words)
        self.assertIn("in patches", measure(sheltered, [(205, 190, 140), (200, 170, 90), (206, 199, 180)]).words)
        self.assertIn("not yellower", measure(sheltered, [(180, 190, 205)]).words)
        with self.assertRaisesRegex(ValueError, "at least one"):
            measure(sheltered, [])
        with self.assertRaisesRegex(ValueError, "black in one channel"):
            lab_of(sheltered, (0, 200, 200))

    def test_lightness_alone(self):
        self.assertAlmostEqual(delta_e(Lab(50, 0, 0), Lab(51, 0, 0)), 1.0, delta=0.01)
