"""From a grade to an answered offer: graded, priced, lifted, written, worded anew, gone stale and put right."""

from datetime import timedelta
from decimal import Decimal

from playwright.sync_api import expect

from stations.common import clock
from stations.selling.models import Comparable, DisclosureWording, Listing, Offer
from stations.units.models import Content
from tests.browser.base import BrowserTest
from tests.stations.base import fill_shop


class Selling(BrowserTest):
    def setUp(self):
        super().setUp()
        fill_shop(self)
        for number in range(8):
            day = clock.today() - timedelta(days=4 + 9 * number)
            Comparable.objects.create(model=self.model, sold_on=day, grade="A", price=Decimal(150 + 5 * (number % 4)))
        self.unit = self.proven()
        self.hand().photograph(self.unit)

    def press(self, name: str):
        self.page.get_by_role("button", name=name).first.click()
        self.settled()

    def test_the_seller_s_afternoon(self):
        page, unit = self.page, self.unit
        self.sign_in("olga", "olga-sesame")
        page.goto(f"{self.live_server_url}/selling/W-{unit.number}/")

        # What lifting a cap is worth, on one that was not soaked.
        other = self.assessed()
        self.hand().test(other, skip={"soak": "no time for it"})
        page.goto(f"{self.live_server_url}/selling/W-{other.number}/")
        soak = page.locator(".lifts tr").filter(has_text="Not soaked")
        expect(soak).to_contain_text("four hours on, then a cold start")
        expect(soak.locator("td").nth(4)).to_have_text("4.80")
        expect(soak.locator("td").nth(5)).to_contain_text("+")
        page.goto(f"{self.live_server_url}/selling/W-{unit.number}/")

        # What the record proves, and a price out of what others paid.
        self.finger("a")
        self.settled()
        expect(page.locator("#grade")).to_contain_text("Set to")
        expect(page.locator("#price_form")).to_contain_text("eight of ten next sales")
        expect(page.locator("#plan")).to_contain_text("Waiting is worth")
        page.get_by_label("Asking price").fill("170")
        self.press("Set the price")
        self.press("Write it from the record")
        self.press("Put it on offer")
        expect(page.locator("#blocks")).to_contain_text("On offer")

        # One thing that must be said, in words of one’s own; it stays tied to its fact.
        said = page.locator("#said details").filter(has_text="lithium")
        said.locator("summary").click()
        said.get_by_role("textbox").fill("The clock runs from a small lithium cell on the board.")
        said.get_by_role("button", name="Say it so").click()
        self.settled()
        self.assertEqual(DisclosureWording.objects.get().kind, "battery")

        # The record moves on: what was written is shown beside what is true now.
        Content.objects.create(unit=unit, name="dust cover", presence="extra")
        page.reload()
        expect(page.locator("#text_form")).to_contain_text("The record has changed")
        self.press("Take the changes in")
        self.assertIn("dust cover", Listing.objects.get(unit=unit).text)

        # An offer, compared with waiting; one far below is declined, one close is taken and held.
        for amount in ("40", "168"):
            page.get_by_text("Write an offer down").click()
            page.get_by_label("Offered").fill(amount)
            page.get_by_label("By whom").fill("Ines Falk")
            self.press("Compare it")
        expect(page.locator("#offers")).to_contain_text("Decline.")
        expect(page.locator("#offers")).to_contain_text("Take it.")
        page.get_by_role("button", name="Take it", exact=True).first.click()
        self.settled()
        self.assertEqual(Offer.objects.filter(status="taken").get().amount, Decimal(168))
        expect(page.locator("#offers")).to_contain_text("Held for Ines Falk")
        page.goto(f"{self.live_server_url}/shop/W-{unit.number}/")
        expect(page.locator("main")).to_contain_text("Reserved")
        expect(page.locator("main")).to_contain_text("small lithium cell on the board")
        expect(page.locator("main")).to_contain_text("How it was tested")
