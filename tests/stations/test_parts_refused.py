"""What can not be done with a single part, each in words at its field, with nothing moved and nothing posted."""

from dataclasses import replace
from decimal import Decimal as D

from core.stock.measure import Measure
from core.stock.parts import Condition
from stations.books.selectors import complaints
from stations.common import clock
from stations.common.refusals import NotAllowed, Refused
from stations.ledger.models import Account, LedgerEntry
from stations.ledger.selectors import balance
from stations.people.models import HistoryEntry
from stations.stock import services as stock
from stations.stock import shelf
from stations.stock.models import KnownGood, StockItem
from stations.units import part_tests, parts
from stations.units.models import Part, PartMove, PartTest, Unit
from stations.units.part_tests import Seen
from stations.units.parts import Place, Worths
from tests.stations.test_parts import A_FIFTH, BOARD, DISK, Parts


class Refusing(Parts):
    def refuses(self, words: str, act, *args, field: str = "", **named) -> None:
        """Refused with these words at this field; no row, no move and no entry more than before."""
        before = self.written()
        with self.assertRaisesMessage(Refused, words) as caught:
            act(self.owner, *args, **named)
        self.assertEqual((caught.exception.field or "", self.written()), (field, before))

    def written(self) -> tuple[int, ...]:
        return tuple(model.objects.count() for model in (Part, PartMove, PartTest, LedgerEntry))

    def gone(self, part: Part) -> Part:
        self.move(part, Place(drawer="F1"))
        parts.part_gone(self.owner, self.again(part), "dropped on the quay")
        return self.again(part)

    def stage(self, unit: Unit, stage: str) -> Unit:
        Unit.objects.filter(pk=unit.pk).update(stage=stage)
        return self.again(unit)


class WhatCanNotBe(Refusing):
    def test_a_part_without_a_name_or_a_place(self):
        self.refuses("Say in which machine it is.", parts.record_part, Place(drawer="F1"), BOARD)
        self.refuses(
            "Say what part it is.", parts.record_part, Place(self.donor), replace(BOARD, name=""), field="name"
        )
        self.refuses("Say what part it is.", parts.buy_part, replace(BOARD, name=""), D(5), "F1", field="name")
        self.refuses("This may not be below 0.", parts.buy_part, BOARD, D("-0.01"), "F1", field="paid")

    def test_what_is_in_a_unit_that_is_listed_or_gone_stays(self):
        part = self.found()
        for stage, words in (("listed", "listed"), ("sold", "sold"), ("scrapped", "scrapped")):
            self.stage(self.donor, stage)
            with self.subTest(stage):
                self.refuses(
                    "what is in it is not changed now", parts.record_part, Place(self.donor), BOARD, field="unit"
                )
                self.refuses(words, parts.move_part, part, Place(drawer="F1"), "", A_FIFTH, field="unit")
        self.assertEqual(self.again(part).unit, self.donor)

    def test_nothing_is_taken_out_of_what_is_not_ours_but_something_may_go_in(self):
        theirs = self.assessed()
        Unit.objects.filter(pk=theirs.pk).update(holding="lent", owner_name="the school")
        inside = self.found(unit=self.again(theirs))
        self.refuses("belongs to the school", parts.move_part, inside, Place(self.patient), "", A_FIFTH, field="unit")
        self.assertEqual(self.again(inside).unit, theirs)

    def test_a_swap_is_between_two_machines(self):
        one, other = self.found(), self.found(replace(BOARD, serial="LB-2"))
        self.refuses("A swap is between two machines.", parts.swap_parts, one, other, "try", (A_FIFTH, A_FIFTH))
        loose = parts.buy_part(self.owner, replace(BOARD, serial="LB-3"), D(9), "F1")
        self.refuses("A swap is between two machines.", parts.swap_parts, one, loose, "try", (A_FIFTH, A_FIFTH))

    def test_what_is_gone_is_neither_changed_nor_tested_nor_lost_again(self):
        part = self.gone(self.found())
        lost = balance(Account.LOSS, 0)
        self.refuses("It is gone: dropped on the quay.", parts.change_part, part, part.version, BOARD, "", "F2")
        self.refuses("It is gone: dropped on the quay.", part_tests.test_part, part, Seen({"looks": True}))
        self.refuses("It is gone: dropped on the quay.", parts.part_gone, part, "again")
        self.refuses("It is gone", parts.move_part, part, Place(self.patient), "", None)
        self.assertEqual((balance(Account.PART, part.pk), balance(Account.LOSS, 0)), (0, lost))
        self.assertGreater(lost, 0)
        self.assertEqual(complaints(), [])

    def test_written_off_with_a_reason_and_out_of_its_machine_first(self):
        part = self.found()
        self.refuses("Say what became of it.", parts.part_gone, part, "", field="reason")
        self.refuses("Take it out of its machine first.", parts.part_gone, part, "dropped")
        self.refuses("160 characters at most", parts.part_gone, self.in_a_drawer(part), "x" * 161, field="reason")

    def in_a_drawer(self, part: Part) -> Part:
        self.move(part, Place(drawer="F1"))
        return self.again(part)

    def test_sanitised_by_itself_only_out_of_a_machine_and_verified(self):
        disk = self.found(DISK)
        self.refuses("Say how it was verified", parts.sanitise_part, disk, "", field="verified")
        self.refuses("It is in a machine", parts.sanitise_part, disk, "read back", field="verified")
        page = self.post("workshop:part-sanitised", [disk.number], verified="all noughts")
        self.says(page, "It is in a machine")
        self.assertContains(page, "all noughts")
        loose = self.in_a_drawer(disk)
        self.done(self.post("workshop:part-sanitised", [loose.number], verified="read back, all noughts"))
        self.assertIsNotNone(self.again(loose).sanitised_at)
        words = HistoryEntry.objects.filter(action="units.sanitise_part").get().words
        self.assertEqual(words, "Sanitised; verified: read back, all noughts")

    def test_one_out_of_a_drawer_only_where_there_are_pieces(self):
        wire = StockItem.objects.create(name="Wire", drawer="W1", measure=Measure.METRE)
        stock.buy_stock(self.owner, wire, D(5), D("4.00"))
        kept = balance(Account.STOCK, wire.pk)
        self.refuses("there are no pieces of it", parts.single_out, wire, replace(BOARD, name="Wire"))
        self.assertEqual(balance(Account.STOCK, wire.pk), kept)

    def test_nothing_speaks_against_what_nobody_doubted(self):
        part = self.found()
        self.refuses("Nothing speaks against it.", parts.no_doubt, part)
        doubted = self.found(replace(BOARD, serial="LB-9", doubt="the print is too new"))
        parts.no_doubt(self.owner, doubted)
        self.assertEqual(self.again(doubted).doubt, "")
        self.assertIn("the print is too new", HistoryEntry.objects.get(action="units.no_doubt").words)

    def test_a_test_says_what_it_rests_on(self):
        part = self.found()
        jig = shelf.shelve(self.owner, KnownGood(name="Jig", kind="fixture", stands_in="board"))
        KnownGood.objects.filter(pk=jig.pk).update(bad_since=clock.now())
        fixture = self.again(jig)
        self.refuses(
            "it proves nothing", part_tests.test_part, part, Seen({"looks": True}, fixture=fixture), field="fixture"
        )
        for figure in ({"measured": D(16)}, {"should_give": D(33)}, {"measured": D(16), "should_give": D(33)}):
            with self.subTest(figure):
                seen = Seen({"looks": True}, **figure)
                self.refuses("all three", part_tests.test_part, part, seen, field="figure")
        below = Seen({"looks": True}, figure="MHz", measured=D(16), should_give=D(-1))
        self.refuses("above 0", part_tests.test_part, part, below, field="should_give")
        self.assertEqual(self.again(part).condition, Condition.UNTESTED)

    def test_who_may(self):
        part = self.found()
        for act, args in (
            (parts.record_part, (Place(self.donor), BOARD)),
            (parts.buy_part, (BOARD, D(5), "F1")),
            (parts.move_part, (part, Place(drawer="F1"), "", A_FIFTH)),
            (parts.part_gone, (part, "lost")),
            (parts.no_doubt, (part,)),
            (parts.sanitise_part, (part, "read back")),
            (part_tests.test_part, (part, Seen({"looks": True}))),
        ):
            with self.subTest(act.__name__), self.assertRaises(NotAllowed):
                act(self.viewer, *args)


class ThroughThePages(Refusing):
    def test_a_worth_that_can_not_be_is_said_where_it_was_typed(self):
        part = self.found()
        there = f"/workshop/P-{part.number}/move/?to=W-{self.patient.number}"
        sent = {"seen": part.since.isoformat(), "why": "better", "write_key": ""}
        self.says(self.client.post(there, sent | {"worth": "", "whole": "100"}), "the cost goes by that", "better")
        self.says(self.client.post(there, sent | {"worth": "-1", "whole": "100"}), "below 0", "-1")
        self.says(
            self.client.post(there, sent | {"worth": "120", "whole": "100"}), "worth more than the machine", "120"
        )
        self.says(self.client.post(there, sent | {"worth": "a lot", "whole": "100"}), "number", "a lot")
        self.assertEqual((self.again(part).unit, PartMove.objects.filter(part=part).count()), (self.donor, 1))

    def test_to_a_machine_that_is_none(self):
        part = self.found()
        page = self.client.get(f"/workshop/P-{part.number}/move/", {"to": "W-9999"})
        self.assertContains(page, "W-9999")
        self.assertNotContains(page, "All that is in the machine, with it")
        self.assertEqual(self.client.get("/workshop/P-9999/move/").status_code, 404)

    def test_on_a_fixture_or_in_a_machine_never_both(self):
        part = self.found()
        jig = shelf.shelve(self.owner, KnownGood(name="Jig", kind="fixture", stands_in="board"))
        sent = {"check-looks": "pass", "fixture": jig.pk, "in_unit": self.patient.tag, "words": "quiet"}
        self.says(self.post("workshop:part-test", [part.number], **sent), "one of them", "quiet")
        self.done(self.post("workshop:part-test", [part.number], **sent | {"fixture": ""}))
        self.assertEqual(part.tests.get().in_unit, self.patient)

    def test_a_piece_of_a_drawer_that_is_empty(self):
        belt = StockItem.objects.get(name="Belt")
        sent = {"kind": "other", "name": "Belt", "condition": "new", "drawer": "A1", "version": "1"}
        for turn in range(3):
            self.done(self.post("workshop:single-out", [belt.pk], **sent | {"serial": f"B{turn}"}))
        page = self.post("workshop:single-out", [belt.pk], **sent | {"serial": "B4"})
        self.says(page, "drawer A1", "B4")
        self.assertContains(self.client.get(f"/workshop/stock/{belt.pk}/single-out/"), "A record for one Belt")
        self.assertEqual((Part.objects.count(), self.again(belt).quantity), (3, 0))
        # Three of them at what the drawer cost, to the cent.
        self.assertEqual(sum(balance(Account.PART, part.pk) for part in Part.objects.all()), D("10.00"))
        self.assertEqual(complaints(), [])

    def test_found_in_a_machine_through_its_page(self):
        there = f"/workshop/W-{self.patient.number}/inside/"
        sent = {"kind": "board", "name": "", "condition": "untested", "serial": "LB-7", "version": "1", "write_key": ""}
        self.says(self.client.post(there, sent), "Say what part it is.", "LB-7")
        self.says(self.client.post(there, sent | {"name": "Board", "worth": "-3"}), "below 0", "LB-7")
        self.done(self.client.post(there, sent | {"name": "Board", "slot": "base"}))
        self.assertEqual((Part.objects.get().unit, Part.objects.get().slot), (self.patient, "base"))
        self.assertContains(self.client.get(there), "LB-7")

    def test_a_share_of_nothing_is_nothing(self):
        part = self.found()
        self.move(part, Place(self.patient), Worths(D(0), D(100)))
        self.assertEqual(parts.fitted_cost(self.again(part)), 0)
        self.assertEqual(complaints(), [])
