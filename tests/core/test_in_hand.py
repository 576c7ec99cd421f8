"""One assembly in hand, press by press; an assembly that is called otherwise, or is not there after all."""

import unittest
from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st

from core.catalogue.assemblies import Plug
from core.catalogue.changes import renamed, without
from core.workshop.stripdown.step import Kind, count_of, things_off, things_on
from core.workshop.stripdown.way_in import Costs, way_in
from tests.core.test_stripdown import BOX, a, machine, machines

COUNTS = st.lists(st.integers(0, 14), max_size=4)
HELD = st.builds(
    lambda plugs, clips, stays: a(
        "board", 1, 1, plugs=tuple(Plug(f"P{number}") for number in range(plugs)), clips=clips, stays=stays
    ),
    st.integers(0, 4),
    st.integers(0, 3),
    st.booleans(),
)


class PressByPress(unittest.TestCase):
    def test_plugs_first_then_screws_then_clips(self):
        board = a("board", 1, 1, plugs=(Plug("P8"), Plug("P9")), clips=2)
        self.assertEqual(
            [thing.said for thing in things_off(board, [1, 2])],
            ["P8 is out", "P9 is out", "First is out", "Second is out", "Third is out, all 3", "All 2 clips are open"],
        )
        self.assertEqual(
            [thing.said for thing in things_on(board, [1, 2])][:3],
            ["board is in", "All 2 clips are shut", "First is in"],
        )
        self.assertEqual(things_on(board, [])[-1].said, "P9 is in")

    def test_one_screw_is_the_screw_and_the_eleventh_has_a_number(self):
        lid = a("lid", 1, 1)
        self.assertEqual(things_off(lid, [1])[0].said, "The screw is out")
        self.assertEqual(things_off(lid, [12])[10].said, "Number 11 is out")
        self.assertEqual([thing.said for thing in things_off(replace(lid, clips=1), [])], ["The clip is open"])

    def test_what_stays_in_is_made_safe(self):
        cell = a("cell", 1, 1, stays=True)
        self.assertEqual([thing.said for thing in things_off(cell, [])], ["cell: made safe"])
        self.assertEqual([thing.said for thing in things_on(cell, [])], ["cell: connected again"])

    @given(HELD, COUNTS)
    def test_all_that_holds_it_is_pressed_once_each_way(self, assembly, counts):
        off, on = things_off(assembly, counts), things_on(assembly, counts)
        holds = len(assembly.plugs) + sum(counts) + bool(assembly.clips)
        self.assertEqual((len(off), len(on)), (max(1, holds), holds + 1))
        self.assertEqual(on[0].kind, Kind.WHOLE)
        for things in (off, on):
            screws = [thing for thing in things if thing.kind is Kind.FASTENER]
            self.assertEqual([thing.number for thing in screws], list(range(1, sum(counts) + 1)))
            for index, count in enumerate(counts):
                self.assertEqual(count_of(things, len(things), Kind.FASTENER, index), count)
            self.assertEqual(count_of(things, 0, Kind.FASTENER), 0)


class CalledOtherwise(unittest.TestCase):
    def test_whoever_names_it_follows(self):
        board = a("board", 1, 1, "lid", "lid+side", on_after=frozenset({"lid"}))
        other = renamed(board, "lid", "cover")
        self.assertEqual(other.ways, (frozenset({"cover"}), frozenset({"cover", "side"})))
        self.assertEqual(other.on_after, {"cover"})
        self.assertEqual(renamed(board, "fan", "blower"), board)

    def test_what_stood_on_it_stands_on_what_it_stood_on(self):
        # The supply came off behind the shield or behind side and bracket; with no shield, behind the lid or those.
        strip = without(BOX, "shield")
        self.assertEqual(set(strip["supply"].ways), {frozenset({"lid"}), frozenset({"left", "bracket"})})
        self.assertEqual(without(BOX, "lid")["shield"].ways, ())

    @given(machines(6), st.data())
    def test_without_it_all_else_is_reached_as_if_it_cost_nothing(self, strip, data):
        names = sorted(strip.assemblies)
        gone = data.draw(st.sampled_from(names))
        left = [name for name in names if name != gone]
        if not left:
            return
        free = machine(
            *(
                replace(one, minutes_off=0, minutes_on=0) if one.name == gone else one
                for one in strip.assemblies.values()
            )
        )
        fewer = without(strip, gone)
        self.assertEqual(sorted(fewer.assemblies), left)
        for target in left:
            self.assertEqual(way_in(fewer, {target}, Costs()).minutes, way_in(free, {target}, Costs()).minutes)
