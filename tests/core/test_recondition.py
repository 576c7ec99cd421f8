"""Old parts made to do again: kits of capacitors, belts, paste, cells, lubricants, what was glued."""

from decimal import Decimal as D
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from core.catalogue.recipes import as_data, from_data
from core.safety import Hazard
from core.workshop.care import CareError, recondition
from core.workshop.care.agents import Agent, Chemistry
from core.workshop.care.capacitors import check, kit, needs, read_board
from core.workshop.care.recondition import GLUED, Kind, Mended, Runs, belt_length, belt_to_buy, paste_ml

BOARD = """C12, C14: 220 µF 16 V ⌀8 pitch 3.5; new 220 µF 25 V ⌀8 pitch 3.5
C3: 220 µF 16 V ⌀8 pitch 3.5; new 220 µF 25 V
C1: 1000 uF 10 V ⌀12,5 pitch 5"""


class Capacitors(TestCase):
    def test_a_board_makes_a_kit(self):
        found = [(str(one), count) for one, count in kit(read_board(BOARD))]
        self.assertEqual(found, [("1000 µF 10 V, ⌀ 12.5, pitch 5", 1), ("220 µF 25 V, ⌀ 8, pitch 3.5", 3)])
        self.assertEqual(sum(need.amount for need in needs(read_board(BOARD))), 4)

    def test_what_would_fail_or_not_go_in_is_refused(self):
        for new, words in (
            ("220 µF 10 V", "never fewer volts"),
            ("100 µF 25 V", "from 220 to 330 µF"),
            ("470 µF 25 V", "from 220 to 330 µF"),
            ("220 µF 25 V ⌀10", "too wide"),
            ("220 µF 25 V ⌀8 pitch 5", "holes are 3.5 apart"),
        ):
            with self.subTest(new), self.assertRaisesRegex(CareError, words):
                read_board(f"C1: 220 µF 16 V ⌀8 pitch 3.5; new {new}")

    def test_what_is_no_line_is_refused(self):
        for typed in (
            "",
            "C1",
            "C1: 220",
            ": 220 µF 16 V",
            "C1: 0 µF 16 V",
            "C1: 220 µF 16 V; 220 µF 25 V",
            "C1: 220 µF 16 V\nC1: 220 µF 16 V",
            "C1: 9999999 µF 16 V",
            "a long name: 1 µF 5 V",
        ):
            with self.subTest(typed), self.assertRaises(CareError) as caught:
                read_board(typed)
            self.assertEqual(caught.exception.at, "capacitors")
        with self.assertRaises(CareError):
            read_board("\n".join(f"C{n}: 1 µF 5 V" for n in range(41)))

    def test_what_nobody_measured_is_not_bought(self):
        with self.assertRaisesRegex(CareError, "measure its diameter and pitch before you buy"):
            recondition.capacitors("supply", read_board("C1: 220 µF 16 V"))

    @given(st.integers(1, 5000), st.integers(1, 400), st.integers(1, 5000), st.integers(1, 400))
    def test_volts_never_go_down_and_the_value_stays_near(self, old, old_volts, new, new_volts):
        (place,) = read_board(f"C1: {old} µF {old_volts} V")
        typed = f"C1: {old} µF {old_volts} V; new {new} µF {new_volts} V"
        good = new_volts >= old_volts and old <= new <= old * 1.5
        try:
            (place,) = read_board(typed)
        except CareError:
            self.assertFalse(good)
        else:
            self.assertTrue(good)
            check(place)


class Figures(TestCase):
    def test_a_belt_over_two_like_pulleys_is_twice_the_way_and_one_turn(self):
        self.assertAlmostEqual(float(belt_length(D(20), D(20), D(100))), 200 + 62.8319, places=3)

    def test_a_crossed_belt_is_longer(self):
        args = D(12), D(60), D(80)
        self.assertGreater(belt_length(*args, crossed=True), belt_length(*args))

    def test_pulleys_that_touch_are_refused(self):
        with self.assertRaises(CareError) as caught:
            belt_length(D(60), D(60), D(60))
        self.assertEqual(caught.exception.at, "apart")
        with self.assertRaises(CareError):
            belt_length(D(0), D(60), D(60))

    @given(st.integers(1, 400), st.integers(1, 400), st.integers(1, 900))
    def test_a_belt_is_longer_than_twice_the_way_and_bought_shorter(self, drive, driven, more):
        apart = D(drive + driven) / 2 + more
        if apart > 1000:
            return
        way = belt_length(D(drive), D(driven), apart)
        self.assertGreater(way, 2 * apart)
        self.assertLess(belt_to_buy(way), way)

    def test_paste_is_thin(self):
        self.assertEqual(paste_ml(D(16)), D("0.2"))
        self.assertEqual(paste_ml(D(1)), D("0.1"))
        for area in (D(0), D(401)):
            with self.assertRaises(CareError):
                paste_ml(area)


class Plans(TestCase):
    def every(self):
        yield from (recondition.ready(kind, "drive") for kind in (Kind.CONTACTS, Kind.SWITCHES, Kind.FANS, Kind.DRIVE))
        yield from (recondition.bearings("drive", runs) for runs in Runs)
        yield recondition.belts("drive", D(200))
        yield recondition.paste("board", D(16))
        yield recondition.capacitors("supply", read_board(BOARD))
        yield from (recondition.battery("board", one, leaked) for one in Chemistry for leaked in (True, False, None))
        yield from (recondition.mechanism("lid", "latch", mended) for mended in Mended)

    def test_each_is_a_recipe_that_can_be_kept(self):
        for recipe in self.every():
            with self.subTest(recipe.title):
                self.assertEqual(from_data(as_data(recipe)).steps, recipe.steps)
                self.assertEqual(recipe.kind, "recondition")

    def test_lubricants_by_what_runs_and_never_where_they_harm(self):
        words = {runs: str(recondition.bearings("drive", runs).steps) for runs in Runs}
        self.assertIn("plastic-safe grease", words[Runs.PLASTIC].lower())
        self.assertIn("Grease clogs", words[Runs.SINTERED])
        for said in words.values():
            self.assertIn("Never on belts", said)

    def test_a_leak_is_taken_away_by_its_chemistry_and_rinsed(self):
        def agents(chemistry):
            return [need.name for step in recondition.battery("board", chemistry, True).steps for need in step.needs]

        self.assertIn(Agent.VINEGAR, agents(Chemistry.NICKEL))
        self.assertLess(agents(Chemistry.NICKEL).index(Agent.VINEGAR), agents(Chemistry.NICKEL).index(Agent.WATER))
        self.assertIn(Agent.BICARBONATE, agents(Chemistry.LEAD))
        for dry in (Chemistry.LITHIUM, Chemistry.UNKNOWN):
            self.assertFalse({Agent.VINEGAR, Agent.BICARBONATE, Agent.WATER} & set(agents(dry)))
        calm = recondition.battery("board", Chemistry.NICKEL, False)
        self.assertNotIn("vinegar", str(calm.steps))

    def test_nobody_reaches_in_before_it_is_discharged(self):
        first = recondition.capacitors("supply", read_board(BOARD)).steps[0]
        self.assertIn(Hazard.CHARGE, first.hazards)
        self.assertEqual((first.low, first.high), (0, 5))

    def test_what_is_glued_is_named_so(self):
        self.assertEqual(recondition.mechanism("lid", "latch", Mended.GLUED).code, GLUED)
        self.assertNotEqual(recondition.mechanism("lid", "latch", Mended.PRINTED).code, GLUED)
        with self.assertRaises(CareError) as caught:
            recondition.mechanism("lid", "", Mended.GLUED)
        self.assertEqual(caught.exception.at, "broke")
        with self.assertRaises(CareError):
            recondition.bearings("", Runs.METAL)
