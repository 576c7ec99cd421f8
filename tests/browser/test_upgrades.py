"""A buyer is chosen, the budget moved, the set planned: jobs, reservations and wanted entries are there."""

from datetime import timedelta
from decimal import Decimal

from django.utils import timezone
from playwright.sync_api import expect

from core.catalogue.fit.needs import Needs
from core.catalogue.fit.offers import Offers
from core.catalogue.fit.schema import read_sheet
from core.stock.parts import Condition
from stations.catalogue import fit_sheets
from stations.selling.models import Comparable
from stations.stock import services as stock
from stations.stock.services import Sort
from stations.units import fitting, offers
from stations.units.models import WantedPart
from stations.workshop import buyers
from stations.workshop.models import Job, Reservation
from tests.browser.base import PHONE, BrowserTest
from tests.core.test_upgrades import CHANGES, HERE
from tests.hands import Hand
from tests.stations.base import fill_shop

CARD = "cards\n  card: bus 8-bit; length 150; height 99; fastest 10\nuses none\ndraws\n  +5: amps 0.5" + CHANGES


class UpgradesByHand(BrowserTest):
    def setUp(self):
        super().setUp()
        fill_shop(self)
        hand = Hand(self.owner, timezone.now() - timedelta(days=2))
        (unit,) = self.receive(1)
        self.unit = hand.assess(unit, "enhanced")
        fit_sheets.keep_offers(self.owner, self.unit.model, read_sheet(Offers, HERE))
        fitting.say_whole(self.owner, self.unit, True)
        for name, brings in (("Sound card", "sound"), ("Net card", "network")):
            sheet = read_sheet(Needs, f"{CARD}\nbrings\n  {brings}: words so")
            fit_sheets.keep_needs(self.owner, None, name, sheet)
        stock.stock_part(self.owner, Sort("Sound card", Condition.TESTED.value, "D4"), "1", Decimal(12))
        offers.note_offer(self.owner, offers.Quote("Net card", "Quay", Decimal(20), days=3, postage=Decimal(4)))
        buyers.keep_buyer(self.owner, "", buyers.BuyerTyped("Both", "sound: 20 %\nnetwork: 25 %"))
        today = timezone.now().date()
        sold = {"grade": "untested", "completeness": 100, "price": Decimal(200)}
        Comparable.objects.create(model=self.unit.model, sold_on=today, **sold)
        self.sign_in("tom", "tom-sesame")

    def test_chosen_moved_planned(self):
        page = self.page
        page.goto(f"/workshop/W-{self.unit.number}/upgrades/")
        said = page.locator(".best .verdict")
        page.get_by_label("Buyer").select_option("games")
        expect(said).to_contain_text("Sound card adds €44.00")
        page.get_by_label("Buyer").select_option("both")
        expect(said).to_contain_text("Net card and Sound card add €90.00 for €36.00")
        # The budget takes the dearer one out, without a press.
        page.get_by_label("Budget").fill("20")
        expect(said).to_contain_text("Sound card adds €40.00 for €12.00")
        page.get_by_label("Budget").fill("-3")
        expect(page.get_by_text("may not be below 0")).to_be_visible()
        expect(page.get_by_label("Budget")).to_have_value("-3")
        page.get_by_label("Budget").fill("60")
        button = page.get_by_role("button", name="Plan these 2")
        button.focus()
        page.keyboard.press("Enter")
        expect(page.get_by_role("link", name="Fit Sound card")).to_be_visible()
        expect(page.get_by_role("link", name="Fit Net card")).to_be_visible()
        self.assertEqual(Job.objects.count(), 2)
        self.assertEqual(Reservation.objects.get().item.name, "Sound card")
        self.assertEqual(WantedPart.objects.get().name, "Net card")
        page.goto("/intake/wanted/")
        expect(page.get_by_text("Net card").first).to_be_visible()

    def test_on_a_phone_only_the_chosen_buyer_and_nothing_sideways(self):
        page = self.page
        page.set_viewport_size(PHONE)
        page.goto(f"/workshop/W-{self.unit.number}/upgrades/?buyer=games")
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), PHONE["width"])
        expect(page.locator("td[data-label='Period games']").first).to_be_visible()
        expect(page.locator("td[data-label='Collector']").first).to_be_hidden()
        page.goto("/workshop/buyers/")
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), PHONE["width"])
