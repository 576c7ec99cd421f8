"""Limits and figures that stand in published documents."""

from decimal import Decimal
from unittest import TestCase

from core.bench.check_library import LIBRARY
from core.bench.optional_checks import OPTIONAL
from core.buying.share import ShareLine
from core.selling.price import SellingTerms, floor_price, tax_within

D = Decimal
CHECKS = {check.code: check for check in (*LIBRARY, *OPTIONAL)}


class SupplyRails(TestCase):
    def test_atx12v_regulation(self):
        """ATX12V Power Supply Design Guide, DC output voltage regulation: positive rails 5 %, -5 V and -12 V 10 %
        (from memory)."""
        for code, nominal, share in (
            ("supply-5v", D(5), D("0.05")),
            ("supply-12v", D(12), D("0.05")),
            ("supply-3v3", D("3.3"), D("0.05")),
            ("supply-minus5", D(-5), D("0.10")),
            ("supply-minus12", D(-12), D("0.10")),
        ):
            limits, spread = CHECKS[code].limits, abs(nominal) * share
            self.assertEqual(limits.nominal, nominal)
            self.assertEqual((limits.low, limits.high), (nominal - spread, nominal + spread))

    def test_atx12v_ripple(self):
        """The same guide, output ripple and noise, peak to peak: 50 mV on +5 V, 120 mV on +12 V (from memory)."""
        self.assertEqual(CHECKS["supply-ripple"].limits.high, D("0.05"))
        self.assertEqual(CHECKS["ripple-12v"].limits.high, D("0.12"))

    def test_74_series_supply(self):
        """Recommended operating conditions of the commercial 74 series: 4.75 to 5.25 V (data sheets of 74LS parts)."""
        limits = CHECKS["run-5v"].limits
        self.assertEqual((limits.low, limits.high), (D("4.75"), D("5.25")))

    def test_safe_voltage(self):
        """60 V DC: limit of extra-low voltage that needs no protection when dry (IEC 61140, from memory)."""
        self.assertEqual(CHECKS["safe-supply"].limits.high, D(60))


class MarginScheme(TestCase):
    def test_bought_for_a_thousand_sold_for_twelve_hundred(self):
        """Tax authority's notice on the margin scheme: margin 200 at 20 % holds 33.33 of tax (from memory)."""
        terms = SellingTerms(D(0), tax_scheme="margin", tax_percent=D(20))
        self.assertEqual(tax_within(D(1200), D(1000), terms), D("33.33"))

    def test_the_floor_solved_the_other_way(self):
        """p (1 - f) - k (p - P) = C, solved for C at the floor p: algebra, both ways."""
        terms = SellingTerms(D(10), D("0.35"), D(9), "margin", D(20))
        price, purchase, cover = floor_price(D(130), D(60), terms), D(60), D(130)
        left = price * D("0.9") - D("0.35") - 9 - (price - purchase) * 20 / 120
        self.assertTrue(cover <= left < cover + D("0.01"))


class Pert(TestCase):
    def test_mean(self):
        """Malcolm, Roseboom, Clark and Fazar 1959: mean (a + 4 m + b) / 6."""
        self.assertEqual(ShareLine(1, worth_low=D(2), worth_likely=D(5), worth_high=D(14)).expected_worth, D(6))
