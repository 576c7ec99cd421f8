from dataclasses import replace
from datetime import timedelta
from decimal import Decimal

from django.db import DatabaseError, IntegrityError, transaction
from django.template.loader import render_to_string
from django.urls import reverse
from django.utils import timezone

from core.bench.plan import Outcome
from stations.bench import services as bench
from stations.books.selectors import complaints
from stations.common import clock
from stations.common.refusals import NotAllowed, Refused, StaleEdit
from stations.ledger.models import Account, Posting
from stations.ledger.selectors import balance
from stations.people import history
from stations.people.models import ShopSettings
from stations.selling.as_recorded import listing_facts
from stations.stock.models import StockItem
from stations.units import stages
from stations.units.models import Unit
from stations.workshop import issuing, treatment
from stations.workshop import services as workshop
from stations.workshop import settings as unit_settings
from stations.workshop.forms import DoneForm
from stations.workshop.models import LabourEntry
from stations.workshop.new_job import NewJob
from stations.workshop.services import JobResult
from tests.core.listings import write_listing
from tests.stations.base import ShopTest

D = Decimal


class Jobs(ShopTest):
    def job(self, unit=None, **data):
        unit = unit or self.assessed()
        return workshop.open_job(
            self.technician, unit, NewJob(title="New belt", kind="repair", estimate_minutes=20, **data)
        )

    def test_parts_move_at_average_cost_and_back(self):
        job = self.job()
        before = balance(Account.UNIT, job.unit_id)
        issue = issuing.issue_part(self.technician, job, self.part, 2)
        self.assertEqual((issue.cost, balance(Account.STOCK, self.part.pk)), (D("6.67"), D("3.33")))
        self.assertEqual(balance(Account.UNIT, job.unit_id), before + D("6.67"))
        issuing.return_part(self.technician, issue)
        self.assertEqual((self.again(self.part).quantity, balance(Account.STOCK, self.part.pk)), (3, D("10.00")))
        with self.assertRaisesRegex(Refused, "already"):
            issuing.return_part(self.technician, issue)

    def test_never_more_parts_than_there_are(self):
        job = self.job()
        with self.assertRaises(Refused) as caught:
            issuing.issue_part(self.technician, job, self.part, 4)
        self.assertEqual((caught.exception.field, self.again(self.part).quantity), ("quantity", 3))
        with self.assertRaises(DatabaseError), transaction.atomic():
            StockItem.objects.filter(pk=self.part.pk).update(quantity=-1)

    def test_typed_minutes_cost_the_shop_rate(self):
        entry = workshop.log_labour(self.technician, self.job(), 50)
        self.assertEqual(self.again(entry).cost, D("20.00"))

    def test_the_clock_counts_minutes_once_and_for_one_job(self):
        job = self.job()
        start = timezone.now()
        with clock.at(start):
            workshop.start_clock(self.technician, job)
        with self.assertRaisesRegex(Refused, "running on this job already"):
            workshop.start_clock(self.technician, job)
        with clock.at(start + timedelta(minutes=25)):
            entry = workshop.stop_clock(self.technician)
        self.assertEqual((entry.minutes, self.again(entry).cost), (25, D("10.00")))
        with self.assertRaisesRegex(Refused, "No clock"):
            workshop.stop_clock(self.technician)

    def test_another_job_stops_the_clock_on_the_first(self):
        first, second, start = self.job(), self.job(), timezone.now()
        with clock.at(start):
            workshop.start_clock(self.technician, first)
        with clock.at(start + timedelta(minutes=25)):
            workshop.start_clock(self.technician, second)
        self.assertEqual([entry.minutes for entry in LabourEntry.objects.order_by("id")], [25, 0])
        self.assertEqual(LabourEntry.objects.get(running_for=self.technician).job, second)

    def test_a_clock_that_ran_through_a_sign_out_or_past_closing_asks_until_when(self):
        with clock.at(timezone.now() - timedelta(minutes=50)):
            job = self.job()
            entry = workshop.start_clock(self.technician, job)
        with clock.at(timezone.now() - timedelta(minutes=20)):
            history.record(self.technician, "workshop.note", "unit", job.unit_id, "the belt is too wide")
        self.client.force_login(self.technician, backend="django.contrib.auth.backends.ModelBackend")
        self.assertNotContains(self.client.get("/workshop/"), "Until when was it work?")
        self.client.post(reverse("people:sign-out"))
        self.client.force_login(self.technician, backend="django.contrib.auth.backends.ModelBackend")
        self.assertContains(self.client.get("/workshop/"), "ran on when its person signed out")
        page = self.client.get(reverse("workshop:labour", args=[entry.pk]))
        self.assertEqual(page.context["form"].initial["minutes"], 30)
        with self.assertRaises(workshop.RanTooLong):
            workshop.stop_clock(self.technician)

    def forgotten_clock(self):
        """A clock of the technician that has run for nine days."""
        job = self.job()
        start = timezone.now() - timedelta(days=9)
        with clock.at(start):
            return job, workshop.start_clock(self.technician, job)

    def test_a_clock_that_ran_for_days_is_asked_about_before_anything_is_booked(self):
        job, entry = self.forgotten_clock()
        with self.assertRaisesRegex(workshop.RanTooLong, "ran 216 hours"):
            workshop.stop_clock(self.technician)
        with self.assertRaisesRegex(Refused, "ran 216 hours"):
            workshop.finish_job(self.technician, job, JobResult(""))
        self.client.force_login(self.technician, backend="django.contrib.auth.backends.ModelBackend")
        page = self.client.post(reverse("workshop:clock", args=[job.pk, "stop"]), follow=True)
        self.assertContains(page, "How much of that was work?")
        self.assertEqual(self.again(entry).cost, 0)
        for wrong in ("-1", "1441", "", "a day"):
            page = self.client.post(reverse("workshop:labour", args=[entry.pk]), {"minutes": wrong})
            self.assertEqual(page.status_code, 200)
        self.client.post(reverse("workshop:labour", args=[entry.pk]), {"minutes": "45"})
        entry = self.again(entry)
        self.assertEqual((entry.minutes, entry.cost, entry.running_for), (45, D("18.00"), None))
        self.assertEqual(complaints(), [])

    def test_booked_minutes_are_corrected_by_a_reversing_entry(self):
        job = self.job()
        entry = self.again(workshop.log_labour(self.technician, job, 600))
        carried = balance(Account.UNIT, job.unit_id)
        ShopSettings.objects.update(labour_rate=D(99))  # what it was booked with goes on
        with self.assertRaisesRegex(Refused, "Say why"):
            workshop.say_minutes(self.technician, entry, 60, "")
        workshop.say_minutes(self.technician, entry, 60, "a nought too many")
        self.assertEqual(balance(Account.UNIT, job.unit_id) - carried, D("-216.00"))
        self.assertEqual(Posting.objects.filter(reverses=entry.posting).count(), 1)
        workshop.say_minutes(self.owner, entry, 0, "none of it was work")
        self.assertEqual(balance(Account.UNIT, job.unit_id), carried - D("240.00"))
        workshop.say_minutes(self.owner, entry, 30, "half an hour was")
        self.assertEqual(balance(Account.UNIT, job.unit_id), carried - D("228.00"))
        self.assertEqual(complaints(), [])

    def test_a_minute_corrected_to_an_hour_costs_what_an_hour_does(self):
        ShopSettings.objects.update(labour_rate=D(25))
        entry = workshop.log_labour(self.technician, self.job(), 1)
        workshop.say_minutes(self.technician, self.again(entry), 60, "an hour was meant")
        self.assertEqual((self.again(entry).cost, self.again(entry).rate), (D(25), D(25)))
        # Of one from before its rate was kept it is as near as its cents say.
        LabourEntry.objects.filter(pk=entry.pk).update(rate=None)
        workshop.say_minutes(self.technician, self.again(entry), 30, "half of it")
        self.assertEqual(self.again(entry).cost, D("12.50"))

    def test_anothers_minutes_and_those_of_a_unit_that_is_gone_are_an_owners_to_correct(self):
        job = self.job()
        entry = workshop.log_labour(self.technician, job, 60)
        with self.assertRaisesRegex(Refused, "somebody else’s"):
            workshop.say_minutes(self.seller, entry, 30, "so it was")
        workshop.finish_job(self.technician, job, JobResult(""))
        Unit.objects.filter(pk=job.unit_id).update(stage="closed")
        with self.assertRaisesRegex(Refused, "Only an owner may correct labour on what left the house"):
            workshop.say_minutes(self.technician, entry, 30, "so it was")
        workshop.say_minutes(self.owner, entry, 30, "so it was")
        self.assertEqual(complaints(), [])

    def test_the_database_allows_one_running_clock_a_person(self):
        job = self.job()
        workshop.start_clock(self.technician, job)
        with self.assertRaises(IntegrityError), transaction.atomic():
            LabourEntry.objects.create(
                job=job, person=self.technician, started_at=timezone.now(), running_for=self.technician
            )

    def test_the_approach_refuses_and_an_owner_overrides_with_a_reason(self):
        unit = self.assessed("conserve")
        data = NewJob(title="Glue", kind="repair", estimate_minutes=5, reversible=False)
        with self.assertRaisesRegex(Refused, "can be undone"):
            workshop.open_job(self.owner, unit, data)
        with self.assertRaisesRegex(Refused, "Only an owner"):
            workshop.open_job(self.technician, unit, replace(data, override_reason="agreed with the museum"))
        workshop.open_job(self.owner, unit, replace(data, override_reason="agreed with the museum"))

    def test_a_temporary_fix_says_why_and_stays_until_made_good(self):
        unit = self.assessed()
        with self.assertRaises(Refused) as caught:
            self.job(unit, temporary=True)
        self.assertEqual(caught.exception.field, "temporary_reason")
        given = {"temporary": True, "temporary_reason": "clip lead", "made_good_by": "a new switch"}
        with self.assertRaises(Refused) as caught:
            self.job(unit, **given)
        self.assertEqual(caught.exception.field, "made_good_due")
        job = self.job(unit, **given, made_good_due=timezone.localdate() - timedelta(days=1))
        workshop.finish_job(self.technician, job, JobResult("works"))
        self.assertTrue(self.again(job).temporary_open)
        self.assertTrue(self.again(job).temporary_overdue)
        self.client.force_login(self.technician, backend="django.contrib.auth.backends.ModelBackend")
        self.assertContains(self.client.get(reverse("workshop:workshop")), "past its date")
        workshop.resolve_temporary_fix(self.technician, self.again(job), "switch fitted")
        self.assertFalse(self.again(job).temporary_open)

    def test_a_finished_job_resolves_its_finding_and_asks_for_a_test(self):
        unit = self.assessed()
        self.hand().test(unit)
        finding = self.hand().find(unit, "front", "crack", 2, "corner")
        job = self.job(unit, finding=finding)
        self.assertEqual(self.again(unit).station, "workshop")
        workshop.finish_job(self.technician, job, JobResult("glued", worked=True))
        self.assertEqual(self.again(finding).status, "resolved")
        self.assertEqual(self.again(unit).next_step, "run the test plan again")
        run = bench.start_run(self.technician, self.again(unit))
        bench.record_result(self.technician, run, "look-case", Outcome.PASS)
        self.assertEqual(self.again(unit).stage_reason, "test plan going on")

    def test_waiting_stands_on_a_siding(self):
        unit = self.assessed()
        self.job(unit, waiting_for="a belt", waiting_until=timezone.localdate() + timedelta(days=1))
        self.assertEqual((self.again(unit).state, "a belt" in self.again(unit).stage_reason), ("wait", True))

    def test_what_waited_comes_back_on_its_day_though_nobody_does_anything(self):
        unit, other = self.assessed(), self.assessed()
        day = timezone.localdate() + timedelta(days=3)
        self.job(unit, waiting_for="a belt", waiting_until=day)
        self.job(other, waiting_for="a foot", waiting_until=day + timedelta(days=1))
        stages.day_has_come()
        self.assertEqual([self.again(one).state for one in (unit, other)], ["wait", "wait"])
        with clock.at(clock.now() + timedelta(days=3)):
            self.client.force_login(self.technician)
            self.client.get("/workshop/")
            self.assertEqual([self.again(one).state for one in (unit, other)], ["move", "wait"])
            with self.assertNumQueries(1):
                stages.day_has_come()

    def test_a_temporary_fix_past_its_date_is_a_decision_from_that_day_on(self):
        unit = self.assessed()
        fix = self.job(
            unit,
            temporary=True,
            temporary_reason="for now",
            made_good_by="a new switch",
            made_good_due=timezone.localdate() + timedelta(days=2),
        )
        workshop.finish_job(self.technician, fix, JobResult("bridged"))
        with clock.at(clock.now() + timedelta(days=2)):
            stages.day_has_come()
            self.assertEqual(self.again(unit).state, "move")
        with clock.at(clock.now() + timedelta(days=3)):
            stages.day_has_come()
            self.assertEqual(self.again(unit).state, "stuck")
            self.assertIn("past its date", self.again(unit).stage_reason)
            workshop.resolve_temporary_fix(self.technician, self.again(fix), "new switch in")
            self.assertEqual(self.again(unit).state, "move")

    def test_who_may(self):
        with self.assertRaises(NotAllowed):
            workshop.open_job(self.seller, self.assessed(), NewJob(title="x", kind="clean", estimate_minutes=5))


class WhatTheBuyerIsTold(ShopTest):
    def test_workarounds_and_originals_that_go_along(self):
        unit = self.proven()
        for title, goes in (("Fit a solid-state disk", "true"), ("New fan", "false")):
            data = NewJob(title=title, kind="repair", estimate_minutes=5)
            job = workshop.open_job(self.technician, unit, data)
            self.client.force_login(self.technician, backend="django.contrib.auth.backends.ModelBackend")
            done = {"result": "works", "original_kept": "box 7", "original_goes": goes}
            done["workaround"] = "needs a command at start" if goes == "true" else ""
            self.client.post(reverse("workshop:done", args=[job.pk]), done)
        words = write_listing(listing_facts(self.again(unit)))[1]
        self.assertIn("Workarounds that stay: needs a command at start.", words)
        self.assertIn("Original parts that go with it: what was replaced by “fit a solid-state disk”.", words)
        self.assertNotIn("box 7", words)

    def test_what_was_done_against_the_approach_is_told_with_its_reason(self):
        unit = self.assessed()
        data = NewJob(title="Fit a modern screen", kind="upgrade", estimate_minutes=5, visible_modern=True)
        with self.assertRaisesRegex(Refused, "owner may override"):
            workshop.open_job(self.technician, unit, data)
        job = workshop.open_job(self.owner, unit, replace(data, override_reason="the tube is dead"))
        workshop.finish_job(self.owner, job, JobResult("works", worked=True))
        words = write_listing(listing_facts(self.again(unit)))[1]
        self.assertIn("Done against its approach: fit a modern screen, because the tube is dead.", words)

    def test_an_original_is_kept_or_disposed_of(self):
        form = DoneForm({"result": "works", "original_kept": "box 7", "original_gone": "rotten"})
        self.assertIn("original_gone", form.errors)

    def test_what_goes_along_has_a_place(self):
        form = DoneForm({"result": "works", "original_goes": "true"})
        self.assertIn("original_kept", form.errors)


class TreatmentReport(ShopTest):
    def test_it_says_how_it_came_what_was_done_with_what_and_what_was_not(self):
        unit = self.assessed("conserve", missing=("mouse",))
        self.hand().find(unit, "front", "crack", 2, "corner of the bezel")
        data = NewJob(kind="clean", title="Dust and wax", estimate_minutes=20, reversible=True)
        job = workshop.open_job(self.technician, unit, data)
        issuing.issue_part(self.technician, job, self.part, 1)
        workshop.log_labour(self.technician, job, 20)
        workshop.finish_job(self.technician, job, JobResult("waxed twice", worked=False, original_kept="box 7"))
        workshop.open_job(self.technician, unit, replace(data, title="Clean the fan"))
        self.client.force_login(self.technician, backend="django.contrib.auth.backends.ModelBackend")
        there = reverse("workshop:treatment", args=[unit.number])
        self.client.post(
            there, {"version": 0, "not_done": "No filling: the owner wants none.", "advice": "Keep it dry."}
        )
        words = render_to_string("workshop/treatment.html", treatment.context_of(self.again(unit)))
        for wanted in (
            "corner of the bezel",
            "Missing: mouse.",
            "Tom",
            "waxed twice.",
            "It did not do what it was for.",
            "Materials: 1 × Belt.",
            "box 7",
            "Clean the fan",
            "No filling",
            "Keep it dry.",
        ):
            self.assertIn(wanted, words)
        self.assertEqual(
            self.client.get(reverse("workshop:treatment-report", args=[unit.number])).content[:5], b"%PDF-"
        )

    def test_two_who_write_at_it_lose_nothing(self):
        unit = self.assessed()
        treatment.keep_note(self.technician, unit, 0, "first", "")
        with self.assertRaises(StaleEdit):
            treatment.keep_note(self.owner, unit, 0, "second", "")
        with self.assertRaises(NotAllowed):
            treatment.keep_note(self.viewer, unit, 1, "third", "")


class Settings(ShopTest):
    LINK = {"name": "J3", "kind": "link", "was": "3: 1-2", "set_to": "3: 2-3", "means": "bank 3"}

    def scene(self) -> None:
        super().scene()
        self.unit = self.assessed()
        self.there = reverse("workshop:settings", args=[self.unit.number])

    def setUp(self):
        self.client.force_login(self.technician, backend="django.contrib.auth.backends.ModelBackend")

    def test_before_and_after_and_put_back(self):
        self.client.post(self.there, self.LINK | {"version": 1})
        page = self.client.get(self.there)
        self.assertContains(page, "3 pins, 1-2 joined")
        self.assertContains(page, "3 pins, 2-3 joined")
        self.client.post(reverse("workshop:put-back", args=[self.unit.number]))
        self.assertEqual(self.unit.jobs.get().title, "Put the settings back as they were (J3: 3: 1-2)")

    def test_a_state_that_can_not_be_is_said_at_its_field(self):
        for change, field in (
            ({"was": "3: 1-3"}, "was"),
            ({"set_to": "9"}, "set_to"),
            ({"kind": "bank"}, "was"),
            ({"name": ""}, "name"),
        ):
            form = self.client.post(self.there, self.LINK | {"version": 1} | change).context["form"]
            self.assertIn(field, form.errors)
        self.client.post(self.there, self.LINK | {"version": 1})
        form = self.client.post(self.there, self.LINK | {"version": 1}).context["form"]
        self.assertIn("recorded already", str(form.errors["name"]))

    def test_nothing_to_put_back(self):
        with self.assertRaisesRegex(Refused, "as it was"):
            unit_settings.put_back(self.technician, self.unit)
        with self.assertRaises(NotAllowed):
            unit_settings.record_setting(self.viewer, self.unit, None, 0, unit_settings.SetAs(**self.LINK))
