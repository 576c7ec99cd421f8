"""A parcel is taken in and frees a machine; a disk moves and blocks one; two machines change parts over."""

from datetime import timedelta
from decimal import Decimal

from django.utils import timezone
from playwright.sync_api import expect

from core.stock.parts import Condition, PartKind
from stations.intake import settling
from stations.stock import orders
from stations.stock.orders import Ordered, Terms
from stations.stock.services import Sort
from stations.units import parts
from stations.units.models import Part, Unit
from stations.units.parts import Described, Place
from stations.workshop import services as workshop
from stations.workshop.new_job import NewJob
from tests.browser.base import PHONE, BrowserTest
from tests.hands import Hand
from tests.stations.base import fill_shop

BOARD = Described(PartKind.BOARD, "Logic board", worth=Decimal(20), keeps_data=False)


class PartsByHand(BrowserTest):
    def setUp(self):
        super().setUp()
        fill_shop(self)
        hand = Hand(self.owner, timezone.now() - timedelta(days=2))
        self.donor, self.patient = (hand.assess(unit) for unit in self.receive(2))

    def test_a_parcel_comes_and_a_machine_goes_on(self):
        page = self.page
        job = NewJob(title="New belt", kind="repair", estimate_minutes=20, waiting_for="belt, long")
        workshop.open_job(self.owner, self.patient, job)
        wanted = [Ordered(Sort("Belt, long, 142 mm", drawer="B1"), "3", Decimal("3.00"))]
        order = orders.order_parts(self.owner, "Quay", Terms(timezone.localdate(), postage=Decimal(6)), wanted)
        self.sign_in("tom", "tom-sesame")
        page.goto("/workshop/")
        page.get_by_role("link", name=order.code).click()
        page.get_by_label("Came of Belt, long, 142 mm").fill("two")
        page.get_by_role("button", name="The parcel is here").click()
        expect(page.get_by_text("is no amount")).to_be_visible()
        page.get_by_label("Came of Belt, long, 142 mm").fill("2")
        page.get_by_role("button", name="The parcel is here").click()
        expect(page.get_by_text("say what becomes of the rest")).to_be_visible()
        page.get_by_label("What did not come").select_option("comes in another parcel")
        page.get_by_role("button", name="The parcel is here").click()
        expect(page.get_by_text("Can go on:")).to_contain_text("New belt")
        expect(page.get_by_text("12.00 landed")).to_be_visible()
        expect(page.locator(".verdict")).to_contain_text("The rest comes with")
        page.goto("/workshop/")
        expect(page.get_by_text("Came in today")).to_be_visible()
        page.get_by_role("link", name="New belt").first.click()
        page.get_by_role("button", name="Issue Belt, long, 142 mm").click()
        expect(page.get_by_role("button", name="Return to stock")).to_be_visible()

    def test_a_disk_moves_and_the_machine_can_not_be_listed(self):
        page = self.page
        settling.record_sanitisation(self.owner, self.patient, "clear", "read back, all noughts")
        self.sign_in("tom", "tom-sesame")
        page.goto(f"/workshop/W-{self.donor.number}/inside/")
        page.get_by_label("Kind").select_option("disk")
        page.get_by_label("What it is").fill("Disk 20 MB")
        page.get_by_label("Slot, bay or socket").fill("left bay")
        page.get_by_label("Worth about").fill("20")
        page.get_by_role("button", name="Write it down").click()
        page.get_by_role("link", name="Move Disk 20 MB").click()
        page.get_by_label("To which machine").fill(str(self.patient.tag))
        page.get_by_role("button", name="Go on").click()
        expect(page.get_by_text("can’t be listed before that is done")).to_be_visible()
        page.get_by_role("button", name="Move it").click()
        expect(page.get_by_text("holds data")).to_be_visible()
        part = Part.objects.get()
        self.assertEqual((part.unit, part.slot), (self.patient, "left bay"))
        page.goto(f"/W-{self.patient.number}/")
        expect(page.get_by_text("storage moved in from elsewhere was not sanitised").first).to_be_visible()

    def test_side_by_side_on_a_phone(self):
        faulty = Described(
            PartKind.BOARD, "Logic board", condition=Condition.FAULTY, worth=Decimal(2), keeps_data=False
        )
        parts.record_part(self.owner, Place(self.patient, "base"), faulty)
        good = parts.record_part(self.owner, Place(self.donor, "base"), BOARD)
        phone = self.open_page(PHONE)
        self.sign_in("tom", "tom-sesame", phone)
        phone.goto(f"/workshop/W-{self.patient.number}/beside/W-{self.donor.number}/")
        self.assertEqual(phone.evaluate("document.documentElement.scrollWidth"), 390)
        expect(phone.get_by_text("1 of 1 change over")).to_be_visible()
        phone.get_by_role("button", name="Changed over, as ticked").click()
        expect(phone.get_by_text("1 changed over")).to_be_visible()
        self.assertEqual(Part.objects.get(pk=good.pk).unit, Unit.objects.get(pk=self.patient.pk))
