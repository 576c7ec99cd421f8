"""Strip-down: way in, way back, what is not to be closed, fasteners, learning."""

import unittest
from decimal import Decimal

from hypothesis import given, settings
from hypothesis import strategies as st

from core.catalogue.assemblies import Assembly, AssemblyError, Fastener, StripDown
from core.catalogue.assembly_text import (
    as_data,
    from_data,
    read_fasteners,
    read_plugs,
    read_ways,
    write_fasteners,
    write_plugs,
)
from core.catalogue.orders import check, on_order
from core.workshop.learning import learned
from core.workshop.stripdown.fasteners import Lying, Tally, is_like, tray_for, where_the_like_are
from core.workshop.stripdown.way_back import Inside, What, do_not_close, minutes_if_closed_too_soon, way_back
from core.workshop.stripdown.way_in import Costs, Record, WaysIn, shares_of_an_opening, way_in, while_in_there


def a(name: str, off: int, on: int, *ways: str, **more) -> Assembly:
    """An assembly; each way with "+" between its names."""
    place = {"layer": 0, "x_from": 0, "x_to": 100} | more
    return Assembly(
        name, minutes_off=off, minutes_on=on, ways=tuple(frozenset(way.split("+")) for way in ways), **place
    )


def machine(*assemblies: Assembly) -> StripDown:
    return StripDown({assembly.name: assembly for assembly in assemblies})


# The design's example by hand: by the shield 26 minutes, by the side 19, with the shield wanted too 26.
BOX = machine(
    a("lid", 2, 2),
    a("left", 1, 1),
    a("bracket", 3, 3),
    a("shield", 5, 6, "lid", layer=1),
    a("supply", 4, 5, "shield", "left+bracket", layer=2),
    a("memory", 1, 1, "supply", layer=3, test="memory test"),
)
NAMES = st.sampled_from([f"a{i}" for i in range(9)])


@st.composite
def machines(draw, most: int = 9, rules: bool = False) -> StripDown:
    """Machines that can be: each waits for earlier ones, by one way or several."""
    made: list[Assembly] = []
    for number in range(draw(st.integers(1, most))):
        before = [one.name for one in made]
        ways = draw(st.lists(st.sets(st.sampled_from(before), min_size=1, max_size=3), max_size=3)) if before else []
        after = draw(st.sets(st.sampled_from(before), max_size=2)) if before and rules else set()
        made.append(
            Assembly(
                f"a{number}",
                draw(st.integers(0, 6)),
                0,
                draw(st.integers(1, 400)),
                draw(st.integers(0, 9)),
                draw(st.integers(0, 9)),
                tuple(frozenset(way) for way in ways),
                on_after=frozenset(after),
            )
        )
    return machine(*made)


class WayIn(unittest.TestCase):
    def test_the_example_by_hand(self):
        way = way_in(BOX, {"memory"})
        self.assertEqual((way.minutes, set(way.steps)), (19, {"left", "bracket", "supply", "memory"}))
        self.assertEqual(way.steps[-2:], ("supply", "memory"))

    def test_another_target_changes_the_way(self):
        way = way_in(BOX, {"memory", "shield"})
        self.assertEqual((way.minutes, set(way.steps)), (26, {"lid", "shield", "supply", "memory"}))

    def test_what_is_off_costs_nothing(self):
        way = way_in(BOX, {"memory"}, off={"lid", "shield"})
        self.assertEqual(way.steps, ("supply", "memory"))
        self.assertEqual(way_in(BOX, {"lid"}, off={"lid"}).steps, ())

    def test_the_gentler_way_when_breakage_makes_it_cheaper(self):
        box = machine(
            a("clips", 1, 1, brittle=True, worth=Decimal(90)), a("screws", 2, 2), a("board", 1, 1, "clips", "screws")
        )
        self.assertIn("clips", way_in(box, {"board"}, Costs(Decimal(60))).steps)
        # Two minutes more are 2.00 at 60 an hour: more than 2 in 100 of 90, less than of 150.
        dearer = StripDown(dict(box.assemblies) | {"clips": a("clips", 1, 1, brittle=True, worth=Decimal(150))})
        way = way_in(dearer, {"board"}, Costs(Decimal(60)))
        self.assertEqual((way.steps, way.breakage), (("screws", "board"), Decimal(0)))

    def test_breakage_is_learned(self):
        self.assertEqual(Record().chance, 0.02)
        self.assertEqual(Record(50, 3).chance, 0.04)
        with self.assertRaises(ValueError):
            Record(1, 2)

    def test_a_worth_nobody_said_is_not_counted(self):
        box = machine(a("lid", 1, 1, brittle=True))
        self.assertEqual(way_in(box, {"lid"}, Costs(Decimal(24))).breakage, 0)

    def test_work_on_the_way(self):
        also = while_in_there(BOX, {"memory"}, ["supply", "shield", "lid"])
        # In by the side; with the shield it turns to 26: 7 more, against 15 by itself.
        self.assertEqual((also[0].at, also[0].now, also[0].later), ("supply", 0, 17))
        self.assertIn(("shield", 7, 15), [(one.at, one.now, one.later) for one in also])

    def test_a_way_is_worked_out_once(self):
        ways = WaysIn(BOX)
        self.assertIs(ways.to({"memory"}), ways.to(["memory"]))

    def test_jobs_of_one_opening_share_its_minutes(self):
        # Memory alone 19, shield alone 15, both 26 by the shield: 26 × 19 ÷ 34 = 14.5, 26 × 15 ÷ 34 = 11.5.
        self.assertEqual(sum(shares_of_an_opening(WaysIn(BOX), ["memory", "shield"])), 26)
        self.assertEqual(shares_of_an_opening(WaysIn(BOX), ["memory", "shield"]), [15, 11])
        self.assertEqual(shares_of_an_opening(WaysIn(BOX), []), [])

    @given(machines(), st.data())
    @settings(max_examples=40, deadline=None)
    def test_shares_sum_to_the_whole_and_nobody_pays_more_than_alone(self, strip, data):
        places = data.draw(st.lists(st.sampled_from(sorted(strip.assemblies)), min_size=1, max_size=4))
        ways = WaysIn(strip)
        shares = shares_of_an_opening(ways, places)
        self.assertEqual(sum(shares), ways.to(places).minutes)
        for place, share in zip(places, shares, strict=True):
            self.assertLessEqual(share, ways.to({place}).minutes + 1)

    @given(machines(), st.data())
    @settings(max_examples=60, deadline=None)
    def test_nothing_comes_off_before_what_holds_it(self, strip, data):
        targets = data.draw(st.sets(st.sampled_from(sorted(strip.assemblies)), min_size=1))
        way = way_in(strip, targets)
        self.assertLessEqual(targets, set(way.steps))
        off: set[str] = set()
        for name in way.steps:
            self.assertTrue(not strip[name].ways or any(w <= off for w in strip[name].ways), name)
            off.add(name)


class WayBack(unittest.TestCase):
    def test_the_reverse_when_nothing_else_is_said(self):
        self.assertEqual(way_back(BOX, ["left", "bracket", "supply", "memory"])[:2], ["memory", "supply"])

    def test_rules_that_are_not_the_reverse(self):
        box = machine(a("lid", 1, 1), a("shield", 1, 1, "lid", on_after=frozenset({"card"})), a("card", 1, 1, "lid"))
        self.assertEqual(way_back(box, box.assemblies), ["card", "shield", "lid"])

    def test_rules_that_no_order_meets_name_their_ring(self):
        box = machine(a("lid", 1, 1), a("card", 1, 1, "lid", on_after=frozenset({"lid"})))
        with self.assertRaises(AssemblyError) as raised:
            check(box)
        self.assertEqual(set(raised.exception.ring), {"lid", "card"})
        self.assertIn("lid", str(raised.exception))

    def test_a_ring_that_an_alternative_breaks_is_no_error(self):
        # The card goes on after the lid: it can, since the flap is another way to it.
        box = machine(a("lid", 1, 1), a("flap", 1, 1), a("card", 1, 1, "lid", "flap", on_after=frozenset({"lid"})))
        self.assertEqual(way_back(check(box), box.assemblies), ["lid", "card", "flap"])

    @given(machines(rules=True))
    @settings(max_examples=60, deadline=None)
    def test_everything_off_is_on_again_and_no_rule_broken(self, strip):
        try:
            order = on_order(strip, strip.assemblies)
        except AssemblyError as refused:
            self.assertGreater(len(refused.ring), 1)
            return
        self.assertEqual(set(order), set(strip.assemblies))
        off = set(order)
        for name in order:
            off.remove(name)
            self.assertTrue(not strip[name].ways or any(way <= off for way in strip[name].ways), name)
            self.assertFalse(strip[name].on_after & off, name)


class Data(unittest.TestCase):
    def test_a_ring_names_its_members(self):
        with self.assertRaises(AssemblyError) as raised:
            machine(a("lid", 1, 1, "cage"), a("cage", 1, 1, "lid"), a("foot", 1, 1))
        self.assertEqual(set(raised.exception.ring), {"lid", "cage"})

    def test_what_can_not_be(self):
        for wrong in (
            lambda: a("", 1, 1),
            lambda: a("lid", -1, 1),
            lambda: a("lid", 1, 1, x_from=50, x_to=50),
            lambda: a("lid", 1, 1, layer=-1),
            lambda: machine(a("lid", 1, 1, "lid")),
            lambda: machine(a("lid", 1, 1, "roof")),
            lambda: Fastener(0),
            lambda: from_data([{"name": "lid", "layer": 0, "x": [0, 9], "minutes": [1, 1]}] * 2),
            lambda: from_data([{"name": "lid"}]),
            lambda: from_data({"name": "lid"}),
            lambda: from_data([{"name": "lid", "layer": "0", "x": [0, 9], "minutes": [1, 1]}]),
            lambda: from_data([{"name": "lid", "layer": 0, "x": [0, 9], "minutes": [1, True]}]),
            lambda: read_fasteners("four M3"),
            lambda: read_fasteners("4 × M3 × 6 round"),
            lambda: read_plugs("P8, upside down"),
            lambda: read_plugs("P8: pink-ish"),
            lambda: read_ways("roof", ["lid"]),
        ):
            with self.assertRaises(AssemblyError):
                wrong()

    def test_as_typed(self):
        self.assertEqual(
            read_fasteners("4 × M3 × 6 cross; 2x M4x16mm slot; 6"),
            (Fastener(4, "M3", 6, "cross"), Fastener(2, "M4", 16, "slot"), Fastener(6)),
        )
        self.assertEqual(read_fasteners("2 × 6-32 × 8 hex")[0], Fastener(2, "6-32", 8, "hex"))
        self.assertEqual(
            read_ways("Shield or left  + Bracket", ["shield", "left", "bracket"]),
            (frozenset({"shield"}), frozenset({"left", "bracket"})),
        )
        plugs = read_plugs("P8 to main board, colours: og rd bk bk; lamp, tied")
        self.assertEqual((plugs[0].to, plugs[0].wires[2:], plugs[1].tied), ("main board", ("bk", "bk"), True))
        for text in ("4 × M3 × 6 cross; 2 × M4", "6"):
            self.assertEqual(write_fasteners(read_fasteners(text)), text)
        self.assertEqual(read_plugs(write_plugs(plugs)), plugs)

    @given(machines(rules=True))
    @settings(max_examples=30, deadline=None)
    def test_out_and_in_again_is_the_same(self, strip):
        self.assertEqual(from_data(as_data(strip)), strip)

    def test_what_is_shut_in(self):
        self.assertEqual(BOX.under("supply"), {"memory"})
        self.assertEqual(BOX.under("shield"), frozenset(), "the side gets there too")
        self.assertEqual(BOX.under("lid"), {"shield"})


class Closing(unittest.TestCase):
    BOX = machine(
        a("lid", 4, 4),
        a("supply", 5, 5, "lid", layer=1),
        a("shield", 4, 5, "supply", layer=2),
        a("strap", 0, 1, "supply", layer=2, must_be_in=True),
        a("memory", 1, 1, "shield", layer=3, test="memory test"),
    )

    def test_what_is_missing_beneath(self):
        found = do_not_close(
            self.BOX, "shield", Inside(frozenset({"memory", "shield"}), tests_due=frozenset({"memory"}))
        )
        self.assertEqual([u.what for u in found], [What.NOT_IN, What.TEST])
        # From closed: lid, supply, shield and memory off and on again.
        self.assertEqual(minutes_if_closed_too_soon(self.BOX, found), 8 + 10 + 9 + 2)

    def test_an_earth_strap_comes_first_and_is_for_safety(self):
        found = do_not_close(self.BOX, "supply", Inside(frozenset({"strap", "supply"}), {"shield": (("clean it", 8),)}))
        self.assertEqual([u.what for u in found], [What.SAFETY, What.JOB])
        self.assertTrue(found[0].safety)

    def test_a_lost_fuse_holds_even_what_is_in(self):
        found = do_not_close(self.BOX, "supply", Inside(frozenset({"supply"}), lost=frozenset({"strap"})))
        self.assertEqual([u.safety for u in found], [True])

    def test_nothing_speaks_against_it(self):
        self.assertEqual(do_not_close(self.BOX, "lid", Inside(frozenset({"lid"}))), [])
        self.assertEqual(minutes_if_closed_too_soon(self.BOX, []), 0)


class Fasteners(unittest.TestCase):
    M3X6 = Fastener(4, "M3", 6, "cross")

    def test_short_at_arrival_is_said_before_it_is_missed(self):
        tally = Tally(self.M3X6, found=3, out=3, back=1)
        self.assertEqual((tally.short_at_arrival, tally.in_tray), (1, 2))

    def test_more_out_than_in_can_not_be(self):
        for wrong in ((3, 4, 0), (-1, 0, 0), (4, 4, -1)):
            with self.assertRaises(ValueError):
                Tally(self.M3X6, *wrong)

    def test_longer_is_no_match_over_a_board(self):
        for length, beneath, like in ((6, True, True), (7, True, False), (5, True, True), (5, False, False)):
            self.assertEqual(is_like(self.M3X6, Fastener(1, "M3", length), beneath), like)
        self.assertFalse(is_like(self.M3X6, Fastener(1, "M3"), False), "nobody measured it")
        self.assertFalse(is_like(self.M3X6, Fastener(1, "6-32", 6), False))

    def test_where_the_like_are(self):
        lying = [
            Lying("drawer B4", Fastener(38, "M3", 6)),
            Lying("tray 2", Fastener(4, "M3", 8)),
            Lying("tray 7", Fastener(2, "m3", 5)),
        ]
        self.assertEqual([one.where for one in where_the_like_are(self.M3X6, lying, True)], ["drawer B4", "tray 7"])

    def test_a_tray_each_while_there_are_enough_and_look_alikes_never_together(self):
        m3x6, m3x8, m4 = Fastener(2, "M3", 6), Fastener(2, "M3", 8), Fastener(2, "M4", 8)
        self.assertEqual(tray_for([m3x6], {}, 2), 1)
        self.assertEqual(tray_for([m3x6], {1: [m3x8]}, 2), 2)
        full = {1: [m3x8], 2: [m4]}
        self.assertEqual(tray_for([m3x6], full, 2), 2)
        self.assertEqual(tray_for([m3x6], {1: [m3x8], 2: [m3x8, m4]}, 2), 3)
        self.assertEqual(tray_for([], full, 2), 1)
        self.assertEqual(tray_for([Fastener(2)], full, 2), 3, "nobody knows what these are")
        with self.assertRaises(ValueError):
            tray_for([], {}, 0)


class Learning(unittest.TestCase):
    def test_by_hand(self):
        for count, ratio in ((0, 1.000), (1, 1.149), (40, 1.878)):
            self.assertAlmostEqual(learned([2.0] * count).ratio, ratio, 3)

    def test_the_spread_before_anything_was_measured(self):
        # exp(±1.2816 × 0.5)
        self.assertAlmostEqual(learned([]).low, 0.5269, 4)
        self.assertAlmostEqual(learned([]).high, 1.8980, 3)

    def test_it_narrows(self):
        few, many = learned([1.0] * 2), learned([1.0] * 30)
        self.assertLess(many.high - many.low, few.high - few.low)

    def test_nonsense(self):
        with self.assertRaises(ValueError):
            learned([0])
