"""Sold, paid, packed by key, sent, and taken back in part, through the pages."""

import re
from decimal import Decimal

from playwright.sync_api import expect

from stations.books.selectors import complaints
from stations.dispatch import parcels
from stations.dispatch.models import Parcel, Receipt, Refund, Return, SaleTerms
from stations.selling import services as selling
from stations.selling.models import Sale
from tests.browser.base import PHONE, BrowserTest
from tests.hands import a_picture, boxes_and_carriers
from tests.stations.base import fill_shop


class AfterTheSale(BrowserTest):
    def setUp(self):
        super().setUp()
        fill_shop(self)
        boxes_and_carriers(self.owner)
        SaleTerms.objects.update_or_create(pk=1, defaults={"address": "Our workshop\nQuay 1"})
        self.unit = self.listed()

    def go(self, path: str) -> None:
        self.page.goto(f"{self.live_server_url}{path}")

    def test_sold_packed_by_key_sent_and_returned_in_part(self):
        page = self.page
        self.sign_in("olga", "olga-sesame")
        self.go(f"/selling/W-{self.unit.number}/")
        page.get_by_label("To whom").fill("A. Reader")
        page.get_by_role("button", name="Record the sale").click()
        page.get_by_role("link", name="Payment, receipt, packing, returns").click()
        sale = Sale.objects.get()

        page.get_by_label("What came in").fill("200")
        page.get_by_role("button", name="Take the payment").click()
        expect(page.get_by_text("Say how it came in.")).to_be_visible()
        page.get_by_label("How", exact=True).select_option("cash")
        page.get_by_role("button", name="Take the payment").click()
        expect(page.get_by_text("Only 150.00 is open")).to_be_visible()
        expect(page.get_by_label("What came in")).to_have_value("200")
        page.get_by_label("What came in").fill("150")
        page.get_by_role("button", name="Take the payment").click()
        expect(page.get_by_text("Still to pay")).to_have_count(0)

        page.get_by_label("For whom, a line").fill("A. Reader\nQuay 3\nMarrowick")
        page.get_by_role("button", name="Issue it").click()
        expect(page.get_by_role("link", name="Receipt 20")).to_be_visible()
        self.assertEqual(Receipt.objects.get().total, Decimal("150.00"))

        self.finger("n")
        page.get_by_label("Across, mm").fill("246")
        page.get_by_label("Front to back").fill("277")
        page.get_by_label("High, mm").fill("3001")
        page.get_by_label("Weighs as it stands").fill("9400")
        page.get_by_label("Zone").select_option("home")
        page.get_by_role("button", name="Keep size and address").click()
        expect(page.get_by_text("3,000 mm at most")).to_be_visible()
        page.get_by_label("High, mm").fill("346")
        page.get_by_role("button", name="Keep size and address").click()
        expect(page.get_by_text("screen in outer")).to_be_visible()
        self.pack_by_key()
        parcel = Parcel.objects.get()

        page.get_by_label("Weighs closed").fill("100")
        page.keyboard.press("Tab")
        page.get_by_role("button", name="Close the parcel").click()
        expect(page.get_by_text("weigh it again")).to_be_visible()
        page.get_by_label("Weighs closed").fill("13000")
        page.get_by_role("button", name="Close the parcel").click()
        expect(page.get_by_label("Carrier")).to_contain_text("Marrow Parcel")
        page.get_by_label("Tracking number").fill("MW77")
        page.get_by_role("button", name="Sent").click()
        expect(page.get_by_text("MW77").first).to_be_visible()
        self.finger("a")
        expect(page.get_by_text(re.compile(r"^Arrived \d")).first).to_be_visible()
        self.assertIsNotNone(self.again(parcel).arrived_at)

        self.go(f"/dispatch/sales/{sale.pk}/")
        page.get_by_text("Open a return").click()
        page.get_by_label("Why").select_option("not_as_said")
        page.get_by_label("In the buyer’s words").fill("A crack at the back that nobody told me of")
        page.get_by_role("button", name="Compare with the record").click()
        expect(page.get_by_text("Nothing was said of it when it was sold")).to_be_visible()
        page.get_by_label("Pay back").fill("150.01")
        page.get_by_role("button", name="Settle the return").click()
        expect(page.get_by_text("no more than that can be paid back")).to_be_visible()
        page.get_by_label("Pay back").fill("40")
        page.get_by_label("What should have been said").select_option("defect")
        page.get_by_role("button", name="Settle the return").click()
        expect(page.get_by_text("The thing stayed with its buyer")).to_be_visible()
        self.assertEqual((Refund.objects.get().paid_back, Return.objects.get().missing), (Decimal("40.00"), "defect"))
        self.assertEqual(complaints(), [])

    def pack_by_key(self) -> None:
        """Each step by its key; where a picture is wanted, that."""
        page = self.page
        for number in range(30):
            left = page.locator(".pack-steps > li:not(.is-done)").count()
            if not left:
                return
            upload = page.locator(".pack-steps .is-next input[type=file]")
            if upload.count():
                picture = a_picture(f"{number}.png", 40 * number)
                upload.set_input_files({"name": "p.png", "mimeType": "image/png", "buffer": picture.read()})
                page.locator(".pack-steps .is-next button").click()
            else:
                self.finger("d")
            expect(page.locator(".pack-steps > li:not(.is-done)")).to_have_count(left - 1)
        self.fail("the steps never end")

    def test_on_a_phone_nothing_runs_out_of_the_page(self):
        sale = selling.sell(self.owner, self.unit, Decimal(150), "A. Reader", Decimal(9))
        parcel = parcels.begin(self.owner, sale)
        self.page.set_viewport_size(PHONE)
        self.sign_in("olga", "olga-sesame")
        for path in (
            "/dispatch/",
            f"/dispatch/sales/{sale.pk}/",
            f"/dispatch/parcels/{parcel.pk}/",
            "/dispatch/boxes/",
        ):
            self.go(path)
            wide = self.page.evaluate("document.documentElement.scrollWidth")
            self.assertLessEqual(wide, PHONE["width"], path)
