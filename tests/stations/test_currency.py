"""An amount is written in one way, whatever the currency of the books is."""

import re
from decimal import Decimal as D
from pathlib import Path

from django.test import SimpleTestCase, override_settings

from stations.common.currency import priced
from stations.common.templatetags.figures import in_100, milli, money, plain, signed, signed_money
from tests.stations.test_through_the_pages import Through

STATIONS = Path(__file__).resolve().parents[2] / "stations"


class Amounts(SimpleTestCase):
    def test_a_sign_stands_at_the_amount_and_letters_apart_from_it(self):
        for currency, written in (("EUR", "€24.00"), ("GBP", "£24.00"), ("SEK", "SEK\u00a024.00"), ("CAD", "CA$24.00")):
            with override_settings(BASE_CURRENCY=currency):
                self.assertEqual(priced("24.00"), written)
                self.assertEqual(priced("−24.00"), f"−{written}")
                self.assertEqual(signed_money(24), f"+{written}")
                self.assertEqual(signed(-24), f"−{written.removesuffix('.00')}")

    def test_nothing_is_never_less_than_nothing(self):
        for figure, written in (
            (money(D("-0.004")), "0.00"),
            (money(D("-0.00")), "0.00"),
            (money(D("-1234.5")), "−1,234.50"),
            (signed_money(D("-0.004")), "+€0.00"),
            (signed(D("-0.4")), "+€0"),
            (plain(D("-0.00")), "0"),
            (plain(D("-0.50")), "−0.5"),
            (in_100(-0.004), "0"),
            (milli(-0.0004), "0"),
        ):
            self.assertEqual(figure, written)

    def test_no_template_writes_it_in_another_way(self):
        for path in STATIONS.rglob("*.html"):
            beside = re.findall(r"\{\{ currency \}\} ?\{\{|\}\} ?\{\{ currency \}\}", path.read_text())
            self.assertEqual(beside, [], path)


class OnThePages(Through):
    @override_settings(BASE_CURRENCY="SEK")
    def test_of_a_shop_elsewhere(self):
        unit = self.listed()
        self.assertContains(self.client.get(f"/shop/W-{unit.number}/"), "SEK\u00a0150.00")
        self.assertContains(self.client.get("/shop/"), "SEK\u00a0150.00")
        self.post("selling:sale", [unit.number], price="150", postage="9", buyer="Ines Falk", on="", channel="")
        self.assertContains(self.client.get(f"/dispatch/sales/{unit.sale.pk}/"), "Sold for SEK\u00a0150.00")
