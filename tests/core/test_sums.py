"""The calculators of the bench: what is typed, and the answer in words."""

import math
import unittest
from datetime import UTC, date, datetime, timedelta

from hypothesis import given
from hypothesis import strategies as st

from core.bench.calculators import CALCULATORS, calculate
from core.bench.power import Charge, hands_in_refusal


class Sums(unittest.TestCase):
    def says(self, what: str, *words: str, **typed: str) -> list[str]:
        answer = calculate(what, typed)
        for word in words:
            self.assertTrue(any(word in line for line in answer), (word, answer))
        return answer

    def wrong(self, what: str, words: str, **typed: str) -> None:
        with self.assertRaises((ValueError, ArithmeticError)) as caught:
            calculate(what, typed)
        self.assertIn(words, str(caught.exception))

    def test_nothing_typed_is_no_answer_and_no_complaint(self):
        for what in CALCULATORS:
            self.assertEqual(calculate(what, {}), [])
            self.assertEqual(calculate(what, {"bands": "  ", "volts": ""}), [])

    def test_a_resistor_by_its_bands_and_what_a_reading_says(self):
        self.says("bands", "4.7 k", "from 4.465 kΩ to 4.935 kΩ", bands="yellow violet red gold")
        self.says("bands", "nearest in E24", bands="4K7")
        self.says("bands", "the part is good", bands="4K7J", in_circuit="4.6 kΩ")
        # In circuit others lie beside it: that only screens.
        self.says("bands", "lift one leg", bands="4K7J", in_circuit="2 kΩ")
        self.says("bands", "lift one leg", bands="4K7J", in_circuit="6 kΩ")
        self.says("bands", "the part is bad", bands="4K7J", in_circuit="2 kΩ", out="5.2 kΩ")
        self.wrong("bands", "", bands="purple")

    def test_a_capacitor_by_its_code(self):
        self.says("capacitor", "100 nF", code="104K")
        self.says("capacitor", "the part is good", code="104K", out="95 nF")
        self.says("capacitor", "the part is bad", code="104K", out="60 nF")
        self.wrong("capacitor", "95 nF or 95 µF", code="104K", out="95")
        self.wrong("capacitor", "", code="what")

    def test_how_long_a_charge_stays(self):
        answer = self.says("discharge", "80 s until", "then measure", farads="470 µF", volts="325 V", ohms="100 kΩ")
        self.assertEqual(answer[1], "470 µF from 325 V through 100 kΩ")  # as it was understood
        self.says("discharge", "14 min until", farads="4700u", volts="325 V", ohms="100k")
        self.says("discharge", "0 s until", farads="1000 µF", volts="48 V", ohms="1 kΩ")
        self.wrong("discharge", "Fill in every field.", farads="470 µF", volts="325 V")
        self.wrong("discharge", "", farads="470 V", volts="325 V", ohms="100 kΩ")
        # 100 may be Ω or kΩ: of a thousand times too short a wait nobody would know.
        self.wrong(
            "discharge", "100 what? Say the unit too: 100 Ω or 100 kΩ.", farads="470u", volts="325 V", ohms="100"
        )
        self.wrong("discharge", "470 nF or 470 µF", farads="470", volts="325 V", ohms="100k")
        self.wrong("discharge", "Type 470 µF, or 0.47 F", farads="470 mF", volts="325 V", ohms="100k")
        self.says("discharge", "4700 µF from", farads="4700 µF", volts="325 V", ohms="100k")
        self.wrong("discharge", "25 mV or 25 V", farads="1n", volts="25", ohms="100k")
        self.wrong("discharge", "above 0", farads="0 F", volts="325 V", ohms="100 kΩ")

    @given(st.floats(1e-6, 1e-2), st.floats(61, 500), st.floats(1e3, 1e6))
    def test_after_that_time_it_is_down_to_sixty_volts(self, farads, volts, ohms):
        said, *_ = calculate(
            "discharge", {"farads": f"{farads:.9f} F", "volts": f"{volts:.6f} V", "ohms": f"{ohms:.3f} Ω"}
        )
        number, unit = said.split()[:2]
        seconds = float(number) * {"s": 1, "min": 60}[unit]
        # V(t) = V0 · exp(−t / RC), but for what is cut off the figures that are typed.
        self.assertLessEqual(volts * math.exp(-seconds / (ohms * farads)), 60 * 1.001)

    def test_cells_that_must_not_be_fitted(self):
        self.says("battery", "3.6 V", cell="nicd", count="3", volts="3.6 V", charged="on")
        self.says("battery", "NOT THESE: The machine charges", cell="lithium", count="1", volts="3 V", charged="on")
        self.says("battery", "NOT THESE: 3 × 1.5 V make 4.5 V", cell="alkaline", count="3", volts="3.6 V")
        self.says("battery", "goes flat", cell="nimh", count="3", volts="3.6 V")
        for count in ("0", "100", "two", "", "²"):
            self.wrong("battery", "How many cells?", cell="nicd", count=count, volts="3.6 V")
        self.wrong("battery", "", cell="coal", count="3", volts="3.6 V")

    def test_a_supply_under_load(self):
        self.says(
            "load", "100 mΩ", "regulation 6.4 %", "no load 5.000 V, worst point 0 mV", points="0 5.0; 1 4.9; 3 4.7"
        )
        self.wrong("load", "two different loads", points="1 5.0; 1 4.9")

    def test_a_contact(self):
        self.says("contact", "20.0 mΩ", "good", drop="40 mV", amps="2 A")
        self.says("contact", "over 50 mΩ", drop="120 mV", amps="2 A")
        self.wrong("contact", "above 0", drop="120 mV", amps="0 A")

    def test_starts(self):
        # 0 of 29: the one-sided 95 % bound is 1 − 0.05^(1/29) = 9.8 %; ln 0.05 / ln 0.9 = 28.4, so 29 in a row.
        self.says("starts", "up to 10 in 100", "29 clean starts in a row", runs="29", failed="0")
        self.says("starts", "under 5 %: 59 clean starts", runs="4", failed="1", claim="5")
        for typed in (
            {"runs": "two"},
            {"runs": "3", "failed": "1.5"},
            {"claim": "0"},
            {"claim": "100"},
            {"claim": "x"},
        ):
            self.wrong("starts", "", **typed)
        self.wrong("starts", "", runs="3", failed="4")


class HandsIn(unittest.TestCase):
    NOW = datetime(2026, 11, 4, 12, tzinfo=UTC)

    def test_discharged_since_it_had_power_and_anew_each_day(self):
        today, hour = date(2026, 11, 4), timedelta(hours=1)
        supply = Charge("supply", self.NOW)
        self.assertEqual(hands_in_refusal(None, self.NOW, today, None), "")
        self.assertEqual(hands_in_refusal(supply, self.NOW - hour, today, today), "")
        self.assertEqual(hands_in_refusal(supply, None, today, today), "")
        self.assertIn("since it last had power", hands_in_refusal(supply, self.NOW + hour, today, today))
        self.assertIn("since it last had power", hands_in_refusal(supply, self.NOW, today, today), "the same moment")
        self.assertIn("here yet", hands_in_refusal(Charge("tube", None), None, today, None))
        self.assertIn(
            "CRT was discharged on another day", hands_in_refusal(Charge("tube", self.NOW), None, today, None)
        )
