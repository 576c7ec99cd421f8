"""A reading at a step: what it says while it is typed, and what may be recorded of it."""

from dataclasses import replace
from decimal import Decimal
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from core.bench.check_library import LIBRARY
from core.bench.optional_checks import OPTIONAL
from core.bench.plan import Outcome
from core.bench.reading import (
    ReadingError,
    TypedReading,
    judge_reading,
    load_points,
    pairs,
    reading_refusal,
    reason_refusal,
    with_point,
)
from core.bench.verdict import HAND_METER, SCOPE, Accuracy, Verdict

BY_CODE = {check.code: check for check in (*LIBRARY, *OPTIONAL)}
FIVE, LOAD = BY_CODE["supply-5v"], BY_CODE["supply-load"]
MEASURED = [check for check in BY_CODE.values() if check.limits and not check.under_load]


class OneReading(TestCase):
    def test_nothing_typed_is_nothing_judged(self):
        for check in BY_CODE.values():
            reading = judge_reading(check, TypedReading())
            self.assertEqual((reading.value, reading.verdict, reading.points), (None, None, ()))
            self.assertEqual(bool(reading_refusal(check, Outcome.PASS, reading)), check.asks, check.code)
            for outcome in (Outcome.FAIL, Outcome.SKIP, Outcome.WAIVED):
                self.assertEqual(reading_refusal(check, outcome, reading), "")

    @given(st.sampled_from(MEASURED), st.floats(0.02, 0.98))
    def test_well_inside_is_inside_and_far_outside_is_not(self, check, share):
        low, high = check.limits.low, check.limits.high
        # As exact as can be, so that only the limits decide.
        exact = Accuracy(Decimal(0), 0, Decimal(0))
        middle = low + (high - low) * Decimal(str(round(share, 3)))
        inside = judge_reading(check, TypedReading(f"{middle:f} {check.limits.unit}", "meter", exact))
        self.assertIs(inside.verdict, Verdict.INSIDE)
        self.assertEqual(reading_refusal(check, Outcome.PASS, inside), "")
        beyond = judge_reading(check, TypedReading(f"{high * 2:f} {check.limits.unit}", "meter", exact))
        self.assertIs(beyond.verdict, Verdict.OUTSIDE)
        self.assertTrue(reading_refusal(check, Outcome.PASS, beyond))
        self.assertEqual(reading_refusal(check, Outcome.FAIL, beyond), "")

    @given(st.sampled_from(Outcome), st.sampled_from([None, *Verdict]))
    def test_who_decides_otherwise_than_the_reading_says_why(self, outcome, verdict):
        wanted = outcome is not Outcome.PASS or verdict is Verdict.TOO_CLOSE
        self.assertEqual(bool(reason_refusal(outcome, verdict, "")), wanted)
        self.assertEqual(reason_refusal(outcome, verdict, "measured twice"), "")

    def test_its_instrument_and_what_that_may_be_wrong_by(self):
        typed = judge_reading(FIVE, TypedReading("5.00 V"))
        self.assertEqual((typed.instrument, typed.uncertainty), (HAND_METER.name, Decimal("0.045")))
        better = TypedReading("5.00 V", "bench meter", Accuracy(Decimal("0.05"), 3, Decimal("0.001")))
        self.assertEqual(judge_reading(FIVE, better).uncertainty, Decimal("0.0055"))
        self.assertEqual(judge_reading(BY_CODE["supply-ripple"], TypedReading("20 mV")).instrument, SCOPE.name)

    def test_a_bare_number_in_another_unit_is_asked_about_and_one_with_its_unit_is_not(self):
        bare = judge_reading(FIVE, TypedReading("5020"))
        self.assertTrue(bare.asks)
        self.assertEqual(reading_refusal(FIVE, Outcome.FAIL, bare), bare.asks)
        for taken in (TypedReading("5020 V"), TypedReading("5020", by_instrument=True)):
            self.assertEqual(judge_reading(FIVE, taken).asks, "")

    def test_leads_the_wrong_way_round_are_said_and_never_passed(self):
        turned = judge_reading(FIVE, TypedReading("-5.00 V"))
        self.assertTrue(turned.reversed)
        self.assertEqual(reading_refusal(FIVE, Outcome.PASS, turned), turned.reversed)
        self.assertEqual(reading_refusal(FIVE, Outcome.FAIL, turned), "")

    def test_what_is_no_reading_is_told_in_words(self):
        for typed in ("five", "5 A", "1e400", "9" * 40, "nan", "--5"):
            with self.subTest(typed), self.assertRaises(ReadingError):
                judge_reading(FIVE, TypedReading(typed))

    def test_a_hand_meters_figures_in_words(self):
        self.assertEqual(HAND_METER.words, "0.5 % of reading + 2 digits on V, 0.8 % + 2 digits on Ω")


class UnderLoad(TestCase):
    def test_the_worst_point_decides_and_the_highest_load_is_the_reading(self):
        good = judge_reading(LOAD, TypedReading("3 5.03; 0 5.09; 1.5 5.06"))
        self.assertEqual((good.value, good.verdict, len(good.points)), (Decimal("5.03"), Verdict.INSIDE, 3))
        bad = judge_reading(LOAD, TypedReading("0 5.90; 1.5 5.06; 3 5.03"))
        self.assertEqual((bad.value, bad.verdict), (Decimal("5.03"), Verdict.OUTSIDE))

    @given(
        st.lists(
            st.tuples(st.integers(0, 50), st.integers(1, 2000)), min_size=2, max_size=8, unique_by=lambda pair: pair[0]
        )
    )
    def test_points_are_read_as_they_were_written(self, points):
        text = ""
        for amps, volts in points:
            text = with_point(text, amps / 10, Decimal(volts) / 100)
        self.assertEqual(load_points(text, "V"), tuple((amps / 10, volts / 100) for amps, volts in points))
        self.assertEqual(load_points(text.replace("; ", "\n"), "V"), load_points(text, "V"))
        self.assertEqual(len(pairs(text + " ; ")), len(points))

    def test_what_are_no_points(self):
        for text in ("0 5", "0 5.1; 1", "0 5.1; one 5", "0 5.1 V A; 2", "; ".join(f"{n} 5" for n in range(41))):
            with self.subTest(text[:20]), self.assertRaises(ReadingError):
                load_points(text, "V")


class Calculated(TestCase):
    def test_a_part_suspect_in_circuit_is_neither_passed_nor_failed(self):
        part = next(check for check in OPTIONAL if check.does.value == "part")
        suspect = judge_reading(part, TypedReading("104K; 400n"))
        for outcome in (Outcome.PASS, Outcome.FAIL):
            self.assertEqual(reading_refusal(part, outcome, suspect), suspect.words)
        self.assertEqual(reading_refusal(part, Outcome.SKIP, suspect), "")
        bad = judge_reading(part, TypedReading("104K; 400n; 250n"))
        self.assertEqual(reading_refusal(part, Outcome.PASS, bad), bad.words)
        self.assertEqual(reading_refusal(part, Outcome.FAIL, bad), "")

    def test_a_step_without_limits_yet_asks_for_nothing(self):
        unread = replace(FIVE, limits=None)
        self.assertEqual(judge_reading(unread, TypedReading("5 V")).verdict, None)
