"""Who set larger letters in the browser sees the same pages: nothing runs out of them, no word is crushed (WCAG 2.2,
1.4.4: up to twice the size)."""

from django.urls import reverse

from stations.dispatch import parcels
from stations.selling import services as selling
from tests.browser.base import ARGUMENTS, CHROMIUM, DESK, BrowserTest
from tests.stations.base import D, fill_shop

# Of the width: what stands outside of it, and what is narrower than three of its letters and longer than two lines.
WRONG = """() => {
  const wrong = [];
  if (document.documentElement.scrollWidth > innerWidth) wrong.push(`${document.documentElement.scrollWidth} px wide`);
  for (const one of document.querySelectorAll("h1, h2, h3, b, p, a, button, dd, dt, label, .st")) {
    if (one.closest(".visually-hidden, svg") || !one.checkVisibility({visibilityProperty: true})) continue;
    const box = one.getBoundingClientRect(), letters = parseFloat(getComputedStyle(one).fontSize);
    if (box.width === 0) continue;
    const words = one.textContent.trim();
    if (words.length > 8 && box.width < 1.5 * letters) wrong.push(`crushed: ${words.slice(0, 40)}`);
  }
  for (const one of document.querySelectorAll(".bar__tools > *"))
    if (one.getBoundingClientRect().right > innerWidth) wrong.push(`cut off: ${one.className}`);
  return wrong;
}"""


class LargeLetters(BrowserTest):
    takes = 30

    def setUp(self):
        super().setUp()
        fill_shop(self)
        self.bench = self.assessed()
        self.hand().test(self.bench, stop_at="supply-load")
        self.sale = selling.sell(self.seller, self.listed(), D(150), "A. Reader", D(9))
        self.hand().pay(self.sale)
        self.parcel = self.hand().do(parcels.begin, self.sale)

    def test_twice_as_large(self):
        pages = (
            "/",
            reverse("floor:unit", args=[self.bench.number]),
            reverse("intake:unit", args=[self.bench.number]),
            reverse("bench:unit", args=[self.bench.number]),
            reverse("workshop:unit", args=[self.bench.number]),
            reverse("selling:unit", args=[self.sale.unit.number]),
            reverse("dispatch:parcel", args=[self.parcel.pk]),
            reverse("buying:lot", args=[self.lot.number]),
            reverse("books:books"),
            reverse("people:settings"),
        )
        for size in (16, 20, 24, 32):
            letters = self.playwright.chromium.launch(
                executable_path=CHROMIUM, args=[*ARGUMENTS, f"--blink-settings=defaultFontSize={size}"]
            )
            self.addCleanup(letters.close)
            page = letters.new_context(viewport=DESK, base_url=self.live_server_url).new_page()
            self.sign_in("olga", "olga-sesame", page)
            for there in pages:
                with self.subTest(size=size, page=there):
                    page.goto(there)
                    self.assertEqual(page.evaluate("getComputedStyle(document.documentElement).fontSize"), f"{size}px")
                    self.assertEqual(page.evaluate(WRONG), [])
