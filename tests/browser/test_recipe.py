"""What is proposed is opened by a press and worked through by keys; on a phone; by two people."""

import re
from datetime import timedelta

from django.utils import timezone
from playwright.sync_api import expect

from stations.workshop.models import Job
from tests.browser.base import PHONE, BrowserTest
from tests.hands import Hand, a_picture
from tests.stations.base import fill_shop


class WorkedThrough(BrowserTest):
    def setUp(self):
        super().setUp()
        fill_shop(self)
        hand = Hand(self.owner, timezone.now() - timedelta(days=2))
        self.unit = hand.assess(self.receive()[0])
        hand.find(self.unit, "front", "residue", 2, "glue of a label")
        self.there = f"/workshop/W-{self.unit.number}/"

    def step(self, number: int, page=None) -> None:
        page = page or self.page
        expect(page.locator(".recipe-step")).to_contain_text(f"Step {number} of 5")
        page.wait_for_load_state("load")  # the keys are heard once the scripts ran

    def opened(self) -> None:
        self.sign_in("tom", "tom-sesame")
        self.page.goto(self.there)
        # Nothing sold elsewhere: it says so, and proposes all the same.
        expect(self.page.get_by_text("Nothing sold elsewhere to compare it with")).to_be_visible()
        self.page.get_by_role("button", name=re.compile("Open it.*Take off sticky residue")).click()
        self.step(1)

    def photo(self, page) -> None:
        page.get_by_label("The photo").set_input_files(
            {"name": "as-it-is.png", "mimeType": "image/png", "buffer": a_picture("a.png").read()}
        )
        page.keyboard.press("Escape")

    def test_by_keys_from_proposal_to_done(self):
        page = self.page
        self.opened()
        page.keyboard.press(" ")
        expect(page.get_by_text("closed by a photo")).to_be_visible()
        page.wait_for_load_state("load")
        self.photo(page)
        page.get_by_role("button", name="Keep the photo").click()
        self.step(2)
        self.finger("n")
        page.keyboard.type("no colour on the swab; came off clean")
        page.locator(".recipe-step").get_by_role("button", name="Done").click()
        self.step(3)
        self.finger("s")
        page.keyboard.type("no hair dryer")
        page.keyboard.press("Enter")
        self.step(4)
        self.finger("z")
        self.step(3)
        page.keyboard.press(" ")
        self.step(4)
        page.keyboard.press(" ")
        self.step(5)
        page.keyboard.press(" ")
        expect(page.get_by_text("Every step is settled")).to_be_visible()
        page.get_by_label("Did it do what it was for?").select_option("yes")
        page.get_by_label("What came of it, for us").fill("clean")
        page.get_by_role("button", name="Job done").click()
        expect(page.locator(".verdict")).to_contain_text("Done")
        expect(page.get_by_text("no colour on the swab; came off clean")).to_be_visible()
        job = Job.objects.get()
        self.assertEqual((job.worked, job.finding.status), (True, "resolved"))

    def test_a_second_person_takes_it_over_and_on_a_phone_nothing_lies_beside_it(self):
        self.opened()
        self.photo(self.page)
        self.page.get_by_role("button", name="Keep the photo").click()
        self.step(2)
        phone = self.open_page(PHONE)
        self.sign_in("olga", "olga-sesame", phone)
        phone.goto(f"/workshop/jobs/{Job.objects.get().pk}/")
        self.assertEqual(phone.evaluate("document.documentElement.scrollWidth"), 390)
        phone.get_by_role("button", name="Take it over from Tom").click()
        expect(phone.get_by_text("in hand: Olga")).to_be_visible()
        phone.locator(".recipe-step").get_by_role("button", name="Done").click()
        self.step(3, phone)
        # Who had it is told, and loses nothing.
        self.page.locator(".recipe-step").get_by_role("button", name="Done").click()
        expect(self.page.get_by_text("Olga has this job in hand").first).to_be_visible()
