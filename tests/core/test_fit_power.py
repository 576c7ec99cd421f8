"""What a part draws, what a machine is fed with, what it shares, and what is plugged in from outside, in detail."""

from core.catalogue.fit.answers import Answer
from core.catalogue.fit.rules.power import RUNNING
from tests.core.fit_examples import D, said, ways
from tests.core.test_fit_details import InDetail
from tests.core.test_fit_rules import KEYS, SCREEN

FITS, WITH, NOT, UNKNOWN = Answer.FITS, Answer.WITH, Answer.NOT, Answer.UNKNOWN
FIVE = "draws\n +5: amps 1.9"
FEED = "gives\n lead: feed AC; volts 230"
JUMPER = "uses\n J4: irq 10, 11; now 10"
RAILS = D[D.index("\nrails") + 1 : D.index("\nsupply") + 1]


class Rails(InDetail):
    def test_running_and_at_the_start(self):
        self.check(
            # 11.2 + 1.9 of 16 A: 82 in 100.
            ("+5 V", FIVE, D, FITS, "82 % used"),
            ("+5 V", said(FIVE, "1.9", "4.8"), D, FITS, "100 % used"),
            ("+5 V", said(FIVE, "1.9", "4.9"), D, WITH, "a stronger supply: +5 V 16.1 A, 16 A may be drawn"),
            ("+12 V", "draws\n +12: amps 2; more at start 3", D, FITS, "47 % used, 6 of 8 A at the start"),
            ("+12 V", "draws\n +12: amps 2; more at start 6", D, WITH, "9 A at the start, 8 A it gives"),
            ("-12 V", "draws\n -12: amps 0.1", D, NOT, "the supply has no -12 V"),
            ("+5 V", "draws\n +5:", D, UNKNOWN, "find out"),
            ("+5 V", FIVE, said(D, "+5: amps 20; ", "+5: "), UNKNOWN, "find out"),
            ("rails", FIVE, said(D, RAILS, ""), UNKNOWN, "read the plate"),
        )
        self.assertEqual(float(RUNNING), 0.8)

    def test_a_supply_that_wants_a_load(self):
        light = said(D, "least 1; board 11.2", "least 5; board 1")
        self.check(
            ("+5 V", FIVE, light, WITH, "a load on +5 V: 2.9 A, the supply wants 5 A"),
            ("+5 V", said(FIVE, "1.9", "4"), light, FITS, "31 % used"),
        )

    def test_too_much_of_what_is_known_is_too_much_whatever_else_is_not(self):
        row = self.row("+5 V", said(FIVE, "1.9", "6"), fitted=[("old card", "2", "draws\n +5:")])
        self.assertEqual(row.answer, WITH)
        row = self.row("+5 V", FIVE, fitted=[("old card", "2", "draws\n +5:")])
        self.assertEqual((row.answer, len(row.asks)), (UNKNOWN, 1))

    def test_all_watts(self):
        # 5 · 13.1 + 12 · 1 = 77.5 W.
        self.check(
            ("watts in all", FIVE, D, FITS, "31 % used"),
            ("watts in all", FIVE, said(D, "watts 250", "watts 70"), WITH, "77.5 W of 70 W"),
            ("watts in all", FIVE, said(D, "watts 250; ", ""), UNKNOWN, "read its plate"),
        )

    def test_connectors(self):
        one = "takes\n drive: count 1"
        splitter = {"ways": ways(("adapter", "goes in drive; comes out small drive", "3"))}
        self.check(
            ("connectors", one, D, FITS, "free"),
            ("connectors", said(one, "count 1", "count 3"), D, WITH, "a splitter"),
            ("connectors", one, said(D, "drive: count 2", "drive: count 0"), NOT, "no drive connector"),
            ("connectors", "takes\n drive:", D, UNKNOWN, "count them"),
            ("connectors", "takes\n small drive: count 1", D, NOT, "no small drive connector"),
        )
        row = self.row("connectors", "takes\n small drive: count 1", **splitter)
        self.assertEqual((row.answer, row.does), (WITH, "adapter"))
        last = self.row("connectors", one, fitted=[("disk", "lower", one)])
        self.assertEqual(last.last, "drive connector of the supply")


class Fed(InDetail):
    def test_what_can_destroy_it_says_so(self):
        rule = "what feeds it"
        for part, words in (
            (said(FEED, "AC", "DC"), "it gives DC, the machine wants AC"),
            (said(FEED, "230", "400"), "400 V are more than"),
        ):
            row = self.row(rule, part)
            self.assertEqual(row.answer, NOT)
            self.assertIn(words, row.does)
            self.assertIn("don’t switch on", row.hazard)
        for part in (FEED, said(FEED, "230", "115"), said(FEED, "230", "12")):
            self.assertEqual(self.row(rule, part).hazard, "")

    def test_too_few_volts(self):
        self.check(
            ("what feeds it", FEED, D, FITS, "as it should"),
            ("what feeds it", said(FEED, "230", "100"), D, WITH, "a transformer: 100 V are too few"),
            ("what feeds it", said(FEED, "230", "24"), D, NOT, "24 V are too few"),
            ("what feeds it", said(FEED, "; volts 230", ""), D, UNKNOWN, "read both plates"),
            ("what feeds it", FEED, said(D, "; volts 220 to 240", ""), UNKNOWN, "read both plates"),
        )

    def test_more_volts_than_it_is_made_for_are_a_no_though_the_current_is_not_known(self):
        row = self.row("what feeds it", "gives\n lead: volts 400")
        self.assertEqual((row.answer, bool(row.hazard)), (NOT, True))


class SharedNumbers(InDetail):
    def test_moved_where_one_is_free(self):
        self.check(
            ("interrupt", JUMPER, D, FITS, "as it comes"),
            ("interrupt", "uses\n J4: irq 6, 11; now 6", D, WITH, "J4 moved from 6 to 11"),
            ("interrupt", "uses\n J4: irq 6, 8; now 6", D, NOT, "can be made free"),
            ("interrupt", "uses\n J4: irq 10, 11", D, UNKNOWN, "look how J4 is set"),
            ("addresses", "uses\n J6: io 3F0-3F3, 300-303; now 3F0-3F3", D, WITH, "J6 moved from 3F0-3F3 to 300-303"),
            ("addresses", "uses\n J6: io 3F8-3FF; now 3F8-3FF", D, FITS, "as it comes"),
            ("DMA", "uses\n J5: dma 2; now 2", D, NOT, "can be made free"),
        )

    def test_another_card_makes_room(self):
        there = [("net card", "2", "uses\n J1: irq 10, 12; now 10")]
        row = self.row("interrupt", "uses\n J4: irq 10; now 10", fitted=there)
        self.assertEqual((row.answer, row.does), (WITH, "net card: J1 to 12"))
        stuck = self.row(
            "interrupt", "uses\n J4: irq 10; now 10", fitted=[("net card", "2", "uses\n J1: irq 10; now 10")]
        )
        self.assertEqual(stuck.answer, NOT)

    def test_two_that_share_need_no_room(self):
        there = [("net card", "2", "uses\n J1: irq 10; now 10; shared yes")]
        self.assertEqual(self.row("interrupt", "uses\n J4: irq 10; now 10; shared yes", fitted=there).answer, FITS)

    def test_what_is_set_on_a_fitted_card_is_asked_for(self):
        row = self.row("interrupt", JUMPER, fitted=[("net card", "2", "uses\n J1: irq 10, 12")])
        self.assertEqual(row.answer, UNKNOWN)
        self.assertEqual([(one.group, one.of) for one in row.asks], [("uses", "net card")])


class Outside(InDetail):
    def test_a_port(self):
        self.check(
            ("port", KEYS, D, FITS, "into keyboard"),
            ("port", said(KEYS, "keyboard AT", "keyboard XT"), D, NOT, "that it sometimes answers proves nothing"),
            ("port", said(KEYS, "5-pin DIN", "6-pin mini DIN"), D, NOT, "no adapter from 5-pin DIN"),
            ("port", said(KEYS, "; plug 5-pin DIN", ""), D, UNKNOWN, "find out"),
            ("port", KEYS, said(D, "protocol keyboard AT; ", ""), UNKNOWN, "find out"),
        )
        taken = self.row("port", KEYS, fitted=[("old keyboard", "keyboard", "")])
        self.assertEqual((taken.answer, taken.does), (WITH, "old keyboard out of keyboard"))
        self.assertEqual(self.row("port", KEYS).last, "free keyboard AT port")

    def test_a_screen_that_could_be_destroyed(self):
        fast = said(D, "line 15.734", "line 31.469")
        row = self.row("picture", SCREEN, fast)
        self.assertEqual(row.answer, NOT)
        self.assertIn("don’t switch on", row.hazard)
        # One that is known to bear it only does not lock; one of which nobody knows is treated like a fixed one.
        self.assertEqual(self.row("picture", said(SCREEN, "fixed yes", "fixed no"), fast).hazard, "")
        self.assertTrue(self.row("picture", said(SCREEN, "; fixed yes", ""), fast).hazard)

    def test_a_picture(self):
        self.check(
            ("picture", SCREEN, D, FITS, "locks"),
            ("picture", said(SCREEN, "field 55 to 61", "field 49 to 51"), D, NOT, "the picture rolls"),
            ("picture", said(SCREEN, "; field 55 to 61", ""), D, UNKNOWN, "before it is switched on"),
            ("picture", SCREEN, said(D, "line 15.734; ", ""), UNKNOWN, "before it is switched on"),
            ("picture", said(SCREEN, "; signals RGBI", ""), D, UNKNOWN, "look at both plugs"),
            (
                "picture",
                said(SCREEN, "plug 9-pin D; signals RGBI", "plug phono; signals composite"),
                D,
                NOT,
                "no way from",
            ),
        )

    def test_through_a_converter_that_changes_the_rates(self):
        vga = said(SCREEN, "plug 9-pin D; signals RGBI; line 15.6 to 15.8", "plug 15-pin D; signals RGB; line 31 to 32")
        box = "goes in 9-pin D/RGBI; comes out 15-pin D/RGB; line out 31.469; field out 59.94; loss a frame late"
        row = self.row("picture", vga, ways=ways(("doubler", box, "40")))
        self.assertEqual((row.answer, row.does), (WITH, "doubler (a frame late)"))
        plain = "goes in 9-pin D/RGBI; comes out 15-pin D/RGB"
        straight = self.row("picture", vga, ways=ways(("cable", plain, "4")))
        self.assertEqual((straight.answer, bool(straight.hazard)), (NOT, True))
