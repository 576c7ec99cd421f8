"""A bid planned with one thumb, bought, shared and shared again."""

from playwright.sync_api import expect

from stations.books.selectors import complaints
from stations.buying.models import BidPlan, Lot
from stations.people.models import Role
from stations.people.shop_settings import settings
from tests.browser.base import PHONE, BrowserTest
from tests.stations.base import person


class AtTheSale(BrowserTest):
    def setUp(self):
        self.page = self.open_page(PHONE)
        settings()
        person("olga", Role.OWNER)

    def add(self, what: str, count: str, claim: str, worth: str) -> None:
        page = self.page
        page.get_by_label("What is it").fill(what)
        page.get_by_label("Quantity").fill(count)
        page.get_by_label("Claim").select_option(claim)
        page.get_by_label("Sells for, working").fill(worth)
        page.get_by_label("Form factor").select_option("desktop")
        page.get_by_role("button", name="Add the line").click()
        expect(page.get_by_role("link", name=what)).to_be_visible()

    def test_plan_to_lot_to_sharing(self):
        page = self.page
        self.sign_in("olga", "olga-sesame")
        page.goto("/buying/plans/")
        page.get_by_role("link", name="Plan a bid").first.click()
        page.get_by_label("Name of the lot").fill("Shed")
        page.get_by_label("Who sells").fill("Quayside sale room")
        page.get_by_label("Freight").first.fill("20")
        page.get_by_role("button", name="Start the plan").click()
        self.add("Halden M2", "2", "working", "240")
        self.add("Loose boards", "6", "none", "12")

        verdict = page.locator("#at-bid .verdict")
        expect(verdict).to_contain_text("We may bid up to")
        page.get_by_label("Hammer price").fill("900")
        expect(verdict).to_contain_text("Too much by")
        slide = page.get_by_label("Move the bid")
        slide.focus()
        page.keyboard.press("Home")
        expect(verdict).to_contain_text("We may bid up to")
        page.keyboard.press("ArrowRight")
        expect(page.get_by_label("Hammer price")).to_have_value("1")
        over = page.evaluate("document.documentElement.scrollWidth - document.documentElement.clientWidth")
        self.assertEqual(over, 0)

        page.locator(".answers").filter(has=page.get_by_role("button", name="stays dead")).first.get_by_role(
            "button", name="stays dead"
        ).click()
        expect(page.locator(".claim", has_text="stays dead")).to_be_visible()
        page.get_by_label("Hammer price").fill("120")
        page.get_by_label("Source").select_option("private")
        page.get_by_role("button", name="We got it at this price").click()
        expect(page.get_by_role("heading", name="Shed")).to_be_visible()
        lot = Lot.objects.get()
        self.assertEqual((lot.landed_total, BidPlan.objects.get().status), (140, "bought"))

        page.get_by_role("button", name="Share the cost").click()
        expect(page.get_by_text("Shared by value")).to_be_visible()
        page.get_by_label("Share it by").select_option("count")
        page.get_by_role("button", name="Share again").click()
        expect(page.get_by_text("Shared by count")).to_be_visible()
        page.get_by_label("By hand: Loose boards").first.fill("500")
        page.get_by_role("button", name="Share again").click()
        expect(page.get_by_text("is left for it")).to_be_visible()
        expect(page.get_by_label("By hand: Loose boards").first).to_have_value("500")
        page.get_by_label("By hand: Loose boards").first.fill("15")
        page.get_by_role("button", name="Share again").click()
        expect(page.get_by_text("1 line by hand, the rest shared")).to_be_visible()
        self.assertEqual(lot.sharings.count(), 3)
        self.assertEqual(complaints(), [])
