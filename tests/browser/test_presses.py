"""What is pressed is done once, and by a person: by no held key, second half of a double click, or scanner."""

from datetime import UTC, datetime, timedelta

from django.urls import reverse
from django.utils import timezone
from playwright.sync_api import Locator, Route, expect

from stations.bench.models import StepResult
from stations.units.models import Unit
from tests.browser.base import BrowserTest
from tests.hands import Hand
from tests.stations.base import fill_shop


class PressedOnce(BrowserTest):
    def setUp(self):
        super().setUp()
        fill_shop(self)
        self.unit = Hand(self.owner, timezone.now() - timedelta(days=2)).assess(self.receive()[0])
        self.page.clock.install()
        self.sign_in("tom", "tom-sesame")

    def come(self, address: str) -> None:
        self.page.goto(address)
        self.page.evaluate("document.activeElement.blur()")

    def come_to_the_bench(self) -> None:
        """At a check that is passed without a reading, with nothing in hand to type into."""
        self.hand(self.technician).test(self.unit, stop_at="fn-picture")
        self.come(f"/bench/W-{self.unit.number}/")
        expect(self.page.locator(".step-title")).to_be_visible()

    def at(self, button: Locator, clicks: int) -> None:
        """Pressed as the browser tells of the first half of a double click, or the second."""
        box = button.bounding_box()
        self.page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
        self.page.mouse.down(click_count=clicks)
        self.page.mouse.up(click_count=clicks)

    def scan(self, code: str, closes: str = "Enter") -> None:
        """All in one moment of the page, however slow the machine is that the test runs on."""
        shown = datetime.fromtimestamp(self.page.evaluate("Date.now()") / 1000, UTC)
        self.page.clock.pause_at(shown + timedelta(seconds=1))
        self.page.keyboard.type(code)
        if closes:
            self.page.keyboard.press(closes)
        self.page.clock.resume()

    def passed(self) -> int:
        return StepResult.objects.filter(run__unit=self.unit).count()

    def test_a_double_click_that_ends_on_the_next_page_counts_once(self):
        self.come_to_the_bench()
        title = self.page.locator(".step-title").text_content()
        before = self.passed()
        self.at(self.page.locator("[data-key=p]"), 1)
        expect(self.page.locator(".step-title")).not_to_have_text(title)
        self.at(self.page.locator("[data-key=p]"), 2)
        expect(self.page.locator("#saving")).to_contain_text("Pressed twice, taken once.")
        self.settled()
        self.assertEqual(self.passed(), before + 1)

    def test_pressed_once_more_it_counts(self):
        self.come_to_the_bench()
        before = self.passed()
        for clicks in (1, 1, 2):
            title = self.page.locator(".step-title").text_content()
            self.at(self.page.locator("[data-key=p]"), clicks)
            if clicks == 1:
                expect(self.page.locator(".step-title")).not_to_have_text(title)
        self.settled()
        self.assertEqual(self.passed(), before + 2)

    def test_a_key_that_is_held_down_counts_once(self):
        self.come_to_the_bench()
        title = self.page.locator(".step-title").text_content()
        before = self.passed()
        self.page.keyboard.down("p")
        expect(self.page.locator(".step-title")).not_to_have_text(title)
        for _ in range(5):
            self.page.keyboard.down("p")  # as a keyboard goes on telling of it
            self.page.wait_for_timeout(30)
        self.page.keyboard.up("p")
        self.settled()
        self.assertEqual(self.passed(), before + 1)

    def test_enter_held_in_a_reading_sends_it_once(self):
        self.hand(self.technician).test(self.unit, stop_at="safe-linear")
        self.page.goto(f"/bench/W-{self.unit.number}/")
        before = self.passed()
        self.page.locator("#reading").fill("3")
        self.page.keyboard.down("Enter")
        expect(self.page.locator(".step-title")).not_to_have_text("Discharge the linear PSU")
        self.page.locator("#reading").focus()
        self.page.keyboard.down("Enter")
        self.page.keyboard.up("Enter")
        self.settled()
        self.assertEqual(self.passed(), before + 1)
        expect(self.page.locator(".is-wrong")).to_have_count(0)

    def test_a_scanner_opens_what_it_scans_and_presses_nothing(self):
        self.come_to_the_bench()
        before = self.passed()
        other = self.receive()[0]
        # Passes, fails, starts a clock, stops: were its letters keys.
        for code, closes in ((f"{other.tag}", "Enter"), (f"{other.tag}", ""), ("PFSO-1", "Enter"), ("pp", "Tab")):
            with self.subTest(code=code, closes=closes):
                self.come(f"/bench/W-{self.unit.number}/")
                self.page.locator("[data-key=p]").focus()
                self.scan(code, closes)
                self.page.wait_for_url(f"**/W-{other.number}/" if "W-" in code else "**/find/?q=*")
        self.assertEqual(self.passed(), before)

    def test_a_scanner_with_nothing_in_focus_puts_units_down(self):
        one, other = self.receive(2)
        self.come(reverse("units:put-down") + "?place=B1")
        for unit in (one, other):
            self.page.evaluate("document.activeElement.blur()")
            self.scan(str(unit.tag))
            expect(self.page.locator("main")).to_contain_text(str(unit.tag))
            self.settled()
        self.assertEqual(Unit.objects.filter(place="B1").count(), 2)

    def scanned_while_one_is_saved(self, first: str, *others: str, in_focus: bool = False) -> None:
        """On the page on which units are put down: the answer to the first comes after all have been scanned."""
        held = []

        def answer(route: Route) -> None:
            if held:
                route.continue_()
            else:
                held.append(route)

        self.come(reverse("units:put-down") + "?place=B1")
        self.page.route("**/places/put/", answer)
        if in_focus:
            self.page.locator("#put-tag").focus()
        for code in (first, *others):
            self.scan(code)
        held[0].continue_()

    def test_labels_scanned_faster_than_they_are_saved_are_all_put_down(self):
        units = [self.unit, *self.receive(2)]
        for in_focus in (False, True):
            Unit.objects.update(place="")
            with self.subTest(in_focus=in_focus):
                self.scanned_while_one_is_saved(*(str(unit.tag) for unit in units), in_focus=in_focus)
                self.all_put_down(units)

    def all_put_down(self, units: list[Unit]) -> None:
        for unit in units:
            expect(self.page.locator("main table.units")).to_contain_text(str(unit.tag))
        self.settled()
        self.assertEqual(Unit.objects.filter(place="B1").count(), len(units))
        self.assertIsNone(self.page.evaluate("sessionStorage.getItem('scanned meanwhile')"))

    def test_one_that_gets_no_answer_is_sent_again_before_the_next(self):
        self.wanted_complaints = ("Failed to load resource",)
        units = self.receive(2)
        self.come(reverse("units:put-down") + "?place=B1")
        self.page.route("**/places/put/", lambda route: route.abort(), times=1)
        self.scan(str(units[0].tag))
        expect(self.page.locator("#saving")).to_contain_text("Not saved yet")
        self.scan(str(units[1].tag))
        self.all_put_down(units)

    def test_what_was_scanned_after_one_that_was_refused_waits(self):
        one, other = self.receive(2)
        self.scanned_while_one_is_saved("W-9999", str(one.tag), str(other.tag))
        expect(self.page.locator("[data-refused]")).to_contain_text("W-9999")
        expect(self.page.locator("#saving")).to_contain_text(f"not saved yet: {one.tag}, {other.tag}.")
        self.assertFalse(Unit.objects.filter(place="B1").exists())
        self.page.get_by_role("button", name="Go on with them").click()
        self.all_put_down([one, other])

    def test_two_keys_one_after_the_other_are_two_keys(self):
        self.come("/keys/")
        self.scan("gw", closes="")
        self.page.wait_for_url("**/workshop/")
