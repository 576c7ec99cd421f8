"""Care: strengths and mixtures, what bears what and must not meet, how a whitening falls, coats and their windows."""

import unittest
from decimal import Decimal as D
from itertools import permutations

from hypothesis import given
from hypothesis import strategies as st

from core.catalogue.recipes import Proof, from_data, step_as_data, step_from_data
from core.machine.approach import Approach
from core.safety import Hazard
from core.workshop.care import CareError
from core.workshop.care.agents import NEUTRALISERS, Agent, Bears, Chemistry, Surface, bears, clash, may_be_mixed
from core.workshop.care.coats import Coat, cans, paint_list, read_coats
from core.workshop.care.fall import Reading, advise, fit
from core.workshop.care.plans import (
    SCHOOLS,
    amount_ml,
    clean,
    meets,
    mixture_for,
    repaint,
    school_of,
    whiten,
    whitening_refused,
)
from core.workshop.care.strength import Basis, density, dilute, percent_wv

GEL, BATH, SUN = school_of("gel"), school_of("bath"), school_of("sun")
COATS = (
    "primer 1: from 20 min; to 24 h; 35 µm; can 1.8 m²\nprimer 2: from 1 h; to 24 h; 35 µm\ncolour: from 6 h; to 2 d"
)


def refused(act, at: str, words: str) -> None:
    case = unittest.TestCase()
    with case.assertRaises(CareError) as caught:
        act()
    case.assertEqual(caught.exception.at, at)
    case.assertIn(words, str(caught.exception))


class Strength(unittest.TestCase):
    @given(st.integers(1, 350), st.integers(1, 350), st.integers(1, 20_000))
    def test_the_parts_of_a_mixture_add_up_and_hold_as_much_as_before(self, bottle, wanted, amount):
        if wanted > bottle:
            refused(lambda: dilute(D(bottle) / 10, D(wanted) / 10, D(amount)), "wanted", "never stronger")
            return
        made = dilute(D(bottle) / 10, D(wanted) / 10, D(amount))
        self.assertEqual(made.bottle_ml + made.water_ml, made.total_ml)
        self.assertEqual(made.total_ml, amount)
        self.assertGreaterEqual(min(made.bottle_ml, made.water_ml), 0)
        # To half a millilitre of the bottle.
        self.assertLessEqual(abs(made.bottle_ml * bottle - D(amount) * wanted), D(bottle) / 2)

    def test_bad_strengths_are_named(self):
        refused(lambda: percent_wv(D(0), Basis.WV), "bottle", "above 0")
        refused(lambda: percent_wv(D(40), Basis.WV), "bottle", "40 volumes are 12.1 % w/v")
        refused(lambda: percent_wv(D(40), Basis.WW), "bottle", "Are these volumes?")
        refused(lambda: percent_wv(D(400), Basis.VOLUMES), "bottle", "sold to nobody")
        refused(lambda: dilute(D(12), D(0), D(10)), "wanted", "above 0")
        refused(lambda: dilute(D(12), D(6), D(0)), "amount", "above 0")

    def test_w_w_is_not_w_v(self):
        self.assertEqual(percent_wv(D(12), Basis.WV), 12)
        self.assertAlmostEqual(float(percent_wv(D(12), Basis.WW)), 12 * float(density(D(12))), places=9)
        self.assertGreater(percent_wv(D(30), Basis.WW), 33)

    def test_how_much_is_mixed(self):
        self.assertEqual(amount_ml(GEL, D(1180)), D("295.00"))
        self.assertEqual(amount_ml(BATH, D(500), D(9000), D(1500)), 7500)
        refused(lambda: amount_ml(GEL, D(-3)), "area", "above 0")
        refused(lambda: amount_ml(BATH, D(500)), "tub", "how much the tub holds")
        refused(lambda: amount_ml(BATH, D(500), D(100), D(100)), "displaced", "less than the tub")
        self.assertIsNone(mixture_for(SUN, D(12), D(6), D(10)))


class Agents(unittest.TestCase):
    def test_every_surface_says_something_of_every_agent(self):
        for surface in Surface:
            for agent in Agent:
                self.assertIn(bears(surface, agent), set(Bears))
        # What may be paint bears nothing more than paint does.
        rank = list(Bears)
        for agent in Agent:
            self.assertGreaterEqual(
                rank.index(bears(Surface.UNKNOWN, agent)), rank.index(bears(Surface.PAINTED, agent)), agent
            )

    def test_what_must_not_meet_is_refused_by_name(self):
        refused(lambda: may_be_mixed([Agent.WATER, Agent.PEROXIDE, Agent.VINEGAR]), "agents", "peroxide and vinegar")
        may_be_mixed([Agent.WATER, Agent.PEROXIDE])
        self.assertEqual(clash(Agent.VINEGAR, Agent.PEROXIDE), clash(Agent.PEROXIDE, Agent.VINEGAR))
        refused(lambda: clean(Surface.PRINT, [Agent.ISOPROPANOL]), "agents", "Never isopropanol on label or print")
        refused(lambda: clean(Surface.PLASTIC, []), "agents", "Choose")

    def test_agents_that_must_not_meet_never_follow_one_another_without_a_rinse(self):
        for surface in Surface:
            able = [agent for agent in Agent if bears(surface, agent) is not Bears.NEVER]
            for count in (1, 2, 3):
                for several in permutations(able, count):
                    self.assertEqual(meets(clean(surface, several)), [], (surface, several))
        # The check itself can fail.
        rinsed = clean(Surface.PLASTIC, [Agent.ISOPROPANOL, Agent.PEROXIDE])
        bare = tuple(step for step in rinsed.steps if not step.instruction.startswith("Rinse"))
        self.assertTrue(
            meets(from_data({"code": "x", "title": "x", "kind": "clean", "steps": map(step_as_data, bare)}))
        )

    def test_a_hidden_spot_comes_first_and_cautions_stand_where_the_hazard_is(self):
        plan = clean(Surface.PLASTIC, [Agent.SPIRIT], "top case")
        words = [step.instruction for step in plan.steps]
        hidden = next(place for place, one in enumerate(words) if "hidden spot" in one)
        self.assertLess(hidden, next(place for place, one in enumerate(words) if one.startswith("White spirit")))
        for step in plan.steps:
            if any(need.name == Agent.SPIRIT.value for need in step.needs):
                self.assertIn(Hazard.SOLVENT, step.hazards)
        self.assertTrue(any("No flame" in step.caution for step in plan.steps))
        unknown = clean(Surface.UNKNOWN, [Agent.SOAP])
        self.assertIn("painted", unknown.steps[1].instruction)

    def test_each_chemistry_has_its_neutraliser(self):
        self.assertEqual(
            {c: NEUTRALISERS[c].agent for c in Chemistry},
            {
                Chemistry.ALKALINE: Agent.VINEGAR,
                Chemistry.NICKEL: Agent.VINEGAR,
                Chemistry.LEAD: Agent.BICARBONATE,
                Chemistry.LITHIUM: None,
                Chemistry.UNKNOWN: None,
            },
        )


def readings(*values: float, hours: float = 2.0) -> list[Reading]:
    return [Reading(place * hours, (value,)) for place, value in enumerate(values)]


class Falls(unittest.TestCase):
    @given(st.floats(0, 3), st.floats(2, 12), st.floats(0.05, 1.5))
    def test_a_made_up_fall_is_found_again(self, floor, drop, rate):
        from math import exp

        made = [Reading(hours, (floor + drop * exp(-rate * hours),)) for hours in (0, 1, 2, 4, 6, 9)]
        found = fit(made)
        for hours in (0.5, 3, 8, 12):
            self.assertAlmostEqual(found.at(hours), floor + drop * exp(-rate * hours), delta=0.05)

    def test_an_interval_only_from_four_points(self):
        self.assertIsNone(fit(readings(8, 6)))
        self.assertIsNone(fit(readings(8, 6, 4.6)).between(8))
        low, high = fit(readings(8, 6.1, 4.5, 3.6)).between(8)
        self.assertLess(low, high)
        self.assertGreaterEqual(low, 0)

    def test_what_does_not_fall_is_no_fall(self):
        self.assertIsNone(fit(readings(4, 4.2, 5)))
        self.assertIsNone(fit([Reading(0, (5,)), Reading(0, (4,)), Reading(2, (3,))]))

    def test_go_on_or_stop(self):
        for values, stop, words in (
            ((), False, "Measure it before"),
            ((7.9,), False, "three readings tell"),
            ((7.9, 5.8), False, "three readings tell"),
            ((7.9, 5.8, 4.1), False, "Go on: 3 more rounds, then it reads about 1.6"),
            ((7.9, 3.0, 1.9), True, "under 2.0 nobody sees it"),
            ((7.9, 4.4, 4.2, 4.15), True, "would bring"),
            ((7.9, 5.0, 5.1), True, "brought nothing"),
        ):
            said = advise(readings(*values), 2)
            self.assertEqual((said.stop, words in said.words), (stop, True), said.words)

    def test_spots_that_drift_apart_stop_it(self):
        even = [Reading(0, (8, 8.2)), Reading(2, (6, 6.5)), Reading(4, (3.0, 6.4))]
        said = advise(even, 2)
        self.assertTrue(said.stop)
        self.assertIn("3.4 apart", said.words)
        self.assertEqual((even[-1].lags, even[0].evenness), (1, 8.2 - 8))
        self.assertIsNone(readings(5)[0].evenness)

    def test_bad_readings_are_named(self):
        refused(lambda: Reading(-1, (3,)), "typed", "from 0")
        refused(lambda: Reading(1, ()), "typed", "from 0")
        refused(lambda: advise(readings(5), 0), "minutes", "takes time")
        refused(lambda: advise([Reading(2, (5,)), Reading(1, (4,))], 2), "typed", "in time")


class Whitening(unittest.TestCase):
    def test_it_is_measured_before_and_after_each_round_with_cautions_at_mixing_and_turning(self):
        mixture = mixture_for(GEL, percent_wv(D(40), Basis.VOLUMES), D(6), D(295))
        plan = whiten(GEL, mixture, "top case", 4, 120)
        colours = [place for place, step in enumerate(plan.steps) if step.proof is Proof.COLOUR]
        rounds = [place for place, step in enumerate(plan.steps) if step.alone_minutes == 120]
        self.assertEqual((len(colours), len(rounds)), (5, 4))
        self.assertTrue(all(place + 1 in colours for place in rounds))
        self.assertLess(colours[0], rounds[0])
        mixing = next(step for step in plan.steps if step.instruction.startswith("Mix 146 ml"))
        self.assertIn("Never close", mixing.caution)
        for place in (*rounds, plan.steps.index(mixing)):
            self.assertIn(Hazard.PEROXIDE, plan.steps[place].hazards)
        self.assertEqual(plan.needs and {n.name: n.amount for n in plan.needs}["peroxide"], 146)

    def test_every_school_makes_a_plan_that_a_recipe_can_keep(self):
        for school in SCHOOLS:
            mixture = mixture_for(school, D(12), D(6), D(300))
            plan = whiten(school, mixture, "keys", 3, school.alone)
            for step in plan.steps:
                self.assertEqual(step_from_data(step_as_data(step)), step)

    def test_bad_input_is_named(self):
        refused(lambda: school_of("moon"), "school", "Choose")
        refused(lambda: whiten(SUN, None, "", 3, 60), "part", "of what")
        refused(lambda: whiten(SUN, None, "keys", 0, 60), "rounds", "From 1")
        refused(lambda: whiten(SUN, None, "keys", 1, 1), "minutes", "5 minutes")
        self.assertIn("Conserve", whitening_refused(Approach.CONSERVE))
        self.assertEqual(whitening_refused(None), "")


class Coats(unittest.TestCase):
    def test_read_as_typed(self):
        first, second, colour = read_coats(COATS)
        self.assertEqual((first.earliest, first.latest, first.covers, first.microns), (20, 1440, 18000, 35))
        self.assertEqual((second.covers, colour.latest), (None, 2880))
        self.assertEqual(paint_list(D(6200), read_coats(COATS)), [("primer", 2, 1), ("colour", 1, None)])

    def test_bad_coats_are_named(self):
        for typed, words in (
            ("", "At least one"),
            ("primer", "a colon"),
            ("primer: to 24 h", "from when"),
            ("primer: from soon", "no time such as"),
            ("primer: from 20 min; to 5 min", "closes before it opens"),
            ("primer: from 20 min; thick", "none of from"),
            ("primer: from 20 min; many µm", "no thickness"),
            ("primer: from 20 min; can 0 m²", "more than nothing"),
            ("primer: from 20 min; can big m²", "no area"),
            ("primer: from 90 d", "60 days"),
            ("\n".join(f"c{n}: from 1 h" for n in range(13)), "12 coats"),
        ):
            refused(lambda typed=typed: read_coats(typed), "coats", words)
        refused(lambda: cans(D(-1), 1, D(1)), "area", "above 0")
        refused(lambda: cans(D(1), 0, D(1)), "coats", "one coat")

    def test_no_coat_under_the_window_of_the_one_below_and_late_ones_say_what_to_do(self):
        plan = repaint(D(6200), read_coats(COATS), "front")
        laid = [step for step in plan.steps if step.instruction.startswith("Lay ")]
        self.assertEqual([step.alone_minutes for step in laid], [20, 60, 360])
        self.assertEqual([step.within_minutes for step in laid], [0, 1440, 1440])
        self.assertIn("sand it matt", laid[2].late)
        for step in laid:
            self.assertIn("no flame", step.caution)
            self.assertEqual(step_from_data(step_as_data(step)), step)

    def test_two_component_is_left_to_others(self):
        clear = (*read_coats(COATS), Coat("clear", 60, two_component=True))
        refused(lambda: repaint(D(100), clear, "front"), "coats", "air-fed breathing")
        self.assertTrue(read_coats("clear: from 1 h; two-component")[0].two_component)
        refused(lambda: repaint(D(100), read_coats(COATS), ""), "part", "of what")
        refused(lambda: repaint(D(100), read_coats(COATS), "x", 40), "cure", "14 days")
