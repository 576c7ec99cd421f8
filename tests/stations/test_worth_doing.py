"""What is worth doing to a unit, said on its page and opened from it; stop or go where a fault is looked for."""

from dataclasses import replace
from datetime import timedelta
from decimal import Decimal as D

from core.catalogue.assembly_text import from_data
from core.catalogue.recipes import JobKind, Recipe, Step
from core.workshop.chances import Tries
from core.workshop.proposals import Changes
from stations.bench import fault_view, faults, stops
from stations.bench.models import StepResult, TestRun
from stations.catalogue import recipes as book
from stations.catalogue.strip_downs import keep_for_model
from stations.common import clock
from stations.common.templatetags.figures import money, signed_money
from stations.intake import capture
from stations.selling.models import Comparable
from stations.selling.sheet import sheet_of
from stations.units.models import Content, Unit
from stations.workshop import openings, stop_or_go
from stations.workshop import services as workshop
from stations.workshop.models import Job, JobStep, StopDecision
from stations.workshop.new_job import NewJob
from stations.workshop.proposals import MEND_MINUTES, Proposals, proposals_of
from stations.workshop.recipe_record import runs_again
from stations.workshop.services import JobResult
from tests.hands import Hand
from tests.stations.test_stop_or_go import Asked

DRY = Recipe(
    "dry-out", "Dry it out", JobKind.CLEAN, (Step("Open it up.", 10), Step("Let it stand.", 2), Step("Look.", 3))
)


class Worth(Asked):
    def proposals(self) -> Proposals:
        return proposals_of(Unit.objects.select_related("lot", "model").get(pk=self.unit.pk))

    def key(self) -> str:
        return f"content:{self.missing.pk}"

    def page(self):
        return self.client.get(f"/workshop/W-{self.unit.number}/worth/")

    def open(self, *keys: str):
        return self.post("workshop:proposed", [self.unit.number], key=list(keys))


class Said(Worth):
    def test_the_best_set_in_a_sentence_and_each_of_it_term_by_term(self):
        found = self.proposals()
        self.assertEqual([one.key for one in found.chosen], [self.key(), "test-plan"])
        adds, one = found.best.set_adds, found.chosen[0]
        # What it adds is what it brings, less parts, hands and what may break: to the cent.
        self.assertEqual(adds.whole, adds.gain - adds.parts - adds.labour - adds.breakage)
        self.assertEqual((adds.parts, adds.minutes), (D(5), sum(each.proposal.minutes for each in found.chosen)))
        page = self.page()
        self.assertContains(page, f"Best set: 2 of {len(found.chosen) + len(found.others)}, {signed_money(adds.whole)}")
        self.assertContains(page, f"about €{money(found.best.now.likely)}{found.best.now.caveat}.")
        self.assertContains(page, f"works {one.chance_in_100} times in 100; €5.00 of parts")
        self.assertContains(page, "in the set")
        self.assertNotContains(page, "Open the set")  # the plan is run at the bench, and is no job

    def test_of_what_is_sold_for_its_owner_only_our_part_is_gained(self):
        def gain() -> D:
            return next(one.weighed.alone.gain for one in self.proposals().all if one.key == self.key())

        own = gain()
        self.assertNotContains(self.page(), "our commission of")
        owned = capture.Ownership("consigned", "E. Norr", commission_percent=D(70))
        capture.set_ownership(self.owner, self.unit, owned)
        # Seven tenths, less one of fee.
        self.assertAlmostEqual(gain(), own * 6 / 10, delta=D("0.01"))
        self.assertContains(self.page(), "sold for E. Norr")
        self.assertContains(self.page(), "our commission of\n          70 %")
        capture.set_ownership(self.owner, self.unit, replace(owned, commission_percent=D(5)))
        self.assertEqual(self.proposals().chosen, ())

    def test_selling_and_the_workshop_say_one_price_and_one_grade(self):
        """Sold on a channel that pays less, and told of what is missing: both pages reckon with it."""
        said = [["missing", "untested"], ["mains"]]
        for number, row in enumerate(Comparable.objects.all()):
            row.channel, row.said = ("Ferry board", "Quay market")[number % 2], said[number % 2]
            row.save()
        unit = self.again(self.unit)
        sheet, proposals = sheet_of(unit), proposals_of(unit)
        self.assertEqual(proposals.best.now.likely, sheet.found.band_at(sheet.now.grade).likely)
        self.assertEqual(proposals.best.now.grade, sheet.now.grade.label)
        # Nor is one worth more to who sells it whose fault is looked for.
        before = sheet.band.likely
        faults.open_case(self.owner, unit, "no-picture")
        unit = self.again(unit)
        sheet = sheet_of(unit)
        self.assertLess(sheet.band.likely, before)
        self.assertEqual(proposals_of(unit).best.now.likely, sheet.band.likely)

    def test_how_often_the_plan_passes_again_is_learned(self):
        unit, now = self.assessed("enhanced"), clock.now()
        for number, outcomes in enumerate((["fail"], ["fail"], ["fail", "pass"], ["pass"]), 1):
            run = TestRun.objects.create(
                unit=unit, number=number, plan=[], started_at=now, started_by=self.owner, finished_at=now
            )
            for outcome in outcomes:
                given = {"outcome": outcome, "reason": "dead", "when": now, "who": self.owner}
                StepResult.objects.create(run=run, code="fn-ports", **given)
        # The first run of a unit says nothing of one after a repair; of a step the newest result counts.
        self.assertEqual(runs_again(), Tries(2, 1))

    def test_what_does_not_pay_is_not_in_the_set(self):
        Content.objects.filter(pk=self.missing.pk).update(estimate=D(900))
        found = self.proposals()
        self.assertEqual((found.chosen, {one.key for one in found.others}), ((), {self.key(), "test-plan"}))
        self.assertLess(found.get(self.key()).weighed.alone.whole, 0)
        page = self.page()
        self.assertContains(page, "No job leaves more than it takes.")
        self.assertContains(page, "by itself")

    def test_parts_that_nobody_priced_are_not_weighed(self):
        Content.objects.filter(pk=self.missing.pk).update(estimate=0)
        found = self.proposals()
        self.assertEqual(found.unweighed[0].key, self.key())
        self.assertTrue(all(one.key.startswith("due:") for one in found.unweighed[1:]))
        self.assertContains(self.page(), "what its parts cost is not known, so it is not weighed")
        self.assertContains(self.page(), "not known")

    def test_with_no_sale_to_compare_it_with_nothing_is_weighed(self):
        Comparable.objects.all().delete()
        found = self.proposals()
        self.assertEqual(([one.key for one in found.unpriced], found.best.now), ([self.key(), "test-plan"], None))
        self.assertContains(self.page(), "Nothing sold elsewhere to compare it with")

    def test_a_failed_check_is_found_and_mended_or_done_by_a_recipe_of_its_name(self):
        Hand(self.owner, self.now - timedelta(days=1)).test(self.unit, fail={"fn-ports": "the port is dead"})
        by_recipe = self.proposals().get("check:fn-ports")
        self.assertEqual(by_recipe.proposal.title, by_recipe.recipe.title)
        self.assertEqual(by_recipe.proposal.minutes, by_recipe.recipe.minutes)
        while self.proposals().get("check:fn-ports").recipe:
            book.put_aside(self.technician, self.proposals().get("check:fn-ports").recipe.code, True)
        one = self.proposals().get("check:fn-ports")
        self.assertEqual((one.kind, one.proposal.minutes), (JobKind.REPAIR, MEND_MINUTES))
        self.assertEqual(one.proposal.changes, Changes(passed=frozenset({"fn-ports"}), worked=True))
        self.assertTrue(one.proposal.title.startswith("Find and mend: "))
        self.done(self.open(one.key))
        job = Job.objects.get()
        self.assertEqual((job.source, job.kind), ("check:fn-ports", "repair"))
        self.assertIsNone(self.proposals().get("check:fn-ports"), "it is worked on already")
        self.assertEqual(self.proposals().get(f"job:{job.pk}").proposal.changes, one.proposal.changes)
        workshop.finish_job(self.technician, job, JobResult("a cracked joint"))
        self.assertIsNone(self.proposals().get("check:fn-ports"), "it is tested again, not mended again")
        self.assertIsNotNone(self.proposals().get("test-plan"))

    def test_what_was_mended_at_the_bench_is_tested_again_and_not_mended_again(self):
        Hand(self.owner, self.now - timedelta(days=1)).test(self.unit, fail={"fn-ports": "the port is dead"})
        case = faults.open_case(self.technician, self.unit, "no-sound")
        self.assertIsNotNone(self.proposals().get("check:fn-ports"))
        faults.close_case(self.technician, case, "speaker", "", "new one")
        self.assertIsNone(self.proposals().get("check:fn-ports"))
        plan = self.proposals().get("test-plan").proposal
        unit = self.again(self.unit)
        self.assertEqual((unit.next_step, unit.next_minutes), ("run the test plan again", plan.minutes))
        self.assertContains(self.client.get(f"/W-{unit.number}/"), "Mended since the last test: no sound, or hum")

    def test_a_fault_that_is_looked_for_leads_to_the_bench_and_becomes_no_job(self):
        case = faults.open_case(self.technician, self.unit, "no-picture")
        one = self.proposals().get(f"fault:{case.pk}")
        self.assertEqual(one.page, f"/bench/W-{self.unit.number}/fault/")
        self.assertEqual(one.proposal.changes, Changes(faults=frozenset({case.pk}), worked=True))
        answer = self.open(one.key)
        self.assertContains(self.client.get(answer["Location"]), "This is not proposed any more")
        self.assertFalse(Job.objects.exists())

    def test_what_nobody_went_through_is_proposed_and_promises_nothing(self):
        Unit.objects.filter(pk=self.unit.pk).update(looked_over_at=None)
        Content.objects.filter(unit=self.unit).exclude(pk=self.missing.pk).update(presence="unseen")
        found = self.proposals()
        for key, title in (("unseen", "Tick off what came with it"), ("looks", "Look it over on every face")):
            one = found.get(key)
            self.assertEqual((one.proposal.title, one.proposal.changes), (title, Changes()))
            self.assertEqual(one.page, f"/intake/W-{self.unit.number}/")
        self.assertContains(self.page(), "its looks are not known")

    def test_several_open_in_one_press_and_once(self):
        residue = self.hand().find(self.unit, "front", "residue", 2, "glue of a label")
        keys = [self.key(), f"finding:{residue.pk}"]
        self.assertEqual(self.done(self.open(*keys)), f"/workshop/W-{self.unit.number}/")
        self.assertEqual(set(Job.objects.values_list("source", flat=True)), set(keys))
        answer = self.open(*keys)
        self.assertContains(self.client.get(answer["Location"]), "This is not proposed any more")
        self.assertEqual(Job.objects.count(), 2)
        job = Job.objects.get(source=self.key())
        self.assertGreater(job.said_to_add, 0)
        self.assertTrue(job.reversible, "what was missing and is fitted can be taken out again")

    def test_on_a_machine_that_stands_open_the_way_in_is_gone_already(self):
        lid = {"name": "Lid", "layer": 0, "x": [0, 400], "minutes": [20, 25]}
        fan = {"name": "Fan", "layer": 1, "x": [0, 100], "minutes": [2, 2], "ways": [["Lid"]]}
        keep_for_model(self.owner, self.model, from_data([lid, fan]))
        job = self.job(assembly="Fan")
        closed = self.proposals().get(f"job:{job.pk}").weighed.alone
        # Lid off and on, fan off and on.
        self.assertEqual(closed.opening, 20 + 25 + 2 + 2)
        stops.discharge(self.technician, self.unit, "tube", silent=True)
        opening = openings.open_up(self.technician, self.again(self.unit), ["Fan"])
        self.assertEqual(self.proposals().get(f"job:{job.pk}").weighed.alone.opening, 0, "it is opened anyway")
        opening.refresh_from_db()
        self.assertFalse(opening.going_back)


class WhereAFaultIsLookedFor(Worth):
    def scene(self) -> None:
        super().scene()
        with clock.at(self.now):
            self.case = faults.open_case(self.technician, self.unit, "no-picture")

    def asked_after(self, *minutes: float) -> stop_or_go.StopGo:
        """With one try at each of these minutes since it was opened."""
        for at in minutes:
            with clock.at(self.now + timedelta(minutes=at)):
                offered = fault_view.look_at(self.again(self.case)).offered[0].next.action
                faults.record_try(self.technician, self.case, offered.code, False, f"at {at:g}")
        return self.ask()

    def test_between_its_tries_time_goes_but_a_night_is_no_work(self):
        self.assertEqual(self.asked_after().gone, 0)
        # 20, then 30, then a night, of which three quarters of an hour count.
        self.assertEqual(self.asked_after(20, 50, 900).gone, 20 + 30 + stop_or_go.LONGEST_GAP)
        self.assertEqual(self.ask().in_hand.key, f"fault:{self.case.pk}")

    def test_the_box_stands_on_the_page_of_the_fault(self):
        self.assertContains(self.client.get(f"/bench/W-{self.unit.number}/fault/"), "stop-or-go/")
        self.assertContains(self.box(), "Find and mend")

    def test_a_job_on_a_clock_comes_before_the_fault(self):
        job = self.job()
        self.assertEqual(self.ask().in_hand.key, f"fault:{self.case.pk}")
        workshop.start_clock(self.owner, job)
        self.assertEqual(self.ask().in_hand.job, job)

    def test_gone_on_and_asked_again(self):
        self.done(self.decide("go", "one idea is left"))
        row = StopDecision.objects.get()
        self.assertEqual((row.of, row.words), (f"fault:{self.case.pk}", "one idea is left"))
        self.assertContains(self.box(), "one idea is left")


class WhatOthersTook(Worth):
    def scene(self) -> None:
        super().scene()
        book.keep(self.technician, DRY, 0)

    def by_recipe(self, unit: Unit, **more) -> Job:
        return workshop.open_job(self.owner, unit, NewJob.by_recipe(DRY, source=self.key(), **more))

    def done_before(self, count: int, minutes: int, worked: bool = True) -> None:
        other = self.assessed("enhanced")
        for _ in range(count):
            job = workshop.open_job(self.owner, other, NewJob.by_recipe(DRY))
            workshop.log_labour(self.owner, job, minutes)
            JobStep.objects.filter(job=job).delete()
            Job.objects.filter(pk=job.pk).update(done_at=clock.now(), worked=worked)

    def in_100_after(self, minutes: int) -> int:
        job = Job.objects.get(unit=self.unit)
        if minutes:
            workshop.log_labour(self.owner, job, minutes)
        return self.ask().answer.in_100

    def test_jobs_that_took_long_keep_up_the_hope_of_one_that_does(self):
        self.by_recipe(self.unit)
        after_an_hour = self.in_100_after(60)
        self.done_before(12, 150)
        self.assertGreater(self.in_100_after(0), after_an_hour)

    def test_jobs_that_did_not_work_teach_odds_and_no_minutes(self):
        self.by_recipe(self.unit)
        before = self.in_100_after(60)
        self.assertEqual(stop_or_go._took(self.ask().in_hand), [])
        self.done_before(3, 150, worked=False)
        self.assertEqual(stop_or_go._took(self.ask().in_hand), [])
        self.assertLess(self.ask().answer.in_100, before)

    def test_stopped_what_is_left_of_its_steps_is_left_out_with_why(self):
        job = self.by_recipe(self.unit)
        workshop.log_labour(self.owner, job, 5)
        self.done(self.decide("stop", "the board is gone"))
        job = self.again(job)
        self.assertEqual((job.is_open, job.worked, job.result), (False, False, "stopped: the board is gone"))
        left = list(JobStep.objects.filter(job=job).order_by("index"))
        self.assertEqual(len(left), len(DRY.steps))
        for row in left:
            self.assertIn("stopped: the board is gone", row.left_out)

    def test_a_donor_of_its_model_is_named(self):
        self.by_recipe(self.unit)
        self.assertNotContains(self.box(), "Swap in a part of the donor")
        donor = self.assessed("donor")
        self.assertEqual(self.ask().donor, donor)
        self.assertContains(self.box(), donor.tag.short)

    def test_unknown_parts_and_no_sale_are_told_apart(self):
        self.by_recipe(self.unit)
        Content.objects.filter(pk=self.missing.pk).update(estimate=0)
        Job.objects.filter(unit=self.unit).update(done_at=clock.now())
        job = workshop.open_proposed(self.owner, self.unit, self.key())
        self.assertContains(self.box(), "Nobody knows what its parts cost.")
        Content.objects.filter(pk=self.missing.pk).update(estimate=D(5))
        Comparable.objects.all().delete()
        self.assertContains(self.box(), "There is no sale to compare it with.")
        workshop.finish_job(self.owner, job, JobResult("done", fitted_original=True))
        self.assertContains(self.box(), "Nothing is in hand on it")
