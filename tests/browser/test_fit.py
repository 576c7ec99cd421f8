"""A part is checked, what is not known answered, the proposed setting taken, and the sheet of settings shows it."""

from datetime import timedelta

from django.utils import timezone
from playwright.sync_api import expect

from core.catalogue.fit.needs import Needs
from core.catalogue.fit.offers import Offers
from core.catalogue.fit.schema import read_sheet
from core.stock.parts import PartKind
from stations.catalogue import fit_sheets
from stations.units import fitting, parts
from stations.units.parts import Described, Place
from tests.browser.base import PHONE, BrowserTest
from tests.core.fit_examples import PARTS
from tests.core.fit_examples import D as OFFERS
from tests.core.test_fit_rules import STICK
from tests.hands import Hand
from tests.stations.base import fill_shop

NET = "cards\n c: bus 16-bit; length 160; height 99; fastest 10\nuses\n J1: irq 10; now 10\ndraws\n +5: amps 0.5"


class FitByHand(BrowserTest):
    def setUp(self):
        super().setUp()
        fill_shop(self)
        hand = Hand(self.owner, timezone.now() - timedelta(days=2))
        (unit,) = self.receive(1)
        self.unit = hand.assess(unit, "enhanced")
        fit_sheets.keep_offers(self.owner, self.unit.model, read_sheet(Offers, OFFERS))
        for name, text in (
            ("SCSI host card", PARTS + "firmware\n U9: wants 2.0\n"),
            ("Network card", NET),
            ("Module", STICK + "\ndraws\n +5: amps 0"),
        ):
            fit_sheets.keep_needs(self.owner, None, name, read_sheet(Needs, text))
        parts.record_part(self.owner, Place(self.unit, "3"), Described(PartKind.CARD, "Network card", keeps_data=False))
        fitting.say_whole(self.owner, self.unit, True)
        self.sign_in("tom", "tom-sesame")

    def test_checked_answered_set(self):
        page = self.page
        page.goto(f"/workshop/W-{self.unit.number}/fits/")
        page.get_by_role("link", name="SCSI host card").click()
        expect(page.locator(".fit-says")).to_contain_text("Not known yet: firmware")
        page.get_by_label("Which version it has").fill("two")
        page.get_by_role("button", name="Remember").click()
        expect(page.get_by_text("a version such as")).to_be_visible()
        page.get_by_label("Which version it has").fill("2.1")
        page.get_by_role("button", name="Remember").press("Enter")
        expect(page.locator(".fit-says")).to_contain_text("Fits, with J4 moved from 10 to 11")
        row = page.get_by_role("row", name="Interrupt")
        row.focus()
        expect(page.locator(".fit-drawn--desk rect.is-lit")).to_have_count(1)
        page.get_by_role("button", name="Into the sheet of settings").click()
        expect(page.get_by_text("SCSI host card J4").first).to_be_visible()

    def test_what_is_typed_is_drawn(self):
        page = self.page
        page.goto(f"/intake/models/{self.unit.model_id}/offers/")
        slots = page.get_by_label("Slots", exact=True)
        slots.fill(slots.input_value() + "\n9: bus 8-bit; length 200; height 90")
        expect(page.locator(".fit-drawn--desk rect[data-at='slot:9']")).to_have_count(1)
        slots.fill("9: bus ribbon")
        expect(page.get_by_text("one of 8-bit").first).to_be_visible()
        page.get_by_role("button", name="Save what it offers").click()
        expect(slots).to_have_value("9: bus ribbon")

    def test_on_a_phone_nothing_scrolls_sideways(self):
        page = self.page
        page.set_viewport_size(PHONE)
        for address in ("fits/", "fits/memory/", f"fits/{fit_sheets.sheets_of(['Module'])['module'].pk}/"):
            page.goto(f"/workshop/W-{self.unit.number}/{address}")
            self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), PHONE["width"])
