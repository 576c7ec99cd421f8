"""A bench at night: the screen is dark and can be read, paper stays light."""

from playwright.sync_api import expect

from tests.browser.base import AXE, BrowserTest
from tests.stations.base import fill_shop

GROUND = "getComputedStyle(document.body).backgroundColor"
PAPER, NIGHT = "rgb(250, 248, 243)", "rgb(23, 29, 32)"
CONTRAST = """axe.run({runOnly: ["color-contrast"]})
    .then(({violations}) => violations.flatMap(({nodes}) => nodes.map(({html}) => html)))"""


class AtNight(BrowserTest):
    def setUp(self):
        super().setUp()
        fill_shop(self)
        self.sign_in("tom", "tom-sesame")

    def choose(self, label: str) -> None:
        self.page.goto("/people/me/")
        self.page.get_by_role("button", name=label).click()
        expect(self.page.locator("[aria-current=true]", has_text=label)).to_have_count(1)

    def test_the_screen_is_dark_and_paper_is_not(self):
        page = self.page
        unit = self.assessed()
        self.hand(self.technician).find(unit, "front", "crack", 2, "by the vents")
        self.assertEqual(page.evaluate(GROUND), PAPER)
        self.choose("Dark")
        for path in ("/", f"/W-{unit.number}/", f"/bench/W-{unit.number}/", f"/workshop/W-{unit.number}/"):
            page.goto(path)
            self.assertEqual(page.evaluate(GROUND), NIGHT)
            page.evaluate(AXE)
            self.assertEqual(page.evaluate(CONTRAST), [], path)
        page.emulate_media(media="print")
        ink = page.evaluate("getComputedStyle(document.body).color")
        self.assertEqual(ink, "rgb(30, 39, 44)")

    def test_as_the_device_is_set(self):
        page = self.page
        self.choose("As the device")
        for scheme, ground in (("light", PAPER), ("dark", NIGHT)):
            page.emulate_media(color_scheme=scheme)
            self.assertEqual(page.evaluate(GROUND), ground)
        self.choose("Light")
        self.assertEqual(page.evaluate(GROUND), PAPER)
