"""What is waited for goes by the server’s clock, whatever that of the tablet shows."""

from datetime import timedelta

from django.utils import timezone
from playwright.sync_api import expect

from stations.bench import services as bench
from stations.bench.models import StepTimer
from stations.workshop import services as workshop
from stations.workshop.new_job import NewJob
from tests.browser.base import BrowserTest
from tests.stations.base import fill_shop

WRONG = "const right = Date.now; Date.now = () => right() + Number(sessionStorage.getItem('wrong by'))"


class AWrongClock(BrowserTest):
    def setUp(self):
        super().setUp()
        fill_shop(self)
        now, unit = timezone.now(), self.assessed()
        run = bench.start_run(self.owner, unit)
        StepTimer.objects.create(
            run=run,
            code="soak",
            title="Soak",
            started_at=now,
            ends_at=now + timedelta(minutes=29, seconds=30),
            started_by=self.owner,
        )
        job = workshop.open_job(
            self.owner, self.again(unit), NewJob(title="New belt", kind="repair", estimate_minutes=20)
        )
        workshop.start_clock(self.owner, job)
        self.page.add_init_script(WRONG)
        self.sign_in("olga", "olga-sesame")

    def wrong_by(self, **span: float) -> None:
        """What the tablet shows from its next page on, against what time it is."""
        self.page.evaluate("by => sessionStorage.setItem('wrong by', by)", timedelta(**span).total_seconds() * 1000)

    def test_ahead_or_behind_as_much_is_left(self):
        left, run_for = self.page.locator("[data-until]"), self.page.locator(".clock b")
        for hours in (3, -3):
            with self.subTest(hours=hours):
                self.wrong_by(hours=hours)
                self.page.goto("/bench/")
                expect(left).to_have_text("30 min")
                expect(run_for).to_have_text("00:00")

    def test_a_page_in_which_one_went_on_is_right_too(self):
        self.wrong_by(hours=3)
        self.page.goto("/bench/")
        self.wrong_by(hours=3, minutes=20)
        # As it says each ten seconds.
        expect(self.page.locator("[data-until]")).to_have_text("10 min")
