"""What a finger in a glove presses is large enough for it: on a tablet, however wide, and at the bench by anything that
points (the design’s figures; WCAG 2.2, 2.5.8 asks for 24 px)."""

from django.urls import reverse

from tests.browser.base import DESK, BrowserTest
from tests.stations.base import fill_shop

# Of what is seen and can be pressed, all that is lower than it should be.
TOO_LOW = """([selector, least]) => [...document.querySelectorAll(selector)]
  .filter(one => one.checkVisibility({visibilityProperty: true}) && !one.closest(".visually-hidden"))
  .filter(one => one.getBoundingClientRect().height < least - 0.5)
  .map(one => `${one.textContent.trim().slice(0, 40)}: ${one.getBoundingClientRect().height}`)"""
HIT, ROW, LINK = 44, 42, 24


class ByFinger(BrowserTest):
    takes = 15

    def setUp(self):
        super().setUp()
        fill_shop(self)
        self.unit = self.assessed()
        self.hand().test(self.unit, stop_at="supply-load")

    def test_by_a_finger_and_at_the_bench(self):
        number = [self.unit.number]
        bench = reverse("bench:unit", args=number)
        touched = self.open_page({"width": 1180, "height": 800}, has_touch=True)
        self.sign_in("olga", "olga-sesame", touched)
        for there in (
            bench,
            reverse("intake:unit", args=number),
            reverse("workshop:unit", args=number),
            reverse("selling:unit", args=number),
            reverse("buying:lot", args=[self.lot.number]),
            reverse("stock:parts"),
            reverse("catalogue:weaknesses"),
        ):
            touched.goto(there)
            for what, least in (
                ("main :is(.btn, .form-control, .form-select)", HIT),
                (".ledger td", ROW),
                ("main a", LINK),
            ):
                with self.subTest(there, what=what):
                    self.assertEqual(touched.evaluate(TOO_LOW, [what, least]), [])
        self.sign_in("olga", "olga-sesame")
        self.assertEqual(self.page.viewport_size, DESK)
        for there in (bench, reverse("bench:fault", args=number)):
            self.page.goto(there)
            self.assertEqual(self.page.evaluate(TOO_LOW, [".bench main .btn, .bench main .form-control", HIT]), [])
            self.assertEqual(self.page.evaluate(TOO_LOW, ["main a", LINK]), [])
