"""Figures of what fits, against published tables. Each value is from memory of the source named beside it."""

import unittest
from decimal import Decimal as D

from core.bench.rails import rail_limits
from core.catalogue.fit.kinds import CONNECTOR_RAILS, FORMATS, Bus, bus_rate
from core.catalogue.fit.limits import (
    LIMITS,
    RATES,
    chs,
    limit_named,
)
from core.catalogue.fit.needs import Mode
from core.catalogue.fit.rules.processors import mhz
from core.catalogue.fit.schema import read_size


class Media(unittest.TestCase):
    def test_sizes_of_formatted_disks(self):
        """User bytes: ECMA-70 (360 K), ECMA-125 (720 K), ECMA-99 (1.2 M), ISO 9529 (1.44 M), ECMA-54 (8 inch)."""
        for name, size in (
            ("360K", 368_640),
            ("720K", 737_280),
            ("1.2M", 1_228_800),
            ("1.44M", 1_474_560),
            ("8 inch SD", 256_256),
        ):
            self.assertEqual(FORMATS[name].size, size)

    def test_prefixes_of_sizes(self):
        """IEC 80000-13: KiB is 1024 B, kB 1000 B."""
        self.assertEqual([read_size(t) for t in ("1 KiB", "1 MiB", "1 GiB", "1 kB", "40 MB")],
                         [1024, 1_048_576, 1_073_741_824, 1000, 40_000_000])  # fmt: skip


class Disks(unittest.TestCase):
    def test_what_cylinders_heads_and_sectors_reach(self):
        """ATA-1 (X3.221), Annex on capacity limits; the 20 MB drive of 615 × 4 × 17 of its time’s drive tables."""
        self.assertEqual(chs(1024, 16, 63), 528_482_304)
        self.assertEqual(chs(1024, 255, 63), 8_422_686_720)
        self.assertEqual(chs(615, 4, 17), 21_411_840)
        self.assertEqual(LIMITS[-1].size, 137_438_953_472)
        self.assertEqual(limit_named(read_size("504 MiB")), LIMITS[0].name)


class Buses(unittest.TestCase):
    def test_what_buses_carry(self):
        """PCI 2.2: 133 MB/s at 33.33 MHz and 32 bits, 533 at 66.66 and 64; PCI-X 1.0: 1066 at 133.33; PCI Express 1.0
        and 2.0: 250 and 500 MB/s a lane; EISA 3.12: 33 MB/s at 8.33 MHz; 16-bit at 8 MHz, two clocks a word: 8."""
        for bus, clock, lanes, generation, wanted in (
            (Bus.PCI32, 33.33, None, None, 133),
            (Bus.PCI64, 66.66, None, None, 533),
            (Bus.PCIX, 133.33, None, None, 1066),
            (Bus.PCIE, None, 4, 1, 1000),
            (Bus.PCIE, None, 16, 2, 8000),
            (Bus.BIT32, 8.33, None, None, 33),
            (Bus.BIT16, 8, None, None, 8),
        ):
            self.assertAlmostEqual(bus_rate(bus, clock, lanes, generation), wanted, delta=wanted * 0.01)

    def test_bus_times_multiplier(self):
        """Jumper tables of boards of the time: 6 × 66.67 and 6 × 75."""
        self.assertEqual([mhz(D("66.67"), D(6)).to_integral_value(), mhz(D(75), D(6))], [400, 450])

    def test_display_memory_of_usual_modes(self):
        """640 × 480 × 4 bits: 153,600 B; 800 × 600 × 8: 480,000; 1024 × 768 × 8: 786,432 (mode tables of adapters)."""
        sizes = [Mode("m", *mode).memory for mode in ((640, 480, 4), (800, 600, 8), (1024, 768, 8))]
        self.assertEqual(sizes, [153_600, 480_000, 786_432])


class Pictures(unittest.TestCase):
    def test_line_and_field_rates(self):
        """ITU-R BT.1700: 15.625 kHz and 50 Hz, 15.734 kHz and 59.94 Hz; VESA industry standard: 31.469 kHz, 59.94."""
        self.assertEqual(
            [(rate.line, rate.field) for rate in RATES],
            [(D("15.625"), D("50")), (D("15.734"), D("59.94")), (D("31.469"), D("59.94"))],
        )


class Supplies(unittest.TestCase):
    def test_what_connectors_carry(self):
        """ATX12V Power Supply Design Guide 1.1: the 20-pin board connector (3.3, 5, 12, -5, -12 V), the peripheral and
        the floppy drive connector (5 and 12 V), the 4-pin processor connector (12 V); Serial ATA 1.0, power segment."""
        self.assertEqual(CONNECTOR_RAILS["board, 20 pins"], {"3.3", "5", "12", "-5", "-12"})
        self.assertEqual([CONNECTOR_RAILS[name] for name in ("drive", "small drive")], [{"5", "12"}] * 2)
        self.assertEqual(CONNECTOR_RAILS["processor, 4 pins"], {"12"})
        self.assertEqual(CONNECTOR_RAILS["serial drive"], {"3.3", "5", "12"})

    def test_limits_of_rails(self):
        """ATX12V Power Supply Design Guide 1.1, DC output regulation: 5 % on +3.3, +5 and +12 V, 10 % on -5, -12 V."""
        for volts, low, high in (
            ("3.3", "3.135", "3.465"),
            ("5", "4.75", "5.25"),
            ("12", "11.4", "12.6"),
            ("-5", "-5.5", "-4.5"),
            ("-12", "-13.2", "-10.8"),
        ):
            limits = rail_limits(D(volts))
            self.assertEqual((limits.low, limits.high, limits.nominal), (D(low), D(high), D(volts)))
