"""After a press somebody is where they were: the page, the next Tab, and what was done in view."""

from datetime import timedelta
from decimal import Decimal

from playwright.sync_api import expect

from stations.common import clock
from stations.selling.models import Comparable
from tests.browser.base import PHONE, BrowserTest
from tests.stations.base import fill_shop

SALES = "/selling/comparables/"


class WhereOneWas(BrowserTest):
    def setUp(self):
        super().setUp()
        fill_shop(self)
        for day in range(30):
            Comparable.objects.create(
                model=self.model, sold_on=clock.today() - timedelta(days=day), grade="B", price=Decimal(50 + day)
            )
        self.page = self.open_page(PHONE)
        self.sign_in("olga", "olga-sesame")
        self.page.goto(SALES)

    def top_of(self, locator) -> float:
        return locator.bounding_box()["y"]

    def test_of_the_pages_of_a_unit_the_one_that_is_shown_is_in_sight(self):
        (unit,) = self.receive()
        for path in (f"/W-{unit.number}/", f"/selling/W-{unit.number}/", f"/intake/W-{unit.number}/label/"):
            with self.subTest(path):
                self.page.goto(path)
                expect(self.page.locator(".unit-nav [aria-current]")).to_be_in_viewport(ratio=1)

    def test_far_down_the_page_stays_the_next_tab_goes_on_and_what_was_done_is_seen(self):
        drop = self.page.locator("form[action$='/drop/'] button")
        expect(drop).to_have_count(25)
        drop.nth(14).scroll_into_view_if_needed()
        drop.nth(14).focus()
        before = self.page.evaluate("scrollY")
        where = self.top_of(drop.nth(14))
        self.assertGreater(before, 500)
        self.page.keyboard.press("Enter")
        said = self.page.get_by_role("status").filter(has_text="Dropped")
        expect(said).to_be_in_viewport()
        self.assertAlmostEqual(self.page.evaluate("scrollY"), before, delta=120)
        self.assertEqual(Comparable.objects.count(), 29)
        # Enter once more, in a hurry, presses nothing.
        self.page.keyboard.press("Enter")
        self.page.keyboard.press("Tab")
        focused = self.page.locator(":focus")
        expect(focused).to_be_in_viewport()
        self.assertAlmostEqual(self.top_of(focused), where, delta=400)
        self.assertEqual(Comparable.objects.count(), 29)
        said.click()
        expect(said).not_to_be_in_viewport()

    def test_what_was_unfolded_to_be_read_stays_unfolded_and_what_is_done_folds_away(self):
        unit = self.assessed()
        self.page.goto(f"/selling/W-{unit.number}/")
        said = self.page.locator("#said details")
        for place in (0, 1):
            said.nth(place).locator("summary").click()
        said.nth(0).get_by_role("textbox").fill("Said in a sentence of our own.")
        with self.page.expect_navigation():
            said.nth(0).get_by_role("button", name="Say it so").click()
        expect(self.page.locator("#said")).to_contain_text("Said in a sentence of our own.")
        expect(said.nth(1)).to_have_attribute("open", "")
        expect(said.nth(0)).not_to_have_attribute("open", "")
        # On another page nothing is unfolded for that.
        self.page.goto(f"/selling/W-{unit.number}/")
        expect(said.nth(1)).not_to_have_attribute("open", "")

    def test_another_page_begins_at_its_top(self):
        self.page.locator("form[action$='/drop/'] button").nth(14).click()
        expect(self.page.get_by_role("status").filter(has_text="Dropped")).to_be_in_viewport()
        self.page.get_by_role("link", name="Next").click()
        self.page.wait_for_url("**/?page=2")
        self.assertEqual(self.page.evaluate("scrollY"), 0)
        expect(self.page.locator("[data-said]")).to_have_count(0)
