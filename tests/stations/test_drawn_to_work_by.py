"""Drawings one works by, the parcel, the part in hand, trays, plugs, settings: each shows what its numbers say."""

import re
from decimal import Decimal
from unittest import TestCase

from hypothesis import assume, given
from hypothesis import strategies as st

from core.catalogue.assemblies import Assembly, Fastener, Key, Plug, StoredCharge
from core.catalogue.assembly_text import COLOURS
from core.catalogue.outlines import outline
from core.machine.casing import FormFactor
from core.safety import Hazard, said
from core.selling.packing import Box, Size, choose_box
from core.workshop.settings import SettingKind
from core.workshop.stripdown.fasteners import Tally
from core.workshop.stripdown.step import things_off
from stations.dispatch.drawing import TALL, WIDE, pack_drawing
from stations.workshop.in_hand import InHand
from stations.workshop.strip_page import Group, Tray
from stations.workshop.templatetags import upgrades, workshop
from stations.workshop.upgrade_drawing import Scale

D = Decimal
# Of a thing, and of a box that may hold it with its padding.
EDGE, ROOM = st.integers(20, 220), st.integers(240, 800)
THING = st.builds(Size, EDGE, EDGE, EDGE)
WALL, ROUNDING = 5, 0.11


def boxes() -> st.SearchStrategy[Box]:
    sizes = st.builds(Size, ROOM, ROOM, ROOM)
    return sizes.map(
        lambda inner: Box("box", inner, Size(*(edge + 2 * WALL for edge in inner.edges)), sum(inner.edges))
    )


class AParcel(TestCase):
    @given(THING, st.lists(boxes(), min_size=1, max_size=5), st.booleans(), st.booleans())
    def test_what_was_chosen_to_hold_it_is_drawn_around_it_from_both_sides(self, thing, sizes, double, upright):
        packed = choose_box(thing, sizes, double=double, upright=upright)
        assume(packed is not None)
        drawn = pack_drawing(thing, packed, upright=upright)
        for view in drawn.views:
            kinds = [rectangle.kind for rectangle in view.rectangles]
            self.assertEqual(kinds, ["outer", "room", *(["inner"] if packed.inner else []), "thing"])
            for around, within in zip(view.rectangles, view.rectangles[1:], strict=False):
                self.assertLessEqual(around.x, within.x + ROUNDING)
                self.assertLessEqual(around.y, within.y + ROUNDING)
                self.assertGreaterEqual(around.x + around.width, within.x + within.width - 2 * ROUNDING)
                self.assertGreaterEqual(around.y + around.height, within.y + within.height - 2 * ROUNDING)
            self.assertLessEqual(view.rectangles[0].width, WIDE + ROUNDING)
            self.assertLessEqual(view.rectangles[0].height, TALL + ROUNDING)

    @given(THING, st.lists(boxes(), min_size=1, max_size=5))
    def test_an_upright_one_keeps_its_height_and_both_views_one_scale(self, thing, sizes):
        packed = choose_box(thing, sizes, upright=True)
        assume(packed is not None)
        front, above = pack_drawing(thing, packed, upright=True).views
        box, seen = front.rectangles[0], front.rectangles[-1]
        # Of its box as high as it is: nothing was turned over.
        self.assertAlmostEqual(seen.height / box.height, thing.height / packed.outer.outer.height, delta=0.02)
        self.assertEqual([r.width for r in front.rectangles], [r.width for r in above.rectangles])


def tray(count: int, found: int, out: int, state: str) -> Tray:
    screws = Fastener(count, "M3", 6)
    lid = Assembly("Lid", 0, 0, 400, 1, 1, fasteners=(screws,))
    return Tray(1, lid, None, (Group(Tally(screws, found, out), now=False),), state)


class Trays(TestCase):
    def test_what_is_there_of_what_belongs(self):
        for given_tray, words in (
            (tray(4, 4, 0, "to come"), "4 to come"),
            (tray(4, 4, 2, "now"), "2 of 4"),
            (tray(4, 4, 4, "full"), "4 of 4"),
            (tray(4, 4, 4, "empty"), "all 4 in"),
            (tray(4, 3, 3, "full"), "3 of 4"),
            (tray(4, 3, 1, "now"), "1 of 4"),
        ):
            with self.subTest(words, state=given_tray.state):
                self.assertIn(words, re.sub("<[^>]+>", "", workshop.tray_mark(given_tray)))

    def test_a_short_one_never_looks_as_if_it_were_all_there(self):
        for state in ("to come", "now", "full", "empty"):
            marked = workshop.tray_mark(tray(4, 3, 3 if state == "full" else 0, state))
            self.assertIn("st--fail", marked)
            self.assertNotIn("g-pass", marked)


class ThePartInHand(TestCase):
    def hand(self, count: int, done: int) -> InHand:
        screws = (Fastener(count, "M3", 6),) if count else ()
        lid = Assembly("Lid", 0, 0, 400, 1, 1, fasteners=screws, clips=2)
        return InHand(lid, None, things_off(lid, [count] if count else []), done)

    @given(st.integers(1, 12), st.data())
    def test_every_screw_has_a_place_of_its_own_on_the_rim_and_one_is_next(self, count, data):
        hand = self.hand(count, data.draw(st.integers(0, count)))
        drawn = workshop.plan_of(hand, None)
        at = re.findall(r'hole--(\w+)" transform="translate\((\d+) (\d+)\)', drawn)
        self.assertEqual(len(at), count)
        self.assertEqual(len({(x, y) for _, x, y in at}), count)
        self.assertTrue(all(4 < int(x) < 206 and 4 < int(y) < 126 for _, x, y in at))
        states = [state for state, _, _ in at]
        self.assertEqual((states.count("done"), states.count("next")), (hand.done, 1 if hand.done < count else 0))
        self.assertIn(f"{hand.done} of {count} done", drawn)

    def test_many_are_counted_and_none_is_not_drawn(self):
        self.assertIn("5 of 20", re.sub("<[^>]+>", "", workshop.plan_of(self.hand(20, 5), None)))
        self.assertEqual(workshop.plan_of(self.hand(0, 0), None), "")

    def test_what_was_short_has_its_hole_too(self):
        drawn = workshop.plan_of(self.hand(3, 1), tray(4, 3, 1, "now"))
        self.assertEqual(drawn.count('<g class="hole'), 4)
        self.assertIn("1 of 3 done, 1 short", drawn)


class Said(TestCase):
    def test_wires_are_drawn_and_read_out_in_their_order(self):
        plug = Plug("P8", "board", Key.COLOURS, ("bk", "rd", "ye"))
        drawn = workshop.plug_wires(plug)
        self.assertIn(f'aria-label="P8: {COLOURS["bk"]}, {COLOURS["rd"]}, {COLOURS["ye"]}"', drawn)
        self.assertEqual(re.findall(r"wire--(\w+)", drawn), ["bk", "rd", "ye"])
        self.assertEqual(workshop.plug_rule(plug), "P8 to board: black to black")
        self.assertEqual(workshop.plug_wires(Plug("P9")), "")
        self.assertEqual(workshop.plug_rule(Plug("P9")), f"P9: {Key.NONE.label}")

    def test_what_can_hurt_at_an_assembly_follows_from_what_it_is(self):
        def cautions(**more) -> list[str]:
            return workshop.assembly_cautions(Assembly("X", 0, 0, 9, 1, 1, **more))["cautions"]

        self.assertEqual(cautions(), [])
        self.assertEqual(cautions(charge=StoredCharge.SUPPLY), list(said([Hazard.CHARGE])))
        # At a CRT the strap is off: nothing may say that it is to be on.
        tube = cautions(charge=StoredCharge.TUBE, hazards=(Hazard.STATIC, Hazard.EDGES))
        self.assertEqual(tube, list(said([Hazard.TUBE, Hazard.EDGES])))
        self.assertEqual(cautions(two_people=True), list(said([Hazard.LIFT])))
        self.assertIn("Old plastic breaks", cautions(brittle=True)[-1])

    def test_every_assembly_of_an_outline_that_holds_charge_says_so(self):
        for shape in FormFactor:
            for assembly in outline(shape).assemblies.values():
                if assembly.charge is not StoredCharge.NOTHING:
                    with self.subTest(shape, assembly=assembly.name):
                        self.assertTrue(workshop.assembly_cautions(assembly)["cautions"])

    def test_what_is_made_safe_is_not_said_to_come_off(self):
        strap = Assembly("Strap", 0, 0, 9, 1, 1, stays=True)
        self.assertEqual([workshop.step_verb(strap, back) for back in (False, True)], ["made safe", "connected again"])
        lid = Assembly("Lid", 0, 0, 9, 1, 1)
        self.assertEqual([workshop.step_verb(lid, back) for back in (False, True)], ["off", "on"])


class Settings(TestCase):
    @given(st.lists(st.booleans(), min_size=1, max_size=16))
    def test_a_bank_shows_each_switch_where_it_stands(self, switches):
        drawn = workshop.state_drawing(SettingKind.BANK.value, "".join("1" if on else "0" for on in switches))
        heights = [int(y) for y in re.findall(r'class="dip" x="\d+" y="(\d+)"', drawn)]
        self.assertEqual([y < 10 for y in heights], switches)
        self.assertIn(", ".join(f"{i} {'on' if on else 'off'}" for i, on in enumerate(switches, 1)), drawn)

    @given(st.integers(2, 40), st.data())
    def test_links_lie_over_the_pins_they_join(self, pins, data):
        first = data.draw(st.integers(1, pins - 1))
        drawn = workshop.state_drawing(SettingKind.LINK.value, f"{pins}: {first}-{first + 1}")
        middles = [int(x) for x in re.findall(r'cx="(\d+)"', drawn)]
        (cap,) = (int(x) for x in re.findall(r'class="cap" x="(\d+)"', drawn))
        self.assertEqual(len(middles), pins)
        covered = [number for number, x in enumerate(middles, 1) if cap < x < cap + 28]
        self.assertEqual(covered, [first, first + 1])

    def test_anything_else_is_told_in_words_as_it_was_typed(self):
        for kind, text in ((SettingKind.FIRMWARE, "rev 2"), (SettingKind.BANK, "up up down"), (SettingKind.LINK, "3")):
            self.assertEqual(workshop.state_drawing(kind.value, text), text)

    @given(st.sampled_from(SettingKind))
    def test_what_was_typed_never_becomes_a_part_of_the_page(self, kind):
        shown = workshop.state_drawing(kind.value, "<script>")
        self.assertFalse(hasattr(shown, "__html__") and "<script>" in shown)


class Upgrades(TestCase):
    def test_amounts_in_words(self):
        words = [upgrades.adds_words(amount) for amount in (None, D(0), D(66), D("-12.50"))]
        self.assertEqual(words, ["not known", "nothing", "+66.00", "−12.50"])
        classes = [upgrades.gain_or_loss(amount) for amount in (None, D(0), D(66), D(-12))]
        self.assertEqual(classes, ["", "", "gain", "loss"])
        self.assertEqual(upgrades.money_or_not(None), "not known")
        self.assertEqual(
            upgrades.only_with_said(("card", "<b>")), "only together with <b>card</b> and <b>&lt;b&gt;</b>"
        )

    @given(st.decimals(-700, 700, places=2).filter(bool))
    def test_a_bar_begins_at_zero_and_goes_to_its_own_side(self, amount):
        drawn = upgrades.adds_bar(amount, "", Scale(40.0, 0.05))
        x, wide = (float(found) for found in re.search(r'<rect x="([\d.]+)" y="5" width="([\d.]+)"', drawn).groups())
        ends = (x, x + wide)
        self.assertAlmostEqual(ends[0] if amount > 0 else ends[1], 40.0, delta=0.11)
        self.assertIn("adds--gain" if amount > 0 else "adds--loss", drawn)

    def test_where_nothing_is_added_the_words_say_why(self):
        for amount in (None, D(0)):
            self.assertIn("not of his time", upgrades.adds_bar(amount, "not of his time", Scale(40.0, 0.05)))
