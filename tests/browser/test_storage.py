"""A card is planned by hand, an installation fails and works, what worked is offered next time; a drive is wiped."""

from datetime import timedelta

from django.utils import timezone
from playwright.sync_api import expect

from stations.workshop import storage
from stations.workshop.models import InstallAttempt, Job, JobStep, Sanitising
from tests.browser.base import PHONE, BrowserTest
from tests.hands import Hand
from tests.stations.base import fill_shop


class StorageByHand(BrowserTest):
    def setUp(self):
        super().setUp()
        fill_shop(self)
        hand = Hand(self.owner, timezone.now() - timedelta(days=2))
        self.units = [hand.assess(unit, "enhanced") for unit in self.receive(2)]
        rules = "writes: FAT16 to 2 GiB\nstarts: first\nminutes: 9, restarts 1\nmedia: 3 disks"
        storage.keep_system(self.owner, None, 0, "Tern DOS 6", rules)
        self.sign_in("tom", "tom-sesame")

    def plan(self, number: int) -> None:
        page = self.page
        page.goto(f"/workshop/W-{number}/storage/")
        page.get_by_label("The drive, card or image").fill("8 GB card")
        page.get_by_label("How large").fill("8 GB")
        page.locator("#id_firmware").select_option("1,024 × 16 × 63")
        page.get_by_label("Tern DOS 6").check()
        page.get_by_role("button", name="Work it out").click()
        expect(page.get_by_text("lie beyond the firmware")).to_be_visible()
        page.get_by_role("button", name="Make it a job").click()

    def until_installing(self) -> None:
        page = self.page
        for _ in range(8):
            words = page.locator(".instruction").inner_text()
            if words.startswith("Install"):
                return
            if page.get_by_role("button", name="Start its time").is_visible():
                page.get_by_role("button", name="Start its time").click()
                expect(page.get_by_text("Runs by itself until")).to_be_visible()
                before = timezone.now() - timedelta(minutes=1)
                JobStep.objects.filter(done_at=None).update(alone_until=before, alone_from=before - timedelta(hours=2))
                page.reload()
            if page.locator("#typed").is_visible():
                page.locator("#typed").fill("0")
            page.locator("form[action$='step/done/'] button").last.click()
            expect(page.locator(".instruction")).not_to_have_text(words)
        raise AssertionError("no installation came")

    def test_a_failed_and_a_good_go(self):
        page = self.page
        self.plan(self.units[0].number)
        self.until_installing()
        page.get_by_text("It did not work").click()
        page.get_by_label("What it said or did").fill("no system found")
        page.get_by_label("What is varied for the next go").fill("formatted by the other tool")
        page.get_by_role("button", name="Note it, try again").click()
        expect(page.get_by_text("Varied this time: formatted by the other tool")).to_be_visible()
        page.locator("form[action$='step/done/'] button").last.click()
        expect(page.locator(".instruction")).to_contain_text("From cold")
        self.assertEqual(InstallAttempt.objects.filter(worked=True).count(), 1)
        self.plan(self.units[1].number)
        self.until_installing()
        expect(page.get_by_text("formatted by the other tool: worked 1 of 1 times")).to_be_visible()
        self.assertEqual(Job.objects.count(), 2)
        page.set_viewport_size(PHONE)
        for address in (
            page.url,
            f"/workshop/W-{self.units[0].number}/storage/",
            "/workshop/systems/",
            "/workshop/images/",
        ):
            page.goto(address)
            self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), PHONE["width"])

    def test_a_drive_is_wiped_and_its_certificate_printed(self):
        page = self.page
        page.goto(f"/workshop/W-{self.units[0].number}/storage/")
        form = page.locator("#sanitise")
        form.get_by_label("Which one").fill("Drive 40 MB")
        form.get_by_label("It is a").select_option("hard disk")
        form.get_by_label("How", exact=True).select_option("clear")
        form.get_by_label("Places read back").fill("2000")
        form.get_by_label("Of them not as written").fill("1")
        form.get_by_role("button").click()
        expect(page.get_by_text("1 of 2000 read something else")).to_be_visible()
        form.get_by_label("Of them not as written").fill("0")
        form.get_by_role("button").click()
        link = page.get_by_role("link", name="Certificate of Drive 40 MB")
        answer = page.request.get(link.get_attribute("href") if link.is_visible() else "")
        self.assertTrue(answer.body().startswith(b"%PDF"))
        self.assertEqual(Sanitising.objects.count(), 1)
