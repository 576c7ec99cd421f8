"""A lot from the day it is bought to the euro it earned, by hand through every page."""

from datetime import timedelta
from decimal import Decimal

from playwright.sync_api import expect

from stations.bench.models import StepTimer
from stations.books.selectors import complaints
from stations.catalogue.models import MachineModel
from stations.people.models import Role
from stations.people.shop_settings import settings
from stations.selling.models import Channel
from stations.stock import services as stock
from stations.stock.models import StockItem
from stations.units.models import Unit
from tests.browser.base import BrowserTest
from tests.stations.base import person
from tests.stations.test_intake import picture


class FromLotToProfit(BrowserTest):
    def setUp(self):
        super().setUp()
        settings()
        owner = person("olga", Role.OWNER)
        model = MachineModel.objects.create(
            maker="Tessaly",
            name="64",
            form_factor="keyboard",
            supply="external_ac",
            drives=0,
            keeps_data=False,
            photos_wanted=1,
        )
        model.expected.create(name="adapter", weight=3)
        Channel.objects.create(name="Quay market", fee_percent=Decimal(10))
        belt = StockItem.objects.create(name="Keycap, cream", drawer="B2")
        stock.buy_stock(owner, belt, 10, Decimal("4.00"))

    def press(self, name: str):
        self.page.get_by_role("button", name=name).first.click()
        self.settled()

    def test_the_whole_journey(self):
        page = self.page
        self.sign_in("olga", "olga-sesame")

        # Buying: two of one, one of another; 80 + 10 % + 12 freight.
        page.get_by_role("link", name="Record a lot").or_(page.get_by_role("link", name="Record one")).first.click()
        page.get_by_label("Name of the lot").fill("Attic in Saltgate")
        page.get_by_label("Supplier", exact=True).fill("A private seller")
        page.get_by_label("Source").select_option("private")
        page.get_by_label("Amount, or %").nth(0).fill("80")
        page.get_by_label("Amount, or %").nth(1).fill("10 %")
        page.get_by_label("Amount, or %").nth(3).fill("12")
        expect(page.locator("#landed tfoot")).to_contain_text("100.00")
        for number, (what, count, worth) in enumerate((("Tessaly 64", "2", "90"), ("Box of leads", "1", "20"))):
            if number:
                self.press("Add a line")
            line = page.locator(".line-form").nth(number)
            line.get_by_label("What is it").fill(what)
            line.get_by_label("Quantity").fill(count)
            if number:
                line.get_by_label("Kind").select_option("consumable")
            else:
                line.get_by_label("Form factor").select_option("keyboard")
            for label in ("Worth, low", "Likely", "High"):
                line.get_by_label(label).fill(worth)
            line.get_by_label("Cost to finish").fill("0")
        self.press("Record the lot")
        expect(page.get_by_role("heading", name="Attic in Saltgate")).to_be_visible()
        self.press("Share the cost")
        expect(page.get_by_text("Shared by value")).to_be_visible()

        # Intake.
        page.get_by_role("link", name="Receive units").click()
        page.get_by_label("Model, if known").first.select_option(label="Tessaly 64")
        page.get_by_label("How many came").first.fill("1")
        self.press("Receive")
        unit = Unit.objects.get()
        page.get_by_label("Serial").fill("T64-1")
        page.get_by_text("supply, battery, drives: as it is now").click()
        page.get_by_label("adapter, V").fill("9")
        page.get_by_label("adapter, A").fill("1")
        self.press("Save what it is")
        page.locator("#ticks").get_by_label("adapter").select_option("present")
        self.press("Save what came")
        expect(page.get_by_text("100 % complete.")).to_be_visible()
        page.locator('.casing--desk [data-face="top"]').click(position={"x": 40, "y": 20}, force=True)
        page.get_by_text("with words, size and severity").click()
        page.get_by_label("Kind", exact=True).last.select_option("yellowing")
        page.get_by_label("In words").fill("sun side")
        self.press("Add the finding")
        expect(page.get_by_text("Yellowing top, sun side")).to_be_visible()
        self.press("Nothing more on any face")
        expect(page.get_by_text("cosmetics").first).to_be_visible()
        shot = picture()
        page.get_by_label("Pictures").set_input_files(
            {"name": "a.jpg", "mimeType": "image/jpeg", "buffer": shot.read()}
        )
        self.press("Add photos")
        expect(page.get_by_text("1 photo added.")).to_be_visible()
        page.get_by_label("Upgraded").check()
        self.press("Save the approach")
        self.press("Finish intake")
        expect(page.get_by_text("Start the test plan").first).to_be_visible()

        # Workshop: clean it, with three keycaps and half an hour.
        page.goto(f"/workshop/W-{unit.number}/")
        page.get_by_role("link", name="Say more").click()
        page.get_by_label("What is to be done").fill("Clean and fit keycaps")
        page.locator("#id_kind").select_option("clean")
        self.press("Open the job")
        page.get_by_label("Part", exact=True).select_option(label="Keycap, cream, new: 10 free in B2")
        page.get_by_label("How much").fill("3")
        self.press("Issue")
        page.get_by_label("Minutes").fill("30")
        self.press("Add minutes")
        page.get_by_label("What came of it").fill("all keys there")
        self.press("Job done")
        expect(page.get_by_text("all keys there").first).to_be_visible()

        # Bench: every step passes.
        page.goto(f"/bench/W-{unit.number}/")
        self.press("Start a run")
        readings = {"Ω": "60", "V": "10.1"}
        while page.locator("#step-form").count():
            if page.locator("button[data-key=t]").count():
                page.locator("button[data-key=t]").click()
                expect(page.locator(".timer")).to_contain_text("Runs until")
                for timer in StepTimer.objects.all():
                    timer.started_at -= timedelta(hours=5)
                    timer.ends_at -= timedelta(hours=5)
                    timer.save()
            title = page.locator(".step-title").inner_text()
            battery = page.locator(".asked-facts form").filter(has_text="Battery: not recorded.")
            if battery.count():
                battery.get_by_role("button", name="none").click()
                expect(battery).to_have_count(0)
            if page.locator("#reading").count():
                sign = page.locator(".reading-unit").inner_text()
                value = "5.02" if "+5 V" in title and sign == "V" else readings[sign]
                page.locator("#reading").fill("0.02" if "Ripple" in title else value)
            with page.expect_navigation():  # loaded, with all that belongs to the step
                page.locator("button[data-key=p]").click()
        expect(page.get_by_text("Run 1").first).to_be_visible()
        self.assertEqual(Unit.objects.get().stage, "proven")

        # Selling.
        page.goto(f"/selling/W-{unit.number}/")
        self.press("Set the grade")
        page.get_by_label("Asking price").fill("120")
        self.press("Set the price")
        self.press("Put it on offer")
        expect(page.get_by_role("heading", name="On offer")).to_be_visible()
        page.get_by_label("Sold for").fill("115")
        page.get_by_label("To whom").fill("a reader")
        page.get_by_label("Postage we pay").fill("8")
        self.press("Record the sale")
        page.goto(f"/shop/W-{unit.number}/")
        expect(page.get_by_text("Sold.")).to_be_visible()
        page.goto(f"/selling/W-{unit.number}/")
        page.get_by_role("link", name="Payment, receipt, packing, returns").click()
        page.get_by_label("How", exact=True).select_option("cash")
        self.press("Take the payment")
        page.get_by_text("Collected in person").click()
        self.press("Handed over: close out")

        # Books: 115 sale less 45.00 share, 1.20 keycaps, 12.00 labour, 11.50 fee; fetched, so no postage.
        page.goto(f"/books/W-{unit.number}/")
        expect(page.locator("tfoot")).to_contain_text("45.30")
        page.goto("/books/L-1/")
        expect(page.locator(".verdict")).to_contain_text("Realised margin so far −9.70")
        self.assertEqual(complaints(), [])
