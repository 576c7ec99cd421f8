"""Figures that were misread when they were tried: each as it stood, and as it reads now."""

from datetime import date
from decimal import Decimal
from unittest import TestCase

from hypothesis import example, given
from hypothesis import strategies as st

from core.bench.markings import MarkingError, read_capacitor, read_part, read_resistor
from core.buying.manifest import Column, Table, read_claim, read_lines
from core.buying.rates import cross_rate
from core.intake.chips import GIB, KIB, MIB, memory_of, read_chips, read_modules, size_words
from core.intake.datecode import DateCodeError, read_date_code
from core.machine.mains import Polarity, compare_adapters, read_plate
from core.machine.quantities import Mark, QuantityError, TwoMeanings, parse_reading, read_number
from core.money import convert

D = Decimal


class Resistors(TestCase):
    def test_codes_as_they_are_printed(self):
        for text, ohms, spread in (
            ("4K7", "4700", None), ("4k7", "4700", None), ("R47", "0.47", None), ("1K", "1000", None),
            ("4K7J", "4700", "5"), ("47R", "47", None), ("1M5", "1500000", None), ("2R2K", "2.2", "10"),
            ("472", "4700", None), ("1002", "10000", None), ("yellow violet red gold", "4700", "5"),
        ):  # fmt: skip
            marked = read_resistor(text)
            self.assertEqual((marked.value, marked.unit), (D(ohms), "Ω"), text)
            self.assertEqual(marked.tolerance, None if spread is None else D(spread), text)
        for text in ("K", "0R", "4X7", "", "R"):
            with self.subTest(text), self.assertRaises(MarkingError):
                read_resistor(text)

    def test_a_part_is_taken_for_what_it_is(self):
        for text, unit in (
            ("4K7", "Ω"),
            ("47K", "Ω"),
            ("R47", "Ω"),
            ("1M", "Ω"),
            ("104K", "F"),
            ("4n7", "F"),
            ("22", "F"),
        ):
            self.assertEqual(read_part(text).unit, unit, text)


class Capacitors(TestCase):
    def test_codes_with_a_letter_for_the_point_and_small_ones(self):
        for text, farads in (
            ("p68", "0.68e-12"), ("n47", "0.47e-9"), ("100n", "100e-9"), ("104Z", "100e-9"), ("229", "2.2e-12"),
            ("228", "0.22e-12"), ("4µ7", "4.7e-6"), ("4μ7", "4.7e-6"), ("4u7", "4.7e-6"), ("1p", "1e-12"),
            ("100nF", "100e-9"), ("104k", "100e-9"),
        ):  # fmt: skip
            self.assertEqual(read_capacitor(text).value, D(farads), text)

    def test_letters_stand_for_picofarads_under_ten(self):
        small = read_capacitor("4p7C")
        self.assertEqual(small.words, "4.7 pF ± 0.25 pF")
        self.assertAlmostEqual(float(small.high), 4.95e-12)
        self.assertEqual(read_capacitor("229D").words, "2.2 pF ± 0.5 pF")
        self.assertEqual(read_capacitor("104J").words, "100 nF ± 5 %")
        with self.assertRaisesRegex(MarkingError, "under 10 pF"):
            read_capacitor("4p7K")

    def test_lopsided_tolerances_keep_both_sides(self):
        wide = read_capacitor("104Z")
        self.assertEqual((wide.low, wide.high), (D("80e-9"), D("180e-9")))
        self.assertEqual(wide.words, "100 nF −20 +80 %")

    @given(st.text(max_size=10) | st.text("0123456789pnµuRKMJZ .", max_size=5))
    @example("104J")
    @example("4K7")
    def test_any_text_is_read_or_refused_in_words(self, text):
        for read in (read_part, read_resistor):
            try:
                marked = read(text)
                self.assertTrue(0 < marked.low <= marked.value <= marked.high or marked.tolerance)
            except MarkingError as refused:
                self.assertGreater(len(str(refused)), 5)


class Memory(TestCase):
    def test_modules_in_any_size(self):
        for text, size in (
            ("2 x 1G", 2 * GIB),
            ("16 x 2G", 32 * GIB),
            ("8M + 4 x 32M", 136 * MIB),
            ("512k", 512 * KIB),
        ):
            self.assertEqual(read_modules(text), size, text)
        self.assertEqual(size_words(2 * GIB), "2 GiB")

    def test_modules_by_depth_and_width_carry_their_parity(self):
        for text, size, parity in (
            ("8 × 1M × 9", 8 * MIB, True), ("2 × 4M × 36", 32 * MIB, True), ("2 x 4M x 32", 32 * MIB, False),
            ("16 x 256K x 4", 2 * MIB, False), ("18 x 256K x 1", 512 * KIB, True), ("9 x 64K x 1", 64 * KIB, True),
        ):  # fmt: skip
            first = memory_of(read_chips(text))[0]
            self.assertEqual((first.size, first.parity), (size, parity), text)


class Dates(TestCase):
    def test_letters_around_a_code_are_passed_over(self):
        for code in ("NT9302", "9302", "nt 9302", "9302A", "K-9302"):
            first = read_date_code(code, (1990, 1994), 2026)[0]
            self.assertEqual((first.year, first.week), (1993, 2), code)

    def test_a_plain_year_is_a_year_and_not_week_19(self):
        first, *others = read_date_code("1987", (1986, 1990), 2026)
        self.assertEqual((first.form, first.year, first.week), ("year", 1987, None))
        self.assertEqual(
            (first.words, first.monday, first.sunday), ("the year 1987", date(1987, 1, 1), date(1987, 12, 31))
        )
        self.assertIn("week 19 of 1987", [r.words for r in others])
        self.assertEqual(read_date_code("9221", (None, None), 2026)[0].words, "week 21 of 1992")

    def test_what_is_no_code_stays_none(self):
        for code in ("ABCDE9302", "93", "93021", "N", "٩٣٠٢"):
            with self.subTest(code), self.assertRaises(DateCodeError):
                read_date_code(code, (None, None), 2026)


class Numbers(TestCase):
    def test_two_meanings_are_asked_about(self):
        for text in ("1,234", "1.000", "12,500", "-1,234"):
            with self.subTest(text), self.assertRaises(TwoMeanings):
                read_number(text)
        self.assertEqual(read_number("1,234", Mark.THOUSANDS), 1234)
        self.assertEqual(read_number("1,234", Mark.DECIMAL), D("1.234"))
        for text, number in (
            ("1.234,50", "1234.50"), ("1,234.50", "1234.50"), ("12,5", "12.5"), ("1,234,567", "1234567"),
            ("0,125", "0.125"), ("1 234", "1234"), ("−3", "-3"), ("1234", "1234"),
        ):  # fmt: skip
            self.assertEqual(read_number(text), D(number), text)
        for text in ("", "abc", "1,2,3.4.5", "nan", "inf"):
            with self.subTest(text), self.assertRaises(QuantityError):
                read_number(text)

    def test_a_manifest_asks_which_is_meant(self):
        table = Table(("what", "no", "worth"), (("board", "1,000", "5"), ("tower", "2", "1,234")), (2, 3))
        columns = {Column.DESCRIPTION: 0, Column.QUANTITY: 1, Column.WORTH: 2}
        good, bad = read_lines(table, columns)
        self.assertEqual((len(good), [b.number for b in bad]), (0, [2, 3]))
        self.assertIn("1000 or 1.000", bad[0].reason)
        good, bad = read_lines(table, columns, Mark.THOUSANDS)
        self.assertEqual([(g.quantity, g.worth_likely) for g in good], [(1000, D(5)), (2, D(1234))])

    def test_either_sign_for_a_millionth(self):
        self.assertEqual(parse_reading("5 μV", "V"), parse_reading("5 µV", "V"))
        self.assertEqual(parse_reading("470 μF", "F"), D("0.00047"))

    def test_a_weak_currency_keeps_six_significant_figures(self):
        rate = cross_rate({"XXW": D("17234.56")}, "XXW", "EUR")
        self.assertEqual(rate, D("0.0000580229"))
        self.assertEqual(convert(D(5_000_000), rate), D("290.11"))
        self.assertEqual(cross_rate({"GBP": D("0.85")}, "GBP", "EUR"), D("1.176471"))

    @given(st.decimals("0.0001", "50000", places=4))
    def test_no_rate_loses_more_than_its_sixth_figure(self, per_euro):
        rate = cross_rate({"XXW": per_euro}, "XXW", "EUR")
        self.assertLessEqual(abs(rate * per_euro - 1), D("0.00001"))


class Claims(TestCase):
    def test_a_claim_that_is_turned_round_is_none_of_working(self):
        for text in (
            "not working", "no longer works", "does not work", "doesn’t work", "isn't working", "non-working",
            "funktioniert nicht", "funktioniert leider nicht mehr", "läuft nicht", "fungerar inte", "fungerar ej",
            "no working drives", "will not power on", "startar ej", "geht nicht an", "networking card",
            "workshop clearance",
        ):  # fmt: skip
            self.assertNotIn(read_claim(text), {"working", "powers_on"}, text)

    def test_a_plain_claim_stays_one(self):
        for text, claim in (
            ("working", "working"), ("Works fine", "working"), ("works, no keyboard", "working"),
            ("funktioniert", "working"), ("fungerar", "working"), ("powers on", "powers_on"), ("geht an", "powers_on"),
            ("not tested", "untested"), ("defekt", "faulty"), ("not faulty", "none"), ("total 5", "none"), ("", "none"),
        ):  # fmt: skip
            self.assertEqual(read_claim(text), claim, text)


class Adapters(TestCase):
    def test_poles_that_nobody_stated_are_not_called_right(self):
        wanted, offered = read_plate("9 V DC 1 A centre minus"), read_plate("9 V DC 2 A")
        self.assertIs(offered.polarity, Polarity.UNKNOWN)
        found = compare_adapters(wanted, offered)
        self.assertIsNone(found.may)
        self.assertIn("poles of the adapter are not known", found.words)
        self.assertIsNone(compare_adapters(read_plate("9 V DC 1 A"), wanted).may)
        self.assertIs(compare_adapters(wanted, wanted).may, True)
        self.assertIs(compare_adapters(read_plate("9V~ 1A"), read_plate("9 V AC 1.5 A")).may, True)

    def test_three_decimals_are_taken(self):
        plate = read_plate("9 V DC 0.375 A centre plus")
        self.assertEqual((plate.amps, plate.words), (D("0.375"), "9 V DC, 0.375 A, centre plus"))
