import itertools
import random
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from core.machine.casing import FormFactor
from core.machine.supply import Battery
from core.selling.packing import (
    GAP_MM,
    INNER_GAP_MM,
    LIFT_ALONE_G,
    Box,
    Moment,
    PackFacts,
    Size,
    choose_box,
    fits,
    kg,
    least_box,
    packing_steps,
    refusals,
    volumetric_g,
)

EDGE = st.integers(20, 600)
SIZES = st.builds(Size, EDGE, EDGE, EDGE)


def box(name: str, *inner: int, wall: int = 5, weight: int = 400) -> Box:
    return Box(name, Size(*inner), Size(*(edge + 2 * wall for edge in inner)), weight)


def some_boxes(seed: int, count: int = 40) -> list[Box]:
    dice = random.Random(seed)
    return [box(str(n), *(dice.randrange(120, 1100) for _ in "lwh"), wall=dice.randrange(2, 12)) for n in range(count)]


class Fitting(unittest.TestCase):
    def test_touching_fits_and_a_millimetre_more_does_not(self):
        room = Size(400, 300, 200)
        self.assertTrue(fits((200, 400, 300), room, upright=False))
        self.assertFalse(fits((200, 401, 300), room, upright=False))

    def test_what_stands_upright_is_turned_about_its_height_only(self):
        room = Size(400, 300, 200)
        self.assertTrue(fits((300, 400, 200), room, upright=True))
        self.assertFalse(fits((200, 400, 300), room, upright=True))

    @given(SIZES, SIZES)
    def test_sorted_edges_decide_as_trying_every_way_does(self, thing, room):
        tried = any(
            all(a <= b for a, b in zip(way, room.edges, strict=True)) for way in itertools.permutations(thing.edges)
        )
        self.assertEqual(fits(thing.edges, room, upright=False), tried)

    def test_a_size_is_of_something_and_not_of_a_house(self):
        for edges in ((0, 10, 10), (10, -1, 10), (10, 10, 3001)):
            with self.assertRaises(ValueError):
                Size(*edges)


class Choosing(unittest.TestCase):
    def test_the_smallest_that_leaves_the_gap(self):
        boxes = [box("tight", 399, 300, 200), box("just", 400, 300, 200), box("roomy", 500, 400, 300)]
        packed = choose_box(Size(300, 200, 100), boxes)
        self.assertEqual((packed.outer.name, packed.inner), ("just", None))

    def test_none_is_large_enough_and_how_large_one_must_be(self):
        thing = Size(500, 400, 300)
        self.assertIsNone(choose_box(thing, [box("small", 400, 300, 200)]))
        self.assertEqual(least_box(thing), Size(600, 500, 400))
        self.assertEqual(least_box(thing, double=True), Size(650, 550, 450))
        self.assertIsNone(least_box(Size(2950, 100, 100)))

    def test_of_two_boxes_the_walls_of_the_inner_one_count(self):
        thing = Size(200, 200, 200)
        inner = box("inner", 250, 250, 250, wall=5)
        # Outside it is 260, and wants 50 on every side: 360.
        self.assertIsNone(choose_box(thing, [inner, box("short", 359, 360, 360)], double=True))
        packed = choose_box(thing, [inner, box("outer", 360, 360, 360)], double=True)
        self.assertEqual((packed.outer.name, packed.inner.name), ("outer", "inner"))
        self.assertEqual(packed.weight_g, 800)

    @settings(max_examples=60, deadline=None)
    @given(st.integers(0, 10**6), SIZES, st.booleans(), st.booleans())
    def test_nothing_smaller_would_do(self, seed, thing, double, upright):
        boxes = some_boxes(seed, 14)
        packed = choose_box(thing, boxes, double=double, upright=upright)
        best = None
        for outer in boxes:
            for inner in boxes if double else [None]:
                first, gap = (inner, INNER_GAP_MM) if inner else (outer, GAP_MM)
                good = self.goes(thing.with_gap(gap), first.inner.edges, upright)
                if inner:
                    good = good and self.goes(inner.outer.with_gap(GAP_MM), outer.inner.edges, upright)
                if good and (best is None or outer.outer.volume < best):
                    best = outer.outer.volume
        self.assertEqual(packed.outer.outer.volume if packed else None, best)

    def goes(self, need, room, upright):
        ways = [(0, 1, 2), (1, 0, 2)] if upright else itertools.permutations(range(3))
        return any(all(need[w] <= r for w, r in zip(way, room, strict=True)) for way in ways)

    @given(st.integers(0, 10**6), SIZES)
    def test_a_larger_choice_of_boxes_is_never_worse(self, seed, thing):
        boxes = some_boxes(seed)
        few, all_of_them = choose_box(thing, boxes[:20]), choose_box(thing, boxes)
        if few:
            self.assertLessEqual(all_of_them.outer.outer.volume, few.outer.outer.volume)


class Steps(unittest.TestCase):
    def codes(self, **facts) -> list[str]:
        return [step.code for step in packing_steps(PackFacts(**facts))]

    def test_a_tube_lies_on_its_face_in_two_boxes(self):
        facts = PackFacts(FormFactor.ALL_IN_ONE, tube=True, drives=1, battery=Battery.LITHIUM)
        codes = [step.code for step in packing_steps(facts)]
        for code in ("face", "inner", "corners", "cell", "drives"):
            self.assertIn(code, codes)
        self.assertLess(codes.index("face"), codes.index("inner"))
        self.assertEqual((facts.double, facts.upright), (True, True))
        # 246 wide, 277 deep, 346 high: on its face its depth stands up.
        self.assertEqual(facts.lies(Size(246, 277, 346)), Size(246, 346, 277))

    def test_a_pack_and_a_lithium_cell_are_both_dealt_with(self):
        both = self.codes(form_factor=FormFactor.LAPTOP, battery=Battery.BOTH)
        self.assertEqual(both[both.index("cell") :][:2], ["cell", "pack"])
        for one in (Battery.LITHIUM, Battery.NICD, Battery.UNKNOWN):
            self.assertNotIn("pack", self.codes(form_factor=FormFactor.LAPTOP, battery=one))
        steps = {step.code: step for step in packing_steps(PackFacts(FormFactor.LAPTOP, battery=Battery.BOTH))}
        self.assertIn("lithium", steps["cell"].words)
        self.assertTrue(steps["cell"].caution)

    def test_pictures_are_taken_first_and_before_it_is_closed(self):
        for form in FormFactor:
            steps = packing_steps(PackFacts(form))
            moments = [step.picture for step in steps if step.picture]
            self.assertEqual(moments, [Moment.BEFORE, Moment.PACKED], form)
            self.assertEqual([steps[0].picture, steps[-1].code], [Moment.BEFORE, "close"], form)
            self.assertEqual(len({step.code for step in steps}), len(steps), form)

    def test_what_nobody_recorded_is_looked_at(self):
        steps = {step.code: step.words for step in packing_steps(PackFacts(FormFactor.DESKTOP))}
        self.assertIn("Look whether there are drives", steps["drives"])
        self.assertIn("Look whether there is a cell", steps["cell"])
        self.assertNotIn("drives", self.codes(form_factor=FormFactor.DESKTOP, drives=0))
        self.assertNotIn("cell", self.codes(form_factor=FormFactor.DESKTOP, battery=Battery.OUT))

    def test_a_bare_board_goes_into_a_bag_against_static(self):
        codes = self.codes(form_factor=FormFactor.CARD)
        self.assertIn("static", codes)
        self.assertFalse({"wrap", "corners", "knobs", "leads"} & set(codes))

    def test_what_is_heavy_says_so(self):
        steps = packing_steps(PackFacts(FormFactor.TOWER, weight_g=LIFT_ALONE_G + 1))
        self.assertIn("two people", steps[-1].caution)
        self.assertEqual(packing_steps(PackFacts(FormFactor.TOWER, weight_g=LIFT_ALONE_G))[-1].caution, "")
        self.assertIn("Not weighed yet", packing_steps(PackFacts(FormFactor.TOWER))[-1].caution)
        self.assertEqual(packing_steps(PackFacts(FormFactor.CARD))[-1].caution, "")

    def test_what_is_worth_much_goes_into_two_boxes(self):
        self.assertIn("inner", self.codes(form_factor=FormFactor.KEYBOARD, valuable=True))
        self.assertNotIn("inner", self.codes(form_factor=FormFactor.KEYBOARD))

    def test_leaking_and_swollen_things_are_refused_with_what_to_do(self):
        facts = PackFacts(FormFactor.DESKTOP, leaking=["leaked cell, green salts"], swollen=["swollen cell or pack"])
        leak, swollen = refusals(facts)
        self.assertIn("green salts", leak.words)
        self.assertIn("Never charge or post it", swollen.instead)
        self.assertEqual(refusals(PackFacts(FormFactor.DESKTOP)), ())


class Weights(unittest.TestCase):
    def test_the_worked_example(self):
        self.assertEqual(volumetric_g(Size(600, 500, 450), 5000), 27_000)
        self.assertEqual(str(kg(27_000)), "27.00")

    @given(SIZES, st.integers(1000, 20_000))
    def test_volume_over_divisor_rounded_up_to_the_gram(self, size, divisor):
        exact = size.volume / divisor
        self.assertTrue(exact <= volumetric_g(size, divisor) < exact + 1)

    def test_a_divisor_is_above_0(self):
        with self.assertRaises(ValueError):
            volumetric_g(Size(1, 1, 1), 0)
