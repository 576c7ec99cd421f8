"""What an upgrade is worth: features, buyers, the best set against an independent search, other ways for a thing."""

import unittest
from dataclasses import replace
from decimal import Decimal

from core.catalogue.fit.answers import Answer
from core.catalogue.fit.kinds import Origin
from core.catalogue.fit.needs import Needs, checked_needs
from core.catalogue.fit.schema import FitError, read_sheet
from core.machine.approach import Approach
from core.workshop.upgrades.best import Limits, Worth, only_together, pays_most
from core.workshop.upgrades.buyers import SHIPPED, Buyer, BuyerError, read_effects, write_effects
from core.workshop.upgrades.candidates import Kind, Part, Source, UpgradeError, candidates_of, minutes_to_fit
from core.workshop.upgrades.features import Feature, FeatureError, Measure, has, read_feature
from core.workshop.upgrades.instead import alternatives
from tests.core.fit_examples import machine

HERE = """
slots
  1: bus 8-bit; clock 8; length 340; height 107
  2: bus 16-bit; clock 8; length 340; height 107
  3: bus 16-bit; clock 8; length 160; height 107
sockets
  processor: kind 168-pin; volts 5; bus 25, 33; bus now 25; multipliers 1, 2; watts 10; clear 22
firmware none
board
  board: soldered 0 MiB; most 16 MiB; group 2; matched no; volts 5; slowest 80; parity no; display 256 KiB; \
display most 1 MiB
modules
  A1: kind 72-pin; bank A; turn 1; largest 4 MiB; clear 30
  A2: kind 72-pin; bank A; turn 1; largest 4 MiB; clear 30
  B1: kind 72-pin; bank B; turn 2; largest 4 MiB; clear 30
  B2: kind 72-pin; bank B; turn 2; largest 4 MiB; clear 30
buses
  disk port: interface ATA 16-bit; plug 40-way; units 2; bootable yes; largest 504 MiB; rate 3.3
bays
  lower: size 3.5 inch; height 41.3; length 203; rails yes
  upper: size 3.5 inch; height 41.3; length 203; rails yes
rails
  +5: amps 10; least 1; board 3
  +12: amps 4; board 0.5
supply
  supply: watts 150; feed AC; volts 220 to 240
connectors
  drive: count 2
ports
  keyboard: protocol keyboard AT; plug 5-pin DIN
devices
  clock: irq 8
removals none
disks none
"""
CHANGES = "\nchanges\n  it: reversible yes; modern no"


def needs(text: str, brings: str = "none", changes: str = CHANGES) -> Needs:
    said = f"\nbrings\n  {brings}: words so" if brings != "none" else "\nbrings none"
    return read_sheet(Needs, text + changes + said)


def card(amps: str = "0.5", irq: str = "", brings: str = "none", bus: str = "8-bit", length: int = 150) -> Needs:
    uses = f"uses\n  J1: irq {irq}; now {irq.split(', ')[0]}" if irq else "uses none"
    text = f"cards\n  card: bus {bus}; length {length}; height 99; fastest 10\n{uses}\ndraws\n  +5: amps {amps}"
    return needs(text, brings)


def disk(size: str = "100 MB", brings: str = "none", more: str = "ATA 16-bit; plug 40-way") -> Needs:
    text = (
        f"drives\n  d: interface {more}; bay 3.5 inch; height 25; length 146; size {size}; rate 1"
        "\ndraws\n  +5: amps 0.4\n  +12: amps 0.4; more at start 1\ntakes\n  drive: count 1"
    )
    return needs(text, brings)


MODULE = (
    "modules\n  m: kind 72-pin; size 2 MiB; speed 70; parity no; volts 5; height 25; make K2\ndraws\n  +5: amps 0.1"
)
HOST = (
    "cards\n  card: bus 8-bit; length 150; height 99; fastest 10\nuses none\ndraws\n  +5: amps 0.5\n"
    "buses\n  SCSI: interface SCSI 8-bit; plug 50-way; units 7; bootable yes; largest 4 GiB; ends no; rate 1"
)


def part(name: str, what: Needs, each: str = "10", most: int = 4) -> Part:
    return Part(name, what, (Source(Kind.DRAWER, "drawer A", Decimal(each), most=most),))


def sold_by(name: str, what: Needs, each: str, postage: str, free_from: str | None = None) -> Part:
    free = Decimal(free_from) if free_from else None
    return Part(name, what, (Source(Kind.SELLER, "Quay", Decimal(each), 1, None, "Quay", Decimal(postage), free),))


def buyer(*effects: str) -> Buyer:
    return Buyer("some", "Some", "", read_effects("\n".join(effects)))


def worth(parts: list[Part], price: str = "200", hourly: str = "0", there=None) -> Worth:
    there = there or machine(HERE)
    return Worth(there, candidates_of(there, parts), Decimal(price), Decimal(hourly))


class Features(unittest.TestCase):
    def test_named_and_measured(self):
        self.assertEqual(read_feature(" Sound  card "), Feature("sound card"))
        self.assertEqual(str(read_feature("Sound")), "Sound")
        self.assertEqual(read_feature("memory 8 MiB"), Feature("memory 8 mib", Measure.MEMORY, Decimal(8 * 2**20)))
        self.assertEqual(read_feature("display memory 512 KiB").measure, Measure.DISPLAY)
        self.assertEqual(read_feature("disk 100 MB").least, 100_000_000)
        self.assertEqual(read_feature("processor 33 MHz").least, 33)
        self.assertEqual(read_feature("disk"), Feature("disk", Measure.DISK, Decimal(1)))
        # "memory card" is a thing, not so much memory.
        self.assertIsNone(read_feature("memory card").measure)

    def test_bad_ones_are_named(self):
        for typed, words in (
            ("", "1 to 40"),
            ("x" * 41, "1 to 40"),
            ("memory 8 apples", "say how much"),
            ("processor 0", "above 0"),
            ("processor 4x", "say how much"),
        ):
            with self.assertRaises(FeatureError, msg=typed) as caught:
                read_feature(typed)
            self.assertIn(words, str(caught.exception))

    def test_what_nobody_said_is_not_known_and_never_no(self):
        sound = read_feature("sound")
        self.assertIs(has(machine(HERE), sound), False)
        self.assertIsNone(has(machine(HERE, whole=None), sound))
        unsaid = machine(HERE, [("Some card", "1", "draws none\nuses none")])
        self.assertIsNone(has(unsaid, sound))
        there = machine(HERE, [("Sound card", "1", "draws none\nuses none\nbrings\n  sound: words so")], whole=None)
        self.assertIs(has(there, sound), True)

    def test_what_follows_from_what_a_part_changes(self):
        modern = machine(HERE, [("Disk", "lower", "draws none\nchanges\n  it: reversible no; modern yes\nbrings none")])
        self.assertTrue(has(modern, read_feature("modern part")))
        self.assertTrue(has(modern, read_feature("changed for good")))
        unsaid = machine(HERE, [("Disk", "lower", "draws none\nchanges\n  it: reversible no\nbrings none")])
        self.assertIsNone(has(unsaid, read_feature("modern part")))

    def test_measures_of_the_machine(self):
        self.assertIs(has(machine(HERE), read_feature("memory 1 MiB")), False)
        self.assertIsNone(has(machine(HERE, whole=None), read_feature("memory 1 MiB")))
        self.assertIs(has(machine(HERE), read_feature("display memory 256 KiB")), True)
        self.assertIs(has(machine(HERE), read_feature("disk")), False)
        self.assertIsNone(has(machine(HERE), read_feature("processor 20 MHz")))


class Buyers(unittest.TestCase):
    def test_a_table_goes_round(self):
        typed = "sound: +22 %\nmodern part: -12.5 %\nnetwork: +25\nmemory 8 MiB: +9 %"
        self.assertEqual(write_effects(read_effects(typed)), typed)
        for one in SHIPPED.values():
            self.assertEqual(read_effects(write_effects(one.effects)), one.effects)

    def test_percent_of_the_price_or_an_amount(self):
        sound, network = read_effects("sound: 22 %\nnetwork: −25")
        self.assertEqual((sound.at(Decimal(150)), network.at(Decimal(150))), (Decimal("33.00"), Decimal(-25)))

    def test_what_is_wrong_is_named_with_its_line(self):
        for typed, line, words in (
            ("", 0, "looks for nothing"),
            ("\n \n", 0, "looks for nothing"),
            ("sound", 1, "a colon"),
            ("sound: 3 %\nsound: 4 %", 2, "twice"),
            ("sound: many", 1, "percent or an amount"),
            ("sound: -120 %", 1, "from -100"),
            ("sound: 999999", 1, "at most"),
            ("memory 8 apples: 3 %", 1, "say how much"),
            ("\n".join(f"f{n}: 1 %" for n in range(61)), 0, "60 features"),
        ):
            with self.assertRaises(BuyerError, msg=typed[:20]) as caught:
                read_effects(typed)
            self.assertEqual(caught.exception.line, line)
            self.assertIn(words, str(caught.exception))


class OneUpgrade(unittest.TestCase):
    def test_adds_nothing_takes_away_and_not_known(self):
        parts = [
            part("Sound card", card(brings="sound")),
            part("Plain card", card()),
            part("Accelerator", card(brings="too fast")),
            part("Unsaid card", read_sheet(Needs, "cards\n card: bus 8-bit; length 150; height 99; fastest 10")),
        ]
        there, some = worth(parts), buyer("sound: 20 %", "too fast: -10 %")
        said = {one.name: there.for_buyer(one, some) for one in there.candidates}
        self.assertEqual(
            {name: one.adds for name, one in said.items()},
            dict.fromkeys(said) | {"Sound card": Decimal("40.00"), "Plain card": 0, "Accelerator": Decimal("-20.00")},
        )
        self.assertEqual(
            [said[name].words for name in ("Sound card", "Plain card", "Accelerator", "Unsaid card")],
            ["", "nothing", "takes away", "not known"],
        )
        self.assertEqual(said["Unsaid card"].asks, ("what it brings a buyer",))

    def test_what_the_machine_has_already_adds_nothing(self):
        sound = (
            "cards\n c: bus 8-bit; length 150; height 99; fastest 10\nuses none\ndraws none\nbrings\n sound: words so"
        )
        there = worth([part("Sound card", card(brings="sound"))], there=machine(HERE, [("Old", "1", sound + CHANGES)]))
        self.assertEqual(there.for_buyer(there.candidates[0], buyer("sound: 20 %")).adds, 0)

    def test_unknown_of_the_machine_is_asked_for(self):
        there = worth([part("Sound card", card(brings="sound"))], there=machine(HERE, whole=None))
        said = there.for_buyer(there.candidates[0], buyer("sound: 20 %"))
        self.assertIsNone(said.adds)
        self.assertEqual(said.asks, ("whether the machine has sound now",))
        self.assertIn("find out", there.why_left_out(there.candidates[0], buyer("sound: 20 %"), Limits(maybe=True)))

    def test_minutes_as_the_sheet_has_them_else_as_usual(self):
        self.assertEqual(minutes_to_fit(card()), 15)
        slow = read_sheet(Needs, "cards\n c: bus 8-bit\nchanges\n it: minutes 45")
        self.assertEqual(minutes_to_fit(slow), 45)
        self.assertEqual(minutes_to_fit(Needs()), 10)

    def test_memory_goes_in_by_groups_and_says_how_much_it_makes(self):
        there = worth([part("Module", needs(MODULE))])
        self.assertEqual([(one.count, one.filling.size // 2**20) for one in there.candidates], [(2, 4), (4, 8)])
        some = buyer("memory 4 MiB: 10 %", "memory 8 MiB: 5 %")
        self.assertEqual([there.for_buyer(one, some).adds for one in there.candidates], [20, 30])

    def test_only_as_many_as_there_are(self):
        there = worth([part("Module", needs(MODULE), most=3)])
        four = there.candidates[1]
        self.assertIsNone(four.cheapest)
        self.assertEqual(there.why_left_out(four, buyer("memory 8 MiB: 5 %")), "only 3 to be had in one place")


class TheSet(unittest.TestCase):
    def test_what_pays_and_fits(self):
        parts = [part("Sound card", card(brings="sound"), "12"), part("Net card", card(brings="network"), "50")]
        best = worth(parts, hourly="20").best(buyer("sound: 20 %", "network: 10 %"))
        self.assertEqual(best.keys, ("Sound card",))
        self.assertEqual((best.adds, best.parts, best.labour, best.left), (40, 12, 5, 23))
        self.assertTrue(best.proven)

    def test_two_that_pay_only_together(self):
        parts = [
            part("SCSI card", needs(HOST), "10"),
            part("SCSI disk", disk("200 MB", "quiet", "SCSI 8-bit; plug 50-way; terminated yes"), "10"),
        ]
        there, some = worth(parts), buyer("disk 100 MB: 15 %")
        best = there.best(some)
        self.assertEqual(set(best.keys), {"SCSI card", "SCSI disk"})
        self.assertEqual(only_together(there, best), {"SCSI card": ("SCSI disk",), "SCSI disk": ("SCSI card",)})
        with self.assertRaisesRegex(UpgradeError, "do not fit together"):
            there.best(some, only=["SCSI disk"])
        self.assertIs(there.candidates[1].alone.answer, Answer.NOT)
        self.assertIsNot(there.candidates[1].at_best.answer, Answer.NOT)

    def test_a_splitter_is_a_part(self):
        inside = [("Disk", "lower", "draws none\ntakes\n  drive: count 2\nbrings none" + CHANGES)]
        parts = [part("New disk", disk(), "10")]
        some = buyer("disk 100 MB: 20 %")
        self.assertEqual(worth(parts, there=machine(HERE, inside)).best(some).keys, ())
        splitter = needs("takes\n  drive: count 1\ndraws none\nconnectors\n  drive: count 2")
        # One drive connector has to be free for it.
        inside = [("Disk", "lower", "draws none\ntakes\n  drive: count 1\nbrings none" + CHANGES)]
        two = [part("Disk A", disk(brings="a")), part("Disk B", disk(brings="b")), part("Splitter", splitter, "1")]
        wide = HERE.replace("  upper:", "  middle: size 3.5 inch; height 41.3; length 203; rails yes\n  upper:")
        best = worth(two, there=machine(wide, inside)).best(buyer("a: 20 %", "b: 20 %"))
        self.assertEqual(set(best.keys), {"Disk A", "Disk B", "Splitter"})

    def test_what_takes_the_last_says_so(self):
        inside = [("Disk", "lower", "draws none\ntakes\n  drive: count 1\nbrings none" + CHANGES)]
        there = worth([part("New disk", disk())], there=machine(HERE, inside))
        self.assertEqual(there.candidates[0].at_best.lasts, ("free 3.5 inch bay", "drive connector of the supply"))

    def test_a_seller_is_paid_postage_once_and_nothing_from_so_much_on(self):
        parts = [sold_by("A", card(brings="a"), "10", "6"), sold_by("B", card(brings="b"), "10", "6")]
        some = buyer("a: 10 %", "b: 10 %")
        best = worth(parts).best(some)
        self.assertEqual((best.postage, best.parts), (6, 26))
        free = [sold_by("A", card(brings="a"), "10", "6", "20"), sold_by("B", card(brings="b"), "10", "6", "20")]
        self.assertEqual(worth(free).best(some).parts, 20)

    def test_what_wants_another_part_goes_in_with_it(self):
        daughter = needs(
            "draws\n  +5: amps 0.1\ntakes none", "wave", "\nchanges\n  it: reversible yes; modern no; wants Sound card"
        )
        parts = [part("Sound card", card(), "10"), part("Daughter board", daughter, "5")]
        best = worth(parts).best(buyer("wave: 20 %"))
        self.assertEqual(set(best.keys), {"Sound card", "Daughter board"})
        self.assertEqual(worth(parts[1:]).best(buyer("wave: 20 %")).keys, ())

    def test_bad_input_is_named(self):
        for wrong, at in (
            ({"budget": Decimal(-1)}, "budget"),
            ({"minutes": -1}, "minutes"),
            ({"minutes": 10**6}, "minutes"),
        ):
            with self.assertRaises(UpgradeError) as caught:
                Limits(**wrong)
            self.assertEqual(caught.exception.at, at)
        with self.assertRaisesRegex(FitError, "can’t want itself"):
            checked_needs(read_sheet(Needs, "changes\n  it: wants sound CARD"), "Sound card")
        with self.assertRaisesRegex(UpgradeError, "twice"):
            worth([part("A", card()), part("A", card())])

    def test_no_answer_in_time_is_no_set_and_says_what_there_may_be(self):
        parts = [part("Sound card", card(brings="sound"), "12")]
        found = worth(parts).best(buyer("sound: 20 %"), musts=[read_feature("network")], seconds=0)
        self.assertEqual(found.keys, ())
        self.assertFalse(found.proven)
        self.assertGreaterEqual(found.bound, 28)
        self.assertEqual([one.name for one in found.unmet], ["network"])

    def test_musts_are_met_first_and_what_can_t_be_is_said(self):
        parts = [part("Sound card", card(brings="sound"), "90"), part("Net card", card(brings="network"), "5")]
        musts = [read_feature("sound"), read_feature("joystick")]
        best = worth(parts).best(buyer("network: 10 %"), musts=musts)
        self.assertEqual(set(best.keys), {"Sound card", "Net card"})
        self.assertEqual([one.name for one in best.unmet], ["joystick"])
        self.assertEqual(best.left, 20 - 95)

    def test_what_is_not_known_to_fit_is_chosen_only_when_that_is_asked_for(self):
        unsaid = read_sheet(
            Needs,
            "cards\n card: bus 8-bit; length 150; height 99; fastest 10\nuses none\nbrings\n sound: words so" + CHANGES,
        )
        there, some = worth([part("Card", unsaid)]), buyer("sound: 20 %")
        self.assertEqual(there.best(some).keys, ())
        self.assertEqual(there.best(some, Limits(maybe=True)).keys, ("Card",))

    def test_a_processor_takes_the_place_of_the_one_that_is_there(self):
        chip = "processors\n p: kind 168-pin; volts 5; bus 25; multiplier {}; most 50; watts 5; height 9; thick pins no"
        chip += "\ndraws none"
        there = machine(HERE, [("Slow", "processor", chip.format(1) + CHANGES + "\nbrings none")])
        quick = part("Quick", needs(chip.format(2)), "5")
        some = buyer("processor 33 MHz: 10 %")
        self.assertEqual(worth([quick], there=there).best(some).keys, ("Quick",))
        # One that is slower takes the feature away.
        fast = machine(HERE, [("Quick", "processor", chip.format(2) + CHANGES + "\nbrings none")])
        slow = worth([part("Slow", needs(chip.format(1)))], there=fast)
        self.assertEqual(slow.for_buyer(slow.candidates[0], some).adds, -20)

    def test_what_the_rails_give_is_shared(self):
        # 10 A at 80 % are 8 A, of which the board draws 3: two of 2.5 A go in, a third does not.
        parts = [part(f"Card {tag}", card("2.5", "", tag), "1") for tag in "abc"]
        some = buyer("a: 10 %", "b: 10 %", "c: 20 %")
        best = worth(parts).best(some)
        self.assertEqual(len(best.keys), 2)
        self.assertIn("Card c", best.keys)
        # At the start a disk takes more: 4 A of +12 carry no second one beside 0.5 + 1.4 + 1.2 A.
        fan = "draws\n  +12: amps 1.2\nuses none\nbrings none" + CHANGES
        disks = [part("Disk a", disk(brings="a"), "1"), part("Disk b", disk(brings="b"), "1")]
        self.assertEqual(len(worth(disks).best(some).keys), 2)
        self.assertEqual(len(worth(disks, there=machine(HERE, [("Fan", "", fan)])).best(some).keys), 1)

    def test_what_was_written_down_twice_at_a_place_stops_nothing_else(self):
        quiet = "draws none\nuses none\nbrings none" + CHANGES
        drive = "draws none\ntakes\n  drive: count 2\nbrings none" + CHANGES
        there = machine(HERE, [("A", "1", quiet), ("B", "1", quiet), ("C", "lower", drive), ("D", "lower", drive)])
        some = buyer("sound: 20 %", "disk 100 MB: 20 %")
        best = worth([part("Sound card", card(brings="sound")), part("Disk", disk())], there=there).best(some)
        self.assertEqual(best.keys, ("Sound card",))

    def test_who_pays_most(self):
        there = worth([part("Sound card", card(brings="sound"))])
        sets = [there.best(buyer("sound: 10 %")), there.best(buyer("sound: 30 %")), there.best(buyer("sound: -5 %"))]
        self.assertEqual(pays_most(sets), sets[1])
        self.assertIsNone(pays_most([]))


class OtherWays(unittest.TestCase):
    def ways(self, there=None):
        original = read_sheet(
            Needs,
            f"draws none{CHANGES}\nbrings\n its own drive: words so\nserves\n drive: origin original",
        )
        modern = read_sheet(
            Needs,
            "draws none\nchanges\n it: reversible no; modern yes\nbrings none\nserves\n Drive: origin modern",
        )
        unsaid = read_sheet(Needs, "draws none\nwires none\nbrings none\nserves\n drive: ")
        parts = [
            part("Own", original, "40"),
            part("Reader", modern, "15"),
            Part("Unsaid", unsaid, ()),
            part("Other", card()),
        ]
        some = [buyer("its own drive: 10 %", "modern part: -5 %")]
        lifts = {Origin.ORIGINAL: Decimal(30), Origin.MODERN: Decimal(24)}
        return {
            one.candidate.name: one
            for one in alternatives(worth(parts, hourly="30", there=there), "drive", some, lifts)
        }

    def test_each_with_what_it_adds_and_leaves(self):
        found = self.ways()
        self.assertEqual(set(found), {"Own", "Reader", "Unsaid"})
        own, reader = found["Own"].prices[0], found["Reader"].prices[0]
        self.assertEqual((own.adds, own.left), (50, 50 - 40 - 5))
        self.assertEqual((reader.adds, reader.left), (14, 14 - 15 - 5))
        self.assertEqual((found["Own"].cost, found["Unsaid"].cost), (40, None))
        self.assertIsNone(found["Unsaid"].prices[0].adds)

    def test_each_approach_says_what_it_thinks_of_it(self):
        found = self.ways()
        self.assertEqual(
            {one.approach: one.answer for one in found["Reader"].allowed},
            {Approach.CONSERVE: Answer.NOT, Approach.PERIOD: Answer.FITS, Approach.ENHANCED: Answer.FITS}
            | {Approach.PERIOD: Answer.WITH},
        )
        self.assertEqual({one.answer for one in found["Own"].allowed}, {Answer.FITS})
        self.assertIn("undone", found["Reader"].allowed[0].words)

    def test_nobody_known_to_have_one_is_said(self):
        there = worth([Part("Unsaid", card(brings="sound"), ())])
        self.assertEqual(there.why_left_out(there.candidates[0], buyer("sound: 5 %")), "nobody known has one")
        free = replace(there.candidates[0], adapters=None, part=part("X", card()))
        self.assertEqual(free.why_unpriced, "what a converter for it costs is not known")
