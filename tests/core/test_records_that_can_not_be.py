"""Recipes and strip-downs as they come from a file: read, written again, and refused in words where they can't be."""

import json
import unittest
from decimal import Decimal as D

from hypothesis import given
from hypothesis import strategies as st

from core.catalogue.assemblies import Assembly, AssemblyError, Fastener, Key, Plug, StripDown, find_ring, waits_for
from core.catalogue.assembly_text import (
    as_data,
    from_data,
    read_fasteners,
    read_names,
    read_plugs,
    read_ways,
    read_worth,
    write_plugs,
    write_ways,
)
from core.catalogue.outlines import outline
from core.catalogue.recipes import JobKind, Proof, Recipe, RecipeError, Step, step_as_data, step_from_data
from core.catalogue.recipes import from_data as recipe_from_data
from core.machine.casing import FormFactor
from core.safety import Hazard
from tests.core.test_stripdown import BOX, a, machine, machines

LIMITS = st.none() | st.decimals(-50, 50, places=2)


@st.composite
def steps(draw) -> Step:
    low, high = draw(LIMITS), draw(LIMITS)
    if low is not None and high is not None and low > high:
        low, high = high, low
    return Step(
        draw(st.text(st.characters(codec="utf-8", exclude_categories=["C", "Z"]), min_size=1, max_size=30)),
        draw(st.integers(0, 600)),
        draw(st.integers(0, 20_160)),
        hazards=tuple(draw(st.sets(st.sampled_from(Hazard), max_size=3))),
        proof=draw(st.sampled_from(Proof)),
        asks="what is read",
        low=low,
        high=high,
        undone=draw(st.booleans()),
        attended=draw(st.booleans()),
        restarts=draw(st.integers(0, 3)),
    )


class Recipes(unittest.TestCase):
    @given(steps())
    def test_a_step_is_kept_as_it_is(self, step):
        kept = json.loads(json.dumps(step_as_data(step)))
        self.assertEqual(step_from_data(kept), step)

    @given(steps(), st.decimals(-60, 60, places=2))
    def test_limits_are_in_it_and_said(self, step, value):
        self.assertEqual(
            step.within(value), (step.low is None or step.low <= value) and (step.high is None or value <= step.high)
        )
        for limit in (step.low, step.high):
            if limit is not None:
                self.assertTrue(step.within(limit))
        self.assertEqual(bool(step.limits), not (step.low is None and step.high is None))

    @given(st.lists(steps(), max_size=5))
    def test_a_recipe_is_the_sum_of_its_steps(self, made):
        recipe = Recipe("try", "Try", JobKind.CLEAN, tuple(made))
        self.assertEqual(recipe.minutes, sum(step.minutes for step in made))
        self.assertEqual(recipe.reversible, all(step.undone for step in made))
        self.assertEqual(set(recipe.hazards), {hazard for step in made for hazard in step.hazards})
        self.assertEqual(len(recipe.hazards), len(set(recipe.hazards)))

    def test_a_step_that_can_not_be(self):
        for more, at in (
            ({"instruction": ""}, "instruction"),
            ({"instruction": "x" * 301}, "instruction"),
            ({"minutes": 601}, "minutes"),
            ({"alone_minutes": -1}, "alone_minutes"),
            ({"within_minutes": 10**6}, "within_minutes"),
            ({"restarts": 99}, "restarts"),
            ({"most_humid": 101}, "most_humid"),
            ({"proof": Proof.READING}, "asks"),
            ({"low": D(2), "high": D(1)}, "low"),
        ):
            with self.subTest(at), self.assertRaises(RecipeError) as caught:
                Step(**{"instruction": "Do it.", **more})
            self.assertEqual(caught.exception.at, at)

    def test_a_recipe_that_can_not_be(self):
        for more, at in (
            ({"code": ""}, "code"),
            ({"code": "Not so"}, "code"),
            ({"title": ""}, "title"),
            ({"steps": (Step("Do it."),) * 200}, "steps"),
            ({"extent_from": 101}, "extent_from"),
            ({"due_months": 0}, "due_months"),
            ({"due_hours": 10**6}, "due_hours"),
        ):
            with self.subTest(at), self.assertRaises(RecipeError) as caught:
                Recipe(**{"code": "try", "title": "Try", "kind": JobKind.CLEAN, **more})
            self.assertEqual(caught.exception.at, at)

    def test_what_is_no_recipe_at_all(self):
        for row in (
            {},
            {"code": "try", "title": "Try", "kind": "dance"},
            {"code": "try", "title": "Try", "kind": "clean", "steps": [3]},
        ):
            with self.assertRaises(RecipeError):
                recipe_from_data(row)
        for row in ({}, {"instruction": "Do it.", "proof": "faith"}, {"instruction": "Do it.", "low": "much"}):
            with self.assertRaisesRegex(RecipeError, "This is no step"):
                step_from_data(row)


class StripDowns(unittest.TestCase):
    @given(machines(7, rules=True))
    def test_what_was_written_is_read_again(self, strip):
        self.assertEqual(from_data(json.loads(json.dumps(as_data(strip)))), strip)

    @given(machines(7))
    def test_all_comes_off_each_after_what_it_waits_for(self, strip):
        order = strip.reachable()
        self.assertEqual(sorted(order), sorted(strip.assemblies))
        for place, name in enumerate(order):
            ways = strip[name].ways
            self.assertTrue(not ways or any(way <= set(order[:place]) for way in ways))

    @given(machines(7))
    def test_what_is_under_it_can_not_come_off_while_it_is_on(self, strip):
        for name in strip.assemblies:
            off = set()
            while found := {
                n
                for n, one in strip.assemblies.items()
                if n != name and n not in off and (not one.ways or any(way <= off for way in one.ways))
            }:
                off |= found
            self.assertEqual(strip.under(name), set(strip.assemblies) - off - {name})

    def test_rings_are_named(self):
        for assemblies, words in (
            ([a("a", 1, 1, "b"), a("b", 1, 1, "a")], "No way gets there"),
            ([a("a", 1, 1, "a")], "can’t wait for itself"),
            ([a("a", 1, 1, "b")], "there is no b"),
        ):
            with self.assertRaisesRegex(AssemblyError, words):
                machine(*assemblies)
        self.assertEqual(find_ring({}), ())
        ring = find_ring({"a": {"b"}, "b": {"c"}, "c": {"a"}})
        self.assertEqual(sorted(ring), ["a", "b", "c"])
        self.assertEqual(waits_for(("a", "b")), "a waits for b waits for a")

    def test_an_assembly_that_can_not_be(self):
        for more, at in (
            ({"name": " "}, "name"),
            ({"layer": 21}, "layer"),
            ({"x_from": 9, "x_to": 9}, "x_to"),
            ({"minutes_off": -1}, "minutes_off"),
            ({"minutes_on": 10**6}, "minutes_on"),
            ({"clips": 101}, "clips"),
        ):
            usual = {"name": "lid", "layer": 0, "x_from": 0, "x_to": 10, "minutes_off": 1, "minutes_on": 1}
            with self.subTest(at), self.assertRaises(AssemblyError) as caught:
                Assembly(**usual | more)
            self.assertEqual(caught.exception.at, at)

    def test_a_file_that_can_not_be(self):
        row = {"name": "lid", "layer": 0, "x": [0, 10], "minutes": [1, 1]}
        for rows, words in (
            ("lid", "a list of assemblies"),
            ([row, row | {"name": "LID"}], "twice"),
            ([row | {"layer": "top"}], "A whole number"),
            ([row | {"layer": True}], "A whole number"),
            ([row | {"name": 5}], "Words, not"),
            ([row | {"how_off": "x" * 301}], "At most 300"),
            ([row | {"worth": "-1"}], "from 0 to"),
            ([{"name": "lid"}], "can’t be read"),
            ([row | {"fasteners": "some screws"}], "how many, thread"),
            ([row | {"hazards": ["dragons"]}], "can’t be read"),
        ):
            with self.subTest(words), self.assertRaisesRegex(AssemblyError, words):
                from_data(rows)
        with self.assertRaisesRegex(AssemblyError, "from 0 to"):
            read_worth("NaN")

    def test_names_ways_fasteners_and_plugs_as_they_are_typed(self):
        self.assertEqual(read_names("LID + left", BOX.assemblies, "ways"), {"lid", "left"})
        with self.assertRaisesRegex(AssemblyError, "no “roof” here yet"):
            read_names("roof", BOX.assemblies, "ways")
        ways = read_ways("shield or left + bracket; shield", BOX.assemblies)
        self.assertEqual(ways, (frozenset({"shield"}), frozenset({"left", "bracket"})))
        self.assertEqual(read_ways(write_ways(ways), BOX.assemblies), ways)
        self.assertEqual(read_fasteners("4 × M3 × 6 cross; 2"), (Fastener(4, "M3", 6, "cross"), Fastener(2)))
        with self.assertRaisesRegex(AssemblyError, "Heads:"):
            read_fasteners("4 × M3 × 6 wobbly")
        plugs = read_plugs("P8 to main board, one way, tied: og rd")
        self.assertEqual((plugs[0].name, plugs[0].key, plugs[0].tied), ("P8", Key.SHAPE, True))
        self.assertEqual(read_plugs(write_plugs(plugs)), plugs)
        self.assertEqual(read_plugs("P9"), (Plug("P9"),))
        for typed, words in (("P8, sideways", "say one of"), ("P8: mauve", "is no colour")):
            with self.assertRaisesRegex(AssemblyError, words):
                read_plugs(typed)


class Outlines(unittest.TestCase):
    def test_every_usual_outline_can_be_and_is_made_safe_before_hands_go_in(self):
        for form in FormFactor:
            strip = outline(form)
            self.assertEqual(len(strip.reachable()), len(strip))
            self.assertEqual(from_data(as_data(strip)), strip)
            tubes = [one.name for one in strip.assemblies.values() if one.charge.value == "tube"]
            for name in tubes:
                # Whatever lies behind the tube waits for its discharge.
                self.assertTrue(strip.under(name), form)
        self.assertEqual(len(outline(FormFactor.BOARD)), 0)
        self.assertTrue(any(one.board for one in outline(FormFactor.DESKTOP).assemblies.values()))


class Empty(unittest.TestCase):
    def test_nothing_recorded_is_an_empty_machine(self):
        self.assertEqual((len(StripDown({})), StripDown({}).reachable(), StripDown({}).layers), (0, (), ()))
