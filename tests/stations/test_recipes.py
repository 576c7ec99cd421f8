"""Recipes: the shop's book of them, and jobs done by one, through the services and the pages."""

from datetime import timedelta
from decimal import Decimal as D

from django.db import IntegrityError, transaction
from django.template.loader import render_to_string

from core.catalogue.recipes import JobKind, Proof, Recipe, Step
from core.safety import Hazard
from stations.bench import stops
from stations.catalogue import recipes as book
from stations.common import clock
from stations.common.refusals import NotAllowed, Refused, StaleEdit
from stations.units import findings
from stations.units.models import Finding
from stations.workshop import as_found, recipe_run, treatment
from stations.workshop import services as workshop
from stations.workshop.due import due_of
from stations.workshop.models import Job, JobStep, StateAsFound
from stations.workshop.new_job import NewJob, of_recipe
from stations.workshop.proposals import proposals_of
from stations.workshop.recipe_record import recipe_record
from stations.workshop.services import JobResult
from stations.workshop.strip_downs import strip_down_of
from tests.hands import a_picture
from tests.stations.base import AtOnce, ShopTest
from tests.stations.test_through_the_pages import Through

TRIAL = Recipe(
    "trial",
    "Try everything",
    JobKind.CLEAN,
    (
        Step("Take a photo.", 1, proof=Proof.PHOTO),
        Step("Measure it.", 4, proof=Proof.READING, asks="5 V rail", unit="V", low=D("4.75"), high=D("5.25")),
        Step("Let it dry.", 2, 120),
        Step("Count them.", 3, proof=Proof.COUNT, asks="keys that stick", high=D(0)),
    ),
)


class TheBook(ShopTest):
    def test_the_shops_own_takes_the_place_of_what_comes_with_it(self):
        recipe, version = book.recipe_and_version("clean-residue")
        self.assertEqual(version, 0)
        changed = book.with_step(recipe, None, Step("Look again tomorrow."))
        book.keep(self.technician, changed, version)
        with self.assertNumQueries(1):
            self.assertEqual(book.recipes()["clean-residue"], changed)
        self.assertEqual(book.recipe_and_version("clean-residue")[1], 1)

    def test_two_people_at_one_recipe(self):
        recipe, _ = book.recipe_and_version("clean-residue")
        book.keep(self.technician, recipe, 0)
        self.assertEqual(book.recipe_and_version("clean-residue"), (recipe, 0), "nobody changed it")
        book.keep(self.technician, book.moved(recipe, 0, 1), 0)
        book.keep(self.technician, book.moved(recipe, 1, 1), 1)
        with self.assertRaises(StaleEdit):
            book.keep(self.owner, book.without_step(recipe, 0), 1)

    def test_it_keeps_its_cautions(self):
        recipe, _ = book.recipe_and_version("recap-supply")
        bare = book.with_step(recipe, 0, Step("Discharge it."))
        with self.assertRaisesRegex(Refused, "reaching into a PSU"):
            book.keep(self.technician, bare, 0)

    def test_put_aside_and_taken_up_again(self):
        book.put_aside(self.technician, "oil-fan", True)
        self.assertNotIn("oil-fan", book.recipes())
        self.assertEqual([recipe.code for recipe in book.resting()], ["oil-fan"])
        book.put_aside(self.technician, "oil-fan", False)
        self.assertIn("oil-fan", book.recipes())

    def test_steps_up_down_and_out(self):
        recipe = Recipe("x", "X", JobKind.CLEAN, (Step("a"), Step("b"), Step("c")))
        words = [step.instruction for step in book.moved(recipe, 2, -1).steps]
        self.assertEqual(words, ["a", "c", "b"])
        self.assertEqual(book.moved(recipe, 0, -1), recipe)
        self.assertEqual(book.moved(recipe, 2, 1), recipe)

    def test_a_step_too_many_is_refused_in_words(self):
        full = Recipe("x", "X", JobKind.CLEAN, tuple(Step(f"step {n}") for n in range(40)))
        with self.assertRaisesRegex(Refused, "At most 40 steps"):
            book.with_step(full, None, Step("one more"))

    def test_who_may(self):
        with self.assertRaises(NotAllowed):
            book.keep(self.seller, TRIAL, 0)


class ByItsRecipe(ShopTest):
    def scene(self) -> None:
        super().scene()
        book.keep(self.technician, TRIAL, 0)
        self.unit = self.assessed()
        data = NewJob.by_recipe(TRIAL, title="Try", estimate_minutes=10)
        self.job = workshop.open_job(self.technician, self.unit, data)

    def step(self, index: int, typed: str = "", note: str = "", file=None, who=None) -> None:
        recipe_run.do_step(who or self.technician, self.again(self.job), index, typed, note, file)

    def now(self):
        return recipe_run.in_hand(recipe_run.steps_of_job(self.job))

    def all_but_the_last(self) -> None:
        self.step(0, file=a_picture("a.png"))
        self.step(1, "5.02")
        recipe_run.start_alone(self.technician, self.job, 2)
        with clock.at(clock.now() + timedelta(hours=3)):
            self.step(2)

    def test_from_the_first_step_to_the_last(self):
        self.all_but_the_last()
        self.step(3, "0")
        self.assertIsNone(self.now())
        rows = list(self.job.step_rows.all())
        self.assertEqual([row.value for row in rows], [None, D("5.020"), None, D("0.000")])
        self.assertIsNotNone(rows[0].photo)
        workshop.finish_job(self.technician, self.job, JobResult("clean", worked=True))
        self.assertFalse(self.again(self.job).is_open)

    def test_the_treatment_report_tells_each_step_and_what_was_left_out(self):
        self.step(0, file=a_picture("a.png"))
        self.step(1, "4.2", "regulator ordered")
        recipe_run.leave_out(self.technician, self.job, 2, "no time to dry")
        self.step(3, "0")
        as_found.record_state(self.technician, self.unit, None, 0, "memory", "512 K", "640 K")
        workshop.finish_job(self.technician, self.job, JobResult("clean", original_gone="worn through"))
        told = " ".join(render_to_string("workshop/treatment.html", treatment.context_of(self.unit)).split())
        for words in (
            "5 V rail: 4.2 V, outside 4.75 to 5.25 V.",
            "<b>Left out:</b> no time to dry.",
            "512 K",
            "Original part disposed of: worn through.",
        ):
            self.assertIn(words, told)

    def test_a_step_twice_and_a_step_too_early(self):
        self.step(0, file=a_picture("a.png"))
        with self.assertRaisesRegex(Refused, "settled already by Tom.*Now it is step 2"):
            self.step(0, file=a_picture("a.png"))
        with self.assertRaisesRegex(Refused, "Step 2 comes first"):
            self.step(3, "0")
        with self.assertRaisesRegex(Refused, "Step 2 comes first"):
            self.step(99)

    def test_what_closes_a_step(self):
        for typed, note, file, field in (("", "", None, "photo"), ("", "", a_picture("a.txt"), None)):
            if field:
                with self.assertRaises(Refused) as caught:
                    self.step(0, typed, note, file)
                self.assertEqual(caught.exception.field, field)
        self.step(0, file=a_picture("a.png"))
        for typed in ("", "five", "5.02 A"):
            with self.assertRaises(Refused) as caught:
                self.step(1, typed)
            self.assertEqual(caught.exception.field, "typed")
        with self.assertRaises(Refused) as caught:
            self.step(1, "4.2 V")
        self.assertEqual(caught.exception.field, "note")
        self.step(1, "4200 mV", "regulator ordered")
        step = recipe_run.steps_of_job(self.job)[1]
        self.assertEqual((step.row.value, step.outside, step.row.note), (D("4.2"), True, "regulator ordered"))

    def test_time_by_itself(self):
        self.step(0, file=a_picture("a.png"))
        self.step(1, "5")
        with self.assertRaisesRegex(Refused, "Start its time"):
            self.step(2)
        recipe_run.start_alone(self.technician, self.job, 2)
        with self.assertRaisesRegex(Refused, "started already"):
            recipe_run.start_alone(self.technician, self.job, 2)
        with self.assertRaisesRegex(Refused, "by itself until"):
            self.step(2)
        self.assertTrue(self.now().runs)
        with clock.at(clock.now() + timedelta(minutes=121)):
            self.assertTrue(self.now().ran_out)
            self.step(2)

    def test_counts_are_whole_and_not_below_nothing(self):
        self.all_but_the_last()
        for typed in ("-1", "1.5"):
            with self.assertRaisesRegex(Refused, "whole number"):
                self.step(3, typed)
        with self.assertRaisesRegex(Refused, "outside at most 0"):
            self.step(3, "2")

    def test_left_out_with_a_reason_and_one_back(self):
        with self.assertRaises(Refused):
            recipe_run.leave_out(self.technician, self.job, 0, "")
        recipe_run.leave_out(self.technician, self.job, 0, "camera is away")
        self.assertEqual(self.now().index, 1)
        recipe_run.step_back(self.technician, self.job)
        self.assertEqual(self.now().index, 0)
        with self.assertRaisesRegex(Refused, "No step"):
            recipe_run.step_back(self.technician, self.job)

    def test_in_the_hands_of_one(self):
        self.step(0, file=a_picture("a.png"))
        with self.assertRaisesRegex(Refused, "Tom has this job in hand"):
            self.step(1, "5", who=self.owner)
        recipe_run.take_over_job(self.owner, self.job)
        self.step(1, "5", who=self.owner)
        with self.assertRaisesRegex(Refused, "Olga has this job in hand"):
            self.step(2)

    def test_no_finish_before_every_step_is_settled(self):
        with self.assertRaisesRegex(Refused, "Step 1 of its recipe is still to do"):
            workshop.finish_job(self.technician, self.job, JobResult("done"))

    def test_what_is_changed_in_the_recipe_changes_no_job_going_on(self):
        book.keep(self.technician, book.without_step(TRIAL, 0), 1)
        self.assertEqual(len(recipe_run.steps_of_job(self.again(self.job))), 4)

    def test_a_done_step_belongs_to_somebody_once(self):
        JobStep.objects.create(job=self.job, index=0)
        with self.assertRaises(IntegrityError), transaction.atomic():
            JobStep.objects.create(job=self.job, index=0)
        with self.assertRaises(IntegrityError), transaction.atomic():
            JobStep.objects.create(job=self.job, index=1, alone_from=clock.now())

    def test_hands_go_in_only_after_it_was_discharged(self):
        reach_in = Recipe("reach", "Reach in", JobKind.REPAIR, (Step("Reach in.", hazards=(Hazard.CHARGE,)),))
        data = NewJob.by_recipe(reach_in, estimate_minutes=5)
        job = workshop.open_job(self.technician, self.unit, data)
        with self.assertRaisesRegex(Refused, "[Dd]ischarge"):
            recipe_run.do_step(self.technician, job, 0)
        stops.discharge(self.technician, self.unit, "tube", "", True)
        stops.discharge(self.technician, self.unit, "supply", "1.2")
        recipe_run.do_step(self.technician, job, 0)

    def test_a_powered_step_shuts_what_holds_charge_again(self):
        steps = (Step("Run it.", attended=True), Step("Reach in.", hazards=(Hazard.CHARGE,)))
        recipe = Recipe("run", "Run and reach in", JobKind.REPAIR, steps)
        data = NewJob.by_recipe(recipe, estimate_minutes=5)
        job = workshop.open_job(self.technician, self.unit, data)
        stops.discharge(self.technician, self.unit, "tube", "", True)
        stops.discharge(self.technician, self.unit, "supply", "1.2")
        with clock.at(clock.now() + timedelta(minutes=1)):
            recipe_run.do_step(self.technician, job, 0)
        with clock.at(clock.now() + timedelta(minutes=2)):
            with self.assertRaisesRegex(Refused, "[Dd]ischarge"):
                recipe_run.do_step(self.technician, job, 1)
            stops.discharge(self.technician, self.unit, "tube", "", True)
            stops.discharge(self.technician, self.unit, "supply", "1.2")
            recipe_run.do_step(self.technician, job, 1)

    def test_minutes_and_odds_learn_from_what_was_done(self):
        recipe = Recipe("plain", "Do it", JobKind.CLEAN, (Step("One.", 6), Step("Two.", 4)))
        self.assertEqual(recipe_record().minutes(recipe), 10)
        before = recipe_record().chance(JobKind.CLEAN, recipe)

        def worked_on(minutes: int, steps: int) -> None:
            data = NewJob.by_recipe(recipe, title="Try", estimate_minutes=10)
            job = workshop.open_job(self.technician, self.unit, data)
            for index in range(2):
                if index < steps:
                    recipe_run.do_step(self.technician, job, index)
                else:
                    recipe_run.leave_out(self.technician, job, index, "stopped")
            workshop.log_labour(self.technician, job, minutes)
            workshop.finish_job(self.technician, job, JobResult("no", worked=False))

        worked_on(20, 2)
        worked_on(20, 2)
        # By hand: exp(2 × log 2 ÷ 6) = 1.26 times 10 minutes.
        self.assertEqual(recipe_record().minutes(recipe), 13)
        self.assertLess(recipe_record().chance(JobKind.CLEAN, recipe), before)
        # Stopped after the first step: 12 for the 6 minutes of that one, twice as long as written again, not 1.2 times.
        worked_on(12, 1)
        self.assertEqual(recipe_record().ratios["plain"], (2.0, 2.0, 2.0))
        worked_on(1, 0)
        self.assertEqual(len(recipe_record().ratios["plain"]), 3, "nothing was done of it")
        with self.assertNumQueries(3):
            recipe_record()


class WhatAJobSettles(Through):
    STANDS = "assessed"

    def open(self, unit, **data) -> Job:
        return workshop.open_job(
            self.technician, unit, NewJob(kind="clean", title="x", estimate_minutes=5, reversible=True, **data)
        )

    def test_a_finding_only_when_it_did_what_it_was_for(self):
        unit = self.assessed()
        finding = self.hand().find(unit, "front", "residue", 2, "glue")
        workshop.finish_job(self.technician, self.open(unit, finding=finding), JobResult("no luck", worked=False))
        self.assertEqual(self.again(finding).status, Finding.Status.OPEN)
        workshop.finish_job(self.technician, self.open(unit, finding=finding), JobResult("off", worked=True))
        self.assertEqual(self.again(finding).status, Finding.Status.RESOLVED)

    def test_what_nobody_can_say_yet_stays_open_until_it_is_said(self):
        unit = self.assessed()
        for worked, status in (("no", Finding.Status.OPEN), ("yes", Finding.Status.RESOLVED)):
            finding = self.hand().find(unit, "front", "residue", 2, "glue")
            job = self.open(unit, finding=finding)
            workshop.finish_job(self.technician, job, JobResult("washed"))
            self.assertEqual(self.again(finding).status, Finding.Status.OPEN)
            self.assertContains(self.client.get(f"/workshop/jobs/{job.pk}/"), "Nobody said yet whether it did")
            self.assertIsNone(proposals_of(self.again(unit)).get(f"finding:{finding.pk}"))
            self.post("workshop:say-worked", [job.pk], worked="perhaps")
            self.assertIsNone(self.again(job).worked)
            self.done(self.post("workshop:say-worked", [job.pk], worked=worked))
            self.assertEqual((self.again(finding).status, self.again(job).worked), (status, worked == "yes"))
            proposed = proposals_of(self.again(unit)).get(f"finding:{finding.pk}")
            self.assertEqual(proposed is None, worked == "yes")
            with self.assertRaisesRegex(Refused, "That is said already"):
                workshop.say_worked(self.technician, job, worked == "yes")
            with self.assertRaises(NotAllowed):
                workshop.say_worked(self.viewer, job, True)
        self.assertContains(self.client.get(f"/W-{unit.number}/"), "it did what it was for")

    def test_what_turned_out_otherwise_is_said_with_what_was_seen(self):
        unit = self.assessed()
        finding = self.hand().find(unit, "front", "residue", 2, "glue")
        job = self.open(unit, finding=finding)
        with self.assertRaisesRegex(Refused, "not done"):
            workshop.say_worked(self.technician, job, True)
        workshop.finish_job(self.technician, job, JobResult("off", worked=True))
        self.assertContains(self.client.get(f"/workshop/jobs/{job.pk}/"), "It did not hold")
        for worked, seen, status in (("no", "back next morning", "open"), ("yes", "other glue, under it", "resolved")):
            self.says(self.post("workshop:say-worked", [job.pk], follow=True, worked=worked), "Say what was seen")
            self.done(self.post("workshop:say-worked", [job.pk], worked=worked, why=seen))
            self.assertEqual((self.again(job).worked, self.again(finding).status), (worked == "yes", status))
            self.assertContains(self.client.get(f"/W-{unit.number}/"), seen)

    def test_what_was_settled_otherwise_stays_settled(self):
        """A finding that was resolved before the job was done is not the job’s."""
        unit = self.assessed()
        finding = self.hand().find(unit, "front", "residue", 2, "glue")
        job = self.open(unit, finding=finding)
        with clock.at(clock.now() - timedelta(hours=1)):
            findings.settle_finding(self.owner, finding, Finding.Status.RESOLVED, "wiped")
        workshop.finish_job(self.technician, job, JobResult("off", worked=True))
        workshop.say_worked(self.technician, job, False, "it was off before")
        self.assertEqual(self.again(finding).status, Finding.Status.RESOLVED)

    def test_the_missing_thing_is_there_original_or_not(self):
        unit = self.assessed(missing=("mouse", "keyboard"))
        mouse, keys = unit.contents.get(name="mouse"), unit.contents.get(name="keyboard")
        job = self.open(unit, source=f"content:{mouse.pk}")
        with self.assertRaisesRegex(Refused, "Say whether what was fitted is an original one"):
            workshop.finish_job(self.technician, job, JobResult("in", worked=True))
        workshop.finish_job(self.technician, job, JobResult("in", worked=True, fitted_original=True))
        fitted = JobResult("in", worked=True, fitted_original=False)
        workshop.finish_job(self.technician, self.open(unit, source=f"content:{keys.pk}"), fitted)
        self.assertEqual([self.again(one).presence for one in (mouse, keys)], ["present", "not_original"])

    def test_the_temporary_fix_is_made_good(self):
        unit = self.assessed()
        fix = self.open(
            unit, temporary=True, temporary_reason="for now", made_good_by="a foot", made_good_due=clock.today()
        )
        workshop.finish_job(self.technician, fix, JobResult("taped"))
        foot = self.open(unit, source=f"temporary:{fix.pk}")
        workshop.finish_job(self.technician, foot, JobResult("foot on", True))
        self.assertFalse(self.again(fix).temporary_open)
        workshop.say_worked(self.technician, foot, False, "it fell off")
        self.assertTrue(self.again(fix).temporary_open)
        self.done(self.post("workshop:make-good", [fix.pk], how="glued"))
        self.assertContains(self.client.get(f"/workshop/jobs/{fix.pk}/"), "It is temporary still")
        self.done(self.post("workshop:still-temporary", [fix.pk]))
        self.assertFalse(self.again(fix).temporary_open, "why is asked")
        self.done(self.post("workshop:still-temporary", [fix.pk], why="wrong job"))
        self.assertTrue(self.again(fix).temporary_open)
        with self.assertRaisesRegex(Refused, "Nobody said that it was made good"):
            workshop.still_temporary(self.technician, self.again(fix), "twice")

    def test_due_again_from_when_it_was_done_here(self):
        unit = self.assessed()
        recipes = book.recipes()
        due = {one.recipe.code: one for one in due_of(unit, strip_down_of(unit), recipes, unit.jobs.all())}
        self.assertTrue(due["grease-drive"].is_due)
        self.assertNotIn("oil-fan", due)  # nobody knows of a fan in it
        job = self.open(unit, **of_recipe(recipes["grease-drive"]))
        for index in range(len(job.steps)):
            recipe_run.leave_out(self.technician, job, index, "as usual")
        workshop.finish_job(self.technician, job, JobResult("greased", worked=True))
        due = {one.recipe.code: one for one in due_of(unit, strip_down_of(unit), recipes, unit.jobs.all())}
        self.assertFalse(due["grease-drive"].is_due)


class TwoAtOneStep(AtOnce):
    def test_one_does_it_and_the_other_is_told(self):
        from stations.intake import services as intake
        from tests.hands import Hand

        (unit,) = intake.receive(self.owner, self.line, 1, self.model, "shelf")
        unit = Hand(self.owner, clock.now() - timedelta(days=1)).assess(unit)
        data = NewJob.by_recipe(TRIAL, title="Try", estimate_minutes=5)
        job = workshop.open_job(self.technician, unit, data)
        ends = self.together(
            lambda: recipe_run.leave_out(self.technician, job, 0, "one"),
            lambda: recipe_run.leave_out(self.owner, job, 0, "other"),
        )
        self.assertEqual(sum("in hand" in str(end) or "settled" in str(end) for end in ends), 1)
        self.assertEqual(job.step_rows.count(), 1)


class ThroughThePages(Through):
    def scene(self) -> None:
        super().scene()
        self.unit = self.assessed()

    STEP = {"instruction": "Wipe it.", "minutes": "5", "proof": "yes", "version": "0"}
    RECIPE = {"title": "Wax it", "kind": "clean", "version": ""}

    def test_a_recipe_of_the_shops_own_is_written_and_worked_through(self):
        there = self.done(self.post("catalogue:recipe-new", [], **self.RECIPE))
        self.assertEqual(there, "/workshop/recipes/wax-it/")
        wrong = self.post("catalogue:recipe-step", ["wax-it"], **self.STEP | {"minutes": "-4", "version": "1"})
        self.says(wrong, "This may not be below 0.")
        wrong = self.post("catalogue:recipe-step", ["wax-it"], **self.STEP | {"proof": "count", "version": "1"})
        self.says(wrong, "Say what is to be read or counted")
        self.done(self.post("catalogue:recipe-step", ["wax-it"], **self.STEP | {"version": "1"}))
        two = {"instruction": "Count.", "proof": "count", "asks": "streaks", "version": "2"}
        self.done(self.post("catalogue:recipe-step", ["wax-it"], **self.STEP | two))
        stale = self.post("catalogue:recipe-step", ["wax-it"], **self.STEP | {"version": "1", "why": "mine"})
        self.says(stale, "Somebody else saved this", "mine")
        for nonsense in ("9" * 5000, "-1", "two", ""):
            self.done(self.post("catalogue:recipe-arrange", ["wax-it"], at=nonsense, what="up", seen="3"))
        self.done(self.post("catalogue:recipe-arrange", ["wax-it"], at="1", what="up", seen="3"))
        self.assertEqual(book.recipes()["wax-it"].steps[0].instruction, "Count.")
        self.done(self.post("workshop:unit", [self.unit.number], title="Wax", recipe="wax-it", version="1"))
        job = Job.objects.latest("pk")
        self.assertEqual((job.kind, job.estimate_minutes, len(job.steps)), ("clean", 10, 2))
        self.says(self.post("workshop:step-done", [job.pk], at="0", typed="two", note="kept"), "no number", "two")
        self.done(self.post("workshop:step-done", [job.pk], at="0", typed="2"))
        self.done(self.post("workshop:step-done", [job.pk], at="1"))
        self.done(self.post("workshop:done", [job.pk], result="shines", worked="true"))
        self.assertTrue(self.again(job).worked)

    def test_a_step_goes_out_by_its_number_only_as_long_as_it_has_it(self):
        steps = book.recipes()["clean-contacts"].steps
        page = self.client.get("/workshop/recipes/clean-contacts/")
        self.assertContains(page, "no other step has the caution for solvents")
        self.assertContains(page, 'value="out"', count=len(steps) - 1)
        there = self.done(self.post("catalogue:recipe-arrange", ["clean-contacts"], at="3", what="out", seen="0"))
        self.assertEqual(book.recipes()["clean-contacts"].steps, steps[:3])
        # On a page that somebody else has open it is another step by now.
        self.post("catalogue:recipe-arrange", ["clean-contacts"], at="2", what="out", seen="0")
        self.assertContains(self.client.get(there), "Somebody else changed this recipe meanwhile")
        self.assertEqual(book.recipes()["clean-contacts"].steps, steps[:3])

    def test_what_is_proposed_is_opened_by_a_press_once(self):
        finding = self.hand().find(self.unit, "front", "residue", 2, "glue of a label")
        page = self.client.get(f"/workshop/W-{self.unit.number}/worth/")
        self.assertContains(page, "Take off sticky residue")
        self.done(self.post("workshop:proposed", [self.unit.number], key=f"finding:{finding.pk}"))
        job = Job.objects.get()
        self.assertEqual((job.finding, job.recipe, len(job.steps)), (finding, "clean-residue", 5))
        self.post("workshop:proposed", [self.unit.number], key=f"finding:{finding.pk}")
        self.assertEqual(Job.objects.count(), 1)
        self.assertContains(self.client.get(f"/workshop/W-{self.unit.number}/"), "not proposed any more")

    def test_the_state_as_found_is_asked_for_before_the_first_change(self):
        asked = "Before the first change"
        self.assertNotContains(self.client.get(f"/workshop/W-{self.unit.number}/"), asked)
        self.done(self.post("workshop:unit", [self.unit.number], title="New belt", version="1"))
        self.assertContains(self.client.get(f"/workshop/W-{self.unit.number}/"), asked)
        self.says(
            self.post("workshop:as-found", [self.unit.number], what="memory", version="0"), "Say how it was found"
        )
        self.done(
            self.post("workshop:as-found", [self.unit.number], what="memory", found="512 K", after="", version="0")
        )
        self.assertNotContains(self.client.get(f"/workshop/W-{self.unit.number}/"), asked)
        row = StateAsFound.objects.get()
        with self.assertRaisesRegex(Refused, "recorded already"):
            as_found.record_state(self.technician, self.unit, None, 0, "Memory", "1 M", "")
        as_found.record_state(self.technician, self.unit, row, 1, "memory", "512 K", "640 K")
        self.assertIsNotNone(self.again(row).after_at)
