"""A day by hand: planned, a task begun, late, another one pinned, planned again; a job stopped at its limit."""

from datetime import UTC, datetime, time, timedelta
from decimal import Decimal as D

from django.utils import timezone
from playwright.sync_api import expect

from stations.common import clock
from stations.day import planning, services
from stations.day.models import PlannedTask, Record
from stations.queue.services import work_once
from stations.selling import services as selling
from stations.selling.models import Comparable
from stations.units.models import Content, Unit
from stations.workshop import services as workshop
from stations.workshop.models import Job, StopDecision
from stations.workshop.new_job import NewJob
from tests.browser.base import PHONE, BrowserTest
from tests.hands import Hand
from tests.stations.base import fill_shop


class DayByHand(BrowserTest):
    def setUp(self):
        super().setUp()
        # It is noon where the shop is, whatever the hour here: shortly before midnight nothing fits into the day.
        east = 12 - datetime.now(UTC).hour
        self.enterContext(self.settings(TIME_ZONE=f"Etc/GMT{-east:+d}"))
        fill_shop(self)
        hand = Hand(self.owner, timezone.now() - timedelta(days=2))
        self.units = [hand.assess(unit, "enhanced") for unit in self.receive(2)]
        for unit, title in zip(self.units, ("Mend the lid", "Oil the fan"), strict=True):
            data = NewJob(kind="repair", title=title, estimate_minutes=20, reversible=True)
            workshop.open_job(self.owner, unit, data)
        for weekday in range(7):
            services.say_hours(self.owner, self.owner, weekday, services.Hours(time(0, 1), time(23, 59)))
        planning.SECONDS, before = 0.5, planning.SECONDS
        self.addCleanup(setattr, planning, "SECONDS", before)

    def planned(self) -> None:
        """A worker makes what was asked for; the page notices by itself."""
        expect(self.page.get_by_text("A plan is being worked out")).to_be_visible()
        self.assertIsNotNone(work_once("here"))
        expect(self.page.get_by_text("A plan is being worked out")).to_have_count(0)

    def row(self, title: str):
        return self.page.locator(".day-t-rows tbody tr", has_text=title)

    def test_plan_begin_slip_pin_and_plan_again(self):
        page = self.page
        self.sign_in("tom", "tom-sesame")
        page.goto("/")
        page.get_by_role("link", name="The plan of the day").click()
        expect(page.get_by_role("button", name="Plan the day")).to_be_visible()
        self.settled()
        self.finger("l")
        self.planned()
        expect(page.get_by_text("of the proven best")).to_be_visible()
        expect(page.locator("svg .day-block").first).to_be_visible()
        self.row("Mend the lid").get_by_role("button", name="Begin").click()
        expect(self.row("Mend the lid").get_by_role("button", name="Done")).to_be_visible()
        # It takes longer than planned.
        Record.objects.update(
            begun_at=timezone.now() - timedelta(minutes=50), planned_at=timezone.now() - timedelta(minutes=50)
        )
        page.reload()
        expect(self.row("Mend the lid").get_by_text("late")).to_be_visible()
        self.row("Oil the fan").get_by_text("Pin").click()
        self.row("Oil the fan").get_by_label("By").select_option(label=self.owner.name)
        self.row("Oil the fan").get_by_role("button", name="Keep it, plan again").click()
        self.planned()
        expect(self.row("Oil the fan").get_by_text("pinned", exact=True)).to_have_count(1)
        kept = PlannedTask.objects.filter(title="Mend the lid").latest("pk")
        self.assertEqual((kept.person, kept.why), (self.technician, "goes on"))
        self.row("Mend the lid").get_by_label("Why it slipped").fill("worn screws")
        self.row("Mend the lid").get_by_role("button", name="Done").click()
        expect(page.get_by_text("worn screws")).to_be_visible()

    def test_the_day_on_a_phone(self):
        planning.make({"day": clock.today().isoformat(), "by": self.owner.pk})
        self.page = self.open_page(PHONE)
        self.sign_in("tom", "tom-sesame")
        self.page.goto("/day/")
        expect(self.page.locator(".day-phone svg")).to_be_visible()
        expect(self.page.locator(".day-desk svg")).to_be_hidden()

    def test_a_job_is_stopped_at_its_limit(self):
        unit = self.units[0]
        Hand(self.owner, timezone.now() - timedelta(days=1)).test(unit)
        for price, grade, percent in ((240, "A", 100), (220, "B", 100), (130, "D", 60), (90, "untested", 60)):
            data = {"model": self.model, "channel": "a fair", "price": D(price), "sold_on": clock.today()}
            selling.add_comparable(self.owner, Comparable(**data, grade=grade, completeness=percent))
        missing = Content.objects.filter(unit=unit).first()
        Content.objects.filter(pk=missing.pk).update(presence="missing", estimate=D(5))
        Job.objects.filter(unit=unit).update(kind="clean", source=f"content:{missing.pk}")
        job = Job.objects.get(unit=unit)
        page = self.page
        self.sign_in("tom", "tom-sesame")
        page.goto(f"/workshop/jobs/{job.pk}/")
        expect(page.locator(".sg-verdict")).to_be_visible()
        # Stopping has no key here: the same letters are the recipe’s.
        expect(page.locator(".sg-box [data-key]")).to_have_count(0)
        page.get_by_role("button", name="Go on").or_(page.get_by_role("button", name="Go on, alarm")).first.click()
        expect(page.get_by_text("asked again at")).to_be_visible()
        StopDecision.objects.update(ask_at=timezone.now() - timedelta(minutes=1))
        page.goto("/")
        page.locator(".bells summary").click()
        # Asked for anew meanwhile, the list that is being read does not close.
        page.evaluate("htmx.ajax('GET', '/day/bells/', {source: '#bells'})")
        page.get_by_role("link", name="stop or go?").click()
        expect(page.get_by_text("The time you gave it is over")).to_be_visible()
        page.get_by_label("Why, where it is against the answer").fill("not worth another hour")
        page.get_by_role("button", name="Stop, sell").click()
        expect(page.get_by_text("Nothing is in hand on it")).to_be_visible()
        self.assertEqual(Unit.objects.get(pk=unit.pk).path, "sell")
        self.assertIsNotNone(Job.objects.get(pk=job.pk).done_at)
