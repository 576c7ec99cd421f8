"""Sheets of a machine and of a part as they are typed: read, written again, refused where they say what can’t be."""

import unittest
from decimal import Decimal as D

from hypothesis import given
from hypothesis import strategies as st

from core.catalogue.fit.filling import CannotFill, Stick, wrongly_filled
from core.catalogue.fit.needs import Drive, MemoryModule, Needs, checked_needs
from core.catalogue.fit.offers import Module, Offers, Slot, checked_offers
from core.catalogue.fit.schema import (
    FitError,
    block_of,
    plain,
    read_record,
    read_records,
    read_sheet,
    read_size,
    write_record,
    write_records,
    write_size,
)
from tests.core import fit_examples
from tests.core.fit_examples import machine, needs, said


class AsTyped(unittest.TestCase):
    def refused(self, words: str, act, *given) -> FitError:
        with self.assertRaises(FitError) as caught:
            act(*given)
        self.assertIn(words, str(caught.exception))
        return caught.exception

    @given(st.integers(0, 2**44))
    def test_a_size_is_written_so_that_it_reads_the_same(self, size):
        self.assertEqual(read_size(write_size(size)), size)

    def test_sizes_by_1024_and_by_1000(self):
        for typed, size in (
            ("4 MiB", 4 * 2**20),
            ("40 MB", 40 * 10**6),
            ("1,5 kib", 1536),
            ("12", 12),
            ("2GB", 2 * 10**9),
        ):
            self.assertEqual(read_size(typed), size)
        for typed in ("", "much", "4 mega", "-4 MiB", "4 MiB more"):
            self.refused("a size such as", read_size, typed)

    @given(st.decimals(0, 10**6, places=3))
    def test_plain_numbers_lose_nothing(self, number):
        self.assertEqual(D(plain(number)), number)
        self.assertNotRegex(plain(number), r"\.\d*0$|\.$|E")

    def test_addresses(self):
        self.assertEqual(str(block_of("330-333")), "330-333")
        self.assertEqual((block_of("3F0h").first, block_of("3F0").last), (0x3F0, 0x3F0))
        self.refused("hexadecimal", block_of, "3G0")
        self.refused("lower address first", block_of, "333-330")

    def test_a_line_is_a_name_and_what_is_known(self):
        slot = read_record(Slot, "2: bus 16-bit; length 340; open end yes")
        self.assertEqual((slot.name, slot.length, slot.open_end, slot.clock), ("2", D(340), True, None))
        self.assertEqual(read_record(Slot, write_record(slot)), slot)
        for line, words in (
            ("bus 16-bit", "then a colon"),
            (f"{'x' * 41}: bus 16-bit", "at most 40"),
            ("2: bus 17-bit", "one of 8-bit"),
            ("2: buss 16-bit", "begins with none of"),
            ("2: length 340; length 341", "twice"),
            ("2: length", "nothing is said"),
            ("2: length long", "a number in mm"),
            ("2: length 3400", "from 1 to 1000 mm"),
            ("2: lanes 1.5", "a whole number"),
            ("2: open end perhaps", "yes or no"),
            (f"2: called {'x' * 200}", "characters at most"),
        ):
            self.refused(words, read_record, Slot, line)

    def test_spans_versions_and_lists(self):
        screen = needs("screens\n s: plug 9-pin D; signals RGBI; line 15.6 to 15.8; field 60; fixed no").screens[0]
        self.assertEqual((screen.line.low, screen.line.high, screen.field.low), (D("15.6"), D("15.8"), D(60)))
        self.refused("the lower end first", needs, "screens\n s: line 16 to 15")
        firmware = needs("firmware\n U9: version 2.10; wants 2.9").firmware[0]
        self.assertGreater(firmware.version, firmware.wants)
        self.assertEqual(
            needs("firmware\n U9: version 2.0").firmware[0].version,
            needs("firmware\n U9: version 2").firmware[0].version,
        )
        self.refused("a version such as", needs, "firmware\n U9: version two")
        self.refused("overlaps", needs, "uses\n J1: io 330-333, 332-335; now 330-333")
        drive = read_record(Drive, "d: reads 360K, 720K, 360K")
        self.assertEqual(drive.reads, ("360K", "720K"))

    def test_nothing_none_and_twice(self):
        self.assertIsNone(read_records(Slot, "  \n"))
        self.assertEqual(read_records(Slot, "None"), ())
        self.refused("stands there twice", read_records, Slot, "A: bus 8-bit\na: bus 16-bit")
        self.refused("at most", read_records, Slot, "\n".join(f"{number}: bus 8-bit" for number in range(500)))
        for records in (None, (), read_records(Slot, "1: bus 8-bit; clock 4.77")):
            self.assertEqual(read_records(Slot, write_records(records)), records)
        self.refused("is none of", read_sheet, Offers, "wings\n left: long 4")


class Contradictions(unittest.TestCase):
    def offers(self, old: str, new: str):
        return checked_offers(read_sheet(Offers, said(fit_examples.D, old, new)))

    def test_a_machine_that_can_be_is_taken(self):
        self.assertEqual(checked_offers(machine().offers), machine().offers)
        self.assertEqual(checked_offers(Offers()), Offers())

    def test_a_machine_that_can_not_be(self):
        for old, new, words, at in (
            ("2: bus 16-bit", "2: shares 9; bus 16-bit", "which is no other slot", "slots"),
            ("2: bus 16-bit", "2: shares 2; bus 16-bit", "which is no other slot", "slots"),
            ("least 1; board 11.2", "least 30; board 11.2", "loaded with more than it gives", "rails"),
            ("  +12: amps 8", "  +5.0: amps 8", "twice", "rails"),
            ("  +12: amps 8; board 1\n", "", "carries +12 V: there is no such rail", "connectors"),
            ("supply\n  supply:", "supply\n  other: watts 5\n  supply:", "there is one of it", "supply"),
            ("B2: kind 72-pin; bank B", "B2: kind 72-pin; bank C", "can’t be filled by 2", "modules"),
            ("soldered 0 MiB", "soldered 128 MiB", "soldered in than it takes", "board"),
            ("bus now 33", "bus now 66", "a bus clock it can’t be set to", "sockets"),
            ("floppy: irq 6", "floppy: irq 8", "both take interrupt 8", "devices"),
            ("clock: irq 8", "clock: irq 8; dma 2", "both take DMA 2", "devices"),
            ("clock: irq 8", "clock: irq 8; io 3F5-3F6", "overlap", "devices"),
        ):
            with self.subTest(words), self.assertRaises(FitError) as caught:
                self.offers(old, new)
            self.assertIn(words, str(caught.exception))
            self.assertEqual(caught.exception.at, at)

    def test_two_that_share_an_interrupt_may(self):
        self.offers("clock: irq 8\n  floppy: irq 6", "clock: irq 8; shared yes\n  floppy: irq 8; shared yes")

    def test_a_part_that_can_not_be(self):
        for text, words, at in (
            ("cards\n a: bus 8-bit\n b: bus 8-bit", "a part is one of it", "cards"),
            ("uses\n J1: irq 5; dma 1; now 5", "say one of irq, dma and io", "uses"),
            ("uses\n J1: now 5", "say one of irq, dma and io", "uses"),
            ("uses\n J1: irq 5, 7; now 9", "which it can’t be set to", "uses"),
            ("uses\n J1: irq 5, 19; now 5", "from 0 to 15", "uses"),
            ("uses\n J1: dma 1, 9; now 1", "DMA from 0 to 7", "uses"),
            ("converts\n way: goes in 9-pin D", "two ends", "converts"),
            ("converts\n way: goes in 9-pin D; comes out 9-pin d", "the same goes in", "converts"),
        ):
            with self.subTest(words), self.assertRaises(FitError) as caught:
                checked_needs(needs(text))
            self.assertIn(words, str(caught.exception))
            self.assertEqual(caught.exception.at, at)
        with self.assertRaisesRegex(FitError, "can’t want itself"):
            checked_needs(needs("changes\n it: wants sound card"), "Sound card")
        self.assertFalse(needs().nothing_known)
        self.assertTrue(Needs().nothing_known)


class AsTheySit(unittest.TestCase):
    """Modules as they sit in their sockets, against the rules of the board."""

    def sockets(self) -> tuple[Module, ...]:
        return machine().offers.modules

    def wrong(self, **at: str) -> list[str]:
        sticks = [
            Stick(
                str(number), read_record(MemoryModule, f"m{number}: kind 72-pin; size {size} MiB; make K{size}"), socket
            )
            for number, (socket, size) in enumerate(at.items())
        ]
        return wrongly_filled(machine().board, self.sockets(), sticks)

    def test_as_it_should_be(self):
        self.assertEqual(self.wrong(), [])
        self.assertEqual(self.wrong(A1="4", A2="4"), [])
        self.assertEqual(self.wrong(A1="4", A2="4", B1="8", B2="8"), [])

    def test_what_goes_against_the_rules(self):
        self.assertEqual(self.wrong(A1="4"), ["A1 and A2 go in together, and one of them is empty"])
        self.assertEqual(self.wrong(A1="4", A2="8"), ["A1 and A2 go in together and are not alike"])
        self.assertEqual(self.wrong(B1="4", B2="4"), ["B1 and B2 filled before what comes first"])
        self.assertEqual(len(self.wrong(A1="4", B1="4")), 3)

    def test_what_nobody_said_is_asked_for(self):
        unknown = Stick("1", read_record(MemoryModule, "m: kind 72-pin; size 4 MiB"), "A1")
        with self.assertRaisesRegex(CannotFill, "part number of m"):
            wrongly_filled(machine().board, self.sockets(), [unknown, Stick("2", unknown.module, "A2")])
        bare = read_sheet(Offers, said(fit_examples.D, "A1: kind 72-pin; ", "A1: "))
        with self.assertRaisesRegex(CannotFill, "which modules socket A1 takes"):
            wrongly_filled(machine().board, bare.modules, [])
        loose = read_sheet(Offers, said(fit_examples.D, "group 2; ", ""))
        with self.assertRaisesRegex(CannotFill, "how many modules go in together"):
            wrongly_filled(loose.board[0], loose.modules, [])
