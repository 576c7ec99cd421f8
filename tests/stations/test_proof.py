"""One proof from bench to buyer: what happens after a unit was proven is known in grade, blocks, listing and shop."""

import json
import re
from dataclasses import replace
from datetime import timedelta
from decimal import Decimal

from django.db import connection
from django.test import Client
from django.test.utils import CaptureQueriesContext
from django.urls import reverse
from django.utils import timezone

from core.bench.plan import Outcome
from core.flow.facts import SellingFlow
from stations.bench import faults, fixes, power, stops, timers
from stations.bench import services as bench
from stations.bench.models import StartTrial
from stations.common import clock
from stations.common.refusals import NotAllowed, Refused
from stations.intake import settling, triage
from stations.ledger.models import LedgerEntry
from stations.selling import selectors
from stations.selling import services as selling
from stations.selling.as_recorded import listing_facts
from stations.units import stages
from stations.units.models import Unit
from stations.workshop import issuing
from stations.workshop import services as workshop
from stations.workshop.models import Job
from stations.workshop.new_job import NewJob
from stations.workshop.services import JobResult
from tests.core.listings import write_listing
from tests.stations.test_bench_in_full import BenchTest

D = Decimal


class ProofTest(BenchTest):
    def words(self, unit) -> str:
        return "; ".join(block.words for block in selectors.blocks_of(self.again(unit)))

    def text(self, unit) -> str:
        return write_listing(listing_facts(self.again(unit)))[1]

    def grade(self, unit) -> str:
        return selectors.graded_now(self.again(unit)).grade.value

    def shop_page(self, unit):
        """What a stranger sees, and what machines read there."""
        page = Client().get(f"/shop/W-{unit.number}/")
        found = re.search(r'<script type="application/ld\+json">(.*?)</script>', page.content.decode(), re.DOTALL)
        return page, json.loads(found[1])["offers"]["availability"].rsplit("/", 1)[1]

    def after(self, hours: float):
        return clock.at(timezone.now() + timedelta(hours=hours))


class AfterProven(ProofTest):
    def nothing_is_proven(self, unit, said: str):
        """The same at once in grade, blocks, listing, the shop's page, its machine-readable facts and the front."""
        self.assertNotEqual(self.again(unit).state, "move")
        self.assertIn(self.grade(unit), "D C")
        self.assertIn(said, self.words(unit))
        page, availability = self.shop_page(unit)
        self.assertEqual(availability, "OutOfStock")
        self.assertContains(page, "Being looked at again")
        self.assertNotContains(page, ", tested")
        self.assertNotContains(page, "Grade ")
        self.assertNotContains(Client().get("/shop/"), unit.title)
        with self.assertRaisesRegex(Refused, "Not proven|before it is sold"):
            selling.sell(self.seller, self.again(unit), D(100), "a reader", D(9))
        title, text = write_listing(listing_facts(self.again(unit)))
        self.assertNotIn("tested", title)
        self.assertIn(said, text)

    def test_while_nothing_happens_it_is_for_sale(self):
        unit = self.listed()
        self.assertEqual(self.shop_page(unit)[1], "InStock")
        self.assertContains(Client().get("/shop/"), unit.title)
        self.assertIn(", tested", write_listing(listing_facts(unit))[0])

    def test_a_failed_start(self):
        unit = self.listed()
        bench.note_start(self.owner, unit, False, True, "bars across the picture")
        self.nothing_is_proven(unit, "a start failed on")

    def test_an_opened_fault(self):
        unit = self.listed()
        faults.open_case(self.owner, unit, "dead", "since this morning")
        self.nothing_is_proven(unit, "fault: ")

    def test_a_fix_that_did_not_hold(self):
        unit = self.assessed()
        hand = self.hand().wait(hours=1)
        case = hand.do(faults.open_case, unit, "dead")
        hand.do(faults.close_case, case, "fuse", "", "fuse replaced; Pell Head owes us")
        hand.test(unit)
        settling.record_sanitisation(self.owner, unit, "clear", "read back, all noughts")
        hand.offer(unit, "150", pictures=1)
        with self.after(1):
            bench.note_start(self.owner, unit, False, False, "dead again")
        self.nothing_is_proven(unit, "the repair did not hold: ")
        self.assertNotIn("Pell Head", self.text(unit))

    def test_a_fault_found_and_mended_since(self):
        unit = self.listed()
        case = faults.open_case(self.owner, unit, "no-sound")
        faults.close_case(self.owner, case, "speaker", "", "new one; Pell Head owes us")
        self.nothing_is_proven(unit, "mended since the last test: no sound, or hum")
        self.assertNotIn("Pell Head", self.text(unit))
        self.assertEqual(self.grade(unit), "C")
        with self.after(1):
            hand = self.hand()
            hand.moment = clock.now()
            hand.test(unit)
            self.assertNotIn("Not proven", self.words(unit))

    def test_a_fault_that_was_found_and_left_takes_nothing_away(self):
        unit = self.listed()
        case = faults.open_case(self.owner, unit, "no-sound")
        faults.close_case(self.owner, case, "volume", "", "")
        self.assertNotIn("Not proven", self.words(unit))

    def test_a_part_exchanged_and_taken_out_again(self):
        unit = self.proven()
        job = workshop.open_job(self.owner, unit, NewJob(title="Belt", kind="repair", estimate_minutes=5))
        self.assertNotIn("exchanged", self.words(unit))
        issued = issuing.issue_part(self.owner, job, self.part, 1)
        self.assertIn("part exchanged since: Belt", self.words(unit))
        self.assertEqual(self.grade(unit), "C")
        issuing.return_part(self.owner, issued)
        self.assertIn("part taken out since: Belt", self.words(unit))

    def test_it_is_proven_again_by_the_whole_plan_and_the_grade_is_given_again(self):
        unit = self.listed()
        bench.note_start(self.owner, unit, False, False, "dead")
        with self.after(1):
            hand = self.hand()
            hand.moment = clock.now()
            hand.test(unit)
        self.assertNotIn("Not proven", self.words(unit))
        self.assertIn("The grade is older than what happened since", self.words(unit))
        self.assertEqual(self.shop_page(unit)[1], "OutOfStock")
        with self.after(40):
            selling.grade_unit(self.owner, self.again(unit))
            self.assertEqual(self.words(unit), "")
            self.assertEqual(self.shop_page(unit)[1], "InStock")


class WordsThatOutlivedTheRecord(ProofTest):
    def test_what_was_written_holds_only_while_the_record_says_so(self):
        unit = self.listed()
        self.assertEqual(self.words(unit), "")
        unit.contents.filter(name="mouse").update(presence="missing")
        self.assertIn("The words say “complete”, the record does not", self.words(unit))
        selling.write_from_facts(self.owner, self.again(unit))
        self.assertEqual(self.words(unit), "")
        bench.note_start(self.owner, unit, False, False, "dead")
        self.assertIn("The words say “tested”, the record does not", self.words(unit))
        selling.write_from_facts(self.owner, self.again(unit))
        selling.grade_unit(self.owner, self.again(unit))
        self.assertIn("The words say “Grade A”, the record does not", self.words(unit))


class StartsAndRepairs(ProofTest):
    def test_starts_that_failed_within_a_run_count(self):
        for code in ("power-first", "soak", "closed-up"):
            with self.subTest(code):
                unit = self.assessed()
                self.hand().test(unit, fail={code: "stopped after a minute"})
                self.assertEqual(unit.starts.get(passed=False).words, "stopped after a minute")
        self.assertEqual(unit.starts.filter(passed=True).count(), 2)

    def test_a_repair_not_confirmed_is_a_disclosure_and_caps_the_grade(self):
        unit = self.assessed()
        case = faults.open_case(self.owner, unit, "dead")
        faults.close_case(self.owner, case, "fuse", "", "fuse replaced")
        hand = self.hand().wait(days=4)
        hand.test(unit, stop_at="soak")
        self.assertIn("Repaired, and not yet shown to hold", self.text(unit))
        self.assertEqual(self.grade(unit), "C")
        with clock.at(hand.moment + timedelta(hours=13)):
            bench.note_start(self.owner, unit, True, True)
            self.assertEqual(fixes.unconfirmed_fixes([unit])[unit.pk], [])
        self.assertNotIn("not yet shown to hold", self.text(unit))

    def test_cold_is_worked_out_and_never_chosen(self):
        unit = self.assessed()
        self.assertIsNone(power.temperature_of(unit).cold)
        page = self.client.get(f"/bench/W-{unit.number}/")
        self.assertNotContains(page, 'name="cold"')
        self.assertContains(page, "came less than twelve hours ago")
        self.assertIsNone(bench.start_run(self.owner, unit).cold)
        unit = self.proven()
        start = StartTrial.objects.filter(unit=unit).order_by("-when").first().when
        for hours, cold in ((20, True), (21, False), (32.9, False), (45, True)):
            with clock.at(start + timedelta(hours=hours)):
                self.assertIs(power.temperature_of(unit).cold, cold)
                self.assertIs(bench.note_start(self.owner, unit, True, False).cold, cold)
        with clock.at(start + timedelta(hours=60)):
            self.assertIs(bench.note_start(self.owner, unit, True, False, warm=True).cold, False)


class TimesRun(ProofTest):
    def test_no_step_with_a_time_passes_before_it_ran(self):
        run = self.run_until("soak")
        with self.assertRaisesRegex(Refused, "start its timer"):
            bench.record_result(self.owner, run, "soak", Outcome.PASS)
        with self.after(0):
            timers.start(self.owner, run, "soak")
        with self.after(3.9), self.assertRaisesRegex(Refused, "of 240 minutes to run"):
            bench.record_result(self.owner, run, "soak", Outcome.PASS)
        with self.after(4.01):
            bench.record_result(self.owner, run, "soak", Outcome.PASS)

    def test_minutes_add_up_over_stretches_but_a_lone_press_is_no_time(self):
        run = self.run_until("fn-memory")
        minutes = next(c.alone_minutes for c in bench.plan_of(run) if c.code == "fn-memory")
        with self.after(0):
            timers.start(self.owner, run, "fn-memory")
        with self.after(minutes / 120), self.assertRaises(Refused):
            bench.record_result(self.owner, run, "fn-memory", Outcome.PASS)
        with self.after(minutes / 60 + 0.01):
            bench.record_result(self.owner, run, "fn-memory", Outcome.PASS)

    def test_a_step_that_failed_runs_its_whole_time_again(self):
        run = self.run_until("soak")
        with self.after(0):
            timers.start(self.owner, run, "soak")
        with self.after(5):
            bench.record_result(self.owner, run, "soak", Outcome.FAIL, "", "froze after four hours")
            with self.assertRaisesRegex(Refused, "start its timer"):
                bench.record_result(self.owner, run, "soak", Outcome.PASS)
            timers.start(self.owner, run, "soak")
        with self.after(6), self.assertRaisesRegex(Refused, "minutes to run"):
            bench.record_result(self.owner, run, "soak", Outcome.PASS)
        with self.after(9.1):
            bench.record_result(self.owner, run, "soak", Outcome.PASS)

    def test_unplugged_from_any_page_no_time_runs_on(self):
        run = self.run_until("soak")
        timers.start(self.owner, run, "soak")
        stops.stop(self.technician, run.unit, "smell", "varnish")
        with self.after(5):
            self.assertLess(bench.ran_minutes(run, "soak"), 1)

    def test_an_owners_waiver_is_seen_in_grade_and_listing(self):
        run = self.run_until("soak")
        with self.assertRaises(NotAllowed):
            bench.record_result(self.technician, run, "soak", Outcome.WAIVED, "", "no time")
        bench.record_result(self.owner, run, "soak", Outcome.WAIVED, "", "the buyer is at the door")
        graded = selectors.graded_now(self.again(run.unit))
        self.assertIn("the time was waived: soak", "; ".join(cap.reason for cap in graded.caps).lower())
        self.assertIn("Not run for its whole time: soak", self.text(run.unit))
        self.assertNotIn("at the door", self.text(run.unit))

    def test_waive_and_stop_are_shown_to_those_who_may(self):
        run = self.run_until("soak", self.technician)
        there = f"/bench/W-{run.unit.number}/"
        self.assertContains(self.client.get(there), 'value="waived"')
        self.client.force_login(self.technician, backend="django.contrib.auth.backends.ModelBackend")
        page = self.client.get(there)
        self.assertNotContains(page, 'value="waived"')
        self.assertContains(page, "data-stop")
        self.client.force_login(self.viewer, backend="django.contrib.auth.backends.ModelBackend")
        self.assertNotContains(self.client.get(there), "data-stop")


class WhatIsPublished(ProofTest):
    def test_words_for_colleagues_are_published_only_where_chosen(self):
        unit = self.proven()
        for title, chosen in (("Belt", False), ("Feet", True)):
            job = workshop.open_job(
                self.owner, unit, NewJob(title=title, kind="clean", estimate_minutes=5, reversible=True)
            )
            self.client.post(
                reverse("workshop:done", args=[job.pk]),
                {"write_key": "", "result": f"{title} glued, Tobin forgot"}
                | ({"publish_result": "on"} if chosen else {}),
            )
        text = self.text(unit)
        self.assertIn("belt", text)
        self.assertNotIn("Belt glued", text)
        self.assertIn("Feet glued, Tobin forgot", text)

    def test_to_sell_as_it_stands_leads_to_selling(self):
        unit = self.assessed()
        triage.choose_path(self.owner, unit, "sell", "no time for it")
        unit = self.again(unit)
        self.assertEqual((unit.station, unit.stage_reason), ("selling", "to be sold as it stands"))
        settling.record_sanitisation(self.owner, unit, "destroy", "platters drilled")
        self.hand().offer(unit, "90", pictures=1)
        self.assertEqual(self.again(unit).stage, "listed")
        self.assertIn("Sold as it stands", self.text(unit))
        self.assertIn("Not tested: nothing is claimed", self.text(unit))
        self.assertNotIn(", tested", write_listing(listing_facts(self.again(unit)))[0])


class OneRuleForReadings(ProofTest):
    def test_on_screen_and_stored_the_same_with_the_instrument_named(self):
        run = self.run_until("supply-5v")
        there = reverse("bench:band", args=[run.unit.number, "supply-5v"])
        for typed, said, verdict in (
            ("5.23", "Too close to call", "too_close"),
            ("5.10", "Inside limits", "inside"),
            ("5.31", "Outside limits", "outside"),
        ):
            page = self.client.get(there, {"reading": typed})
            self.assertContains(page, said)
            self.assertContains(page, "hand meter")
            outcome = Outcome.PASS if verdict == "inside" else Outcome.FAIL
            kept = bench.record_result(self.owner, run, "supply-5v", outcome, typed, "as read")
            self.assertEqual((kept.verdict, kept.instrument), (verdict, "hand meter"), typed)

    def test_ripple_is_not_read_with_a_hand_meters_error(self):
        unit = self.assessed(supply="switching")
        run = self.hand().test(unit, stop_at="supply-ripple")
        self.assertContains(self.client.get(f"/bench/W-{unit.number}/?step=supply-ripple"), "scope")
        kept = bench.record_result(self.owner, run, "supply-ripple", Outcome.PASS, "30 mV")
        self.assertEqual((kept.instrument, kept.verdict), ("scope", "inside"))
        self.assertGreater(kept.uncertainty, D("0.0005"))


class Queries(ProofTest):
    def asked(self) -> int:
        with CaptureQueriesContext(connection) as asked:
            self.client.get("/shop/")
            selectors.offer_facts(list(Unit.objects.select_related("lot", "line", "model")))
        return len(asked)

    def test_what_stations_before_told_is_not_asked_again(self):
        """Selling rests on what intake, bench and workshop say of a unit: that is asked once, and told the same."""
        unit = Unit.objects.select_related("lot", "line", "model").get(pk=self.listed().pk)
        with CaptureQueriesContext(connection) as before:
            told = stages.facts_of([unit], before="selling")
        self.assertEqual(told[unit.pk].selling, SellingFlow())
        with CaptureQueriesContext(connection) as whole:
            facts = stages.facts_of([unit])[unit.pk]
        self.assertEqual(facts, replace(told[unit.pk], selling=facts.selling, dispatch=facts.dispatch))
        self.assertTrue(facts.selling.listed)
        with CaptureQueriesContext(connection) as resting:
            blocked = selectors.offer_facts([unit], told)
        with CaptureQueriesContext(connection) as alone:
            self.assertEqual(selectors.offer_facts([unit]), blocked)
        self.assertEqual(len(alone), len(resting) + len(before))
        # Grades, listings and sales, and what offering rests on; dispatch is not asked for what was never sold.
        self.assertEqual(len(whole), len(before) + 3 + len(resting))

    def test_what_speaks_against_units_is_asked_for_all_at_once(self):
        self.listed()
        before = self.asked()
        for _ in range(2):
            unit = self.proven()
            bench.note_start(self.owner, unit, False, False, "dead")
            faults.open_case(self.owner, unit, "dead")
        self.assertEqual(self.asked(), before)


class AfterTheMoney(ProofTest):
    def test_nothing_is_booked_on_what_left_the_house(self):
        unit = self.proven()
        data = NewJob(title="Feet", kind="clean", estimate_minutes=5, reversible=True)
        hand = self.hand().wait(days=3)
        hand.offer(unit, "150", pictures=1, publish=False)
        job = hand.do(workshop.open_job, unit, data)
        issued = hand.do(issuing.issue_part, job, self.part, 1)
        hand.do(selling.publish, unit)
        with self.assertRaisesRegex(Refused, "1 job is open"):
            selling.sell(self.seller, self.again(unit), D(150), "a reader", D(9))
        workshop.finish_job(self.owner, job, JobResult("glued"))
        selling.sell(self.seller, self.again(unit), D(150), "a reader", D(9))
        page = Client().get(f"/shop/W-{unit.number}/")
        self.assertContains(page, "Sold.")
        hand.hand_over(unit)
        self.assertEqual(Client().get(f"/shop/W-{unit.number}/").status_code, 404)
        before = LedgerEntry.objects.count()
        Job.objects.filter(pk=job.pk).update(done_at=None)
        for act in (
            lambda: issuing.return_part(self.owner, issued),
            lambda: issuing.issue_part(self.owner, self.again(job), self.part, 1),
            lambda: workshop.log_labour(self.owner, self.again(job), 5),
            lambda: workshop.start_clock(self.owner, self.again(job)),
        ):
            with self.assertRaisesRegex(Refused, "nothing is booked on it any more"):
                act()
        self.assertEqual(LedgerEntry.objects.count(), before)
