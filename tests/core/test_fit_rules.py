"""Does it fit: every rule with its cases of fits, fits with, does not fit and not known."""

import unittest
from datetime import date

from core.catalogue.fit.answers import Answer
from core.catalogue.fit.machine import Tried
from core.catalogue.fit.rules import RULES, judge
from core.machine.approach import Approach
from tests.core.fit_examples import PARTS, D, machine, needs, said, ways

FITS, WITH, NOT, UNKNOWN = Answer.FITS, Answer.WITH, Answer.NOT, Answer.UNKNOWN
CARD = "cards\n card: bus 16-bit; length 162; height 99; fastest 10"
CHIP = (
    "processors\n chip: kind 168-pin; step step B; volts 5; bus 33; multiplier 2; most 66; watts 5; height 12; "
    "thick pins no"
)
STICK = "modules\n stick: kind 72-pin; size 4 MiB; speed 60; parity no; volts 5; height 25; make K4"
DISK = (
    "drives\n disk: interface ATA 16-bit; plug 40-way; bay 5.25 inch; height 41; length 146; size 40 MB; start yes; "
    "id 1"
)
FLOPPY = (
    "drives\n drive: interface floppy; plug 34-way; bay 5.25 inch; height 41; length 146; reads 360K, 720K; "
    "writes 360K, 720K"
)
SCREEN = "screens\n screen: plug 9-pin D; signals RGBI; line 15.6 to 15.8; field 55 to 61; fixed yes"
KEYS = "wires\n lead: protocol keyboard AT; plug 5-pin DIN"
TRIED = {"who": "Tobin", "on": date(2026, 5, 1), "version": "1.0"}


# By the name of the rule as it is registered: what it is asked about, (machine, part, more of the machine), per answer.
# What a rule can never answer is left out.
CASES: dict[str, dict[Answer, tuple]] = {
    "bus and slot": {
        FITS: (D, CARD),
        WITH: (D, CARD, {"fitted": [("net", "2", ""), ("sound", "3", "")]}),
        NOT: (D, said(CARD, "16-bit", "PCI 32")),
        UNKNOWN: (D, said(CARD, "bus 16-bit; ", "")),
    },
    "length, height": {
        FITS: (D, CARD),
        NOT: (D, said(CARD, "height 99", "height 120")),
        UNKNOWN: (D, said(CARD, "length 162; ", "")),
    },
    "clock": {
        FITS: (D, CARD),
        WITH: (said(D, "2: bus 16-bit; clock 8", "2: bus 16-bit; follows yes"), said(CARD, "fastest 10", "fastest 25")),
        NOT: (D, said(CARD, "fastest 10", "fastest 6")),
        UNKNOWN: (D, said(CARD, "; fastest 10", "")),
    },
    "processor": {
        FITS: (D, CHIP),
        WITH: (D, said(CHIP, "bus 33; multiplier 2; most 66", "bus 25; multiplier 2; most 50")),
        NOT: (D, said(CHIP, "168-pin", "socket 3")),
        UNKNOWN: (D, said(CHIP, "volts 5; ", "")),
    },
    "memory socket": {
        FITS: (D, STICK),
        WITH: (D, STICK, {"fitted": [(n, n, STICK) for n in ("A1", "A2", "B1", "B2")]}),
        NOT: (D, said(STICK, "72-pin", "30-pin")),
        UNKNOWN: (D, said(STICK, "; height 25", "")),
    },
    "memory as a whole": {
        FITS: (D, STICK, {"fitted": [("A1", "A1", STICK)]}),
        WITH: (D, STICK),
        NOT: (D, said(STICK, "speed 60", "speed 100"), {"fitted": [("A1", "A1", STICK)]}),
        UNKNOWN: (said(D, "most 64 MiB; ", ""), STICK, {"fitted": [("A1", "A1", STICK)]}),
    },
    "display memory": {
        FITS: (D, "modes\n picture: width 640; height 480; bits 4"),
        WITH: (D, "modes\n picture: width 800; height 600; bits 8"),
        NOT: (D, "modes\n picture: width 1024; height 768; bits 16"),
        UNKNOWN: (said(D, "; display 256 KiB", ""), "modes\n picture: width 640; height 480; bits 4"),
    },
    "drive bus": {
        FITS: (D, DISK),
        WITH: (D, said(DISK, "40 MB", "2 GB")),
        NOT: (D, said(DISK, "ATA 16-bit", "ATA 8-bit")),
        UNKNOWN: (said(D, "; largest 504 MiB; rate", "; rate"), DISK),
    },
    "bay": {
        FITS: (D, DISK),
        WITH: (D, said(DISK, "5.25 inch", "3.5 inch")),
        NOT: (D, said(DISK, "length 146", "length 240")),
        UNKNOWN: (said(D, "; rails yes", ""), DISK),
    },
    "disks": {
        FITS: (D, FLOPPY),
        WITH: (
            D,
            said(FLOPPY, "reads 360K, 720K; writes 360K, 720K", "reads 360K, 720K, 1.2M; writes 720K, 1.2M, 360K"),
        ),
        NOT: (D, said(FLOPPY, "reads 360K, 720K; writes 360K, 720K", "reads 1.44M; writes 1.44M")),
        UNKNOWN: (D, said(FLOPPY, "; writes 360K, 720K", "")),
    },
    "rails": {
        FITS: (D, "draws\n +5: amps 1.9"),
        WITH: (D, "draws\n +5: amps 5"),
        NOT: (D, "draws\n -5: amps 0.1"),
        UNKNOWN: (said(D, "; board 11.2", ""), "draws\n +5: amps 1.9"),
    },
    "connectors": {
        FITS: (D, "takes\n drive: count 1"),
        WITH: (D, "takes\n drive: count 3"),
        NOT: (D, "takes\n small drive: count 1"),
        UNKNOWN: (said(D, "drive: count 2", "drive:"), "takes\n drive: count 1"),
    },
    "what feeds it": {
        FITS: (D, "gives\n lead: feed AC; volts 230"),
        WITH: (D, "gives\n lead: feed AC; volts 115"),
        NOT: (D, "gives\n lead: feed DC; volts 230"),
        UNKNOWN: (said(D, "feed AC; ", ""), "gives\n lead: feed AC; volts 230"),
    },
    "interrupt, DMA, addresses": {
        FITS: (D, "uses\n J4: irq 10, 11; now 10"),
        WITH: (D, "uses\n J4: irq 6, 11; now 6"),
        NOT: (D, "uses\n J4: irq 6, 8; now 6"),
        UNKNOWN: (D, "uses\n J4: irq 10, 11; now 10", {"fitted": [("net", "2", "uses\n J1: irq 10, 11")]}),
    },
    "port": {
        FITS: (D, KEYS),
        WITH: (
            D,
            said(KEYS, "5-pin DIN", "6-pin mini DIN"),
            {"ways": ways(("plug", "goes in 5-pin DIN; comes out 6-pin mini DIN", "4"))},
        ),
        NOT: (D, said(KEYS, "keyboard AT", "keyboard XT")),
        UNKNOWN: (D, said(KEYS, "protocol keyboard AT; ", "")),
    },
    "picture": {
        FITS: (D, SCREEN),
        WITH: (
            D,
            said(SCREEN, "plug 9-pin D; signals RGBI", "plug phono; signals composite"),
            {
                "ways": ways(
                    ("box", "goes in 9-pin D/RGBI; comes out phono/composite; loss 16 colours become fewer", "")
                )
            },
        ),
        NOT: (D, said(SCREEN, "field 55 to 61", "field 49 to 51")),
        UNKNOWN: (said(D, "line 15.734; ", ""), SCREEN),
    },
    "what is in it": {
        FITS: (D, CARD),
        UNKNOWN: (D, CARD, {"whole": None}),
    },
    "must come out first": {
        FITS: (D, CHIP),
        WITH: (D, CHIP, {"fitted": [("cache card", "cache slot", "")]}),
        NOT: (
            said(D, "into processor", "into processor; stays yes"),
            CHIP,
            {"fitted": [("cache card", "cache slot", "")]},
        ),
        UNKNOWN: (said(D, "; into processor", ""), CHIP),
    },
    "approach": {
        FITS: (D, "changes\n it: reversible yes; modern yes"),
        WITH: (D, "changes\n it: reversible yes; modern yes", {"approach": Approach.PERIOD}),
        NOT: (D, "changes\n it: reversible no", {"approach": Approach.CONSERVE}),
        UNKNOWN: (D, "changes\n it: modern yes", {"approach": None}),
    },
    "firmware of the part": {
        FITS: (D, "firmware\n U9: version 2.1; wants 2.0"),
        WITH: (D, "firmware\n U9: version 1.9; wants 2.0; less sees the first 1 GiB"),
        NOT: (D, "firmware\n U9: version 1.1; wants 2.0; newest 1.9"),
        UNKNOWN: (D, "firmware\n U9: wants 2.0; less sees the first 1 GiB"),
    },
    "tried": {
        FITS: (D, CARD, {"tried": (Tried(True, **TRIED),)}),
        WITH: (D, CARD, {"tried": (Tried(True, **TRIED | {"version": "1.1"}), Tried(False, **TRIED))}),
        UNKNOWN: (D, CARD, {"tried": (Tried(False, **TRIED),)}),
    },
}
# Answers that a rule has no case of, and why.
NEVER = {
    ("what is in it", WITH): "somebody said so, or nobody did",
    ("what is in it", NOT): "the same",
    ("length, height", WITH): "a card does not get shorter",
    ("tried", NOT): "evidence is never a fact",
}


class EveryRule(unittest.TestCase):
    def test_every_rule_has_its_cases(self):
        self.assertEqual(set(CASES), set(RULES))
        for name, cases in CASES.items():
            for answer in Answer:
                self.assertTrue(answer in cases or (name, answer) in NEVER, (name, answer))

    def test_each_case_is_answered_so(self):
        for name, cases in CASES.items():
            for answer, (offers, part, *more) in cases.items():
                with self.subTest(rule=name, answer=answer):
                    there = machine(offers, **(more[0] if more else {}))
                    findings = list(RULES[name].says(there, needs(part)))
                    found = max((finding.answer for finding in findings), key=lambda a: a.rank, default=None)
                    self.assertEqual(found, answer, findings)
                    for finding in findings:
                        self.assertEqual(bool(finding.asks), finding.answer is UNKNOWN, finding)
                        self.assertTrue(finding.so)

    def test_every_rule_says_what_it_rests_on(self):
        for rule in RULES.values():
            self.assertTrue(rule.source)


class Words(unittest.TestCase):
    def test_the_worked_example(self):
        net = (
            "network",
            "3",
            "cards\n c: bus 16-bit\nuses\n J1: irq 10; now 10\n J2: io 300-31F; now 300-31F\ndraws none",
        )
        net = (net[0], net[1], net[2].replace("draws none", "draws\n +5: amps 0"))
        verdict = judge(machine(fitted=[net, ("display", "1", "")]), needs())
        self.assertEqual(verdict.answer, WITH)
        self.assertEqual(verdict.sentence, "Fits, with J4 moved from 10 to 11.")
        rail = next(finding for finding in verdict.findings if finding.rule == "+5 V")
        # 11.2 + 1.9 = 13.1 A of the 16.0 A that may be drawn of 20 A.
        self.assertEqual(rail.so, "82 % used")
        slot = next(finding for finding in verdict.findings if finding.rule == "bus and slot")
        self.assertEqual(slot.so, "takes slot 2, the last")

    def test_what_is_wrong_comes_before_what_is_not_known(self):
        part = said(PARTS, "16-bit; length 162; ", "PCI 32; ")
        self.assertRegex(judge(machine(), needs(part)).sentence, "^Does not fit: PCI 32 does not go")

    def test_nothing_said_of_a_part_is_not_known(self):
        verdict = judge(machine(), needs("draws\n +5: amps 0").__class__())
        self.assertEqual(verdict.answer, UNKNOWN)
        self.assertTrue(verdict.asks)

    def test_a_slow_card_costs_the_processor_its_clock(self):
        offers = said(D, "bus 25, 33, 40, 50; bus now 33", "bus 66.67, 75; bus now 75").replace(
            "multipliers 1, 2", "multipliers 6"
        )
        offers = said(offers, "2: bus 16-bit; clock 8", "2: bus PCI 32; follows yes")
        chip = (
            "chip",
            "processor",
            said(CHIP, "bus 33; multiplier 2; most 66", "bus 66.67, 75; multiplier 6; most 450")
            + "\ndraws\n +5: amps 1",
        )
        verdict = judge(
            machine(offers, fitted=[chip]), needs(said(CARD, "16-bit", "PCI 32").replace("fastest 10", "fastest 66.67"))
        )
        clock = next(finding for finding in verdict.findings if finding.rule == "clock")
        self.assertEqual(clock.so, "the bus set to 66.67 MHz, which costs 49.98 MHz of 450")

    def test_a_fixed_screen_is_not_switched_on_at_another_rate(self):
        offers = said(D, "line 15.734; field 59.94", "line 31.469; field 59.94")
        verdict = judge(machine(offers), needs(SCREEN))
        self.assertEqual(verdict.answer, NOT)
        self.assertIn("don’t switch on", verdict.hazards[0])

    def test_another_region_makes_evidence_a_question(self):
        tried = (Tried(True, **TRIED, region="60 Hz"),)
        verdict = judge(machine(tried=tried, region="50 Hz"), needs(CARD + "\ndraws\n +5: amps 0.1"))
        self.assertIn("whether it runs in 50 Hz", [ask.what for ask in verdict.asks])

    def test_a_stretched_socket_holds_thick_pins_only(self):
        there = machine(stretched=frozenset({"processor"}))
        pins = [f for f in judge(there, needs(CHIP)).findings if f.rule == "pins"]
        self.assertEqual(pins[0].answer, NOT)
        thick = [
            f for f in judge(there, needs(said(CHIP, "thick pins no", "thick pins yes"))).findings if f.rule == "pins"
        ]
        self.assertEqual(thick[0].answer, FITS)

    def test_a_socket_that_is_taken_and_one_that_gets_too_warm(self):
        there = machine(fitted=[("old chip", "processor", "")])
        withs = {f.rule: f.does for f in judge(there, needs(said(CHIP, "watts 5", "watts 14"))).of(WITH)}
        self.assertEqual(withs["processor"], "old chip out of processor")
        self.assertEqual(withs["heat"], "more cooling over processor")

    def test_the_right_pairs_of_scsi_want_an_adapter_and_one_terminator(self):
        wide = (
            "drives\n d: interface SCSI 16-bit; plug 68-way; bay 3.5 inch; height 25; length 146; size 1 GiB; "
            "terminated yes; id 0"
        )
        other = ("tape", "outer", "drives\n t: interface SCSI 8-bit; terminated yes; id 0\ndraws\n +5: amps 1")
        there = machine(
            fitted=[other],
            ways=ways(("68-to-50 adapter", "goes in 50-way; comes out 68-way; loss upper byte ended inside", "9")),
        )
        withs = {f.rule: f.does for f in judge(there, needs(wide)).of(WITH)}
        self.assertIn("between 16 and 8 bits", withs["drive bus"])
        self.assertEqual(withs["drive plug"], "68-to-50 adapter")
        self.assertIn("only the last", withs["termination"])
        self.assertIn("it set to 1", withs["place on the bus"])

    def test_what_nobody_said_of_a_part_is_asked(self):
        """A card without its jumpers, a drive without its connectors, anything without what it changes."""
        there = machine(approach=Approach.PERIOD)
        for part, group in ((CARD, "uses"), (DISK, "takes"), (STICK, "changes"), (CARD, "changes"), (CARD, "draws")):
            self.assertIn(group, {ask.group for ask in judge(there, needs(part)).asks})
        plain = judge(machine(), needs(STICK + "\ndraws\n +5: amps 0"))
        self.assertNotIn("changes", {ask.group for ask in plain.asks})

    def test_look_alikes_are_named(self):
        verdict = judge(machine(), needs(said(DISK, "ATA 16-bit", "ATA 8-bit")))
        self.assertIn("40 pins both", verdict.sentence)
