"""A page that is shown again tells how things are, not how they were; what was typed into it stays."""

from decimal import Decimal

from playwright.sync_api import expect

from stations.buying import services as buying
from stations.common import clock
from stations.selling.models import Comparable
from tests.browser.base import BrowserTest
from tests.stations.base import fill_shop, lot_data

SALES = "/selling/comparables/"
WAKES = """hidden => {
  Object.defineProperty(document, "hidden", { value: hidden, configurable: true });
  document.dispatchEvent(new Event("visibilitychange"));
}"""


class ShownAgain(BrowserTest):
    def setUp(self):
        super().setUp()
        fill_shop(self)
        self.sale("50")
        self.sign_in("olga", "olga-sesame")
        self.page.goto(SALES)
        self.drop = self.page.locator("form[action$='/drop/'] button")
        self.how_old = self.page.locator("#saving").filter(has_text="This page shows how it was at")

    def sale(self, price: str) -> None:
        Comparable.objects.create(model=self.model, sold_on=clock.today(), grade="B", price=Decimal(price))

    def on_the_wall(self) -> None:
        self.page.clock.install()
        self.page.goto("/intake/")
        expect(self.page.locator("[data-board]")).to_be_visible()

    def test_a_board_on_the_wall_comes_anew_by_itself(self):
        self.on_the_wall()
        (unit,) = self.receive()
        expect(self.page.get_by_text(str(unit.tag))).to_have_count(0)
        self.page.clock.fast_forward(121_000)
        expect(self.page.get_by_text(str(unit.tag)).first).to_be_visible()

    def test_a_board_that_somebody_reads_stands_still(self):
        self.on_the_wall()
        body = self.page.locator("body")
        body.evaluate("body => body.dataset.same = ''")
        self.page.clock.fast_forward(60_000)
        self.page.mouse.move(300, 300)
        self.page.mouse.move(310, 310)
        self.page.clock.fast_forward(61_000)
        self.page.wait_for_load_state("networkidle")
        expect(body).to_have_attribute("data-same", "")
        self.page.clock.fast_forward(120_000)
        expect(body).not_to_have_attribute("data-same", "")

    def test_a_board_that_gets_no_answer_says_how_old_it_is(self):
        self.on_the_wall()
        self.wanted_complaints = ("ERR_FAILED", "Failed to load resource")
        self.page.route("**/intake/", lambda route: route.abort())
        self.page.clock.fast_forward(121_000)
        expect(self.how_old).to_be_visible()

    def test_going_back_shows_what_came_meanwhile(self):
        expect(self.drop).to_have_count(1)
        self.page.goto("/workshop/")
        self.sale("60")
        self.page.go_back()
        expect(self.drop).to_have_count(2)
        expect(self.how_old).to_have_count(0)

    def test_what_was_typed_stands_on_the_page_that_comes_anew_once(self):
        price = self.page.get_by_label("Price")
        price.fill("77")
        self.page.goto("/workshop/")
        self.sale("60")
        self.page.go_back()
        expect(self.drop).to_have_count(2)
        expect(price).to_have_value("77")
        expect(self.page.locator("[data-unsaved]")).to_have_text("Not saved yet.")
        self.page.goto("/workshop/")
        self.page.goto(SALES)
        expect(price).to_have_value("")

    def test_what_was_saved_is_not_typed_again(self):
        price = self.page.get_by_label("Price")
        self.page.get_by_label("Model").select_option(index=1)
        self.page.locator("[name=sold_on]").fill(clock.today().isoformat())
        self.page.locator("[name=grade]").select_option("B")
        self.page.get_by_label("Where", exact=True).fill("Quay market")
        price.fill("77")
        self.page.get_by_role("button", name="Add it").click()
        expect(self.drop).to_have_count(2)
        self.page.go_back()
        expect(self.drop).to_have_count(2)
        expect(price).to_have_value("")

    def test_what_was_refused_is_not_lost_by_leaving_the_page_that_says_why(self):
        price = self.page.get_by_label("Price")
        price.fill("77")
        self.page.get_by_role("button", name="Add it").click()
        expect(self.page.locator(".is-wrong").first).to_be_visible()
        self.page.goto("/workshop/")
        self.page.go_back()
        expect(price).to_have_value("77")
        expect(self.page.locator("[data-unsaved]")).to_have_text("Not saved yet.")

    def test_what_somebody_else_wrote_there_stands_and_what_was_typed_is_told(self):
        self.page.goto(f"/buying/L-{self.lot.number}/correct/")
        note = self.page.get_by_label("Note", exact=True)
        note.fill("mine")
        self.page.goto("/workshop/")
        buying.correct_lot(self.owner, self.lot, self.lot.version, lot_data(note="theirs"), None)
        self.page.go_back()
        expect(note).to_have_value("theirs")
        expect(self.page.locator("[data-unsaved]")).to_contain_text("you had typed: mine")

    def test_nobody_sees_by_going_back_what_somebody_saw_who_has_signed_out(self):
        self.page.goto("/people/me/")
        self.page.get_by_role("button", name="Sign out").click()
        self.page.wait_for_url("**/people/sign-in/**")
        self.page.go_back()
        expect(self.page.get_by_label("Password")).to_be_visible()

    def test_a_tablet_that_slept_long_says_from_when_its_page_is(self):
        self.page.evaluate(WAKES, True)
        self.page.evaluate(WAKES, False)
        expect(self.how_old).to_have_count(0)
        self.page.evaluate("() => { const right = Date.now; Date.now = () => right() + 11 * 60000 }")
        self.page.evaluate(WAKES, True)
        self.page.evaluate(WAKES, False)
        expect(self.how_old).to_be_visible()
        self.page.get_by_role("button", name="Leave it").click()
        expect(self.how_old).to_have_count(0)
