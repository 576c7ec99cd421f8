from collections import Counter
from decimal import Decimal as D
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from core.bench.checks import Group
from core.catalogue.assemblies import Assembly, StripDown
from core.catalogue.recipe_library import COMES_WITH
from core.catalogue.recipes import (
    JobKind,
    Need,
    Proof,
    Recipe,
    RecipeError,
    Step,
    as_data,
    from_data,
    read_needs,
    written_needs,
)
from core.intake.condition import FindingKind
from core.machine.approach import Approach
from core.machine.casing import FormFactor
from core.safety import Hazard
from core.workshop.matching import Treated, for_check, for_finding, place_of, why_not

BY_CODE = {recipe.code: recipe for recipe in COMES_WITH}
DESK = Treated(FormFactor.DESKTOP, Approach.PERIOD)


class WhatComesWithIt(TestCase):
    def test_there_are_enough_of_every_kind(self):
        count = Counter(recipe.kind for recipe in COMES_WITH)
        self.assertGreaterEqual(len(COMES_WITH), 24)
        for kind in (JobKind.CLEAN, JobKind.RECONDITION, JobKind.REPAIR, JobKind.SOFTWARE):
            self.assertGreaterEqual(count[kind], 4, kind)
        self.assertGreaterEqual(count[JobKind.WHITEN], 3)
        self.assertGreaterEqual(count[JobKind.REFINISH], 3)
        self.assertEqual(len(BY_CODE), len(COMES_WITH))

    def test_what_they_answer_to_exists(self):
        for recipe in COMES_WITH:
            self.assertLessEqual(set(recipe.findings), set(FindingKind), recipe.code)
            self.assertLessEqual(set(recipe.checks), set(Group), recipe.code)
            self.assertLessEqual(set(recipe.approaches), set(Approach), recipe.code)
            self.assertTrue(recipe.steps, recipe.code)

    def test_cautions_stand_at_the_step_where_it_can_hurt(self):
        """Common practice, no source: whatever is named in an instruction brings its caution."""
        brings = {
            "isopropanol": {Hazard.SOLVENT, Hazard.LEAK},
            "peroxide": {Hazard.PEROXIDE},
            "older": {Hazard.SOLDER},
            "wet paper": {Hazard.SANDING},
            "large capacitors": {Hazard.CHARGE},
        }
        for recipe in COMES_WITH:
            for step in recipe.steps:
                for word, hazards in brings.items():
                    if word in step.instruction.lower() and "holder" not in step.instruction:
                        self.assertTrue(hazards & set(step.hazards), f"{recipe.code}: {step.instruction}")

    def test_they_keep_in_files_as_they_are(self):
        for recipe in COMES_WITH:
            self.assertEqual(from_data(as_data(recipe)), recipe)


class ARecipe(TestCase):
    def test_needs_as_typed(self):
        needs = read_needs("soft brush; isopropanol 20 ml; daylight; peroxide cream 12 % 80 ml")
        self.assertEqual(needs[1], Need("isopropanol", D(20), "ml"))
        self.assertEqual(needs[3], Need("peroxide cream 12 %", D(80), "ml"))
        self.assertEqual(read_needs(written_needs(needs)), needs)
        for typed in ("isopropanol some ml", "isopropanol nan ml", "isopropanol -3 ml", "isopropanol 1e9 ml"):
            with self.assertRaisesRegex(RecipeError, "how much"):
                read_needs(typed)

    def test_needs_of_all_steps_add_up(self):
        recipe = Recipe(
            "x",
            "X",
            JobKind.CLEAN,
            (Step("a", needs=read_needs("water 5 ml; brush")), Step("b", needs=read_needs("water 7 ml; brush"))),
        )
        self.assertEqual({str(need) for need in recipe.needs}, {"water, 12 ml", "brush"})

    def test_what_one_step_cannot_undo_the_recipe_cannot(self):
        self.assertTrue(BY_CODE["clean-inside"].reversible)
        self.assertFalse(BY_CODE["grease-drive"].reversible)

    def test_limits_in_words_and_kept(self):
        step = Step("a", proof=Proof.READING, asks="volts", unit="V", low=D("4.75"), high=D("5.25"))
        self.assertEqual(step.limits, "4.75 to 5.25 V")
        self.assertEqual([step.within(D(v)) for v in ("4.74", "4.75", "5.25", "5.26")], [False, True, True, False])
        self.assertEqual(Step("a", proof=Proof.COUNT, asks="keys", high=D(0)).limits, "at most 0")

    def test_bad_ones_are_refused_at_their_field(self):
        for field, make in (
            ("minutes", lambda: Step("a", -1)),
            ("alone_minutes", lambda: Step("a", 1, 20161)),
            ("instruction", lambda: Step("")),
            ("asks", lambda: Step("a", proof=Proof.COUNT)),
            ("low", lambda: Step("a", low=D(2), high=D(1))),
            ("code", lambda: Recipe("No Good", "x", JobKind.CLEAN)),
            ("due_months", lambda: Recipe("x", "x", JobKind.CLEAN, due_months=0)),
            ("extent_from", lambda: Recipe("x", "x", JobKind.CLEAN, extent_from=101)),
        ):
            with self.assertRaises(RecipeError, msg=field) as caught:
                make()
            self.assertEqual(caught.exception.at, field)

    @given(
        st.dictionaries(st.sampled_from(["code", "title", "kind", "steps", "due_months"]), st.text() | st.integers())
    )
    def test_what_is_no_recipe_is_said_in_words(self, data):
        try:
            from_data(data)
        except RecipeError as problem:
            self.assertTrue(str(problem))


class WhatAnswersToWhat(TestCase):
    def test_a_little_residue_and_a_lot(self):
        self.assertEqual(for_finding(COMES_WITH, DESK, "residue", 5)[0].code, "clean-residue")
        self.assertEqual(for_finding(COMES_WITH, DESK, "residue", 40)[0].code, "clean-case")

    def test_what_is_heard_by_what_is_said_of_it(self):
        self.assertEqual(for_finding(COMES_WITH, DESK, "noise", 5, "fan rattles")[0].code, "oil-fan")
        self.assertEqual(for_finding(COMES_WITH, DESK, "noise", 5, "drive squeals")[0].code, "grease-drive")

    def test_failed_checks(self):
        self.assertEqual(for_check(COMES_WITH, DESK, "supply", "5 V alone")[0].code, "repair-supply")
        self.assertEqual(
            for_check(COMES_WITH, DESK, "function", "Every key, once: keyboard")[0].code, "clean-keyswitches"
        )
        self.assertEqual(for_check(COMES_WITH, DESK, "soak", "four hours"), ())

    def test_the_approach_refuses(self):
        conserve = Treated(FormFactor.DESKTOP, Approach.CONSERVE)
        self.assertIn("undone", why_not(BY_CODE["treat-rust"], conserve))
        self.assertIn("not for conserve", why_not(BY_CODE["whiten-bath"], conserve))
        self.assertEqual(why_not(BY_CODE["clean-inside"], conserve), "")
        self.assertIn("not for period", why_not(BY_CODE["upgrade-storage"], DESK))
        self.assertEqual(why_not(BY_CODE["treat-rust"], Treated(FormFactor.DESKTOP)), "")

    def test_where_in_the_machine(self):
        strip = StripDown({n: Assembly(n, 0, 0, 10, 1, 1) for n in ("Lid", "Drive cage", "Supply board")})
        self.assertEqual(place_of(BY_CODE["grease-drive"], strip), "Drive cage")
        self.assertEqual(place_of(BY_CODE["recap-supply"], strip), "Supply board")
        self.assertEqual(place_of(BY_CODE["oil-fan"], strip), "")
