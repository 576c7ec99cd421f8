"""What fits together in one machine, place by place, and against every way to put cards into slots."""

from collections.abc import Sequence
from itertools import product
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st
from ortools.sat.python import cp_model

from core.catalogue.fit.answers import Verdict
from core.catalogue.fit.machine import Machine
from core.catalogue.fit.needs import Needs
from core.catalogue.fit.schema import read_sheet
from core.workshop.upgrades.candidates import Candidate, Part
from core.workshop.upgrades.room import Room
from tests.core.fit_examples import machine
from tests.core.test_upgrades import HERE, card, disk

FITS = Verdict(())


def candidate(needs: Needs | str, name: str = "card", out: Sequence[int] = (), count: int = 1) -> Candidate:
    needs = read_sheet(Needs, needs) if isinstance(needs, str) else needs
    return Candidate(name, Part(name, needs, ()), FITS, FITS, 10, count, out=frozenset(out))


def together(there: Machine, *several: Candidate | Needs | str, maybe: bool = False) -> bool:
    """Whether all of these go in together."""
    model = cp_model.CpModel()
    some = [one if isinstance(one, Candidate) else candidate(one) for one in several]
    room = Room(model, there, some, maybe)
    for picked in room.picked:
        model.add(picked == 1)
    solver = cp_model.CpSolver()
    solver.parameters.num_workers = 1
    return solver.solve(model) == cp_model.OPTIMAL


def only(text: str) -> str:
    """A machine that has this, and of all else nothing, or nothing that anybody said."""
    unsaid = ("slots", "sockets", "buses", "bays", "rails", "connectors", "ports")
    return text + "".join(f"\n{group} none" for group in unsaid if f"{group}\n" not in text)


CARD = "cards\n  card: bus 8-bit; length 100; height 90"
WIDE = CARD + "; wide yes"


class Slots(TestCase):
    def test_as_many_as_there_are(self):
        there = machine(only("slots\n  1: bus 8-bit; length 340; height 107\n  2: bus 8-bit; length 340; height 107"))
        self.assertTrue(together(there, CARD, CARD))
        self.assertFalse(together(there, CARD, CARD, CARD))

    def test_one_whose_bus_nobody_said_is_a_place_only_as_a_may_be(self):
        there = machine(only("slots\n  1: length 340; height 107"))
        self.assertFalse(together(there, CARD))
        self.assertTrue(together(there, CARD, maybe=True))

    def test_where_nobody_said_which_slots_there_are_nothing_is_held_against_it(self):
        self.assertTrue(together(machine("buses none"), CARD, CARD))

    def test_what_sits_there_stays_unless_it_comes_out(self):
        there = machine(only("slots\n  1: bus 8-bit; length 340; height 107"), [("Old card", "1", CARD)])
        self.assertFalse(together(there, CARD))
        self.assertTrue(together(there, candidate(CARD, out=[0])))

    def test_what_comes_out_does_so_for_one_thing(self):
        text = only("slots\n  1: bus 8-bit; length 340; height 107\n  2: bus 8-bit; length 340; height 107")
        there = machine(text, [("Old card", "1", CARD)])
        new = candidate(CARD, out=[0])
        self.assertTrue(together(there, new, CARD))
        self.assertFalse(together(there, new, candidate(CARD, "other", out=[0])))

    def test_two_that_were_written_down_at_one_place_take_one(self):
        text = only("slots\n  1: bus 8-bit; length 340; height 107\n  2: bus 8-bit; length 340; height 107")
        there = machine(text, [("Card", "1", CARD), ("Daughter board", "1", "")])
        self.assertTrue(together(there, CARD))
        self.assertFalse(together(there, CARD, CARD))

    def test_a_slot_that_is_added_comes_with_what_adds_it(self):
        there = machine(only("slots\n  1: bus 8-bit; length 340; height 107"))
        riser = CARD + "\nslots\n  a: bus 8-bit; length 340; height 107\n  b: bus 8-bit; length 340; height 107"
        self.assertTrue(together(there, riser, CARD, CARD))
        self.assertFalse(together(there, riser, CARD, CARD, CARD))
        self.assertFalse(together(there, CARD, CARD))

    def test_a_wide_one_takes_the_next_opening(self):
        text = only("".join(["slots", *(f"\n  {n}: bus 8-bit; length 340; height 107" for n in (1, 2, 3))]))
        self.assertTrue(together(machine(text), WIDE, CARD))
        self.assertTrue(together(machine(text), WIDE, CARD, CARD), "the last has none beside it")
        self.assertFalse(together(machine(text), WIDE, WIDE, CARD))
        self.assertFalse(together(machine(text, [("In two", "2", CARD), ("In three", "3", CARD)]), WIDE))

    def test_two_slots_with_one_opening(self):
        text = only(
            "slots\n  1: bus 16-bit; length 340; height 107; shares 2\n  2: bus 8-bit; length 340; height 107"
            "\n  3: bus 8-bit; length 340; height 107"
        )
        self.assertTrue(together(machine(text), CARD, CARD))
        self.assertFalse(together(machine(text), CARD, CARD, CARD))
        self.assertTrue(together(machine(text, [("In two", "2", CARD)]), CARD))
        self.assertFalse(together(machine(text, [("In two", "2", CARD), ("In three", "3", CARD)]), CARD))
        self.assertTrue(
            together(machine(text, [("In two", "2", CARD), ("In three", "3", CARD)]), candidate(CARD, out=[0]))
        )

    slot = st.tuples(st.sampled_from(["8-bit", "16-bit"]), st.booleans(), st.sampled_from([None, "", "wide"]))
    wanted = st.tuples(st.sampled_from(["8-bit", "16-bit"]), st.booleans())

    @given(st.lists(slot, min_size=1, max_size=4), st.lists(wanted, min_size=1, max_size=4))
    @settings(max_examples=60, deadline=None)
    def test_against_every_way_to_put_them_in(self, slots, cards):
        """Slots: bus, whether its opening is that of the next one too, and what sits in it (an 8-bit card, or none)."""
        last = len(slots)
        shares = [shared and n < last - 1 for n, (_, shared, _) in enumerate(slots)]
        text = "slots" + "".join(
            f"\n  s{n}: bus {bus}; length 340; height 107" + (f"; shares s{n + 1}" if shares[n] else "")
            for n, (bus, _, _) in enumerate(slots)
        )
        sits = [n for n, (_, _, inside) in enumerate(slots) if inside is not None]
        there = machine(only(text), [(f"Card in {n}", f"s{n}", CARD) for n in sits])
        asked = [f"cards\n  c: bus {bus}; length 100; height 90; wide {'yes' if w else 'no'}" for bus, w in cards]

        def goes(at: Sequence[int]) -> bool:
            if len(set(at)) < len(at) or set(at) & set(sits):
                return False
            for place, (bus, wide) in zip(at, cards, strict=True):
                if bus == "16-bit" and slots[place][0] == "8-bit":
                    return False
                if wide and place + 1 < last and place + 1 in {*at, *sits}:
                    return False
            new, all_in = set(at), {*at, *sits}
            # Of two that share an opening one may be filled; what sits in both already stays.
            return not any(shares[n] and {n, n + 1} <= all_in and {n, n + 1} & new for n in range(last - 1))

        expected = any(goes(at) for at in product(range(last), repeat=len(cards)))
        self.assertEqual(together(there, *asked), expected)


class Drives(TestCase):
    def test_no_more_than_the_bus_takes(self):
        there = machine(HERE)
        self.assertTrue(together(there, disk(), disk()))
        bays = HERE.replace("  upper:", "  middle: size 3.5 inch; height 41.3; length 203; rails yes\n  upper:")
        self.assertFalse(together(machine(bays), disk(), disk(), disk()), "the bus has two places")

    def test_no_more_than_there_are_bays(self):
        there = machine(HERE.replace("  upper: size 3.5 inch; height 41.3; length 203; rails yes\n", ""))
        self.assertTrue(together(there, disk()))
        self.assertFalse(together(there, disk(), disk()))

    def test_a_bus_that_has_too_many_takes_no_more_and_one_for_another_goes(self):
        text = "drives\n  d: interface ATA 16-bit; plug 40-way; bay 3.5 inch; height 25; length 146; size 40 MB; rate 1"
        old = [(f"Disk {n}", at, text) for n, at in enumerate(("lower", "", ""))]
        there = machine(HERE, old)
        self.assertFalse(together(there, disk()))
        self.assertTrue(together(there, candidate(disk(), out=[1])))

    def test_another_plug_is_no_place(self):
        self.assertFalse(together(machine(HERE), disk(more="SCSI 8-bit; plug 50-way")))


class Plugs(TestCase):
    WIRE = "wires\n  w: protocol keyboard AT; plug 5-pin DIN"

    def test_one_in_each_port(self):
        self.assertTrue(together(machine(HERE), self.WIRE))
        self.assertFalse(together(machine(HERE), self.WIRE, self.WIRE))
        self.assertFalse(together(machine(HERE), self.WIRE.replace("keyboard AT", "keyboard XT")))
        self.assertTrue(
            together(machine(HERE.replace("ports\n  keyboard: protocol keyboard AT; plug 5-pin DIN\n", "")), self.WIRE)
        )

    def test_a_port_that_a_card_brings(self):
        brings = CARD + "\nports\n  more: protocol keyboard AT; plug 5-pin DIN"
        self.assertTrue(together(machine(HERE), self.WIRE, self.WIRE, brings))

    def test_as_many_connectors_as_there_are_and_splitters_add(self):
        takes = "takes\n  drive: count 1"
        self.assertTrue(together(machine(HERE), takes, takes))
        self.assertFalse(together(machine(HERE), takes, takes, takes))
        splitter = "takes\n  drive: count 1\nconnectors\n  drive: count 2"
        self.assertTrue(together(machine(HERE), takes, takes, takes, splitter))
        self.assertFalse(together(machine(HERE), takes, takes, takes, takes, splitter))

    def test_several_alike_take_as_many(self):
        takes = "takes\n  drive: count 1"
        self.assertTrue(together(machine(HERE), candidate(takes, count=2)))
        self.assertFalse(together(machine(HERE), candidate(takes, count=3)))

    def test_more_in_use_than_there_are_was_split_by_somebody_and_takes_no_more(self):
        takes = "takes\n  drive: count 1"
        there = machine(HERE, [(f"Drive {n}", "", takes) for n in range(3)])
        self.assertFalse(together(there, takes))
        self.assertTrue(together(there, candidate(takes, out=[0])))
        self.assertTrue(together(there, CARD), "what takes none is not held up by it")


class Power(TestCase):
    def draws(self, amps: str, volts: str = "+5", more: str = "") -> str:
        return f"draws\n  {volts}: amps {amps}{f'; more at start {more}' if more else ''}"

    def test_a_rail_runs_at_four_fifths_and_starts_at_all_of_it(self):
        """+5 V: 10 A, the board takes 3: 5 A are left running (80 %), 7 A at the start."""
        there = machine(HERE)
        self.assertTrue(together(there, self.draws("5")))
        self.assertFalse(together(there, self.draws("5.1")))
        self.assertTrue(together(there, self.draws("3"), self.draws("2", more="2")))
        self.assertFalse(together(there, self.draws("3"), self.draws("2", more="2.1")))

    def test_what_comes_out_gives_back_what_it_drew(self):
        there = machine(HERE, [("Old card", "1", CARD + "\n" + self.draws("4"))])
        self.assertFalse(together(there, self.draws("4")))
        self.assertTrue(together(there, candidate(self.draws("4"), out=[0])))

    def test_a_rail_that_is_overloaded_as_it_is_takes_nothing_more(self):
        there = machine(HERE, [("Hungry card", "1", CARD + "\n" + self.draws("6"))])
        self.assertFalse(together(there, self.draws("0.1")))
        self.assertTrue(together(there, self.draws("0.1", "+12")))

    def test_all_rails_together_stay_within_the_watts(self):
        """HERE: 3 A at 5 V and 0.5 A at 12 V are 21 W; 5 A and 2.7 A more would be 78.4 W, within the 150."""
        small = HERE.replace("watts 150", "watts 60")
        both = [self.draws("5"), self.draws("2.7", "+12")]
        self.assertTrue(together(machine(HERE), *both))
        self.assertFalse(together(machine(small), *both))
        self.assertTrue(together(machine(small), both[0]))


class Settings(TestCase):
    def test_set_so_that_none_is_in_anothers_way(self):
        self.assertTrue(together(machine(HERE), card(irq="5, 7"), card(irq="5")))
        self.assertFalse(together(machine(HERE), card(irq="5"), card(irq="5")))

    def test_what_is_built_in_is_not_to_be_had(self):
        """The clock of HERE has interrupt 8."""
        self.assertFalse(together(machine(HERE), card(irq="8")))
        self.assertTrue(together(machine(HERE), card(irq="8, 9")))

    def test_a_card_that_is_in_can_be_set_otherwise_or_comes_out(self):
        uses = CARD + "\nuses\n  J1: irq 5{}; now 5"
        can = machine(HERE, [("Old card", "1", uses.format(", 7"))])
        can_not = machine(HERE, [("Old card", "1", uses.format(""))])
        self.assertTrue(together(can, card(irq="5")))
        self.assertFalse(together(can_not, card(irq="5")))
        self.assertTrue(together(can_not, candidate(card(irq="5"), out=[0])))

    def test_where_they_stand_in_each_others_way_already_nothing_of_the_kind_goes_in(self):
        uses = CARD + "\nuses\n  J1: irq 5; now 5"
        there = machine(HERE, [("One", "1", uses), ("Two", "2", uses)])
        self.assertFalse(together(there, card(irq="7", length=150)))
        self.assertTrue(together(there, CARD))


class Others(TestCase):
    def test_what_does_nothing_without_another_part_wants_it_in(self):
        wants = CARD + "\nchanges\n  it: reversible yes; modern no; wants Host card"
        self.assertFalse(together(machine(HERE), wants))
        self.assertTrue(together(machine(HERE), wants, candidate(CARD, "Host card")))
        self.assertTrue(together(machine(HERE, [("host card", "1", CARD)]), wants))

    def test_one_processor_a_socket(self):
        chip = "processors\n  p: kind 168-pin; volts 5; bus 25, 33; multiplier 1; most 33; watts 5; height 10"
        other = chip.replace("168-pin", "132-pin")
        self.assertTrue(together(machine(HERE), chip))
        self.assertFalse(together(machine(HERE), chip, chip))
        self.assertTrue(together(machine(HERE), chip, other), "of another socket the rules say what there is")
        two = HERE.replace(
            "firmware none", "  second: kind 168-pin; volts 5; bus 25; multipliers 1; watts 10; clear 22\nfirmware none"
        )
        self.assertTrue(together(machine(two), chip, chip))

    def test_nothing_asked_for_always_fits(self):
        self.assertTrue(together(machine(HERE)))
