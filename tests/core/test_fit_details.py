"""What each rule of fit says in detail: one thing changed on the machine or the part, one row of the answer."""

import unittest

from core.catalogue.fit.answers import Answer, Finding
from core.catalogue.fit.ends import wanted
from core.catalogue.fit.rules import judge
from tests.core.fit_examples import D, machine, needs, said
from tests.core.test_fit_rules import CARD, CHIP, DISK, FLOPPY, SCREEN, STICK

FITS, WITH, NOT, UNKNOWN = Answer.FITS, Answer.WITH, Answer.NOT, Answer.UNKNOWN
EXPRESS = "cards\n card: bus PCI Express; generation 2; lanes 4; length 160; height 99; fastest 100"
LANES = said(D, "1: bus 8-bit; clock 8", "1: bus PCI Express; generation 3; lanes 8; open end no; clock 100")
OWN = "cards\n card: bus own; called disk card; length 160; height 99; fastest 10"
OWN_SLOT = said(D, "1: bus 8-bit", "1: bus own; called disk card")
SCSI = "drives\n d: interface SCSI 8-bit; plug 50-way; bay 5.25 inch; height 41; length 146; size 1 GiB; id 3"


class InDetail(unittest.TestCase):
    def row(self, rule: str, part: str, offers: str = D, **more) -> Finding:
        found = [one for one in judge(machine(offers, **more), needs(part)).findings if one.rule == rule]
        self.assertTrue(found, rule)
        return max(found, key=lambda one: one.answer.rank)

    def check(self, *cases: tuple) -> None:
        """Each: rule, part, machine, answer, words of what it says."""
        for rule, part, offers, answer, words in cases:
            with self.subTest(rule=rule, words=words):
                row = self.row(rule, part, offers)
                self.assertEqual(row.answer, answer, row)
                self.assertIn(words, f"{row.so} {row.does} {row.hazard}", row)


class Cards(InDetail):
    def test_express_by_generation_and_lanes(self):
        rule = "bus and slot"
        self.check(
            (rule, EXPRESS, LANES, FITS, "takes slot 1"),
            (rule, said(EXPRESS, "generation 2", "generation 4"), LANES, NOT, "it needs generation 4, the slot has 3"),
            (rule, said(EXPRESS, "lanes 4", "lanes 16"), LANES, NOT, "16 lanes, the slot 8 and a closed end"),
            (rule, said(EXPRESS, "lanes 4", "lanes 16"), said(LANES, "open end no", "open end yes"), FITS, "slot 1"),
            (rule, said(EXPRESS, "lanes 4", "lanes 16"), said(LANES, "; open end no", ""), UNKNOWN, "find out"),
            (rule, said(EXPRESS, "; lanes 4", ""), LANES, UNKNOWN, "find out"),
            (rule, EXPRESS, said(LANES, "; generation 3", ""), UNKNOWN, "find out"),
        )

    def test_a_makers_own_bus_goes_by_its_name(self):
        rule = "bus and slot"
        self.check(
            (rule, OWN, OWN_SLOT, FITS, "takes slot 1"),
            (rule, said(OWN, "disk card", "sound card"), OWN_SLOT, NOT, "its sound card is not this maker’s disk card"),
            (rule, said(OWN, "; called disk card", ""), OWN_SLOT, UNKNOWN, "find out"),
            (rule, OWN, said(OWN_SLOT, "; called disk card", ""), UNKNOWN, "find out"),
        )

    def test_a_machine_without_slots_and_one_of_which_nobody_said(self):
        slots = D[D.index("slots") : D.index("sockets")]
        self.check(
            ("bus and slot", CARD, said(D, slots, "slots none\n"), NOT, "it has no slots"),
            ("bus and slot", CARD, said(D, slots, ""), UNKNOWN, "say which slots it has"),
        )

    def test_a_wide_card_and_a_shared_opening_push_the_neighbour_out(self):
        there = {"fitted": [("net", "3", "")]}
        self.assertEqual(self.row("bus and slot", CARD, **there).answer, FITS)
        wide = self.row("bus and slot", said(CARD, "bus 16-bit", "bus 16-bit; wide yes"), **there)
        self.assertEqual((wide.answer, wide.does), (WITH, "net out of slot 3"))
        shared = self.row("bus and slot", CARD, said(D, "2: bus 16-bit", "2: bus 16-bit; shares 3"), **there)
        self.assertEqual(shared.answer, WITH)

    def test_size(self):
        rule = "length, height"
        self.check(
            (rule, CARD, D, FITS, "178 mm to spare"),
            (rule, said(CARD, "length 162", "length 345"), D, NOT, "it is 345 mm long"),
            (rule, said(CARD, "height 99", "height 111"), D, NOT, "it is 111 mm high, there are 107 mm"),
            (rule, said(CARD, "; height 99", ""), D, UNKNOWN, "measure it"),
        )

    def test_the_clock_of_a_slot_that_follows_the_processor(self):
        follows = said(D, "2: bus 16-bit; clock 8", "2: bus 16-bit; follows yes")
        self.check(
            ("clock", CARD, follows, NOT, "the bus runs at 33 MHz, it at 10 at most"),
            ("clock", said(CARD, "fastest 10", "fastest 40"), follows, FITS, "as it is"),
            ("clock", said(CARD, "fastest 10", "fastest 25"), follows, WITH, "the bus set to 25 MHz"),
            ("clock", CARD, said(follows, "; bus now 33", ""), UNKNOWN, "find out"),
            ("clock", CARD, said(D, "2: bus 16-bit; clock 8", "2: bus 16-bit"), UNKNOWN, "find out"),
        )


class Processors(InDetail):
    def test_wrong_volts_can_destroy_it(self):
        low = said(CHIP, "volts 5", "volts 2.5")
        self.check(
            ("core volts", low, D, NOT, "Too many volts destroy it: don’t switch on."),
            ("core volts", said(CHIP, "volts 5", "volts 6"), D, NOT, "it wants 6 V"),
            ("core volts", CHIP, D, FITS, "can be set"),
            ("core volts", CHIP, said(D, "volts 3.3 to 5; ", ""), UNKNOWN, "find out"),
        )
        self.assertEqual(self.row("core volts", said(CHIP, "volts 5", "volts 6")).hazard, "")

    def test_bus_and_multiplier(self):
        rule = "bus × multiplier"
        self.check(
            (rule, CHIP, D, FITS, "33 × 2 = 66 MHz"),
            (rule, said(CHIP, "multiplier 2", "multiplier 3"), D, NOT, "can’t be set to × 3"),
            (rule, said(CHIP, "bus 33", "bus 60"), D, NOT, "no bus clock suits both"),
            (rule, said(CHIP, "bus 33", "bus 40").replace("most 66", "most 80"), D, WITH, "the bus set to 40 MHz"),
            (rule, said(CHIP, "most 66", "most 100"), D, FITS, "of 100: the bus limits it"),
            (rule, said(CHIP, "multiplier 2; ", ""), D, UNKNOWN, "find out"),
        )

    def test_a_card_on_its_bus_holds_it_back(self):
        follows = said(D, "2: bus 16-bit; clock 8", "2: bus 16-bit; follows yes")
        slow = ("disk card", "2", "cards\n c: bus 16-bit; fastest 25\ndraws\n +5: amps 0")
        chip = said(CHIP, "bus 33; multiplier 2; most 66", "bus 25, 33; multiplier 2; most 66")
        row = self.row("bus × multiplier", chip, follows, fitted=[slow])
        self.assertEqual((row.answer, row.does), (WITH, "50 MHz instead of 66: disk card holds the bus"))
        row = self.row("bus × multiplier", CHIP, follows, fitted=[slow])
        self.assertEqual((row.answer, row.does), (NOT, "disk card holds the bus below all of its"))

    def test_room_firmware_and_pins(self):
        self.check(
            ("room above", CHIP, D, FITS, "10 mm to spare"),
            ("room above", said(CHIP, "height 12", "height 30"), D, NOT, "30 mm high, 22 mm are clear"),
            ("firmware knows it", CHIP, D, FITS, "known"),
            ("firmware knows it", said(CHIP, "step step B", "step step C"), D, WITH, "firmware that knows step C"),
            ("firmware knows it", CHIP, said(D, "; knows step B", ""), UNKNOWN, "look it up"),
            ("pins", said(CHIP, "thick pins no", "thick pins yes"), D, WITH, "spreading the socket"),
            ("pins", said(CHIP, "; thick pins no", ""), D, UNKNOWN, "look at its pins"),
        )


class MemoryAndDrives(InDetail):
    def test_a_module_in_its_socket(self):
        rule = "memory socket"
        self.check(
            (rule, said(STICK, "size 4 MiB", "size 32 MiB"), D, NOT, "32 MiB in one module, 16 MiB is the most"),
            (rule, said(STICK, "height 25", "height 40"), D, NOT, "it is 40 mm high, 30 mm are clear"),
            ("memory volts", said(STICK, "volts 5", "volts 3.3"), D, NOT, "Wrong volts destroy the module"),
            ("memory speed", said(STICK, "speed 60", "speed 100"), D, NOT, "slower than the 70 ns"),
            ("memory speed", said(STICK, "; speed 60", ""), D, UNKNOWN, "find out"),
            ("parity", STICK, said(D, "parity no", "parity yes"), NOT, "it has no parity"),
            ("parity", said(STICK, "parity no", "parity yes"), D, FITS, "not used"),
        )
        self.assertEqual(self.row("memory volts", STICK, said(D, "volts 5; slowest", "volts 3.3; slowest")).hazard, "")

    def test_all_of_it_together(self):
        rule = "memory in all"
        full = [(name, name, said(STICK, "4 MiB", "16 MiB")) for name in ("A1", "A2", "B1")]
        small = said(D, "most 64 MiB", "most 20 MiB")
        self.assertEqual(self.row(rule, STICK, small, fitted=full[:2]).answer, WITH)
        self.assertEqual(self.row(rule, said(STICK, "4 MiB", "16 MiB"), fitted=full).so, "64 MiB then")
        unknown = self.row(rule, STICK, fitted=[("A1", "A1", said(STICK, "; size 4 MiB", ""))])
        self.assertEqual((unknown.answer, len(unknown.asks)), (UNKNOWN, 1))
        self.assertEqual(
            self.row(rule, said(STICK, "4 MiB", "16 MiB"), said(D, "most 64 MiB", "most 8 MiB")).answer, NOT
        )

    def test_a_drive_on_its_bus(self):
        ended = said(D, "ends yes", "ends yes")
        self.check(
            ("drive bus", SCSI, D, FITS, "on outer"),
            ("starts from it", said(SCSI, "id 3", "start yes; id 3"), D, NOT, "it does not start from outer"),
            ("starts from it", said(SCSI, "id 3", "start yes; id 3"), said(D, "; bootable no", ""), UNKNOWN, "try it"),
            ("termination", said(SCSI, "id 3", "terminated no; id 3"), ended, WITH, "a terminator at the end"),
            ("termination", said(SCSI, "id 3", "terminated yes; id 3"), ended, FITS, "as it is"),
            ("termination", SCSI, ended, UNKNOWN, "look for its resistors"),
            ("termination", SCSI, said(D, "; ends yes", ""), UNKNOWN, "look at both ends"),
            ("place on the bus", SCSI, said(D, "units 7", "units 0"), NOT, "outer takes none"),
            ("place on the bus", SCSI, said(D, "; units 7", ""), UNKNOWN, "find out"),
            ("drive plug", said(SCSI, "50-way", "68-way"), D, NOT, "no adapter from 50-way to 68-way is known"),
            ("drive plug", said(SCSI, "plug 50-way; ", ""), D, UNKNOWN, "look at it"),
        )

    def test_a_drive_in_its_bay(self):
        self.check(
            ("bay", said(DISK, "height 41", "height 82"), D, NOT, "it is 82 mm high"),
            ("bay", said(DISK, "5.25 inch", "8 inch"), D, NOT, "too wide"),
            ("bay", DISK, said(D, "rails yes", "rails no"), WITH, "rails"),
            (
                "bay",
                said(DISK, "5.25 inch", "3.5 inch"),
                said(D, "rails yes", "rails no"),
                WITH,
                "a frame from 3.5 inch",
            ),
            ("bay", DISK, said(D, "lower: size 5.25 inch", "lower: size own"), NOT, "its maker’s own"),
        )
        taken = self.row("bay", DISK, fitted=[("old disk", "lower", "")])
        self.assertEqual((taken.answer, taken.does), (WITH, "old disk out of the lower"))

    def test_disks_that_are_exchanged(self):
        reads = "reads 360K, 720K; writes 360K, 720K"
        self.check(
            ("disks", said(FLOPPY, reads, "reads 360K; writes 360K"), D, WITH, "another drive for 720K"),
            ("disks", said(FLOPPY, reads, "reads 360K, 720K; writes 720K"), D, WITH, "360K read, not written"),
            ("disks", FLOPPY, said(D, "disks\n  system: formats 360K, 720K\n", ""), UNKNOWN, "find out"),
        )


class WaysWanted(unittest.TestCase):
    def pairs(self, part: str, offers: str = D) -> set[tuple[str, str]]:
        return {(one.start, one.goal) for one in wanted(machine(offers), needs(part))}

    def test_from_a_bus_to_another_plug_of_the_same_interface(self):
        self.assertEqual(self.pairs(said(SCSI, "50-way", "68-way")), {("50-way", "68-way")})
        self.assertEqual(self.pairs(SCSI), set(), "the same plug wants no way")
        self.assertEqual(self.pairs(said(DISK, "40-way", "44-way")), {("40-way", "44-way")})

    def test_from_a_port_to_another_plug_of_the_same_protocol(self):
        keys = "wires\n lead: protocol keyboard AT; plug 6-pin mini DIN"
        self.assertEqual(self.pairs(keys), {("5-pin DIN", "6-pin mini DIN")})
        self.assertEqual(self.pairs(said(keys, "keyboard AT", "keyboard XT")), set())

    def test_from_a_picture_to_a_screen_of_another_plug_or_rate(self):
        self.assertEqual(self.pairs(SCREEN), set())
        other = said(SCREEN, "plug 9-pin D; signals RGBI", "plug phono; signals composite")
        self.assertEqual(self.pairs(other), {("9-pin D/RGBI", "phono/composite")})
        slow = said(SCREEN, "line 15.6 to 15.8", "line 31 to 32")
        self.assertEqual(self.pairs(slow), {("9-pin D/RGBI", "9-pin D/RGBI")})
        (way,) = wanted(machine(), needs(slow))
        self.assertFalse(way.takes(way.given), "it does not lock to what comes out")
