"""A machine taken apart to do two jobs, refused too soon, and closed: by keys, on a phone, by two people."""

from datetime import timedelta

from django.utils import timezone
from playwright.sync_api import expect

from core.catalogue.assembly_text import from_data
from stations.bench import stops
from stations.catalogue.strip_downs import keep_for_model
from stations.workshop import services as workshop
from stations.workshop.models import OpenedAssembly, Opening
from stations.workshop.new_job import NewJob
from stations.workshop.services import JobResult
from tests.browser.base import DESK, PHONE, BrowserTest
from tests.hands import Hand, a_picture
from tests.stations.base import fill_shop
from tests.stations.test_strip_down import BOX


class TakenApartAndClosed(BrowserTest):
    def setUp(self):
        super().setUp()
        fill_shop(self)
        keep_for_model(self.owner, self.model, from_data(BOX))
        self.unit = Hand(self.owner, timezone.now() - timedelta(days=2)).assess(self.receive()[0])
        self.there = f"/workshop/W-{self.unit.number}/strip-down/"
        for title, where in (("Fit the memory", "Memory"), ("Oil the fan", "Fan")):
            data = NewJob(kind="clean", title=title, estimate_minutes=8, assembly=where)
            workshop.open_job(self.technician, self.unit, data)

    def title(self, words: str) -> None:
        expect(self.page.locator(".step-title")).to_have_text(words)
        self.page.wait_for_load_state("load")  # the keys are heard once the scripts ran

    def press(self, key: str, then: str) -> None:
        """A key, and what the main button says after it."""
        self.page.keyboard.press(key)
        expect(self.page.locator(".sd-main button")).to_contain_text(then)
        self.page.wait_for_load_state("load")

    def test_two_jobs_on_the_way_by_keys(self):
        page = self.page
        stops.discharge(self.technician, self.unit, "supply", "3")
        self.sign_in("tom", "tom-sesame")
        page.goto(self.there)
        page.get_by_role("checkbox", name="Memory").check()
        page.get_by_role("button", name="Open it up").click()
        self.title("Lid off")
        self.press("Space", "First is out")
        self.finger("2")
        expect(page.get_by_text("to reach Memory, Fan")).to_be_visible()
        page.wait_for_load_state("load")

        # A photo before it comes off, a press too much and back, a screw that was never there.
        page.get_by_label("A photo before").set_input_files(
            {"name": "before.png", "mimeType": "image/png", "buffer": a_picture("b.png").read()}
        )
        page.get_by_role("button", name="Keep it").click()
        expect(page.get_by_label("A photo before")).to_have_count(0)
        page.wait_for_load_state("load")
        self.press("Space", "Second is out")
        self.press("z", "First is out")
        for then in ("Second is out", "Third is out", "Fourth is out"):
            self.press("Space", then)
        self.finger("m")
        page.get_by_label("M3 × 6 cross: were there, of 4").fill("3")
        page.get_by_role("button", name="Note it").click()
        expect(page.get_by_role("region", name="Bench mat").get_by_text("1 short")).to_be_visible()
        page.wait_for_load_state("load")

        while Opening.objects.get().assemblies.filter(off_at__isnull=False).count() < 5:
            before = page.locator(".sd-main button").inner_text()
            page.keyboard.press("Space")
            expect(page.locator(".sd-main button").filter(has_text=before)).to_have_count(0)
            page.wait_for_load_state("load")
        self.title("Memory, Fan: in reach")
        page.keyboard.press("Space")

        # The memory goes in; its test and its job hold the shield.
        self.title("Memory on")
        for then in ("All 2 clips are shut", "Shield is in"):
            self.press("Space", then)
        expect(page.get_by_text("Do not close Shield yet")).to_be_visible()
        expect(page.locator(".sd-main button")).to_be_disabled()
        self.finish("Fit the memory")
        page.goto(self.there)
        self.finger("t")
        expect(page.get_by_text("Do not close")).to_have_count(0)
        page.wait_for_load_state("load")
        while "Lid" not in page.locator(".step-title").inner_text():
            before = page.locator(".sd-main button").inner_text() + page.locator(".step-title").inner_text()
            if page.get_by_text("Oil the fan", exact=False).count() and page.get_by_text("Do not close Lid").count():
                break
            page.keyboard.press("Space")
            page.wait_for_function(
                "before => document.querySelector('.sd-main button').innerText"
                " + document.querySelector('.step-title').innerText !== before",
                arg=before,
            )
            page.wait_for_load_state("load")
        expect(page.get_by_text("Still to be done there: Oil the fan")).to_be_visible()
        expect(page.get_by_alt_text("Lid before it came off")).to_be_visible()
        self.finish("Oil the fan")
        page.goto(self.there)
        for then in ("First is in", "Second is in", "Third is in"):
            self.press("Space", then)
        page.keyboard.press("Space")
        expect(page.get_by_text("What do you want to reach?")).to_be_visible()
        self.assertIsNotNone(Opening.objects.get().closed_at)

    def finish(self, title: str) -> None:
        workshop.finish_job(self.technician, self.unit.jobs.get(title=title), JobResult("done"))

    def test_on_a_phone_and_by_two_people(self):
        page = self.open_page(PHONE)
        self.sign_in("tom", "tom-sesame", page)
        page.goto(self.there)
        page.get_by_role("checkbox", name="Fan").check()
        page.get_by_role("button", name="Open it up").click()
        page.get_by_role("button", name="Unplugged, cells out, strap on").click()
        main = page.locator(".sd-main button")
        expect(main).to_contain_text("First is out")
        box = main.bounding_box()
        self.assertLessEqual(box["y"] + box["height"], PHONE["height"])
        self.assertGreaterEqual(box["height"], 44)

        other = self.open_page(DESK)
        self.sign_in("olga", "olga-sesame", other)
        other.goto(self.there)
        main.click()
        expect(main).to_contain_text("Second is out")
        # The other page still offers the first: it says so, and nothing is counted twice.
        other.locator(".sd-main button").click()
        expect(other.get_by_text("That was done already. Next: Second is out.")).to_be_visible()
        self.assertEqual(OpenedAssembly.objects.get().off_done, 1)
        over = page.evaluate("document.documentElement.scrollWidth - document.documentElement.clientWidth")
        self.assertLessEqual(over, 0)
