"""What a page is like when it is printed: tables stay tables, and what can't be pressed on paper is not there."""

from tests.browser.base import BrowserTest
from tests.stations.base import fill_shop

A4 = {"width": 688, "height": 1017}


class OnPaper(BrowserTest):
    def test_tables_stay_tables_and_nothing_is_there_to_be_pressed(self):
        fill_shop(self)
        unit, page = self.listed(), self.page
        self.sign_in("olga", "olga-sesame")
        page.set_viewport_size(A4)
        for path in ("/books/", f"/buying/L-{self.lot.number:03}/", f"/W-{unit.number}/", "/people/settings/"):
            page.emulate_media(media="screen")
            page.goto(path)
            shown = page.locator("button:visible, .btn:visible").count()
            tables = page.locator("table.ledger:visible")
            ways = {tables.nth(i).evaluate("one => getComputedStyle(one).display") for i in range(tables.count())}
            self.assertTrue(shown, path)
            page.emulate_media(media="print")
            self.assertEqual(page.locator("button:visible, .btn:visible, .bar:visible").count(), 0, path)
            tables = page.locator("table.ledger:visible")
            on_paper = {tables.nth(i).evaluate("one => getComputedStyle(one).display") for i in range(tables.count())}
            self.assertLessEqual(on_paper, {"table"}, path)
            self.assertTrue(path != "/books/" or (ways, on_paper) == ({"block"}, {"table"}))
            # A box that nobody filled in says nothing on paper; what is typed there does.
            empty = page.locator(".field > input:not([value]):visible:not([type=checkbox], [type=radio])")
            self.assertEqual(empty.count(), 0, path)
        self.assertTrue(page.get_by_label("Labour rate per hour").is_visible())
