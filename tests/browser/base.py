"""Headless Chromium on the real pages, served live from the test database."""

import atexit
import functools
import os
import shutil
import sys
from contextlib import suppress
from pathlib import Path

from django.contrib.staticfiles.testing import StaticLiveServerTestCase
from django.test.testcases import is_pickable
from playwright.sync_api import Browser, Error, Page, Playwright, expect, sync_playwright

from tests.stations.base import AtWork, LedgerEmptied

AXE = (Path(__file__).parent / "vendor" / "axe.min.js").read_text()
# Debian builds it from the same source as chromium, without the window that nobody looks at: half the work.
CHROMIUM = os.environ.get("WENDOPOLIS_CHROMIUM") or shutil.which("chromium-headless-shell") or shutil.which("chromium")
ARGUMENTS = [
    "--no-sandbox",
    "--disable-gpu",
    "--in-process-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]
# A busy machine may be slow; a page that never answers still fails.
PATIENCE = 20_000
expect.set_options(timeout=PATIENCE)
# ms from a person’s one key to the next, at the least
APART = 60
DESK, PHONE = {"width": 1280, "height": 800}, {"width": 390, "height": 844}


@functools.cache
def chromium() -> tuple[Playwright, Browser]:
    """One for all tests of this process; every page is opened in a context of its own, which shares nothing."""
    playwright = sync_playwright().start()
    atexit.register(playwright.stop)
    return playwright, playwright.chromium.launch(executable_path=CHROMIUM, args=ARGUMENTS)


class BrowserTest(AtWork, LedgerEmptied, StaticLiveServerTestCase):
    # What the browser may log in these tests, since they bring it about.
    wanted_complaints: tuple[str, ...] = ()

    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        cls.playwright, cls.browser = chromium()

    def setUp(self):
        self.page = self.open_page(DESK)

    @property
    def address(self) -> str:
        """Where the browser finds the shop."""
        return self.live_server_url

    def __getstate__(self):
        """For the process that reports a part that failed: no browser can go there, so each value is looked at also
        once the test has ended, which Django leaves out."""
        told = self.__dict__ | {"_outcome": None, "_subtest": None}
        return {name: value for name, value in told.items() if is_pickable(value)}

    # Whether pages are kept for when there is no connection.
    keeps_pages = False

    def open_page(self, size: dict, *, has_touch: bool = False) -> Page:
        """A fresh browser at this size. Whatever a script complains of fails the test."""
        context = self.browser.new_context(
            viewport=size,
            base_url=self.address,
            has_touch=has_touch,
            service_workers="allow" if self.keeps_pages else "block",
        )
        self.addCleanup(context.close)
        page = context.new_page()
        # A request that a test still holds up when it ends would fail the next one, which has the same browser.
        self.addCleanup(page.unroute_all, behavior="ignoreErrors")
        page.set_default_timeout(PATIENCE)
        self.complaints = []
        page.on("pageerror", lambda error: self.complaints.append(str(error)))
        page.on("console", self.note_complaint)
        return page

    def note_complaint(self, said) -> None:
        """What a browser logs as a mistake, and of which address."""
        if said.type == "error":
            self.complaints.append(f"{said.text} ({said.location.get('url', '')})")

    def tearDown(self):
        if not self._outcome.success:
            self.say_where_it_ended()
        # A form that is refused answers 422; the browser logs that, and it is what is wanted.
        wanted = ("422", *self.wanted_complaints)
        self.assertEqual([c for c in self.complaints if not any(words in c for words in wanted)], [])

    def say_where_it_ended(self) -> None:
        """What a page says tells why something did not come."""
        with suppress(Error):  # it may be gone
            told = self.page.locator("h1, .step-title, #saving, [data-refused], .field__error").all_inner_texts()
            print(f"{self.id()} ended at {self.page.url}: {told}", file=sys.stderr)

    def finger(self, key: str, page: Page | None = None) -> None:
        """A key as a person presses it: what follows comes later than from a scanner."""
        page = page or self.page
        page.keyboard.press(key)
        page.wait_for_timeout(APART)

    def settled(self) -> None:
        """Nothing is on its way any more, and the page that it led to is there."""
        expect(self.page.locator("[data-saving], .htmx-request, .htmx-swapping, .htmx-settling")).to_have_count(0)
        self.page.wait_for_load_state("load")

    def sign_in(self, name: str, password: str, page: Page | None = None) -> None:
        page = page or self.page
        page.goto("/people/sign-in/")
        page.keyboard.press("Tab")  # the way past the bar
        page.get_by_label("Username").fill(name)
        page.get_by_label("Password").fill(password)
        page.get_by_role("button", name="Sign in").click()
        page.wait_for_url(f"{self.address}/")
