"""Where there is no connection: pages of units open, what is recorded waits on the device and is sent once."""

import time
from urllib.parse import urlsplit

from playwright.sync_api import Page, Route, expect

from stations.people.models import HistoryEntry
from tests.browser.base import PATIENCE, PHONE, BrowserTest
from tests.browser.test_saving import FAILURES
from tests.browser.wire import Wire
from tests.stations.base import fill_shop


class Away(BrowserTest):
    wanted_complaints = FAILURES
    keeps_pages = True

    def setUp(self):
        shop = urlsplit(self.live_server_url)
        self.wire = Wire(shop.hostname, shop.port)
        self.addCleanup(self.wire.close)
        super().setUp()
        fill_shop(self)
        self.unit, self.other = self.receive(2)
        self.sign_in("tom", "tom-sesame")
        self.page.evaluate("navigator.serviceWorker.ready.then(() => null)")
        self.intake = f"/intake/W-{self.unit.number}/"
        self.waiting = self.page.locator("#waiting")

    @property
    def address(self) -> str:
        return f"http://127.0.0.1:{self.wire.port}"

    def look_at(self, *pages: str) -> None:
        """With a connection; each is kept."""
        for page in pages:
            self.page.goto(page)
            self.wait_until(f"caches.match('{page}').then(Boolean)")
        self.wait_until("caches.match(document.getElementById('waiting').dataset.away).then(Boolean)")

    def wait_until(self, promised: str) -> None:
        """Until what a script answers later is so."""
        until = time.monotonic() + PATIENCE / 1000
        while not self.page.evaluate(promised):
            self.assertLess(time.monotonic(), until, promised)
            self.page.wait_for_timeout(50)

    def type_serial(self, serial: str) -> None:
        self.page.get_by_label("Serial", exact=True).fill(serial)
        self.page.keyboard.press("Tab")

    def find(self, words: str) -> None:
        if self.page.locator("#finding-more").get_attribute("open") is None:
            self.page.locator("#finding-more summary").click()
        self.page.locator("#finding-form").get_by_label("In words").fill(words)
        self.page.get_by_role("button", name="Add the finding").click()

    def send_now(self) -> None:
        """The button, unless it went by itself already."""
        self.page.evaluate("document.querySelector('#waiting button')?.click()")

    def sign_in_as(self, name: str, page: Page) -> None:
        self.sign_in(name, f"{name}-sesame", page)

    def test_pages_that_were_looked_at_open_as_they_were(self):
        sheet = f"/W-{self.unit.number}/"
        self.look_at(self.intake, sheet)
        self.wire.cut()
        self.page.goto(self.intake)
        expect(self.page.locator("#saving")).to_contain_text("No connection: this page shows how it was at")
        expect(self.page.get_by_label("Serial", exact=True)).to_be_visible()
        self.assertEqual(self.page.evaluate("getComputedStyle(document.querySelector('.bar')).display"), "grid")
        self.page.goto("/books/")
        expect(self.page.locator("#not-here")).to_be_visible()
        expect(self.page.locator("#kept-pages li")).to_have_count(2)
        self.page.locator("#kept-pages a").first.click()
        expect(self.page).to_have_url(self.address + sheet)
        self.page.locator("#scan").fill(str(self.unit.tag))
        self.page.locator("#scan").press("Enter")
        expect(self.page).to_have_url(self.address + sheet)
        self.page.locator("#scan").fill(str(self.other.tag))
        self.page.locator("#scan").press("Enter")
        expect(self.page.locator("#not-here")).to_be_visible()
        self.page.goto(sheet)
        self.wire.mend()
        self.page.get_by_role("button", name="Load it anew").click()
        expect(self.page.locator("#saving")).to_be_hidden()

    def test_what_is_recorded_waits_outlives_the_page_and_is_sent_once_in_its_order(self):
        self.look_at(self.intake)
        self.wire.cut()
        self.type_serial("HM-1")
        expect(self.waiting).to_contain_text("1 waiting to be sent")
        self.type_serial("HM-12")
        self.page.wait_for_timeout(600)  # as a person does, who first looks at the machine
        self.find("first crack")
        expect(self.waiting).to_contain_text("2 waiting to be sent")
        self.find("second crack")
        expect(self.waiting).to_contain_text("3 waiting to be sent")
        self.assertEqual(self.unit.findings.count(), 0)
        self.page.goto("about:blank")
        self.page.goto(self.intake)
        expect(self.page.get_by_label("Serial", exact=True)).to_have_value("HM-12")
        expect(self.page.locator("#form .field__kept")).to_contain_text("Kept on this device at")
        self.page.goto("/books/")
        expect(self.page.locator("#waiting-list")).to_contain_text("HM-12")
        expect(self.page.locator("#waiting-list li")).to_have_count(3)
        self.wire.mend()
        self.send_now()
        expect(self.page.get_by_role("heading", name="Books")).to_be_visible()  # what was kept gave way to it
        self.page.goto(self.intake)
        expect(self.page.get_by_label("Serial", exact=True)).to_have_value("HM-12")
        self.assertEqual(self.again(self.unit).serial, "HM-12")
        self.assertEqual([*self.unit.findings.values_list("words", flat=True)], ["first crack", "second crack"])
        told = HistoryEntry.objects.filter(subject="unit", subject_id=self.unit.pk).order_by("pk")
        self.assertEqual(
            [*told.values_list("action", flat=True)][-3:],
            ["intake.identify", "units.add_finding", "units.add_finding"],
        )

    def test_the_page_that_stood_open_goes_on_by_itself(self):
        self.look_at(self.intake)
        self.wire.cut()
        self.find("a crack")
        expect(self.waiting).to_contain_text("1 waiting to be sent")
        self.page.get_by_label("Came with it, not expected").fill("lead")
        self.wire.mend()
        expect(self.page.locator("#finding")).to_contain_text("a crack")
        expect(self.waiting).to_be_hidden()
        expect(self.page.get_by_label("Came with it, not expected")).to_have_value("lead")

    def test_what_the_shop_does_not_take_is_shown_and_put_right(self):
        self.look_at(self.intake)
        self.wire.cut()
        self.type_serial("HM-1")
        expect(self.waiting).to_contain_text("1 waiting to be sent")
        self.identify(self.again(self.unit), serial="HM-9")
        self.page.goto("/books/")
        self.wire.mend()
        self.send_now()
        expect(self.waiting).to_contain_text("1 not taken: look at it")
        self.page.goto("/away/")
        expect(self.page.locator("#waiting-list")).to_contain_text("Not taken: ")
        self.page.get_by_role("link", name="Open its page and put it right").click()
        expect(self.page.get_by_label("Serial", exact=True)).to_have_value("HM-1")
        expect(self.page.locator("#form [data-unsaved]")).to_contain_text("What stands there: Serial: HM-9")
        self.assertEqual(self.again(self.unit).serial, "HM-9")
        self.page.get_by_role("button", name="Save what it is").click()
        expect(self.waiting).to_be_hidden()
        self.assertEqual(self.again(self.unit).serial, "HM-1")

    def test_it_is_sent_by_nobody_else_and_pages_go_with_who_looked_at_them(self):
        self.look_at(self.intake)
        self.wire.cut()
        self.find("a crack")
        expect(self.waiting).to_contain_text("1 waiting to be sent")
        self.page.goto("/away/")
        self.page.context.clear_cookies()
        self.wire.mend()
        self.page.goto("/people/sign-in/")
        self.wait_until("caches.has('pages').then((is) => !is)")
        self.sign_in_as("olga", self.page)
        self.page.goto(self.intake)
        expect(self.page.locator("#waiting")).to_be_hidden()
        self.assertEqual(self.unit.findings.count(), 0)
        self.page.context.clear_cookies()
        self.sign_in_as("tom", self.page)
        self.wait_until("window.away.all().then((all) => !all.length)")
        self.page.goto(self.intake)
        expect(self.page.locator("#finding")).to_contain_text("a crack")
        self.assertEqual(HistoryEntry.objects.latest("pk").who, self.technician)

    def test_a_window_of_who_was_here_before_sends_nothing_in_another_name(self):
        self.look_at(self.intake)
        self.wire.cut()
        self.find("a crack")
        expect(self.waiting).to_contain_text("1 waiting to be sent")
        self.page.route("**/findings/", lambda route: route.abort())  # until somebody else is signed in
        self.wire.mend()
        self.page.context.clear_cookies()
        second = self.page.context.new_page()
        self.sign_in_as("olga", second)
        self.page.unroute_all()
        self.send_now()
        expect(self.waiting).to_contain_text("sign in first")
        self.assertEqual(self.unit.findings.count(), 0)
        second.close()

    def test_what_breaks_the_shop_does_not_hold_up_the_rest(self):
        self.look_at(self.intake)
        self.wire.cut()
        self.find("breaks it")
        expect(self.waiting).to_contain_text("1 waiting to be sent")
        self.find("a crack")
        expect(self.waiting).to_contain_text("2 waiting to be sent")
        breaks = iter([True])

        def answer(route: Route) -> None:
            if next(breaks, False):
                route.fulfill(status=500, body="")
            else:
                route.continue_()

        self.page.route("**/findings/", answer)
        self.wire.mend()
        self.send_now()
        expect(self.waiting).to_contain_text("1 not taken: look at it")
        self.assertEqual([*self.unit.findings.values_list("words", flat=True)], ["a crack"])

    def test_signed_out_meanwhile_it_waits_until_one_is_back(self):
        self.look_at(self.intake)
        self.wire.cut()
        self.find("a crack")
        expect(self.waiting).to_contain_text("1 waiting to be sent")
        self.page.context.clear_cookies(name="sessionid")
        self.wire.mend()
        self.page.get_by_role("link", name="Sign in").click()
        self.page.get_by_label("Username").fill("tom")
        self.page.get_by_label("Password").fill("tom-sesame")
        self.page.get_by_role("button", name="Sign in").click()
        expect(self.page.locator("#finding")).to_contain_text("a crack")
        self.assertEqual(self.unit.findings.count(), 1)

    def test_on_a_phone_a_picture_waits_and_what_is_thrown_away_is_not_sent(self):
        self.page.set_viewport_size(PHONE)
        self.look_at(self.intake)
        self.wire.cut()
        self.find("a mistake")
        self.page.locator("#photos-in").set_input_files("static/img/mark-192.png")
        self.page.get_by_role("button", name="Add photos").click()
        expect(self.waiting).to_contain_text("2 waiting to be sent")
        self.page.goto("/away/")
        row = self.page.locator("#waiting-list li").first
        expect(row).to_contain_text("a mistake")
        self.assertLessEqual(self.page.evaluate("document.documentElement.scrollWidth"), PHONE["width"])
        row.locator("summary").click()
        row.get_by_role("button", name="Throw it away for good").click()
        expect(self.page.locator("#waiting-list li")).to_have_count(1)
        self.wire.mend()
        self.send_now()
        expect(self.waiting).to_be_hidden()
        self.assertEqual((self.unit.findings.count(), self.unit.photos.count()), (0, 1))

    def test_two_windows_send_it_once(self):
        """Whichever does, the page on which it was recorded shows it."""
        for times, words in enumerate(("a crack", "a dent"), 1):
            self.look_at(self.intake)
            self.wire.cut()
            self.find(words)
            expect(self.waiting).to_contain_text("1 waiting to be sent")
            second = self.page.context.new_page()
            second.goto(f"/W-{self.other.number}/")
            self.wire.mend()
            for page in (self.page, second)[:: 1 if times == 1 else -1]:
                page.evaluate("window.away.sendNow()")
            expect(self.page.locator("#finding")).to_contain_text(words)
            self.assertEqual(self.unit.findings.count(), times)
            second.close()
