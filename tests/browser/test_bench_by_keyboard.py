"""A technician's test run with no mouse at all."""

from datetime import timedelta

from django.utils import timezone
from playwright.sync_api import expect

from demo.days import Hand
from stations.bench.models import StepResult
from stations.intake.models import Unit
from tests.browser.base import BrowserTest
from tests.stations.base import ShopTest, fill_shop


class ByKeyboardAlone(BrowserTest):
    def setUp(self):
        super().setUp()
        fill_shop(self)
        unit = ShopTest.receive(self)[0]
        self.unit = Hand(self.owner, timezone.now() - timedelta(days=2), "keys").assess(unit)

    def type(self, *keys: str) -> None:
        for key in keys:
            if len(key) == 1 or key in {"Enter", "Tab", "Escape"}:
                self.page.keyboard.press(key)
            else:
                self.page.keyboard.type(key)

    def on_step(self, title: str) -> None:
        expect(self.page.locator(".step-title")).to_have_text(title)

    def test_a_whole_plan(self):
        page = self.page
        page.goto("/people/sign-in/")
        page.locator("#id_username").focus()
        self.type("tom", "Tab", "tom-sesame", "Enter")
        page.wait_for_url(f"{self.live_server_url}/")
        self.type("/", str(self.unit.tag), "Enter")
        page.wait_for_url(f"**/W-{self.unit.number}/")
        self.type("1")  # its next step
        page.wait_for_url(f"**/bench/W-{self.unit.number}/")
        self.type("r")

        self.on_step("Look inside, unplugged")
        self.type("f")
        self.type("loose plug on the tube board", "Enter")
        self.on_step("Battery has not leaked")
        # What failed is run again, not edited.
        page.goto(f"/bench/W-{self.unit.number}/?step=look-case")
        self.type("p")
        self.on_step("Battery has not leaked")
        self.type("p")
        self.on_step("Discharge the picture tube")
        self.type("p")
        self.on_step("Mains lead, fuse and earth are sound")
        self.type("0.1", "Enter")
        self.on_step("+5 V rail to ground, cold")
        self.type("60", "Enter")
        self.on_step("+5 V under load, supply alone")
        self.type("5060", "Enter")
        expect(page.locator(".field__error")).to_contain_text("Did you read 5060 mV")
        page.locator("#reading").press("Control+a")
        self.type("5.24")
        expect(page.locator("#band")).to_contain_text("Too close to call")
        self.type("Enter")
        expect(page.locator(".field__error")).to_contain_text("Too close to call")
        page.locator("#reading").press("Control+a")
        self.type("5.06", "Enter")
        self.on_step("First power of the whole")
        self.type("p")
        self.on_step("+5 V at the board, running")
        self.type("5.04", "Enter")
        for title in ("Picture", "Tube: focus, size, burn-in", "Every key, once"):
            self.on_step(title)
            self.type("p")
        self.on_step("Drives read, write and read elsewhere")
        self.type("s", "no scrap disk at hand", "Enter")
        for title in ("Ports and sound", "Memory test, one full pass", "Clock keeps time unplugged"):
            self.on_step(title)
            self.type("p")
        self.on_step("Soak: four hours on, then a cold start")
        self.type("p")
        expect(page.get_by_text("Run 1").first).to_be_visible()

        self.assertEqual(Unit.objects.get().stage, "proven")
        outcomes = list(StepResult.objects.filter(code__in=["look-case", "fn-drives"]).values_list("outcome", "reason"))
        self.assertEqual(
            outcomes, [("fail", "loose plug on the tube board"), ("pass", ""), ("skip", "no scrap disk at hand")]
        )
