"""A save that fails is said, keeps what was typed, and arrives once when it can."""

from collections.abc import Callable
from datetime import timedelta
from decimal import Decimal

from django.contrib.sessions.models import Session
from django.utils import timezone
from playwright.sync_api import Route, expect

from stations.buying import services as buying
from stations.selling import placing
from stations.stock import orders
from stations.stock.models import KnownGood
from stations.stock.orders import Ordered, Terms
from stations.stock.services import Sort
from tests.browser.base import PHONE, BrowserTest
from tests.hands import Hand
from tests.stations.base import fill_shop, lot_data

SHELF = "/bench/known-good/"
FAILURES = (
    "Failed to load resource",
    "ERR_",
    "htmx:sendError",
    "htmx:afterRequest",
    "htmx:responseError",
    "Response Status Error",
)


class Saving(BrowserTest):
    wanted_complaints = FAILURES

    def setUp(self):
        super().setUp()
        fill_shop(self)
        self.sign_in("olga", "olga-sesame")
        self.page.goto(SHELF)
        self.page.get_by_label("Name").fill("Green screen")
        self.page.get_by_label("Place").fill("shelf K")
        self.page.get_by_label("Stands in for").select_option(index=1)

    def press(self):
        self.page.locator("form:has([name=stands_in]) button").last.click()

    def answer_with(self, status: int | None, times: int):
        """The next `times` posts get no connection (None) or an answer of `status`."""
        left = [times]

        def answer(route: Route):
            if route.request.method != "POST" or not left[0]:
                route.continue_()
                return
            left[0] -= 1
            if status is None:
                route.abort("internetdisconnected")
            else:
                route.fulfill(status=status, body="")

        self.page.route("**" + SHELF, answer)

    def expect_said(self, words: str):
        expect(self.page.locator("#saving")).to_contain_text(words)
        expect(self.page.locator("[data-unsaved]")).to_contain_text("Not saved yet")
        expect(self.page.get_by_label("Name")).to_have_value("Green screen")
        self.assertEqual(KnownGood.objects.count(), 0)

    def expect_kept(self):
        expect(self.page.get_by_text("Green screen")).to_be_visible()
        self.assertEqual(KnownGood.objects.get().place, "shelf K")

    def test_without_a_connection_it_is_said_and_sent_again_by_itself(self):
        self.answer_with(None, 1)
        self.press()
        self.expect_said("no connection")
        self.expect_kept()

    def test_a_broken_server_too_and_at_once_when_one_asks(self):
        self.answer_with(502, 3)
        self.press()
        self.expect_said("502")
        for _ in range(3):
            self.page.get_by_role("button", name="Send now").click()
        self.expect_kept()

    def test_what_is_refused_is_not_tried_by_itself(self):
        self.answer_with(413, 1)
        self.press()
        self.expect_said("too large")
        expect(self.page.get_by_role("button", name="Send now")).to_have_count(0)
        self.page.get_by_role("button", name="Send again").click()
        self.expect_kept()

    def test_an_answer_that_was_lost_does_it_once(self):
        lost = []

        def answer(route: Route):
            if route.request.method == "POST" and not lost:
                lost.append(route.fetch(max_redirects=0).status)
                route.abort("connectionreset")
            else:
                route.continue_()

        self.page.route("**" + SHELF, answer)
        self.press()
        expect(self.page.locator("#saving")).to_contain_text("no connection")
        self.page.get_by_role("button", name="Send now").click()
        self.expect_kept()
        self.assertEqual(lost, [204])

    def test_signed_out_meanwhile_one_comes_back_to_what_was_typed(self):
        Session.objects.all().delete()
        self.press()
        self.page.get_by_label("Username").fill("olga")
        self.page.get_by_label("Password").fill("olga-sesame")
        self.page.get_by_role("button", name="Sign in").click()
        self.expect_said("You had been signed out")
        self.press()
        self.expect_kept()

    def test_somebody_else_who_signs_in_there_sees_nothing_of_it(self):
        Session.objects.all().delete()
        self.press()
        self.page.get_by_label("Username").fill("tom")
        self.page.get_by_label("Password").fill("tom-sesame")
        self.page.get_by_role("button", name="Sign in").click()
        expect(self.page.get_by_label("Name")).to_have_value("")
        self.assertIsNone(self.page.evaluate("sessionStorage.getItem('typed and not saved')"))

    def test_a_token_that_grew_old_is_renewed_in_silence(self):
        self.page.context.clear_cookies(name="csrftoken")
        self.press()
        self.expect_kept()

    def test_a_slow_answer_shows_that_it_goes_on(self):
        def answer(route: Route):
            if route.request.method == "POST":
                self.page.wait_for_timeout(1200)
            route.continue_()

        self.page.route("**" + SHELF, answer)
        self.press()
        self.expect_kept()

    def test_a_mistake_is_shown_at_its_field_as_ever(self):
        self.page.get_by_label("Name").fill("")
        self.press()
        expect(self.page.locator(".is-wrong")).to_have_count(1)
        expect(self.page.get_by_label("Place")).to_have_value("shelf K")
        self.page.get_by_label("Name").fill("Green screen")
        self.press()
        self.expect_kept()


class SavingByItself(BrowserTest):
    """The sheet of a unit saves each field as it is left."""

    wanted_complaints = FAILURES

    def setUp(self):
        super().setUp()
        fill_shop(self)

    def test_a_field_that_could_not_be_saved_says_so_and_is_sent_again(self):
        (unit,) = self.receive()
        self.sign_in("olga", "olga-sesame")
        self.page.goto(f"/intake/W-{unit.number}/")
        left = [1]

        def answer(route: Route):
            if route.request.method == "POST" and left[0]:
                left[0] -= 1
                route.abort("internetdisconnected")
            else:
                route.continue_()

        self.page.route("**/identify/", answer)
        self.page.get_by_label("Serial").fill("HM7")
        self.page.get_by_label("Serial").press("Tab")
        expect(self.page.locator("#waiting")).to_contain_text("no connection")
        expect(self.page.locator("#form .field__kept")).to_contain_text("Kept on this device")
        expect(self.page.locator("#waiting")).to_be_hidden()
        expect(self.page.get_by_label("Serial")).to_have_value("HM7")
        self.assertEqual(type(unit).objects.get(pk=unit.pk).serial, "HM7")

    def test_two_parts_of_the_sheet_that_failed_both_arrive(self):
        (unit,) = self.receive()
        self.sign_in("olga", "olga-sesame")
        self.page.goto(f"/intake/W-{unit.number}/")
        self.page.context.set_offline(True)
        self.page.get_by_label("Serial").fill("HM7")
        self.page.get_by_label("Serial").press("Tab")
        keyboard = unit.contents.get(name="keyboard")
        self.page.locator(f"select[name=content-{keyboard.pk}]").select_option("present")
        expect(self.page.locator("#waiting")).to_contain_text("2 waiting to be sent")
        self.page.context.set_offline(False)
        expect(self.page.locator("#waiting")).to_be_hidden()
        self.assertEqual(self.again(keyboard).presence, "present")
        self.assertEqual(type(unit).objects.get(pk=unit.pk).serial, "HM7")

    def test_signed_out_while_two_parts_wait_both_come_back(self):
        (unit,) = self.receive()
        self.sign_in("olga", "olga-sesame")
        self.page.goto(f"/intake/W-{unit.number}/")
        self.page.context.set_offline(True)
        self.page.get_by_label("Serial").fill("HM7")
        self.page.get_by_label("Serial").press("Tab")
        self.page.locator("summary", has_text="Ours").click()
        self.page.get_by_label("What was agreed").fill("sold within a year")
        self.page.get_by_label("What was agreed").press("Tab")
        expect(self.page.locator("#waiting")).to_contain_text("2 waiting to be sent")
        Session.objects.all().delete()
        self.page.context.set_offline(False)
        self.page.locator("#waiting").get_by_role("link", name="Sign in").click()
        self.page.wait_for_url("**/people/sign-in/**")
        self.page.get_by_label("Username").fill("olga")
        self.page.get_by_label("Password").fill("olga-sesame")
        self.page.get_by_role("button", name="Sign in").click()
        expect(self.page.get_by_label("Serial")).to_have_value("HM7")
        expect(self.page.get_by_label("What was agreed")).to_have_value("sold within a year")

    def test_signed_out_meanwhile_no_sign_in_page_stands_in_a_panel(self):
        (unit,) = self.receive()
        self.sign_in("olga", "olga-sesame")
        self.page.goto(f"/intake/W-{unit.number}/")
        Session.objects.all().delete()
        self.page.get_by_label("Serial").fill("HM7")
        self.page.get_by_label("Serial").press("Tab")
        self.page.wait_for_url("**/people/sign-in/**")
        self.page.get_by_label("Username").fill("olga")
        self.page.get_by_label("Password").fill("olga-sesame")
        self.page.get_by_role("button", name="Sign in").click()
        expect(self.page.get_by_label("Serial")).to_have_value("HM7")
        expect(self.page.locator("#saving")).to_contain_text("not saved yet")


class TypedMeanwhile(BrowserTest):
    """What one types on a page that a save replaces stands on the page that takes its place."""

    wanted_complaints = FAILURES

    def setUp(self):
        super().setUp()
        fill_shop(self)
        self.lamp = KnownGood.objects.create(name="Lamp", stands_in="a screen")
        self.sign_in("olga", "olga-sesame")
        self.page.goto(SHELF)
        self.name, self.place = self.page.get_by_label("Name"), self.page.get_by_label("Place")
        self.new = self.page.locator("form:has([name=stands_in])")
        self.page.get_by_label("Stands in for").select_option(index=1)

    def while_it_is_saved(self, act: Callable[[], None]) -> None:
        """The next post is answered only when `act` is done."""

        def answer(route: Route):
            if route.request.method == "POST":
                act()
            route.continue_()

        self.page.route("**" + SHELF + "**", answer)

    def test_typed_on_into_what_is_refused(self):
        self.place.fill("shelf K")
        self.while_it_is_saved(lambda: (self.place.press("End"), self.place.press("3")))
        self.new.get_by_role("button").click()
        expect(self.page.locator(".is-wrong")).to_have_count(1)
        expect(self.place).to_have_value("shelf K3")
        self.page.keyboard.type("4")
        expect(self.place).to_have_value("shelf K34")
        expect(self.page.locator("[data-unsaved]")).to_have_count(0)

    def test_typed_elsewhere_while_something_is_refused(self):
        def say_what_is_wrong():
            self.page.get_by_text("found bad").click()
            self.page.get_by_label("What is wrong with it").fill("it flickers")

        self.while_it_is_saved(say_what_is_wrong)
        self.new.get_by_role("button").click()
        expect(self.page.locator(".is-wrong")).to_have_count(1)
        expect(self.page.get_by_label("What is wrong with it")).to_be_visible()
        expect(self.page.get_by_label("What is wrong with it")).to_have_value("it flickers")
        expect(self.page.locator("form:has([name=words]) [data-unsaved]")).to_contain_text("Not saved yet")

    def test_half_typed_while_something_else_is_saved(self):
        self.name.fill("Green screen")
        self.new.get_by_label("Kind").select_option("machine")
        self.page.get_by_role("button", name="Lamp was shown to be good today").click()
        expect(self.new.locator("[data-unsaved]")).to_contain_text("Not saved yet")
        expect(self.name).to_have_value("Green screen")
        expect(self.new.get_by_label("Kind")).to_have_value("machine")
        self.new.get_by_role("button").click()
        expect(self.page.locator("td", has_text="Green screen")).to_be_visible()
        self.assertEqual(KnownGood.objects.get(name="Green screen").kind, "machine")
        expect(self.name).to_have_value("")

    def test_typed_until_the_next_page_is_there(self):
        def answer(route: Route):
            if route.request.method == "GET":
                self.page.keyboard.type("shelf K")
            route.continue_()

        self.page.route("**" + SHELF, answer)
        self.place.focus()
        self.page.evaluate("document.querySelector('form[action$=\"/verify/\"]').requestSubmit()")
        expect(self.new.locator("[data-unsaved]")).to_contain_text("Not saved yet")
        expect(self.place).to_have_value("shelf K")
        expect(self.place).to_be_focused()

    def test_half_typed_while_one_is_signed_out(self):
        self.page.get_by_text("found bad").click()
        self.page.get_by_label("What is wrong with it").fill("it flickers")
        self.name.fill("Green screen")
        Session.objects.all().delete()
        self.new.get_by_role("button").click()
        self.page.get_by_label("Username").fill("olga")
        self.page.get_by_label("Password").fill("olga-sesame")
        self.page.get_by_role("button", name="Sign in").click()
        expect(self.name).to_have_value("Green screen")
        expect(self.page.get_by_label("What is wrong with it")).to_have_value("it flickers")

    def test_what_follows_what_is_saved_is_not_put_into_the_next(self):
        self.name.fill("Green screen")
        self.while_it_is_saved(lambda: self.name.press_sequentially("!"))
        self.new.get_by_role("button").click()
        expect(self.page.locator("td", has_text="Green screen")).to_be_visible()
        expect(self.name).to_have_value("")

    def test_what_somebody_else_wrote_meanwhile_is_not_covered(self):
        order = orders.order_parts(self.owner, "Dockside Parts", Terms(), [Ordered(Sort("Belt"), "2", Decimal(3))])
        self.page.goto(f"/workshop/orders/O-{order.number}/")
        self.page.get_by_text("When it comes, and what it costs beside").click()
        self.page.get_by_label("Postage").fill("7")
        self.page.get_by_label("Note").fill("ask about the second")
        orders.change_terms(self.owner, order, order.version, Terms(currency="EUR", postage=Decimal("4.50")))
        self.page.get_by_role("button", name="Not ordered: Belt").click()
        expect(self.page.get_by_label("Note")).to_have_value("ask about the second")
        expect(self.page.get_by_label("Postage")).to_have_value("4.50")


class SeenAtOnce(BrowserTest):
    """Why something was not done is in sight, wherever on a long page its button was."""

    def setUp(self):
        super().setUp()
        fill_shop(self)
        self.page.set_viewport_size(PHONE)
        self.sign_in("olga", "olga-sesame")

    def test_of_a_form(self):
        self.page.goto(f"/buying/L-{self.lot.number}/correct/")
        said = lot_data(freight=Decimal("30.50"))
        buying.correct_lot(self.owner, self.lot, self.lot.version, said, None)
        self.page.get_by_role("button", name="Save the correction").click()
        expect(self.page.get_by_text("Somebody else saved this")).to_be_in_viewport()
        expect(self.page.locator(".stale")).to_contain_text("30.50")

    def test_nobody_is_taken_away_from_what_they_type(self):
        self.page.goto(f"/buying/L-{self.lot.number}/correct/")
        buying.correct_lot(self.owner, self.lot, self.lot.version, lot_data(freight=Decimal("30.50")), None)
        price = self.page.locator("[name=charges-0-how_much]")

        def type_on(route: Route):
            if route.request.method == "POST":
                price.press("End")
                price.press("9")
            route.continue_()

        self.page.route("**/correct/", type_on)
        self.page.get_by_role("button", name="Save the correction").click()
        expect(self.page.get_by_text("Somebody else saved this")).to_have_count(1)
        expect(price).to_have_value("100.009")
        self.page.wait_for_function("document.readyState === 'complete'")
        # What would take it out of sight waits for the page to be there.
        self.page.wait_for_timeout(300)
        expect(price).to_be_focused()
        expect(price).to_be_in_viewport()

    def test_what_is_typed_stays_in_sight_when_the_looks_of_the_page_come_late(self):
        self.page.goto(f"/buying/L-{self.lot.number}/correct/")
        buying.correct_lot(self.owner, self.lot, self.lot.version, lot_data(freight=Decimal("30.50")), None)
        price = self.page.locator("[name=charges-0-how_much]")

        def type_on(route: Route):
            if route.request.method == "POST":
                price.press("9")
            route.continue_()

        def late(route: Route):
            self.page.wait_for_timeout(300)
            all_moves = "html { overflow-anchor: none } main { padding-top: 3000px }"
            route.fulfill(body=all_moves, content_type="text/css")

        self.page.route("**/correct/", type_on)
        self.page.route("**/pieces.css", late)
        self.page.get_by_role("button", name="Save the correction").click()
        expect(self.page.get_by_text("Somebody else saved this")).to_have_count(1)
        expect(price).to_be_focused()
        expect(price).to_be_in_viewport()

    def test_of_a_press(self):
        unit = self.listed()
        (there,) = unit.placements.all()
        self.page.goto(f"/selling/W-{unit.number}/")
        placing.take_off(self.owner, there)
        self.page.get_by_role("button", name="Take it off").click()
        expect(self.page.get_by_text("It was taken off there already")).to_be_in_viewport()
        self.assertIn("#places", self.page.url)


class AskedInPassing(BrowserTest):
    """What is asked of the server while one types, and not answered, never stands as the answer."""

    wanted_complaints = FAILURES

    def setUp(self):
        super().setUp()
        fill_shop(self)
        self.sign_in("olga", "olga-sesame")

    def test_without_an_answer_that_is_said_in_its_place_and_it_is_asked_again(self):
        page, failing = self.page, [1]

        def answer(route: Route):
            if failing:
                failing.pop()
                route.abort("connectionreset")
            else:
                route.continue_()

        page.goto("/bench/sums/")
        sum_ = page.locator("form", has_text="How long until it is discharged")
        for label, value in (("Capacitor", "470 µF"), ("Stands at", "325 V"), ("Through", "100 kΩ")):
            sum_.get_by_label(label).fill(value)
        expect(sum_).to_contain_text("80 s until")
        page.route("**/sums/discharge/**", answer)
        sum_.get_by_label("Capacitor").fill("4700 µF")
        expect(sum_).to_contain_text("Not answered: no connection. This is from before.")
        expect(sum_).to_contain_text("14 min until")  # by itself
        expect(sum_).not_to_contain_text("Not answered")

    def test_signed_out_a_reading_is_not_judged_and_not_lost(self):
        unit = Hand(self.owner, timezone.now() - timedelta(days=2)).assess(self.receive()[0])
        self.hand(self.owner).test(unit, stop_at="safe-linear")
        page = self.page
        page.goto(f"/bench/W-{unit.number}/")
        page.locator("#reading").fill("99")
        expect(page.locator("#band")).to_contain_text("Outside limits")
        Session.objects.all().delete()
        page.locator("#reading").fill("0.4")
        expect(page.locator("#band")).to_contain_text("you have been signed out")
        page.locator("#band").get_by_role("button", name="Sign in").click()
        page.get_by_label("Username").fill("olga")
        page.get_by_label("Password").fill("olga-sesame")
        page.get_by_role("button", name="Sign in").click()
        expect(page.locator("#reading")).to_have_value("0.4")
        expect(page.locator("#band")).to_contain_text("Inside limits")
