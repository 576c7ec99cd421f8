"""What holds of every check of fit: more room never makes less fit, what is unknown never counts as a fit, names count
for nothing; fillings, settings and paths against brute force."""

import itertools
import unittest
from dataclasses import fields, replace
from decimal import Decimal

from hypothesis import given, settings
from hypothesis import strategies as st

from core.catalogue.fit.answers import Answer, Side
from core.catalogue.fit.assignment import Impossible, assign, clash, fixed, uses_of
from core.catalogue.fit.filling import CannotFill, Stick, alike, fill, groups
from core.catalogue.fit.halving import find_bad
from core.catalogue.fit.kinds import Bus, Memory
from core.catalogue.fit.machine import Fitted, Machine
from core.catalogue.fit.needs import Convert, MemoryModule, Needs, Use, use_choices
from core.catalogue.fit.offers import Board, Module, Offers, Slot
from core.catalogue.fit.paths import Converter, Rates, Ways, Wish
from core.catalogue.fit.rules import RULES, judge
from core.catalogue.fit.schema import groups_of, read_records, sheet_data, sheet_from, told_of, write_records
from tests.core.fit_examples import machine, needs
from tests.core.test_fit_rules import CASES

EVERY = [(offers, part, more[0] if more else {}) for cases in CASES.values() for offers, part, *more in cases.values()]
A_CASE = st.sampled_from(EVERY)
BUSES = st.sampled_from(list(Bus))
MM = st.sampled_from([None, *(Decimal(n) for n in (100, 160, 340))])
SLOTS = st.builds(
    Slot, st.uuids().map(str), bus=st.none() | BUSES, clock=MM, length=MM, height=MM, open_end=st.none() | st.booleans()
)


class WhatHolds(unittest.TestCase):
    @given(A_CASE, SLOTS)
    def test_a_slot_more_never_makes_less_fit(self, case, slot):
        offers, part, more = case
        there = machine(offers, **more)
        wider = replace(there, offers=replace(there.offers, slots=(*(there.offers.slots or ()), slot)))

        # Clock and size are judged in the slot that is chosen: the whole verdict of a card's place is compared.
        def worst(one: Machine) -> int:
            rules = ("bus and slot", "length, height")
            return max((f.answer.rank for name in rules for f in RULES[name].says(one, needs(part))), default=0)

        self.assertLessEqual(worst(wider), worst(there))

    @given(A_CASE, st.data())
    def test_what_is_not_known_never_makes_more_fit(self, case, data):
        """A value taken away from what fits makes it fit or not known; it never turns what does not fit into a fit
        without a question."""
        offers, part, more = case
        there, wanted = machine(offers, **more), needs(part)
        before = judge(there, wanted)
        side = data.draw(st.sampled_from(["offers", "part"]))
        sheet = there.offers if side == "offers" else wanted
        known = [
            (group, place, one.name)
            for group in groups_of(type(sheet))
            for place, record in enumerate(getattr(sheet, group) or ())
            for one in fields(record)
            if one.name != "name" and getattr(record, one.name) is not None
        ]
        group, place, field = data.draw(st.sampled_from(known))
        records = list(getattr(sheet, group))
        records[place] = replace(records[place], **{field: None})
        less = replace(sheet, **{group: tuple(records)})
        after = judge(replace(there, offers=less), wanted) if side == "offers" else judge(there, less)
        if before.answer is Answer.FITS:
            self.assertIn(after.answer, {Answer.FITS, Answer.UNKNOWN}, (group, field))
        for finding in after.findings:
            self.assertEqual(bool(finding.asks), finding.answer is Answer.UNKNOWN)

    @given(A_CASE)
    def test_nothing_known_of_a_machine_never_fits(self, case):
        self.assertNotIn(judge(Machine(Offers()), needs(case[1])).answer, {Answer.FITS, Answer.WITH})

    @given(A_CASE)
    def test_no_verdict_depends_on_a_name(self, case):
        """What a part and its record are called is changed: the answers stay."""
        offers, part, more = case
        there, wanted = machine(offers, **more), needs(part)
        free = {"draws", "takes"}  # a rail and a connector are what they are called
        named = replace(
            wanted,
            **{
                group: tuple(replace(one, name=f"x{place}") for place, one in enumerate(getattr(wanted, group)))
                for group in groups_of(Needs)
                if getattr(wanted, group) and group not in free
            },
        )
        there_named = replace(there, fitted=tuple(replace(one, name=f"y{n}") for n, one in enumerate(there.fitted)))
        answers = lambda verdict: [finding.answer for finding in verdict.findings]  # noqa: E731
        self.assertEqual(answers(judge(there, wanted)), answers(judge(there_named, named)))

    @given(
        A_CASE, st.sampled_from(["length", "height", "amps", "most", "largest", "clear", "count", "units", "display"])
    )
    def test_a_looser_limit_never_turns_fits_into_does_not(self, case, key):
        offers, part, more = case
        there = machine(offers, **more)
        looser = {}
        for group in groups_of(Offers):
            records = getattr(there.offers, group)
            if records and key in told_of(groups_of(Offers)[group][0]):
                looser[group] = tuple(
                    replace(one, **{key: getattr(one, key) * 2}) if getattr(one, key) is not None else one
                    for one in records
                )
        after = judge(replace(there, offers=replace(there.offers, **looser)), needs(part))
        self.assertLessEqual(after.answer.rank, judge(there, needs(part)).answer.rank)

    @given(A_CASE)
    def test_every_sheet_reads_as_it_was_written(self, case):
        offers, part, more = case
        for sheet in (machine(offers, **more).offers, needs(part)):
            self.assertEqual(sheet_from(type(sheet), sheet_data(sheet)), sheet)
            for group, (kind, _) in groups_of(type(sheet)).items():
                self.assertEqual(read_records(kind, write_records(getattr(sheet, group))), getattr(sheet, group))

    @given(A_CASE)
    def test_every_question_can_be_answered(self, case):
        """Each question names a field that is there, or a group of which nothing is known."""
        offers, part, more = case
        for ask in judge(machine(offers, **more), needs(part)).asks:
            if ask.side is not Side.UNIT:
                kinds = groups_of(Offers if ask.side is Side.MACHINE else Needs)
                self.assertIn(ask.group, kinds)
                if ask.key:
                    self.assertIn(ask.key, told_of(kinds[ask.group][0]))


BOARD = Board("board", soldered=0, most=2**30, group=2, matched=True)
MAKES = st.sampled_from(["K4", "M7", "S2"])
SIZES = st.sampled_from([2**20, 4 * 2**20])
STICKS = st.lists(st.tuples(SIZES, MAKES), min_size=0, max_size=5)


def sockets(banks: int, group: int) -> list[Module]:
    return [
        Module(f"{'ABCD'[bank]}{place}", Memory.PINS72, "ABCD"[bank], bank + 1, 4 * 2**20)
        for bank in range(banks)
        for place in range(group)
    ]


def sticks(said) -> list[Stick]:
    return [Stick(str(n), MemoryModule(str(n), Memory.PINS72, size, make=make)) for n, (size, make) in enumerate(said)]


def most_by_force(board: Board, there: list[Module], had: list[Stick]) -> int:
    """The most memory over every way to put sticks into sockets."""
    best = 0
    together = groups(board, there)
    for order in itertools.permutations([*had, *([None] * len(there))], len(there)):
        seats = dict(zip((socket.name for socket in there), order, strict=True))
        full = True
        legal, total = True, 0
        for group in together:
            inside = [seats[socket.name] for socket in group]
            if all(one is None for one in inside):
                full = False
            elif None in inside or not full or len({alike(one.module, bool(board.matched)) for one in inside}) > 1:
                legal = False
            else:
                total += sum(one.module.size for one in inside)
        if legal and total <= (board.most or 0):
            best = max(best, total)
    return best


class Fillings(unittest.TestCase):
    @settings(max_examples=40, deadline=None)
    @given(STICKS, st.sampled_from([1, 2]), st.sampled_from([6 * 2**20, 2**30]))
    def test_the_most_memory_by_brute_force(self, said, group, most):
        board, there, had = replace(BOARD, group=group, most=most), sockets(4 // group, group), sticks(said)
        found = fill(board, there, had)
        self.assertEqual(found.size, most_by_force(board, there, had))
        self.assertEqual(len(set(found.places.values())), len(found.places))

    def test_four_of_another_make_sit_in_whole_pairs(self):
        """16 modules in pairs, 4 with another part number, seated anyhow."""
        there = sockets(1, 16)
        said = [(4 * 2**20, "M7" if n in {1, 4, 10, 15} else "K4") for n in range(16)]
        had = [replace(one, at=socket.name) for one, socket in zip(sticks(said), there, strict=True)]
        found = fill(BOARD, there, had)
        self.assertEqual(found.size, 64 * 2**20)
        makes = [had[int(found.places[socket.name])].module.make for socket in there]
        self.assertTrue(all(a == b for a, b in zip(makes[::2], makes[1::2], strict=True)))
        self.assertEqual(found.moved, 4)

    def test_a_place_is_the_same_in_small_letters(self):
        there = sockets(1, 2)
        had = [
            replace(one, at=socket.name.lower()) for one, socket in zip(sticks([(2**20, "K4")] * 2), there, strict=True)
        ]
        self.assertEqual(fill(BOARD, there, had).moved, 0)

    def test_the_one_without_a_partner_is_named(self):
        found = fill(BOARD, sockets(2, 2), sticks([(2**20, "K4"), (2**20, "K4"), (2**20, "M7")]))
        self.assertEqual((found.size, found.odd), (2 * 2**20, ("2",)))

    def test_what_is_not_said_is_not_guessed(self):
        with self.assertRaisesRegex(CannotFill, "part number"):
            fill(BOARD, sockets(1, 2), [Stick("a", MemoryModule("a", Memory.PINS72, 2**20))])
        with self.assertRaisesRegex(CannotFill, "how many modules go in together"):
            fill(replace(BOARD, group=None), sockets(1, 2), [])

    @settings(max_examples=40, deadline=None)
    @given(st.integers(1, 8), st.integers(0, 2), st.sampled_from([1, 2, 4]))
    def test_the_bad_module_is_found_with_fewest_starts(self, count, known, group):
        board, there = replace(BOARD, group=group), sockets(1, 8)
        one = MemoryModule("m", Memory.PINS72, 2**20, make="K4")
        names = [f"s{n}" for n in range(count)]
        tree = find_bad(board, there, dict.fromkeys(names, one), {f"g{n}": one for n in range(known)})
        left = set()
        for bad in names:
            node, starts = tree, 0
            while node.passes and node.fails:
                self.assertEqual(len(node.put_in) % group, 0)
                self.assertLessEqual(len(node.put_in), 8)
                self.assertEqual(len(set(node.put_in)), len(node.put_in))
                node, starts = (node.fails if bad in node.put_in else node.passes), starts + 1
            self.assertIn(bad, node.suspects)
            self.assertLessEqual(starts, tree.starts)
            left.add(len(node.suspects))
        if group == 1:
            self.assertEqual((left, tree.starts), ({1}, (count - 1).bit_length()))

    def test_two_that_only_go_together_are_not_parted_without_a_good_one(self):
        one = MemoryModule("m", Memory.PINS72, 2**20, make="K4")
        both = dict.fromkeys(("a", "b"), one)
        self.assertEqual(find_bad(BOARD, sockets(1, 2), both, {}).suspects, ("a", "b"))
        helped = find_bad(BOARD, sockets(1, 2), both, {"good": one})
        self.assertEqual((helped.starts, len(helped.put_in)), (1, 2))


IRQS = st.lists(st.sampled_from([Decimal(n) for n in (5, 9, 10, 11)]), min_size=1, max_size=3, unique=True)


class Assignments(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(st.lists(IRQS, min_size=1, max_size=6), st.data())
    def test_fewest_moved_by_brute_force(self, choices, data):
        fitted = []
        for n, irqs in enumerate(choices):
            use = Use(f"J{n}", irq=tuple(sorted(irqs)), now=str(data.draw(st.sampled_from(irqs))))
            fitted.append(Fitted(f"card {n}", Needs(uses=(use,))))
        there = machine(fitted=()).__class__(machine().offers, tuple(fitted))
        uses = uses_of(there)
        ways = [
            picked
            for picked in itertools.product(*(use_choices(use) for _, use in uses))
            if not any(clash(uses[a][1], picked[a], uses[b][1], picked[b]) for a in range(len(uses)) for b in range(a))
            and not any(fixed(there, use, at) for (_, use), at in zip(uses, picked, strict=True))
        ]
        if not ways:
            with self.assertRaises(Impossible):
                assign(there, uses)
            return
        fewest = min(sum(at != use.now for (_, use), at in zip(uses, picked, strict=True)) for picked in ways)
        found = assign(there, uses)
        self.assertEqual(sum(one.moved for one in found), fewest)
        self.assertIn(tuple(one.to for one in found), ways)


ENDS = st.sampled_from("abcde")
WAYS = st.lists(st.tuples(ENDS, ENDS, st.integers(0, 9), st.booleans()).filter(lambda w: w[0] != w[1]), max_size=9)


class Paths(unittest.TestCase):
    @settings(max_examples=80, deadline=None)
    @given(WAYS, st.sampled_from(list(Wish)))
    def test_the_best_of_all_simple_paths(self, said, wish):
        converters = [
            Converter(str(n), Convert("w", a, b), Decimal(0 if here else price), here)
            for n, (a, b, price, here) in enumerate(said)
        ]
        found = Ways(converters).find("a", "e", wish)
        use = [one for one in converters if one.here or wish is not Wish.HERE]
        every = [
            chain
            for length in range(1, 5)
            for chain in itertools.permutations(use, length)
            if chain[0].ends[0] == "a"
            and chain[-1].ends[1] == "e"
            and all(x.ends[1] == y.ends[0] for x, y in itertools.pairwise(chain))
            and len({x.ends[0] for x in chain}) == length
        ]
        if not every:
            self.assertIsNone(found)
            return
        price = lambda chain: sum(one.price for one in chain)  # noqa: E731
        best = min(every, key=lambda c: (len(c), price(c)) if wish is Wish.FEWEST else (price(c), len(c)))
        self.assertEqual((price(found.steps), len(found.steps)), (price(best), len(best)))

    def test_a_converter_that_does_not_take_the_rate_is_no_way(self):
        from core.catalogue.fit.schema import read_record

        slow = read_record(Convert, "w: goes in a; comes out b; line in 15 to 16; line out 31.469")
        ways = Ways([Converter("doubler", slow, Decimal(9), False)])
        self.assertIsNotNone(ways.find("a", "b", given=Rates(Decimal("15.625"), Decimal(50))))
        self.assertIsNone(ways.find("a", "b", given=Rates(Decimal("31.469"), Decimal(60))))
        path = ways.find("a", "b", given=Rates(Decimal("15.625"), Decimal(50)))
        self.assertEqual(path.rates(Rates(Decimal("15.625"), Decimal(50))), Rates(Decimal("31.469"), Decimal(50)))
