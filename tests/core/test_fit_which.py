"""Which of several parts does most for a use, and what limits a machine."""

import unittest
from decimal import Decimal

from core.catalogue.fit.answers import Answer
from core.catalogue.fit.bottleneck import PURPOSES, compared, sentence, slot_rates
from core.catalogue.fit.which import ranked, with_part
from tests.core.fit_examples import D, machine, needs, said
from tests.core.test_fit_rules import CARD, CHIP, DISK, FITS, STICK, UNKNOWN

PERIOD, GAMES = PURPOSES[0], PURPOSES[1]
REST = "\nuses none\ndraws\n +5: amps 0.1"
OLD = said(CHIP, "bus 33; multiplier 2; most 66", "bus 33; multiplier 1; most 33") + "\ndraws\n +5: amps 1"
FAST = CHIP + "\ndraws\n +5: amps 1"


class WhichOfMine(unittest.TestCase):
    def there(self, *more):
        inside = [("old", "processor", OLD), ("m1", "A1", STICK + REST), ("m2", "A2", STICK + REST), *more]
        return machine(fitted=inside)

    def test_the_card_with_more_goes_before_the_same_with_less(self):
        cards = {
            f"{size} KiB": needs(said(CARD, "fastest 10", f"fastest 10; display {size} KiB") + REST)
            for size in (256, 512, 1024)
        }
        found = ranked(self.there(("disk", "lower", said(DISK, "id 1", "id 1; rate 2") + REST)), GAMES, cards.items())
        self.assertEqual([one.key for one in found], ["1024 KiB", "512 KiB", "256 KiB"])
        self.assertEqual(found[0].words, "display memory 256 KiB → 1 MiB")
        self.assertEqual((found[0].lifts, found[1].lifts), (0.5, 0.5))
        self.assertEqual(found[2].words, "adds nothing for this use")

    def test_a_processor_takes_the_place_of_the_one_there(self):
        (found,) = ranked(self.there(), GAMES, [("fast", needs(FAST))])
        self.assertEqual(found.words, "processor 33 MHz → 66 MHz")
        self.assertEqual(len(with_part(self.there(), needs(FAST)).fitted), 3)

    def test_what_does_not_fit_comes_last_and_changes_nothing(self):
        wrong = needs(said(CARD, "bus 16-bit", "bus PCI 32").replace("fastest 10", "fastest 10; display 4 MiB") + REST)
        right = needs(said(CARD, "fastest 10", "fastest 10; display 512 KiB") + REST)
        found = ranked(self.there(), GAMES, [("wrong", wrong), ("right", right)])
        self.assertEqual([one.key for one in found], ["right", "wrong"])
        self.assertEqual((found[1].verdict.answer, found[1].changed), (Answer.NOT, ()))

    def test_the_same_is_faster_on_no_slower_bus(self):
        """A drive faster than its bus adds nothing; the numbers say so."""
        disk = said(DISK, "id 1", "id 1; rate 8") + REST
        slow = ("disk", "lower", said(DISK, "id 1", "id 0; rate 3.3") + REST)
        (found,) = ranked(self.there(slow), PERIOD, [("fast", needs(disk))])
        self.assertEqual(found.words, "adds nothing for this use")

    def test_what_is_not_known_of_a_part_does_not_hide_what_it_would_do(self):
        useful = needs(said(CARD, "fastest 10", "fastest 10; display 1 MiB").replace("length 162; ", "") + REST)
        found = ranked(self.there(), GAMES, [("plain", needs(CARD + REST)), ("useful", useful)])
        self.assertEqual([(one.key, one.verdict.answer) for one in found], [("useful", UNKNOWN), ("plain", FITS)])

    def test_what_nobody_would_notice_is_no_gain(self):
        # 1.01 of it against 1.02: no part is better for that.
        there = self.there(("disk", "disk port", said(DISK, "id 1", "id 1; rate 1.01") + REST))
        (one,) = ranked(there, GAMES, [("other", needs(said(DISK, "id 1", "id 0; rate 1.02") + REST))])
        self.assertEqual(one.changed, ())
        self.assertIn("nothing anybody would notice: drive 1.01 MB/s → 1.02 MB/s", one.words)
        (one,) = ranked(there, GAMES, [("other", needs(said(DISK, "id 1", "id 0; rate 1.2") + REST))])
        self.assertEqual(one.words, "drive 1.01 MB/s → 1.2 MB/s")

    def test_what_limits_it_is_said_with_its_numbers(self):
        limits = compared(self.there(("disk", "disk port", said(DISK, "id 1", "id 1; rate 8") + REST)), GAMES)
        self.assertEqual(limits[0].what, "display memory")
        self.assertIn("256 KiB of 512 KiB", sentence(limits))
        drive = next(one for one in limits if one.what == "drive")
        self.assertEqual(drive.words, "a faster drive adds nothing: the bus gives 3.3 MB/s")
        self.assertIn("Not known: processor, memory, drive", sentence(compared(machine(whole=None), GAMES)))
        # Once somebody said that all that is in it is written down, empty sockets are empty.
        self.assertIn("The memory: 0 B of 4 MiB", sentence(compared(machine(), GAMES)))
        self.assertEqual(dict(slot_rates(machine(D)))["2"], 8.0)
        self.assertEqual(Decimal("33"), GAMES.processor)
