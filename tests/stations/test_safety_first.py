"""Safety through services and pages: stopping, holds, charge, and acts that can't be done by one slip."""

from dataclasses import replace
from datetime import timedelta
from decimal import Decimal

from django.db import IntegrityError, transaction
from django.urls import reverse
from django.utils import timezone

from core.bench.plan import Outcome
from core.safety import Hazard
from stations.bench import power, stops, timers
from stations.bench import services as bench
from stations.bench.models import Discharge, PowerStop, StartTrial, StepResult
from stations.common import clock
from stations.common.refusals import NotAllowed, Refused
from stations.floor.selectors import next_steps
from stations.intake import services as intake
from stations.intake import settling
from stations.ledger.models import Account
from stations.ledger.selectors import balance
from stations.selling import services as selling
from stations.units import findings, photos, stages
from stations.units.models import Finding, Unit
from stations.workshop import services as workshop
from stations.workshop.models import Job
from stations.workshop.new_job import NewJob
from stations.workshop.services import JobResult
from tests.stations.base import lot_data
from tests.stations.test_bench_in_full import BenchTest
from tests.stations.test_intake import picture
from tests.stations.test_pages import PageTest

D = Decimal


class ReadingsAtAGate(BenchTest):
    def test_charge_the_wrong_way_round_opens_no_gate(self):
        run = self.run_until("safe-linear")
        with self.assertRaisesRegex(Refused, "outside the limits"):
            bench.record_result(self.owner, run, "safe-linear", Outcome.PASS, "-325 V")
        with self.assertRaisesRegex(Refused, "Locked until"):
            bench.record_result(self.owner, run, "cold-5v", Outcome.PASS, "60")
        self.assertEqual(bench.record_result(self.owner, run, "safe-linear", Outcome.PASS, "-3 V").verdict, "inside")

    def test_ohms_below_nothing_are_refused_whatever_the_outcome(self):
        run = self.run_until("safe-earth")
        for outcome in (Outcome.PASS, Outcome.FAIL):
            with self.assertRaisesRegex(Refused, "Measure volts first") as caught:
                bench.record_result(self.owner, run, "safe-earth", outcome, "-0.3", "odd")
            self.assertEqual(caught.exception.field, "reading")
        page = self.client.get(f"/bench/W-{run.unit.number}/band/safe-earth/", {"reading": "-0.3"})
        self.assertNotContains(page, "Inside limits")

    def test_reversed_leads_are_named_on_screen_and_when_stored(self):
        run = self.run_until("supply-5v")
        with self.assertRaisesRegex(Refused, "leads are reversed"):
            bench.record_result(self.owner, run, "supply-5v", Outcome.PASS, "-5.06")
        page = self.client.get(f"/bench/W-{run.unit.number}/band/supply-5v/", {"reading": "-5.06"})
        self.assertContains(page, "leads are reversed")
        failed = bench.record_result(self.owner, run, "supply-5v", Outcome.FAIL, "-5.06", "reversed at the plug")
        self.assertEqual(failed.reading, D("-5.06"))


class UnpluggedStop(BenchTest):
    def test_one_press_fails_the_step_and_holds_the_unit(self):
        run = self.run_until("fn-picture")
        unit = run.unit
        self.client.post(reverse("bench:stop", args=[unit.number]), {"what": "smoke", "code": "fn-picture"})
        held = PowerStop.objects.get()
        result = StepResult.objects.order_by("-id").first()
        self.assertEqual((held.what, result.code, result.outcome), ("smoke", "fn-picture", "fail"))
        self.assertIn("unplugged: smoke", result.reason)
        unit = self.again(unit)
        self.assertEqual((unit.state, next_steps()[0].unit), ("hold", unit))
        self.assertIn("smoke", unit.stage_reason)
        self.assertContains(self.client.get(f"/bench/W-{unit.number}/"), "No power before it is dealt with")

    def test_somebody_elses_run_or_none_stands_in_nobodys_way(self):
        run = self.run_until("fn-picture", self.owner)
        stops.stop(self.technician, run.unit, "noise", "knocks", "fn-picture")
        unit = self.assessed()
        self.assertEqual(stops.stop(self.technician, unit, "smell").code, "")
        self.assertEqual(stops.stop(self.technician, unit, "smell", code="x" * 300).code, "")
        with self.assertRaises(NotAllowed):
            stops.stop(self.viewer, unit, "smell")
        for what, words in (("", ""), ("thunder", ""), ("other", "")):
            with self.subTest(what), self.assertRaises(Refused):
                stops.stop(self.technician, unit, what, words)

    def test_no_power_until_it_is_dealt_with_and_a_word_is_not_enough(self):
        run = self.run_until("fn-memory")
        held = stops.stop(self.owner, run.unit, "smell", "hot varnish", "fn-memory")
        for act in (
            lambda: bench.record_result(self.owner, run, "fn-ports", Outcome.PASS),
            lambda: timers.start(self.owner, run, "fn-memory"),
            lambda: bench.note_start(self.owner, self.again(run.unit), True, False),
        ):
            with self.assertRaisesRegex(Refused, "No power before"):
                act()
        there = reverse("bench:end-stop", args=[held.pk])
        self.assertContains(self.client.get(there), "Nothing yet.")
        for words, says in (("", "Say what it was"), ("it was nothing", "Nothing on record")):
            self.assertContains(self.client.post(there, {"words": words}), says, status_code=422)
        photos.add_photos(self.owner, run.unit, [picture()])
        self.assertContains(self.client.get(there), "picture: ")
        self.client.post(there, {"words": "resistor replaced"})
        held.refresh_from_db()
        self.assertEqual((held.ended_by, held.ended_words), (self.owner, "resistor replaced"))
        self.assertNotEqual(self.again(run.unit).stage_reason, f"unplugged and stopped: {held}")
        bench.record_result(self.owner, run, "fn-ports", Outcome.PASS)
        with self.assertRaisesRegex(Refused, "ended already"):
            stops.end(self.owner, held, "again")

    def test_a_start_that_ended_so_is_a_failed_start(self):
        run = self.run_until("power-first")
        stops.stop(self.owner, run.unit, "spark", "", "power-first")
        self.assertEqual(StartTrial.objects.get().passed, False)

    def test_the_database_wants_words_for_an_ended_hold(self):
        held = stops.stop(self.owner, self.assessed(), "noise")
        with self.assertRaises(IntegrityError), transaction.atomic():
            PowerStop.objects.filter(pk=held.pk).update(ended_at=timezone.now())


class Discharged(BenchTest):
    def test_counts_only_since_it_last_had_power(self):
        run = self.run_until("cold-5v")
        unit = run.unit
        with clock.at(self.later(hours=5)):
            self.assertEqual(power.charged_words(unit), "")
            bench.record_result(self.owner, run, "cold-5v", Outcome.PASS, "60")
            bench.record_result(self.owner, run, "supply-5v", Outcome.PASS, "5.02")
        with clock.at(self.later(hours=6)):
            self.assertIn("Not discharged since it last had power", power.charged_words(unit))
            with self.assertRaisesRegex(Refused, "Discharge and measure first"):
                bench.record_result(self.owner, run, "cold-5v", Outcome.PASS, "60")
            stops.discharge(self.owner, unit, "supply", "3 V")
            self.assertIn("CRT", power.charged_words(unit))
            stops.discharge(self.owner, unit, "tube", silent=True)
        with clock.at(self.later(hours=7)):
            self.assertEqual(power.charged_words(unit), "")
            bench.record_result(self.owner, run, "cold-5v", Outcome.PASS, "60")

    def later(self, **span):
        return timezone.now() + timedelta(**span)

    def test_what_is_left_is_measured_and_a_tube_is_never(self):
        unit = self.assessed()
        for what, volts, silent, field in (
            ("supply", "-325", False, "volts"),
            ("supply", "", False, "volts"),
            ("supply", "59.9", False, "volts"),
            ("tube", "0", False, "silent"),
            ("cat", "0", True, "what"),
        ):
            with self.subTest(volts), self.assertRaises(Refused) as caught:
                stops.discharge(self.owner, unit, what, volts, silent)
            self.assertEqual(caught.exception.field, field)
        made = stops.discharge(self.owner, unit, "tube", silent=True)
        with self.assertRaises(IntegrityError), transaction.atomic():
            Discharge.objects.filter(pk=made.pk).update(volts=12)

    def test_job_and_fault_pages_say_so_and_take_it(self):
        unit = self.proven()
        job = workshop.open_job(self.owner, unit, NewJob(title="Belt", kind="repair", estimate_minutes=5))
        there = reverse("workshop:job", args=[job.pk])
        self.assertContains(self.client.get(there), "Not discharged since it last had power")
        back = {"what": "supply", "volts": "2", "back": there}
        self.assertRedirects(self.client.post(reverse("bench:discharge", args=[unit.number]), back), there)
        self.assertEqual(Discharge.objects.get().volts, 2)


class Holds(PageTest):
    def test_outranks_parked_donor_decision_waiting_listed_and_sold(self):
        listed = self.listed()
        self.hand().find(listed, "front", "leak", 3, "crust")
        self.assertEqual((self.again(listed).stage, self.again(listed).state), ("listed", "hold"))
        with self.assertRaisesRegex(Refused, "Safety hold"):
            selling.sell(self.seller, self.again(listed), D(100), "a reader", D(9))
        parked = self.assessed()
        settling.park(self.owner, parked, "no room")
        self.hand().find(parked, "front", "cell", 3, "pack bulges")
        self.assertEqual((self.again(parked).stage, self.again(parked).state), ("parked", "hold"))
        self.assertIn("swollen cell", self.again(parked).stage_reason)
        waiting = self.assessed("donor")
        self.hand().find(waiting, "front", "leak", 3, "crust")
        self.assertEqual(self.again(waiting).state, "hold")
        self.assertEqual({step.unit.state for step in next_steps(most=3)}, {"hold"})

    def test_of_a_bench_hold_and_a_leak_one_stays_when_the_other_is_settled(self):
        unit = self.assessed()
        self.hand().test(unit, fail={"safe-tube": "probe broken"}, end=False)
        finding = self.hand().find(unit, "front", "leak", 3, "crust")
        photos.add_photos(self.owner, unit, [picture()])
        bench.end_run(self.owner, unit.runs.get())
        findings.settle_finding(self.owner, finding, "resolved", "cells out, washed")
        self.assertEqual(self.again(unit).state, "hold")
        self.assertIn("safety check failed", self.again(unit).stage_reason)


class SettlingALeak(PageTest):
    def scene(self) -> None:
        super().scene()
        (self.unit,) = self.receive()
        self.finding = self.hand().find(self.unit, "front", "leak", 4, "crust under the battery")
        self.there = reverse("intake:settle-hazard", args=[self.finding.pk])

    def test_is_shown_by_a_picture_and_said_in_words(self):
        page = self.client.get(self.there)
        self.assertContains(page, "What will happen")
        self.assertContains(page, Hazard.LEAK.words)
        self.assertNotContains(page, "It is dealt with</button>")
        photos.add_photos(self.owner, self.unit, [picture()])
        self.assertContains(self.client.get(self.there), "picture: ")
        self.client.post(self.there, {"words": "cell out, washed with vinegar"})
        found = self.again(self.finding)
        self.assertEqual((found.status, found.settled_by), ("resolved", self.owner))
        self.assertIsNotNone(found.settled_at)

    def test_a_job_for_it_settles_it_by_what_was_done(self):
        unit = self.assessed()
        finding = self.hand().find(unit, "front", "leak", 4, "crust")
        job = workshop.open_job(
            self.owner,
            unit,
            NewJob(title="Take the cell out", kind="repair", estimate_minutes=5, finding=finding),
        )
        workshop.open_job(self.owner, unit, NewJob(title="Belt", kind="repair", estimate_minutes=5))
        workshop.finish_job(self.owner, job, JobResult("cell out, tracks washed", worked=True))
        self.assertEqual(
            (self.again(finding).status, self.again(finding).settled_words), ("resolved", "cell out, tracks washed")
        )

    def test_can_be_opened_again(self):
        photos.add_photos(self.owner, self.unit, [picture()])
        findings.settle_finding(self.owner, self.finding, "resolved", "washed")
        findings.settle_finding(self.owner, self.finding, "open")
        self.assertEqual((self.again(self.unit).state, self.again(self.finding).settled_words), ("hold", ""))

    def test_not_by_a_word_nor_as_patina_nor_on_the_old_way(self):
        page = self.client.get(f"/intake/W-{self.unit.number}/")
        self.assertContains(page, self.there)
        self.client.post(reverse("intake:settle-finding", args=[self.finding.pk]), {"status": "resolved"})
        self.assertEqual(self.again(self.finding).status, "open")
        self.assertEqual(Finding.objects.filter(status="open").count(), 1)


class ActsOfTheirOwn(PageTest):
    def act(self, unit, what, **sent):
        return self.client.post(reverse("intake:act", args=[unit.number, what]), {"write_key": "", **sent})

    def test_writing_off_says_first_what_will_happen_and_is_taken_back_by_a_later_entry(self):
        (unit,) = self.receive()
        there = reverse("intake:act", args=[unit.number, "write-off"])
        self.assertContains(self.client.get(there), "The 39.40 it carries becomes a loss of L-001")
        self.assertEqual(self.act(unit, "write-off", reason="rust").status_code, 422)
        self.act(unit, "write-off", reason="rust", sure="on")
        self.assertEqual((self.again(unit).stage, balance(Account.LOSS, unit.pk)), ("scrapped", D("39.40")))
        self.act(unit, "take-back-write-off", reason="only the cover was rusty", sure="on")
        self.assertEqual((self.again(unit).stage, balance(Account.UNIT, unit.pk)), ("received", D("39.40")))
        self.assertEqual(balance(Account.LOSS, unit.pk), 0)
        self.assertIsNone(self.again(unit).scrap_posting_id)

    def test_refused_while_something_contradicts_it(self):
        unit = self.assessed()
        bench.start_run(self.owner, unit)
        for what, sent in (("write-off", {"reason": "rust", "sure": "on"}),):
            self.assertContains(self.act(unit, what, **sent), "test run 1 is open", status_code=422)
        bench.end_run(self.owner, unit.runs.get())
        job = workshop.open_job(self.owner, unit, NewJob(title="Belt", kind="repair", estimate_minutes=5))
        with self.assertRaisesRegex(Refused, "1 job is open"):
            settling.write_off(self.owner, unit, "rust")
        workshop.finish_job(self.owner, job, JobResult("fitted"))
        Unit.objects.filter(pk=unit.pk).update(holding="consigned", owner_name="E. Norr")
        with self.assertRaisesRegex(Refused, "belongs to E. Norr"):
            settling.write_off(self.owner, unit, "rust")

    def test_who_may_is_said_and_others_are_refused(self):
        unit = self.assessed()
        self.client.force_login(self.technician, backend="django.contrib.auth.backends.ModelBackend")
        page = self.client.get(reverse("intake:act", args=[unit.number, "write-off"]))
        self.assertContains(page, "Only owner may do this")
        self.assertNotContains(page, '<button class="btn btn-fail btn--tall">')
        sheet = self.client.get(f"/W-{unit.number}/")
        self.assertContains(sheet, "Write it off: for owner")
        self.assertContains(sheet, "Park it …")

    def test_park_has_a_reason_of_its_own(self):
        unit = self.assessed()
        self.assertEqual(self.act(unit, "park").status_code, 422)
        self.act(unit, "park", reason="no room")
        self.assertEqual(self.again(unit).state, "wait")
        self.post("intake:take-up", [unit.number])
        self.assertEqual(self.again(unit).stage, "assessed")

    def test_given_back_and_here_again(self):
        lot = intake_lot(self)
        (unit,) = intake.receive(self.owner, lot.lines.get(), 1)
        bench_unit = self.hand().assess(unit, "conserve")
        run = bench.start_run(self.owner, bench_unit)
        self.assertContains(self.act(unit, "give-back"), "is open", status_code=422)
        bench.end_run(self.owner, run)
        self.act(unit, "give-back", to_whom="the keeper")
        self.assertEqual(self.again(unit).stage, "returned")
        self.act(unit, "came-back", reason="nobody was in", sure="on", never_left="on")
        self.assertNotEqual(self.again(unit).stage, "returned")
        self.assertIsNone(self.again(unit).came_back_at)
        # Whoever has it may have it running.
        self.act(unit, "give-back")
        self.act(unit, "came-back", reason="the fault is back", sure="on")
        self.assertEqual((self.again(unit).stage, self.again(unit).data_cleared_at), ("received", None))
        self.assertIsNone(power.last_power(self.again(unit)))
        self.assertIn("it was away until", "; ".join(stages.facts_of([self.again(unit)])[unit.pk].bench.not_proven))

    def test_sanitising_says_how_it_was_verified_and_can_prove_wrong(self):
        unit = self.assessed()
        self.assertEqual(self.act(unit, "sanitise", how="clear").status_code, 422)
        self.act(unit, "sanitise", how="clear", verified="read back, all noughts")
        self.assertIsNotNone(self.again(unit).data_cleared_at)
        self.act(unit, "data-still-there", reason="the wrong disk was done", sure="on")
        self.assertIsNone(self.again(unit).data_cleared_at)

    def test_what_can_not_be_done_is_told_and_nonsense_is_not_found(self):
        unit = self.assessed()
        page = self.client.get(reverse("intake:act", args=[unit.number, "came-back"]))
        self.assertContains(page, "Not here, not now")
        self.assertEqual(self.client.get(f"/intake/W-{unit.number}/settle/tickle/").status_code, 404)


def intake_lot(target):
    """A lot in custody with one unit to come."""
    from stations.buying import services as buying
    from tests.stations.base import line_data

    free = {"price": None, "premium_percent": None, "freight": None}
    return buying.record_lot(
        target.owner, lot_data(source_kind="custody", owner_name="Museum", **free), [line_data("Terminal", 1)]
    )


class JobsAndTheirCautions(PageTest):
    STANDS = "assessed"

    def test_cautions_fit_what_the_job_involves(self):
        unit = self.assessed()
        data = NewJob(title="Whiten the case", kind="clean", estimate_minutes=30)
        job = workshop.open_job(self.owner, unit, replace(data, involves=["peroxide"]))
        page = self.client.get(reverse("workshop:job", args=[job.pk]))
        self.assertContains(page, Hazard.PEROXIDE.words)
        self.assertNotContains(page, Hazard.SOLVENT.words)

    def test_can_be_undone_is_not_ticked_beforehand_and_conserving_refuses_what_is_not_said(self):
        unit = self.assessed("conserve")
        form = self.client.get(reverse("workshop:unit", args=[unit.number]) + "?more=1").context["form"]
        self.assertIsNone(form["reversible"].value())
        sent = {"version": 1, "title": "Wax the case", "kind": "clean", "estimate_minutes": "20"}
        page = self.client.post(reverse("workshop:unit", args=[unit.number]), sent)
        self.assertContains(page, "Say whether this can be")
        self.client.post(reverse("workshop:unit", args=[unit.number]), sent | {"reversible": "true"})
        self.assertEqual(Job.objects.get().reversible, True)

    def test_the_tube_caution_stands_at_its_step_and_on_the_plan(self):
        unit = self.assessed()
        self.assertContains(self.client.get(f"/bench/W-{unit.number}/"), "Implosion goggles")
        self.hand().test(unit, stop_at="safe-tube")
        self.assertContains(self.client.get(f"/bench/W-{unit.number}/"), "Implosion goggles")
