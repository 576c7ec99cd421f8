"""What can be read off a machine: every reading, the likelier first, and what can't be is refused in words."""

from datetime import date
from decimal import Decimal
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from core.intake.approval import ApprovalError, read_approval
from core.intake.chips import MIB, Chips, ChipsError, display_bytes, memory_of, read_chips, read_modules, size_words
from core.intake.datecode import DateCodeError, PartDate, Place, board_date, out_of_place, read_date_code
from core.intake.serial import PatternError, compile_pattern, read_serial
from core.intake.shots import Shot, read_shots, shots_wanted
from core.intake.signal import SIGNALS, nearest_signals
from core.machine.casing import FormFactor
from core.machine.mains import Adapter, Mains, Polarity, SuffixRule, compare_adapters, read_plate, variant_by_number

D = Decimal


class DateCodes(TestCase):
    def test_the_readings_that_fit_the_model_come_first(self):
        found = read_date_code("1211", (1985, 1988), 2026)
        self.assertEqual([(r.form, r.year, r.week) for r in found], [("WWYY", 2011, 12), ("YYWW", 2012, 11)])
        self.assertEqual(read_date_code("1210", (2012, 2013), 2026)[0].form, "YYWW")
        self.assertEqual([r.year for r in read_date_code("712", (1986, 1988), 2026)][:2], [1987, 1977])

    def test_impossible_weeks_are_refused_with_the_reason(self):
        for code, words in (
            ("9200", "no week"),
            ("9254", "no week 54"),
            ("9353", "no week 53"),
            ("87", "three or four"),
        ):
            with self.subTest(code), self.assertRaisesRegex(DateCodeError, words):
                read_date_code(code, today=2026)
        self.assertEqual(read_date_code("9253", today=2026)[0].week, 53)  # 1992 has one

    @given(st.integers(1970, 2020), st.integers(1, 52))
    def test_what_is_written_is_among_the_readings(self, year, week):
        for code in (f"{year % 100:02}{week:02}", f"{week:02}{year % 100:02}", f"{year % 10}{week:02}"):
            self.assertIn((year, week), [(r.year, r.week) for r in read_date_code(code, today=2026)])

    @given(st.from_regex(r"[0-9]{3,4}", fullmatch=True), st.integers(1970, 2000), st.integers(0, 9))
    def test_the_nearest_to_the_model_stands_first(self, code, first, years):
        try:
            found = read_date_code(code, (first, first + years), 2026)
        except DateCodeError:
            return
        self.assertEqual([r.off for r in found], sorted(r.off for r in found))

    def test_what_is_out_of_place_and_when_a_board_was_made(self):
        parts = [
            PartDate("cpu", date(1986, 3, 3)),
            PartDate("rom", date(1988, 5, 2)),
            PartDate("ram", date(1983, 1, 3)),
            PartDate("regulator", date(1995, 6, 5), repair=True),
        ]
        self.assertEqual(board_date(parts), date(1988, 5, 2))
        places = out_of_place(parts, date(1986, 9, 1))
        self.assertEqual([p.place for p in places], [Place.FITS, Place.LATER, Place.OLD, Place.LATER])
        self.assertIsNone(board_date([]))


class Serials(TestCase):
    def test_fields_and_the_year_by_the_model(self):
        found = read_serial("{plant:1}{year:1}{week:2}-{sequence:5}", "b712-00417", (1985, 1988), 2026)
        self.assertEqual(found.fields, {"plant": "B", "year": "7", "week": "12", "sequence": "00417"})
        self.assertEqual((found.readings[0][0], found.readings[0][1]), (1987, date(1987, 3, 16)))
        self.assertIsNone(read_serial("{year:2}{week:2}", "8754"))
        self.assertIsNone(read_serial("{year:2}{week:2}", "875"))

    def test_patterns_that_can_not_be_are_refused(self):
        for pattern in ("", "ABC", "{year:3}", "{week:1}", "{colour:2}", "{year:2}{year:2}", "(.*)+", "{year:2"):
            with self.subTest(pattern), self.assertRaises(PatternError):
                compile_pattern(pattern)


class Memory(TestCase):
    def test_parity_and_both_readings(self):
        self.assertEqual([(r.size, r.parity) for r in memory_of(read_chips("9 x 256K x 1"))], [(262144, True)])
        self.assertEqual([r.parity for r in memory_of([Chips(72, 1024, 1)])], [True, False])
        self.assertEqual([r.size for r in memory_of(read_chips("8 x 256K x 4 + 4 x 256K x 1"))], [MIB])
        for text in ("", "16", "0 x 256K x 4", "a x b x c"):
            with self.subTest(text), self.assertRaises(ChipsError):
                read_chips(text)
        with self.assertRaises(ChipsError):
            read_modules("lots")

    @given(st.integers(1, 64), st.integers(1, 1024), st.integers(1, 16))
    def test_no_bit_is_made_up(self, count, depth, width):
        for reading in memory_of([Chips(count, depth, width)]):
            self.assertLessEqual(reading.size * 8, count * depth * width)

    def test_sizes_in_words_and_display_bytes_round_up(self):
        self.assertEqual(
            [size_words(n) for n in (2 * MIB, 1536, 1024, 100)], ["2 MiB", "1,536 bytes", "1 KiB", "100 bytes"]
        )
        self.assertEqual(display_bytes(3, 3, 1), 2)
        with self.assertRaises(ValueError):
            display_bytes(0, 1, 1)


class MainsAndAdapters(TestCase):
    WANTED = Adapter(D(9), D(1), False, Polarity.CENTRE_MINUS)

    def test_ac_is_never_taken_for_dc(self):
        for wanted, offered in ((self.WANTED, Adapter(D(9), D(2), True)), (Adapter(D(9), D(1), True), self.WANTED)):
            found = compare_adapters(wanted, offered)
            self.assertIs(found.may, False)
            self.assertIn("never swap", found.words)

    def test_what_else_speaks_against_an_adapter(self):
        for offered, words in (
            (Adapter(D(9), D(2), False, Polarity.CENTRE_PLUS), "centre plus"),
            (Adapter(D(12), D(2), False, Polarity.CENTRE_MINUS), "12 V"),
            (Adapter(D(9), D("0.5"), False, Polarity.CENTRE_MINUS), "0.5 A"),
        ):
            self.assertIn(words, compare_adapters(self.WANTED, offered).words)
            self.assertIs(compare_adapters(self.WANTED, offered).may, False)
        self.assertIs(compare_adapters(self.WANTED, Adapter(D("9.3"), D(1), False, Polarity.CENTRE_MINUS)).may, True)

    def test_plates_as_they_are_typed(self):
        for text, wanted in (
            ("9 V DC 1 A centre minus", self.WANTED),
            ("9V~ 850mA", Adapter(D(9), D("0.85"), True, Polarity.NONE)),
            ("12,5 v 1,5 a dc", Adapter(D("12.5"), D("1.5"), False)),
        ):
            self.assertEqual(read_plate(text), wanted)
        for text in ("", "9 V 1 A", "DC", "9 volts"):
            with self.subTest(text), self.assertRaises(ValueError):
                read_plate(text)

    def test_a_base_number_and_the_next(self):
        rule = SuffixRule(1500, {0: Mains.V100_120, 1: Mains.V220_240})
        self.assertEqual(
            [variant_by_number(rule, n) for n in (1500, 1501, 1502)], [Mains.V100_120, Mains.V220_240, None]
        )


class Approvals(TestCase):
    def test_grantee_and_product(self):
        for text, wanted in (
            ("ABC123-X", ("ABC", "123-X")),
            ("ID: 2ABCD XYZ1", ("2ABCD", "XYZ1")),
            ("D4X-BL88", ("D4X", "BL88")),
        ):
            found = read_approval(text)
            self.assertEqual((found.grantee, found.product), wanted)
        for text in ("", "AB", "ABC", "2ABCD", "A-BC1", "ABC" + "1" * 15, "ABC#1"):
            with self.subTest(text), self.assertRaises(ApprovalError):
                read_approval(text)


class Signals(TestCase):
    @given(st.sampled_from(SIGNALS), st.floats(-0.002, 0.002))
    def test_a_measured_signal_is_found_within_its_error(self, signal, error):
        found = nearest_signals(signal.line_khz * (1 + error), signal.field_hz)
        self.assertIn(signal, [s for s, _ in found])
        self.assertEqual([off for _, off in found], sorted(off for _, off in found))

    def test_rates_above_nothing(self):
        with self.assertRaises(ValueError):
            nearest_signals(0, 50)


class Shots(TestCase):
    def test_by_shape_by_model_and_for_defects(self):
        plain = shots_wanted(FormFactor.BOARD)
        self.assertEqual(shots_wanted(FormFactor.BOARD, ["inside"], True), (*plain, Shot.INSIDE, Shot.DEFECT))
        self.assertEqual(read_shots("Inside, ports,, inside"), (Shot.INSIDE, Shot.PORTS))
        with self.assertRaisesRegex(ValueError, "sideways"):
            read_shots("sideways")
        self.assertTrue(all(shots_wanted(form) for form in FormFactor))
