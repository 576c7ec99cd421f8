"""What intake reads and reckons, against calendars, published definitions and independent libraries."""

from datetime import date
from unittest import TestCase

from core.intake.chips import KIB, MIB, display_bytes, display_modes, memory_of, read_chips, read_modules
from core.intake.datecode import DateCodeError, read_date_code, week_of
from core.intake.signal import SIGNALS


class Weeks(TestCase):
    def test_every_week_is_the_calendars(self):
        """ISO 8601 weeks: Python's own calendar, every week from 1970 to 2026."""
        for year in range(1970, 2027):
            last = date(year, 12, 28).isocalendar().week
            for week in range(1, last + 1):
                monday, sunday = week_of(year, week)
                self.assertEqual(monday.isocalendar()[:], (year, week, 1))
                self.assertEqual((sunday - monday).days, 6)
            for week in (0, last + 1, 54):
                with self.assertRaises(DateCodeError):
                    week_of(year, week)

    def test_the_worked_examples_of_the_design(self):
        found = read_date_code("9221", today=2026)[0]
        self.assertEqual(
            (found.words, found.monday, found.sunday), ("week 21 of 1992", date(1992, 5, 18), date(1992, 5, 24))
        )
        self.assertEqual(
            [read_date_code(code, today=2026)[0].words for code in ("8950", "9737")],
            ["week 50 of 1989", "week 37 of 1997"],
        )


class MemoryArithmetic(TestCase):
    def test_chips_and_modules(self):
        """Arithmetic of the design, worked by hand: count × depth × width / 8 (or / 9 with parity)."""
        self.assertEqual(memory_of(read_chips("16 x 256K x 4"))[0].size, 2 * MIB)
        parity = memory_of(read_chips("18 x 256K x 1"))[0]
        self.assertEqual((parity.size, parity.parity), (512 * KIB, True))
        self.assertEqual(read_modules("8M + 4 x 32M"), 136 * MIB)

    def test_what_display_memory_allows(self):
        self.assertEqual([display_bytes(640, 480, bits) for bits in (8, 4)], [307_200, 153_600])
        self.assertEqual(display_bytes(640, 350, 4), 112_000)

        def fits(memory, *mode):
            return next(m.fits for m in display_modes(memory) if (m.width, m.height, m.bits) == mode)

        self.assertEqual([fits(n * KIB, 640, 480, 8) for n in (256, 512)], [False, True])
        self.assertEqual([fits(n * KIB, 640, 350, 4) for n in (64, 128)], [False, True])


class Rates(TestCase):
    def test_line_rates_follow_from_lines_and_fields(self):
        """ITU-R BT.470 (from memory): 625 lines at 25 pictures, 525 lines at 30/1.001 pictures a second."""
        rates = {s.name: (s.line_khz, s.field_hz) for s in SIGNALS}
        self.assertAlmostEqual(rates["PAL, 625 lines"][0], 625 * 25 / 1000)
        self.assertAlmostEqual(rates["NTSC, 525 lines"][0], 525 * 30 / 1.001 / 1000, places=3)
        self.assertAlmostEqual(rates["NTSC, 525 lines"][1], 60 / 1.001, places=2)
        # VESA's 640×480 at 60 Hz: 525 lines in all, 25.175 MHz over 800 dots a line (from memory).
        self.assertAlmostEqual(rates["VGA 640×480 at 60 Hz"][0], 25175 / 800, places=3)
        self.assertAlmostEqual(rates["VGA 640×480 at 60 Hz"][1], 25_175_000 / 800 / 525, places=2)
