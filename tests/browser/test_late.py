"""What a page fetches once it stands: it finds its room kept, and moves nothing from under a finger."""

from playwright.sync_api import expect

from tests.browser.base import BrowserTest
from tests.stations.base import fill_shop


class ComesLate(BrowserTest):
    def setUp(self):
        super().setUp()
        fill_shop(self)
        self.page.set_viewport_size({"width": 390, "height": 844})
        self.sign_in("olga", "olga-sesame")
        self.receive()
        self.held = []
        self.page.route("**/next/intake/", lambda route: self.held.append(route))

    def where(self) -> float:
        return self.page.get_by_role("heading", name="Still to receive").bounding_box()["y"]

    def opened(self) -> tuple[float, float]:
        """Where the first thing below it stands before it is there, and then."""
        self.page.goto("/intake/")
        before = self.where()
        while not self.held:
            self.page.wait_for_timeout(20)
        self.held.pop().continue_()
        expect(self.page.get_by_role("list", name="Next up here")).to_be_visible()
        self.settled()
        return before, self.where()

    def test_what_lies_below_stays_where_it_is_from_the_second_time_on(self):
        before, after = self.opened()
        self.assertGreater(after, before + 20)
        again, then = self.opened()
        self.assertAlmostEqual(again, after, delta=1)
        self.assertAlmostEqual(then, after, delta=1)

    def test_of_what_takes_less_by_now_a_little_stays_empty_and_much_is_closed_up(self):
        _, usual = self.opened()
        for more, stays in ((60, 60), (400, 0)):
            self.page.evaluate(
                """more => localStorage.setItem("room of what comes late", JSON.stringify(JSON.parse(
                  localStorage.getItem("room of what comes late")).map(([name, px]) => [name, px + more])))""",
                more,
            )
            before, after = self.opened()
            self.assertAlmostEqual(before, usual + more, delta=1)
            self.assertAlmostEqual(after, usual + stays, delta=1)
