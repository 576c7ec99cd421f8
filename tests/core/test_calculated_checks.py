"""Steps that are worked out: what is typed, and what the sum makes of it."""

from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from core.bench.calculated_checks import CALCULATIONS
from core.bench.checks import CheckKind
from core.bench.verdict import Verdict

SAID = (
    (CheckKind.PART, "104K; 101n", Verdict.INSIDE, "within its tolerance"),
    (CheckKind.PART, "104K; 400n", Verdict.TOO_CLOSE, "lift one leg"),
    (CheckKind.PART, "104K; 400n; 250n", Verdict.OUTSIDE, "reads 250 nF: out of tolerance"),
    (CheckKind.PART, "104K; 400n; 104n", Verdict.INSIDE, "reads 104 nF"),
    (CheckKind.PART, "yellow, violet, red, gold; 4.71k", Verdict.INSIDE, "Marked 4.7 kΩ ± 5 %"),
    (CheckKind.PART, "104K; 0", Verdict.TOO_CLOSE, "reads 0 F"),
    (CheckKind.CELLS, "3 NiMH; 3.6 V; charger", Verdict.INSIDE, "3.6 V."),
    (CheckKind.CELLS, "3 nicd; 3.6; no charger", Verdict.INSIDE, "goes flat"),
    (CheckKind.CELLS, "1 lithium; 3 V; charger", Verdict.OUTSIDE, "can burst"),
    (CheckKind.CELLS, "2 alkaline; 4.5 V; no charger", Verdict.OUTSIDE, "the machine wants 4.5 V"),
    (CheckKind.CELLS, "1 Li-SOCl2; 3.6 V; no charger", Verdict.INSIDE, "3.6 V"),
    (CheckKind.BLEED, "470u; 325 V; 100k", Verdict.INSIDE, "at least 80 s"),
    (CheckKind.BLEED, "470 µF; 48 V; 100 kΩ", Verdict.INSIDE, "at least 0 s"),
)
REFUSED = (
    (CheckKind.PART, "", "semicolons"),
    (CheckKind.PART, "104K", "semicolons"),
    (CheckKind.PART, "104K; 1; 2; 3", "semicolons"),
    (CheckKind.PART, "104K; lots", "Type a number in F"),
    (CheckKind.PART, "104K; 5 V", "read in F"),
    (CheckKind.PART, "gold red red; 5k", "other end"),
    (CheckKind.PART, "1099; 5n", "as printed"),
    (CheckKind.CELLS, "three nimh; 3.6; charger", "How many cells"),
    (CheckKind.CELLS, "3 plutonium; 3.6; charger", "Kinds are NiCd"),
    (CheckKind.CELLS, "3 nimh; 3.6; perhaps", "no charger"),
    (CheckKind.CELLS, "0 nimh; 3.6; charger", "At least one cell"),
    (CheckKind.BLEED, "470u; 325 V", "semicolons"),
    (CheckKind.BLEED, "470u; 325 V; 100", "100 Ω or 100 kΩ"),
    (CheckKind.PART, "4K7; 4.71", "4.71 Ω or 4.71 kΩ"),
    (CheckKind.BLEED, "470u; 0; 100k", "above 0"),
    (CheckKind.BLEED, "470u; 325 V; 9999999999 kΩ", "No supply"),
)


class WorkedOut(TestCase):
    def test_what_comes_of_it(self):
        for kind, text, verdict, words in SAID:
            with self.subTest(text):
                worked = CALCULATIONS[kind].act(text)
                self.assertEqual(worked.verdict, verdict)
                self.assertIn(words, worked.words)

    def test_what_can_not_be_read_is_said_in_words(self):
        for kind, text, says in REFUSED:
            with self.subTest(text), self.assertRaisesRegex(ValueError, says):
                CALCULATIONS[kind].act(text)

    def test_the_example_shown_is_one_that_works(self):
        for kind, each in CALCULATIONS.items():
            with self.subTest(kind):
                self.assertEqual(each.act(each.example).verdict, Verdict.INSIDE)

    @given(st.sampled_from(list(CALCULATIONS)), st.text(alphabet="0123456789;., kKnNuVΩFcharge-−no", max_size=40))
    def test_anything_typed_is_worked_out_or_refused_in_words(self, kind, text):
        try:
            self.assertTrue(CALCULATIONS[kind].act(text).words)
        except ValueError as refused:
            self.assertTrue(str(refused))

    @given(st.integers(1, 999))
    def test_a_reading_in_circuit_never_convicts(self, nanofarads):
        self.assertNotEqual(CALCULATIONS[CheckKind.PART].act(f"104K; {nanofarads}n").verdict, Verdict.OUTSIDE)
