"""Where on a case care is done, and where feet and badges sit: areas, edges, what lies opposite what."""

from decimal import Decimal as D
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from core.machine.casing import BOX, Face
from core.workshop.care import CareError
from core.workshop.care.agents import Surface
from core.workshop.care.placing import Placed, Stuck, doubts, stick
from core.workshop.care.region import ONE, Region, Size, around

SIZE = Size(400, 150, 300)
SHARES = st.decimals(D("0.001"), ONE, places=3)


class Regions(TestCase):
    def test_the_area_of_a_part_of_a_face_less_what_is_open_in_it(self):
        half = Region(Face.TOP, wide=D("0.5"))
        self.assertEqual(half.area(SIZE), 600)
        self.assertEqual(half.area(SIZE, D(40)), 560)
        self.assertEqual(half.measures(SIZE), (200, 300))
        self.assertEqual(Region(Face.LEFT).area(SIZE), 450)

    def test_a_face_within_the_case_has_no_measures(self):
        self.assertIsNone(Region(Face.INSIDE).area(SIZE))
        self.assertIsNone(SIZE.face(Face.KEYBOARD))

    def test_what_runs_over_the_edge_is_refused_at_its_field(self):
        for given_, at in (
            ({"left": D("0.6"), "wide": D("0.5")}, "wide"),
            ({"top": D("0.6"), "high": D("0.5")}, "high"),
            ({"wide": D(0)}, "wide"),
            ({"high": D(-1)}, "high"),
            ({"left": ONE, "wide": D("0.1")}, "left"),
            ({"top": D("-0.1")}, "top"),
        ):
            with self.subTest(given_), self.assertRaises(CareError) as caught:
                Region(Face.TOP, **given_)
            self.assertEqual(caught.exception.at, at)

    def test_more_open_than_there_is_is_refused(self):
        for openings in (D(1200), D(-1)):
            with self.assertRaises(CareError) as caught:
                Region(Face.TOP).area(SIZE, openings)
            self.assertEqual(caught.exception.at, "openings")

    @given(st.sampled_from(BOX), SHARES, SHARES)
    def test_two_parts_of_a_face_make_the_whole(self, face, left, top):
        if left == 1 or top == 1:
            return
        across = [Region(face, wide=left), Region(face, left, wide=1 - left)]
        down = [Region(face, high=top), Region(face, D(0), top, ONE, 1 - top)]
        whole = Region(face).area(SIZE)
        for parts in (across, down):
            self.assertEqual(sum(part.area(SIZE) for part in parts), whole)

    @given(st.floats(0, 1), st.floats(0, 1), st.floats(0, 1))
    def test_the_region_of_a_finding_lies_on_its_face_and_is_as_large_as_it_says(self, x, y, share):
        found = around(Face.FRONT, x, y, share)
        self.assertLessEqual(found.left + found.wide, 1)
        self.assertLessEqual(found.top + found.high, 1)
        self.assertAlmostEqual(float(found.wide * found.high), max(share, 0.001), delta=0.004)


def foot(left: int, top: int, what: Stuck = Stuck.FOOT, side: int = 14) -> Placed:
    return Placed(what, Face.UNDERSIDE, D(left), D(top), D(side), D(side))


class Placing(TestCase):
    def test_the_measures_from_the_edges_add_up(self):
        edges = foot(18, 20).from_edges(SIZE)
        self.assertEqual(edges, {"left": 18, "right": 368, "top": 20, "bottom": 266})

    def test_what_stands_over_an_edge_is_refused(self):
        for placed, at in (
            (foot(390, 10), "left"),
            (foot(10, 290), "top"),
            (foot(-1, 0), "left"),
            (foot(0, 0, side=0), "wide"),
        ):
            with self.subTest(placed), self.assertRaises(CareError) as caught:
                placed.within(SIZE)
            self.assertEqual(caught.exception.at, at)
        with self.assertRaises(CareError):
            Placed(Stuck.FOOT, Face.INSIDE, D(1), D(1), D(1), D(1)).within(SIZE)
        foot(386, 286).within(SIZE)

    def test_feet_that_should_lie_opposite_and_do_not_are_doubted(self):
        self.assertEqual(doubts([foot(18, 18), foot(368, 18)], SIZE), [])
        (said,) = doubts([foot(18, 18), foot(360, 18)], SIZE)
        self.assertIn("18 mm from the left, 26 from the right", said)
        # Badges may sit where they like; feet further down are another pair.
        self.assertEqual(doubts([foot(18, 18, Stuck.BADGE), foot(360, 18, Stuck.BADGE)], SIZE), [])
        self.assertEqual(doubts([foot(18, 18), foot(360, 200)], SIZE), [])

    def test_two_on_one_another_are_doubted(self):
        (said,) = doubts([foot(18, 18), foot(20, 20, Stuck.LABEL)], SIZE)
        self.assertIn("lie on one another", said)

    def test_old_glue_comes_off_by_what_the_surface_bears(self):
        recipe = stick([foot(18, 18), foot(368, 18)], SIZE, Surface.PLASTIC, "feet")
        words = " ".join(step.instruction for step in recipe.steps)
        self.assertIn("hidden spot", words)
        self.assertIn("Foot 2 of 2 on the underside: 18 mm from the right edge, 18 mm from the top edge", words)
        # Rubber bears no oil and no alcohol unseen: soap.
        self.assertIn("isopropanol", str(stick([foot(1, 1)], SIZE, Surface.TEXTURED, "badge").steps))
        clean = stick([foot(1, 1)], SIZE, Surface.PLASTIC, "badge", residue=False)
        self.assertNotIn("glue", " ".join(step.instruction for step in clean.steps))

    def test_nothing_is_stuck_on_where_nothing_was_measured(self):
        with self.assertRaises(CareError):
            stick([], SIZE, Surface.PLASTIC, "feet")

    @given(st.lists(st.tuples(st.integers(0, 386), st.integers(0, 286)), min_size=1, max_size=6))
    def test_each_is_named_by_its_nearest_edges(self, places):
        kept = [foot(left, top) for left, top in places]
        steps = [s for s in stick(kept, SIZE, Surface.PLASTIC, "feet").steps if s.instruction.startswith("Foot")]
        self.assertEqual(len(steps), len(kept))
        for step, one in zip(steps, kept, strict=True):
            edges = one.from_edges(SIZE)
            self.assertIn(f"{min(edges['left'], edges['right'])} mm from the", step.instruction)
