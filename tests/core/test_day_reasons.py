"""Why a task stands where it stands in a day, in a few words; what opening costs for every set of places at once."""

import unittest
from itertools import combinations

from hypothesis import given, settings
from hypothesis import strategies as st

from core.flow.dayplan.problem import Begun, DayPlan, Placed
from core.flow.dayplan.reasons import clock, why_then
from core.workshop.stripdown.openings import MOST_PLACES, of_each_way, opening_sets
from core.workshop.stripdown.way_in import Costs, way_in
from tests.core.test_dayplan import EIGHT, day, task
from tests.core.test_stripdown import BOX, a, machine, machines


def planned(*placed: Placed, now: int = EIGHT) -> DayPlan:
    return DayPlan(day(*(one.task for one in placed), now=now), placed, 0, 0, 0, 0.0)


class WhyThen(unittest.TestCase):
    def why(self, one: Placed, *others: Placed, currency: str = "", now: int = EIGHT) -> str:
        return why_then(planned(one, *others, now=now), one, currency)

    def test_the_most_telling_first(self):
        soak = Placed(task("soak", 5, alone=55), 1, 480)
        for one, others, words in (
            (Placed(task("a", begun=Begun(1, 470, 490), pinned_at=470), 1, 470), (), "goes on"),
            (Placed(task("a", pinned_at=600, promised=700), 1, 600), (), "pinned to 10:00"),
            (Placed(task("a", 20, promised=700), 1, 600), (), "promised by 11:40"),
            (Placed(task("a", 20, promised=610), 1, 600), (), "promised by 10:10, late"),
            (Placed(task("a", 20, promised=-480), 1, 600), (), "promised by 16:00 the day before, late"),
            (Placed(task("a", 20, promised=-1441), 1, 600), (), "promised by 23:59 2 days before, late"),
            (Placed(task("a", holder=2, holder_name="Tobin"), 1, 480), (), "take it over from Tobin"),
            (Placed(task("a", needs=("soak",)), 1, 545), (soak,), "ran alone until 9:00"),
            (Placed(task("a", earliest=600), 1, 600), (), "from 10:00 on"),
            (Placed(task("a", windows=((500, 900),)), 1, 600), (), "light until 15:00"),
            (Placed(task("a", alone=60), 1, 600), (), "runs alone then"),
            (Placed(task("a", pinned_who=1), 1, 600), (), "pinned"),
            (Placed(task("a", needs=("b",)), 1, 500), (Placed(task("b", 20), 1, 480),), "follows at once"),
            (Placed(task("a", 20, releases=1000), 1, 600), (), "0.50/min"),
        ):
            with self.subTest(words):
                self.assertEqual(self.why(one, *others), words)

    def test_an_earliest_that_is_past_tells_nothing(self):
        one = Placed(task("a", 20, earliest=490, releases=500), 1, 600)
        self.assertEqual(self.why(one, currency="€", now=500), "€0.25/min")

    @given(st.integers(0, 24 * 60))
    def test_a_moment_is_hours_and_two_figures_of_minutes(self, minute):
        hours, minutes = clock(minute).split(":")
        self.assertEqual((int(hours) * 60 + int(minutes), len(minutes)), (minute, 2))


class SetsOfPlaces(unittest.TestCase):
    @given(machines(7), st.data())
    @settings(max_examples=60, deadline=None)
    def test_every_set_costs_what_its_own_best_way_costs(self, strip, data):
        names = sorted(strip.assemblies)
        places = data.draw(st.lists(st.sampled_from(names), min_size=1, max_size=4, unique=True))
        targets = data.draw(st.sets(st.sampled_from(names), max_size=2))
        off = data.draw(st.sets(st.sampled_from(names), max_size=2))
        costs = Costs()
        sets = opening_sets(strip, places, costs, off, targets)
        self.assertTrue(sets.exact)
        before = way_in(strip, targets, costs, off).minutes if targets else 0
        for count in range(len(places) + 1):
            for some in combinations(range(len(places)), count):
                bits = sum(1 << place for place in some)
                wanted = targets | {places[place] for place in some}
                whole = way_in(strip, wanted, costs, off).minutes if wanted else 0
                self.assertEqual(int(sets.minutes[bits]), whole - before)

    def test_the_example_of_the_design(self):
        sets = opening_sets(BOX, ("memory", "shield"), Costs())
        # In by the side 19, by the shield alone 15, both together 26.
        self.assertEqual([int(one) for one in sets.minutes], [0, 19, 15, 26])
        asked = of_each_way(BOX, ("memory", "shield"), Costs())
        self.assertEqual([asked(bits)[0] for bits in range(4)], [0, 19, 15, 26])

    def test_more_places_than_are_gone_through_at_once(self):
        strip = machine(a("lid", 1, 1), *(a(f"card {number}", 1, 1, "lid") for number in range(MOST_PLACES + 1)))
        places = [f"card {number}" for number in range(MOST_PLACES + 1)]
        with self.assertRaisesRegex(ValueError, "At most 12"):
            opening_sets(strip, places, Costs())
        asked = of_each_way(strip, places, Costs())
        self.assertEqual(asked(0), (0, 0))
        # The lid once, however many cards: 2 minutes each.
        self.assertEqual(asked(0b11), (6, 600))
        self.assertEqual(asked((1 << len(places)) - 1), (2 + 2 * len(places), 200 + 200 * len(places)))

    def test_too_many_forks_take_each_place_by_its_own_way(self):
        forks = [a(f"deep {number}", 1, 1, f"left {number}", f"right {number}") for number in range(11)]
        sides = [a(f"{side} {number}", 1, 1) for number in range(11) for side in ("left", "right")]
        strip = machine(*sides, *forks)
        places = [f"deep {number}" for number in range(11)]
        sets = opening_sets(strip, places, Costs())
        self.assertFalse(sets.exact)
        self.assertEqual(int(sets.minutes[-1]), 11 * 4)
