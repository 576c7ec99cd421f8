"""Parts: amounts as typed, what they cost wherever they go, what a parcel cost, what a part by itself shows."""

from decimal import Decimal as D
from itertools import permutations
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from core.bench.part_checks import checks_for, figure_words, may_be_fake, outcome
from core.catalogue.weakness import Concerns, serial_order
from core.machine.quantities import QuantityError
from core.stock.costing import counted_cost, issue_cost, leaving_cost
from core.stock.measure import Measure, read_amount
from core.stock.parcel import ParcelLine, landed
from core.stock.parts import Condition, PartKind, data_words
from core.workshop.beside import Choice, InPlace, beside

CENTS = st.decimals(0, 10_000, places=2, allow_nan=False)


class Amounts(TestCase):
    def test_the_same_amount_in_several_ways(self):
        for typed, measure, amount in (
            ("12", Measure.PIECE, "12"),
            ("12 pcs", Measure.PIECE, "12"),
            ("0,5 l", Measure.ML, "500"),
            ("20 cl", Measure.ML, "200"),
            ("500", Measure.ML, "500"),
            ("1.2 kg", Measure.GRAM, "1200"),
            ("80 cm", Measure.METRE, "0.8"),
            ("3 mm", Measure.METRE, "0.003"),
        ):
            self.assertEqual(read_amount(typed, measure), D(amount), typed)

    def test_what_is_none_is_said_in_words(self):
        for typed, measure, words in (
            ("2 kg", Measure.ML, "kept in ml; you typed kg"),
            ("5 ml", Measure.PIECE, "kept in pieces"),
            ("2.5", Measure.PIECE, "whole"),
            ("-3", Measure.ML, "below 0"),
            ("a few", Measure.PIECE, "no amount"),
            ("1,234", Measure.PIECE, "can be"),
            ("0.0004 m", Measure.METRE, "thousandth"),
            ("9999999", Measure.PIECE, "million"),
            ("", Measure.GRAM, "no amount"),
        ):
            with self.assertRaisesRegex(QuantityError, words):
                read_amount(typed, measure)

    @given(st.sampled_from(list(Measure)), st.integers(0, 10**6))
    def test_what_is_said_is_read_again(self, measure, amount):
        self.assertEqual(read_amount(measure.words(D(amount)), measure), amount)


class Costs(TestCase):
    def test_what_a_part_takes_along(self):
        self.assertEqual(leaving_cost(D("80"), D(20), D(100)), D("16.00"))
        self.assertEqual(leaving_cost(D("80"), D(100), D(100)), D("80"))
        self.assertEqual(leaving_cost(D("80"), D(20), D(100), came_with=D("7.35")), D("7.35"))
        self.assertEqual(leaving_cost(D("-3"), D(20), D(100)), 0)
        for worth, whole in ((D(-1), D(10)), (D(5), D(0)), (D(11), D(10))):
            with self.assertRaises(ValueError):
                leaving_cost(D(80), worth, whole)

    @given(CENTS, CENTS, CENTS)
    def test_no_part_takes_more_than_the_machine_carries(self, carried, worth, rest):
        cost = leaving_cost(carried, worth, worth + rest + D("0.01"))
        self.assertTrue(0 <= cost <= carried)

    @given(st.integers(1, 500), CENTS, st.lists(st.integers(1, 40), max_size=30))
    def test_issued_one_after_the_other_nothing_is_made_or_lost(self, held, value, wanted):
        out, left = D(0), value
        for amount in wanted:
            if amount > held:
                break
            cost = issue_cost(held, left, amount)
            held, left, out = held - amount, left - cost, out + cost
        self.assertEqual(out + left, value)
        self.assertGreaterEqual(left, 0)
        self.assertEqual(left, left if held else 0)

    def test_a_count_takes_out_what_is_not_there(self):
        self.assertEqual(counted_cost(D(24), D("7.20"), D(22)), D("0.60"))
        self.assertEqual(counted_cost(D(24), D("7.20"), D(0)), D("7.20"))
        self.assertEqual(counted_cost(D(24), D("7.20"), D(30)), 0)
        with self.assertRaises(ValueError):
            counted_cost(D(24), D("7.20"), D(-1))


class Parcels(TestCase):
    def test_postage_goes_by_value(self):
        # By hand: goods 26.00 and 8.80, postage 6.00 over 34.80: 4.48 and 1.52.
        found = landed([ParcelLine(D(1), D("26")), ParcelLine(D(2), D("4.40"))], D(1), D("6.00"))
        self.assertEqual(found.lines, (D("30.48"), D("10.32")))
        self.assertEqual(found.total, D("40.80"))

    def test_another_currency_and_duty(self):
        found = landed([ParcelLine(D(2), D(240))], D("0.088"), D(120), D("3.50"))
        self.assertEqual(found.total, D("42.24") + D("10.56") + D("3.50"))

    def test_gifts_share_by_number_and_what_did_not_come_carries_nothing(self):
        found = landed([ParcelLine(D(3), D(0)), ParcelLine(D(1), D(0)), ParcelLine(D(0), D(9))], D(1), D(4))
        self.assertEqual(found.lines, (D("3.00"), D("1.00"), 0))
        with self.assertRaises(ValueError):
            landed([ParcelLine(D(0), D(5))], D(1), D(4))

    def test_what_was_paid_and_does_not_come_lies_on_what_came(self):
        # By hand: 4 at 5 paid, 3 came; 2 at 4 paid, none came: 20 with 8 more and 3 of postage.
        found = landed([ParcelLine(D(3), D(5), D(4)), ParcelLine(D(0), D(4), D(2))], D(1), D(3))
        self.assertEqual((found.lines, found.total), ((D("31.00"), 0), D("31.00")))

    @given(st.lists(st.tuples(st.integers(0, 9), CENTS, st.integers(0, 9)), min_size=1, max_size=12), CENTS, CENTS)
    def test_every_cent_lies_on_a_line_that_came(self, lines, postage, duty):
        rows = [ParcelLine(D(came), each, D(came + more)) for came, each, more in lines]
        if not any(row.came for row in rows):
            return
        found = landed(rows, D("1.17"), postage, duty)
        self.assertEqual(sum(found.lines), found.total)
        self.assertTrue(all(cost == 0 for cost, row in zip(found.lines, rows, strict=True) if not row.came))


class PartByItself(TestCase):
    def test_good_bad_and_not_settled(self):
        checks = checks_for(PartKind.MODULE)
        all_good = {check.code: True for check in checks}
        self.assertTrue(outcome(all_good, checks))
        self.assertIs(outcome(all_good | {"pattern": False, "size": None}, checks), False)
        self.assertIsNone(outcome(all_good | {"pattern": None}, checks))
        for kind in PartKind:
            codes = [check.code for check in checks_for(kind)]
            self.assertEqual(len(codes), len(set(codes)), kind)

    def test_what_a_figure_says(self):
        self.assertIn("as it should", figure_words(D(95), D(100)))
        self.assertIn("slow", figure_words(D(80), D(100)))
        self.assertIn("may not be", figure_words(D(58), D(100)))
        self.assertEqual([may_be_fake(D(n), D(100)) for n in (69, 70, 120)], [True, False, False])

    def test_data_stay_where_nobody_cleared_them(self):
        self.assertIn("not sanitised", data_words(None, PartKind.DISK, None))
        self.assertIn("nobody said", data_words(None, PartKind.CARD, None))
        self.assertEqual(data_words(False, PartKind.DISK, None), "")
        self.assertEqual(data_words(None, PartKind.CHIP, None), "")
        self.assertIn("not sanitised", data_words(True, PartKind.CHIP, None))


class Weak(TestCase):
    def test_whom_it_concerns(self):
        batch = Concerns("", "O16-2000", "O16-4999")
        self.assertEqual([batch.concerns(serial=s) for s in ("O16-1999", "O16-2000", "o16-4999", "O16-10000", "")],
                         [False, True, True, False, None])  # fmt: skip
        self.assertIs(Concerns("relay").concerns("Sealed Relay, 5 V"), True)
        self.assertIs(Concerns("relay").concerns(), False)
        self.assertIs(Concerns().concerns("Sealed relay"), False)
        self.assertEqual([Concerns(revision="B").concerns(revision=r) for r in ("b", "C", "")], [True, False, None])

    @given(st.integers(0, 10**9), st.integers(0, 10**9))
    def test_figures_in_serials_count_as_numbers(self, one, other):
        self.assertEqual(serial_order(f"A{one}-X") < serial_order(f"A{other}-X"), one < other)


def a_part(key: int, rank: int, name: str = "board") -> InPlace:
    condition = (Condition.TESTED, Condition.UNTESTED, Condition.FAULTY)[rank]
    return InPlace(key, PartKind.BOARD, name, condition)


class SideBySide(TestCase):
    def test_the_better_ones_go_here_and_why(self):
        pairs = beside([a_part(1, 2), a_part(2, 0, "video")], [a_part(3, 0), a_part(4, 1, "video")])
        self.assertEqual([pair.choice for pair in pairs], [Choice.SWAP, Choice.STAY])
        self.assertEqual(pairs[0].why, "used, tested against faulty")
        self.assertEqual([part and part.key for part in pairs[0].after], [3, 1])

    def test_what_is_missing_comes_over_unless_it_is_faulty(self):
        spare, dead = a_part(3, 1, "mouse"), a_part(4, 2, "keyboard")
        pairs = beside([], [spare, dead], ["Mouse", "keyboard"])
        self.assertEqual({pair.there.name: pair.choice for pair in pairs if pair.there},
                         {"mouse": Choice.MOVE, "keyboard": Choice.STAY})  # fmt: skip

    def test_another_name_is_another_thing(self):
        pairs = beside([a_part(1, 2, "logic board A")], [a_part(2, 0, "logic board B")])
        self.assertTrue(all(pair.choice is Choice.STAY for pair in pairs))

    @given(st.lists(st.integers(0, 2), max_size=5), st.lists(st.integers(0, 2), max_size=5))
    def test_no_other_way_to_change_them_over_is_better(self, here, there):
        mine = [a_part(n, rank) for n, rank in enumerate(here)]
        theirs = [a_part(10 + n, rank) for n, rank in enumerate(there)]
        pairs = beside(mine, theirs)
        chosen = sorted(pair.after[0].condition.rank for pair in pairs if pair.after[0])
        everything = [part.condition.rank for part in (*mine, *theirs)]
        best = min((sorted(some) for some in permutations(everything, len(mine))), default=[])
        self.assertEqual(chosen, best)
        # Every part is in one place, and as many are in each machine as before.
        after = [part.key for pair in pairs for part in pair.after if part]
        self.assertEqual(sorted(after), sorted(part.key for part in (*mine, *theirs)))
