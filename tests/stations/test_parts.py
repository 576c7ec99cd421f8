"""Single parts: found in machines, moved with their cost, data and lists, tested by themselves, side by side."""

import csv
import io
import json
from dataclasses import replace
from decimal import Decimal as D

from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test.utils import CaptureQueriesContext
from PIL import Image

from core.stock.parts import Condition, PartKind
from stations.books.selectors import complaints
from stations.common.refusals import NotAllowed, Refused
from stations.intake import records, settling
from stations.ledger.models import Account
from stations.ledger.selectors import balance
from stations.stock import shelf
from stations.stock.models import KnownGood, StockItem
from stations.units import as_it_is, part_tests, parts
from stations.units.models import Part, Unit
from stations.units.part_tests import Seen
from stations.units.parts import Described, Place, Worths
from stations.workshop import issuing, side_by_side
from stations.workshop import services as workshop
from stations.workshop.models import Knowledge
from stations.workshop.new_job import NewJob
from stations.workshop.standing import workshop_flow
from stations.workshop.taking_apart import SalvagedPart, take_apart
from tests.stations.test_through_the_pages import Through

BOARD = Described(PartKind.BOARD, "Logic board", "LB-1", worth=D(20), original=True, keeps_data=False)
A_FIFTH = Worths(D(20), D(100))
DISK = Described(PartKind.DISK, "Disk 20 MB", "D-7", worth=D(20))


class Parts(Through):
    def scene(self) -> None:
        super().scene()
        self.donor, self.patient = self.assessed("donor"), self.assessed(missing=("mouse",))

    def found(self, described: Described = BOARD, unit: Unit | None = None, **place) -> Part:
        return parts.record_part(self.owner, Place(unit or self.donor, **place), described)

    def move(self, part: Part, to: Place, worths: Worths | None = A_FIFTH) -> None:
        parts.move_part(self.technician, part, to, "better", worths)

    def carried(self, unit: Unit) -> D:
        return balance(Account.UNIT, unit.pk)


class Moving(Parts):
    def test_its_cost_goes_by_relative_value_and_comes_back_as_it_went(self):
        whole = self.carried(self.donor)
        part, before = self.found(), self.carried(self.patient)
        self.move(part, Place(self.patient, "slot 1"))
        # 20 of 100 that is in it.
        share = (whole / 5).quantize(D("0.01"))
        self.assertEqual((self.carried(self.donor), self.carried(self.patient)), (whole - share, before + share))
        self.move(self.again(part), Place(drawer="F1"), None)
        self.assertEqual((balance(Account.PART, part.pk), self.carried(self.patient)), (share, before))
        self.move(self.again(part), Place(self.donor), None)
        self.assertEqual(self.carried(self.donor), whole)
        self.assertEqual(complaints(), [])

    def test_what_it_is_worth_must_be_said(self):
        with self.assertRaisesRegex(Refused, "say what the part is worth"):
            self.move(self.found(), Place(self.patient), None)
        with self.assertRaisesRegex(Refused, "worth more than the machine"):
            self.move(Part.objects.get(), Place(self.patient), Worths(D(120), D(100)))

    def test_two_who_move_it_meet_and_it_goes_into_one(self):
        part = self.found()
        address = f"/workshop/P-{part.number}/move/?to=W-{self.patient.number}"
        sent = {"worth": "20", "whole": "100", "seen": part.since.isoformat()}
        third = self.assessed()
        other = f"/workshop/P-{part.number}/move/?to=W-{third.number}"
        self.done(self.client.post(other, sent | {"write_key": "1"}))
        said = self.client.post(address, sent | {"write_key": "2", "why": "mine"})
        self.says(said, f"it is in {third.tag} now", "mine")
        self.assertEqual(self.again(part).unit, third)

    def test_its_own_elsewhere_must_go_back_one_day(self):
        part = self.found(slot="U3")
        self.move(part, Place(drawer="F1"))
        page = self.client.get(f"/workshop/W-{self.donor.number}/inside/")
        self.assertContains(page, "Its own, elsewhere")
        self.assertContains(page, "put it back")

    def test_what_is_left_in_a_donor_taken_apart_is_gone_with_it(self):
        kept, left = self.found(), self.found(Described(PartKind.CHIP, "Chip"))
        self.move(kept, Place(drawer="F1"))
        self.assertContains(self.client.get(f"/workshop/W-{self.donor.number}/take-apart/"), "gone with it")
        take_apart(self.owner, self.again(self.donor), [SalvagedPart("Lead", "tested", "B", 1, D(3))])
        self.assertEqual((self.again(left).unit, self.again(kept).in_stock), (None, True))
        self.assertIn("not kept when", self.again(left).gone_words)
        self.assertEqual(complaints(), [])

    def test_the_record_of_a_unit_carries_its_parts(self):
        self.found(slot="base")
        record = records.export(self.again(self.donor))
        self.assertEqual((record["parts"][0]["name"], record["parts"][0]["worth"]), ("Logic board", "20.00"))
        taken = records.import_record(self.owner, self.other_line, records.read(json.dumps(record).encode()))
        self.assertEqual([(part.name, part.slot) for part in taken.parts.all()], [("Logic board", "base")])

    def test_lists_of_both_machines_follow(self):
        mouse = Described(PartKind.OTHER, "mouse", keeps_data=False)
        here = self.donor.contents.get(name="mouse")
        part = self.found(mouse, content=here)
        there = self.patient.contents.get(name="mouse")
        self.move(part, Place(self.patient, content=there, right=False))
        self.assertEqual((self.again(here).presence, self.again(there).presence), ("missing", "not_original"))
        self.assertEqual(self.again(part).content, there)
        self.move(self.again(part), Place(self.donor, content=here), None)
        self.assertEqual((self.again(here).presence, self.again(there).presence), ("present", "missing"))

    def test_a_part_is_in_one_place(self):
        part = self.found()
        with self.assertRaisesRegex(Refused, "already"):
            self.move(part, Place(self.donor))
        mouse = self.patient.contents.get(name="mouse")
        with self.assertRaisesRegex(Refused, "list of another machine"):
            self.found(content=mouse)
        self.move(part, Place(self.patient, content=mouse))
        with self.assertRaisesRegex(Refused, "in it already"):
            self.found(Described(PartKind.OTHER, "other mouse"), self.patient, content=mouse)

    def test_data_go_wherever_the_storage_goes_and_block_the_machine(self):
        disk = self.found(DISK, self.donor)
        intake_clear = self.cleared(self.patient)
        self.assertEqual(as_it_is.data_left([intake_clear])[self.patient.pk], "")
        self.move(disk, Place(self.patient, "bay"))
        self.assertTrue(as_it_is.data_left([self.again(self.patient)])[self.patient.pk])
        self.assertContains(self.client.get(f"/workshop/W-{self.patient.number}/inside/"), "holds data")
        # Out again nothing of it is left; sanitised by itself it blocks nothing.
        self.move(self.again(disk), Place(drawer="F1"), None)
        self.assertEqual(as_it_is.data_left([self.again(self.patient)])[self.patient.pk], "")
        self.done(self.post("workshop:part-sanitised", [disk.number], verified="read back, all noughts"))
        self.move(self.again(disk), Place(self.patient, "bay"), None)
        self.assertEqual(as_it_is.data_left([self.again(self.patient)])[self.patient.pk], "")

    def cleared(self, unit: Unit) -> Unit:
        settling.record_sanitisation(self.owner, unit, "clear", "read back, all noughts")
        return self.again(unit)

    def test_a_disk_cleared_with_its_machine_is_clear(self):
        disk = self.found(DISK, self.donor)
        self.cleared(self.donor)
        self.move(self.again(disk), Place(self.patient))
        self.assertEqual(self.again(disk).data_words, "")

    def test_whether_a_card_keeps_data_is_asked_not_guessed(self):
        card = self.found(Described(PartKind.CARD, "Hard card"))
        with self.assertRaisesRegex(Refused, "Nobody said whether"):
            self.move(card, Place(self.patient))
        address = f"/workshop/P-{card.number}/move/?to=W-{self.patient.number}"
        self.assertContains(self.client.get(address), "Does it keep data in itself?")
        sent = {"worth": "20", "whole": "100", "keeps": "true", "slot": "3", "write_key": "m1"}
        self.done(self.client.post(address, sent))
        self.assertTrue(self.again(card).holds_data)
        self.assertIsNotNone(self.again(self.patient).storage_added_at)

    def test_what_was_proven_is_not_any_more(self):
        part = self.found()
        self.hand().test(self.patient)
        self.move(part, Place(self.patient))
        self.assertIn("part exchanged since: Logic board", workshop_flow([self.patient])[self.patient.pk].not_proven)
        self.assertEqual(self.again(self.patient).stage, "on_bench")

    def test_not_out_of_what_is_not_ours_and_not_by_anybody(self):
        Unit.objects.filter(pk=self.donor.pk).update(holding="custody", owner_name="The museum")
        part = self.found()
        with self.assertRaisesRegex(Refused, "belongs to The museum"):
            self.move(part, Place(self.patient))
        with self.assertRaises(NotAllowed):
            parts.move_part(self.seller, part, Place(self.patient))
        self.assertContains(self.client.get(f"/workshop/P-{part.number}/"), "Logic board")

    def test_a_swap_leaves_each_with_one(self):
        one, other = self.found(), self.found(unit=self.patient)
        total = self.carried(self.donor) + self.carried(self.patient)
        parts.swap_parts(self.owner, one, other, "tested", (Worths(D(20), D(100)), Worths(D(10), D(100))))
        self.assertEqual((self.again(one).unit, self.again(other).unit), (self.patient, self.donor))
        self.assertEqual(self.carried(self.donor) + self.carried(self.patient), total)
        self.assertEqual(complaints(), [])

    def test_what_is_no_original_is_none_after_a_swap_either(self):
        mouse = Described(PartKind.OTHER, "mouse", keeps_data=False)
        lists = [unit.contents.get(name="mouse") for unit in (self.donor, self.patient)]
        one = self.found(mouse, content=lists[0], right=False)
        other = self.found(replace(mouse, original=True), unit=self.patient, content=lists[1])
        self.assertEqual([self.again(one).presence for one in lists], ["not_original", "present"])
        parts.swap_parts(self.owner, one, other, "tried", (Worths(D(20), D(100)), Worths(D(10), D(100))))
        self.assertEqual([self.again(one).presence for one in lists], ["present", "not_original"])

    def test_whether_it_belongs_there_is_asked_where_nobody_said(self):
        mouse = self.found(Described(PartKind.OTHER, "mouse", keeps_data=False), slot="front")
        wanted = self.patient.contents.get(name="mouse")
        there = f"/workshop/P-{mouse.number}/move/?to={self.patient.tag}"
        sent = {"seen": mouse.since.isoformat(), "content": str(wanted.pk), "worth": "5", "whole": "100"}
        self.says(self.client.post(there, sent | {"right": ""}), "Say whether it is the one that belongs there.")
        self.done(self.client.post(there, sent | {"right": "no"}))
        self.assertEqual(self.again(wanted).presence, "not_original")


class ByThemselves(Parts):
    BUY = {
        "kind": "drive",
        "name": "Drive 720 kB",
        "condition": "untested",
        "paid": "14.00",
        "drawer": "F1",
        "version": "1",
    }

    def test_bought_written_off_and_put_with_others(self):
        self.says(self.post("workshop:buy-part", **self.BUY | {"paid": "-1"}), "below 0")
        self.says(self.post("workshop:buy-part", **self.BUY | {"name": ""}), "Say what part it is.")
        self.done(self.post("workshop:buy-part", **self.BUY))
        self.done(self.post("workshop:buy-part", **self.BUY | {"serial": "2"}))
        one, two = Part.objects.order_by("number")
        self.assertEqual(balance(Account.PART, one.pk), D("14.00"))
        self.done(self.post("workshop:part-gone", [one.number], reason="dropped"))
        self.done(self.post("workshop:part-with-others", [two.number], name="Drive", drawer="F2"))
        item = StockItem.objects.get(name="Drive")
        self.assertEqual((balance(Account.STOCK, item.pk), balance(Account.LOSS, 0)), (D("14.00"), D("14.00")))
        self.assertEqual(complaints(), [])
        with self.assertRaisesRegex(Refused, "It is gone"):
            self.move(self.again(one), Place(self.patient), None)

    def test_one_of_a_drawer_gets_a_record(self):
        sent = {"kind": "other", "name": "Belt", "condition": "new", "drawer": "A1", "serial": "7", "version": "1"}
        self.done(self.post("workshop:single-out", [self.belt().pk], **sent))
        self.assertEqual(
            (self.again(self.belt()).quantity, balance(Account.PART, Part.objects.get().pk)), (2, D("3.33"))
        )
        self.assertContains(self.client.get("/workshop/single-parts/?q=7"), "Belt")
        self.assertEqual(complaints(), [])

    def belt(self) -> StockItem:
        return StockItem.objects.get(name="Belt")

    def test_issued_fitted_and_back(self):
        job = workshop.open_job(self.owner, self.patient, NewJob(title="Belt", kind="repair", estimate_minutes=5))
        issue = issuing.issue_part(self.owner, job, self.belt(), 1)
        self.done(self.post("workshop:fit", [issue.pk], kind="other", slot="spindle", serial=""))
        part = Part.objects.get()
        self.assertEqual((part.unit, part.slot, parts.fitted_cost(part)), (self.patient, "spindle", D("3.33")))
        self.done(self.post("workshop:return-part", [issue.pk]))
        self.assertIsNotNone(self.again(part).gone_at)
        self.assertEqual(self.belt().quantity, 3)
        self.assertEqual(complaints(), [])
        again = issuing.issue_part(self.owner, job, self.belt(), 1)
        fitted = issuing.fit_issue(self.owner, again, PartKind.OTHER, "spindle", "S-1")
        with self.assertRaisesRegex(Refused, "record of its own"):
            issuing.return_part(self.owner, again)
        self.move(fitted, Place(drawer="F1"), None)
        self.assertEqual(balance(Account.PART, fitted.pk), D("3.33"))
        with self.assertRaisesRegex(Refused, "not in W-"):
            issuing.return_part(self.owner, self.again(again))
        self.assertEqual(complaints(), [])

    def test_what_somebody_else_changed_meanwhile_is_shown(self):
        part = self.found()
        sent = {"kind": "board", "name": "Board", "condition": "tested", "version": part.version, "slot": "base"}
        self.done(self.post("workshop:part-change", [part.number], **sent))
        self.says(
            self.post("workshop:part-change", [part.number], **sent | {"name": "Other"}), "Somebody else saved this"
        )
        self.assertEqual((self.again(part).name, self.again(part).slot), ("Board", "base"))

    def test_what_is_known_of_it_is_kept_with_it(self):
        part = self.found()
        sent = {"kind": "note", "title": "Patched", "words": "two wires at U3", "sure": "measured", "version": "1"}
        self.done(self.post("workshop:known-single", [part.number], **sent))
        self.assertContains(self.client.get(f"/workshop/P-{part.number}/known/"), "two wires at U3")
        self.says(
            self.post("workshop:known-single", [part.number], **sent | {"kind": "picture"}),
            "A picture is a file: choose it.",
        )

    def test_pictures_of_it_are_shown_small(self):
        part = self.found()
        sent = {"kind": "picture", "title": "Underside", "sure": "measured", "version": "1"}
        picture = io.BytesIO()
        Image.new("RGB", (900, 600), (120, 90, 60)).save(picture, "PNG")
        for name, data in (("u.png", picture.getvalue()), ("fake.png", b"<svg onload=alert(1)>")):
            file = SimpleUploadedFile(name, data)
            self.done(self.post("workshop:known-single", [part.number], **sent | {"title": name, "file": file}))
        page = self.client.get(f"/workshop/P-{part.number}/")
        self.assertContains(page, 'alt="u.png"')
        self.assertNotContains(page, 'alt="fake.png"')
        real, fake = (Knowledge.objects.get(title=title) for title in ("u.png", "fake.png"))
        small = self.client.get(f"/workshop/known/{real.pk}/small/")
        with Image.open(io.BytesIO(small.getvalue())) as shown:
            self.assertEqual((shown.format, max(shown.size)), ("JPEG", 320))
        self.assertEqual(self.client.get(f"/workshop/known/{fake.pk}/small/").status_code, 404)

    def test_single_parts_go_out_as_a_file(self):
        part = self.found(Described(PartKind.BOARD, "=Board", "S-1", worth=D(20)))
        self.move(part, Place(drawer="F1"))
        file = self.client.get("/workshop/single-parts.csv").content.decode("utf-8-sig")
        head, row = csv.reader(io.StringIO(file))
        said = dict(zip(head, row, strict=True))
        self.assertEqual((said["code"], said["name"], said["from"]), (part.code, "'=Board", str(self.donor.tag)))
        self.assertEqual(D(said["cost"]), balance(Account.PART, part.pk))

    def test_found_by_its_code_and_labelled(self):
        part = self.found()
        self.assertEqual(self.client.get(f"/find/?q={part.code}")["Location"], f"/workshop/P-{part.number}/")
        self.assertEqual(self.client.get(f"/intake/parts/P-{part.number}/label.pdf")["Content-Type"], "application/pdf")


class Tests(Parts):
    GOOD = dict.fromkeys(("looks", "marks", "no-short", "rails", "reset", "answers"), True)

    def test_a_good_board_is_tested_and_a_bad_one_faulty(self):
        part = self.found()
        sent = {f"check-{code}": "pass" for code in self.GOOD} | {"value-rails": "5.02"}
        self.done(self.post("workshop:part-test", [part.number], **sent))
        self.assertEqual((self.again(part).condition, part.tests.get().results["rails"]["value"]), ("tested", "5.02"))
        self.done(self.post("workshop:part-test", [part.number], **sent | {"check-rails": "fail"}))
        self.assertEqual(self.again(part).condition, "faulty")
        self.assertIn("found bad", part.tests.get(good=True).overruled)
        self.assertIn(
            "a faulty part is in it: Logic board, P-0001", workshop_flow([self.donor])[self.donor.pk].not_proven
        )
        # Found good after all: what rested on its being bad is named.
        rested = part_tests.test_part(self.owner, self.again(part), Seen(self.GOOD)).rested
        self.assertEqual((self.again(part).condition, rested), ("tested", ()))

    def test_what_rested_on_a_good_part_is_named_when_it_is_bad(self):
        part = self.found()
        part_tests.test_part(self.owner, part, Seen(self.GOOD))
        self.move(self.again(part), Place(self.patient))
        rested = part_tests.test_part(self.owner, self.again(part), Seen(self.GOOD | {"reset": False})).rested
        self.assertEqual(len(rested), 1)
        self.assertIn(f"{self.patient.tag}: fitted", rested[0])

    def test_something_left_out_settles_nothing(self):
        part = self.found()
        self.says(self.post("workshop:part-test", [part.number]), "Nothing was looked at")
        tested = part_tests.test_part(self.owner, part, Seen({"looks": True}))
        self.assertEqual((tested.test.good, self.again(part).condition), (None, "untested"))

    def test_a_figure_far_under_what_it_should_be_raises_a_doubt(self):
        part = self.found()
        sent = {"check-looks": "pass", "figure": "MHz", "measured": "16"}
        self.says(self.post("workshop:part-test", [part.number], **sent), "all three", "16")
        self.says(self.post("workshop:part-test", [part.number], **sent | {"should_give": "0"}), "above 0")
        self.done(self.post("workshop:part-test", [part.number], **sent | {"should_give": "33"}))
        self.assertIn("48 %", self.again(part).doubt)
        self.assertContains(self.client.get(f"/workshop/P-{part.number}/"), "may not be what it says")
        self.done(self.post("workshop:part-no-doubt", [part.number]))
        self.assertEqual(self.again(part).doubt, "")

    def test_a_fixture_found_bad_takes_back_what_was_tested_on_it(self):
        fixture = shelf.shelve(self.owner, KnownGood(name="Jig", kind="fixture", stands_in="board"))
        part = self.found()
        part_tests.test_part(self.owner, part, Seen(self.GOOD, fixture=fixture))
        answer = self.post("stock:found-bad", [fixture.pk], words="its 5 V sags")
        self.assertContains(self.client.get(answer["Location"]), "the test of P-0001")
        self.assertEqual(self.again(part).condition, "untested")
        with self.assertRaisesRegex(Refused, "proves nothing"):
            part_tests.test_part(self.owner, part, Seen(self.GOOD, fixture=KnownGood.objects.get()))


class Beside(Parts):
    def test_the_better_board_goes_to_the_patient(self):
        bad = self.found(unit=self.patient)
        good = self.found()
        mouse = self.found(Described(PartKind.OTHER, "mouse", worth=D(4), keeps_data=False))
        part_tests.test_part(self.owner, bad, Seen({"looks": False}))
        address = f"/workshop/W-{self.patient.number}/beside/W-{self.donor.number}/"
        page = self.client.get(address)
        self.assertContains(page, "2 of 2 change over")
        self.assertContains(page, "with Logic board: faulty, no mouse.")
        self.done(self.client.post(address, {"part": [good.pk, mouse.pk], "write_key": "b1"}))
        self.assertEqual({part.pk for part in self.patient.parts.all()}, {good.pk, mouse.pk})
        self.assertEqual(self.patient.contents.get(name="mouse").presence, "present")
        self.assertContains(self.client.get(address), "Nothing changes over")
        self.assertEqual(complaints(), [])
        with self.assertRaisesRegex(Refused, "stand otherwise now"):
            side_by_side.change_over(self.owner, self.patient, self.donor, [good.pk])

    def test_what_is_not_known_is_said_before_anything_moves(self):
        self.found(Described(PartKind.BOARD, "Logic board", condition=Condition.FAULTY, worth=D(3)), self.patient)
        good = self.found(Described(PartKind.BOARD, "Logic board", condition=Condition.TESTED, worth=D(3)))
        self.assertContains(self.client.get(f"/workshop/W-{self.patient.number}/beside/W-{self.donor.number}/"),
                            "say whether P-0001 keeps data")  # fmt: skip
        with self.assertRaisesRegex(Refused, "First say whether"):
            side_by_side.change_over(self.owner, self.patient, self.donor, [good.pk])
        self.assertEqual(self.again(good).unit, self.donor)

    def test_beside_which(self):
        page = self.client.get(f"/workshop/W-{self.patient.number}/beside/")
        self.assertContains(page, self.donor.tag)
        Unit.objects.filter(pk=self.donor.pk).update(holding="custody", owner_name="E. Norr")
        page = self.client.get(f"/workshop/W-{self.patient.number}/beside/")
        self.assertNotContains(page, f">{self.donor.tag}<")
        there = self.client.get(f"/workshop/W-{self.patient.number}/beside/?other={self.donor.number}")
        self.assertEqual(there.status_code, 302)
        for typed, words in (("999", "There is no"), (str(self.patient.number), "same machine"), ("", "Which other")):
            self.assertContains(self.client.get(f"/workshop/W-{self.patient.number}/beside/?other={typed}"), words)


class Pages(Parts):
    def test_they_ask_as_often_however_many_parts_there_are(self):
        self.found()
        address = f"/workshop/W-{self.donor.number}/inside/"
        self.client.get(address)
        with CaptureQueriesContext(connection) as few:
            self.client.get(address)
        for n in range(12):
            self.found(Described(PartKind.CHIP, f"Chip {n}"), slot=f"U{n}")
        with self.assertNumQueries(len(few)):
            self.assertContains(self.client.get(address), "Chip 11")

    def test_two_side_by_side_ask_as_often_however_many_change_over(self):
        self.two_chips(0)
        address = f"/workshop/W-{self.patient.number}/beside/W-{self.donor.number}/"
        self.client.get(address)
        with CaptureQueriesContext(connection) as few:
            self.client.get(address)
        for n in range(1, 12):
            self.two_chips(n)
        with self.assertNumQueries(len(few)):
            self.assertContains(self.client.get(address), "12 of 12 change over")

    def two_chips(self, n: int) -> None:
        """A faulty one in the patient, a tested one in the donor."""
        for unit, condition in ((self.patient, Condition.FAULTY), (self.donor, Condition.TESTED)):
            self.found(Described(PartKind.CHIP, f"Chip {n}", condition=condition, keeps_data=False), unit, slot=f"U{n}")
