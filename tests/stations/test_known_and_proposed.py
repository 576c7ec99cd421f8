"""What is known of machines and parts, and what is proposed to be done to one."""

from datetime import timedelta
from decimal import Decimal as D
from hashlib import sha256

from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import IntegrityError, connection, transaction
from django.test.utils import CaptureQueriesContext

from stations.common import clock
from stations.people.models import HistoryEntry
from stations.selling.market import market_of
from stations.selling.models import Comparable
from stations.selling.selectors import graded_now
from stations.stock import services as stock
from stations.stock.models import StockItem
from stations.workshop import issuing, knowledge
from stations.workshop import services as workshop
from stations.workshop.models import Knowledge
from stations.workshop.proposals import proposals_of
from tests.stations.base import ShopTest
from tests.stations.test_through_the_pages import Through


class WhatIsKnown(Through):
    def scene(self) -> None:
        super().scene()
        self.unit = self.assessed()

    KNOWN = {"title": "Link table", "kind": "jumpers", "sure": "guessed", "words": "switch 3 is bank 3", "version": "1"}

    def keep(self, **changes):
        return self.post("workshop:known", [self.unit.number], **self.KNOWN | changes)

    def test_kept_with_how_sure_of_the_unit_or_of_its_model(self):
        self.done(self.keep())
        self.done(self.keep(title="Manual", kind="manual", sure="printed", of_model="on"))
        other = self.assessed()
        page = self.client.get(f"/workshop/W-{other.number}/known/")
        self.assertContains(page, "Manual")
        self.assertNotContains(page, "Link table")

    def test_an_outsider_has_a_name_and_an_image_is_a_file(self):
        self.says(self.keep(sure="outsider"), "Say who said it")
        self.says(self.keep(kind="firmware"), "An image is a file")
        rom = SimpleUploadedFile("rom.bin", bytes(range(256)) * 8)
        self.done(self.keep(kind="firmware", sure="measured", file=rom, may_pass_on="false"))
        row = Knowledge.objects.get()
        self.assertEqual(row.sha256, sha256(bytes(range(256)) * 8).hexdigest())
        answer = self.client.get(f"/workshop/known/{row.pk}/file/")
        self.assertEqual(b"".join(answer.streaming_content), bytes(range(256)) * 8)
        self.assertIn("attachment", answer["Content-Disposition"])
        self.says(self.keep(kind="firmware", file=SimpleUploadedFile("no.bin", b"")), "empty")

    def test_a_question_waits_and_its_answer_is_evidence_with_a_name(self):
        asked = {"title": "Which clock crystal?", "kind": "question", "sure": "outsider", "from_whom": "its designer"}
        self.done(self.keep(**asked, due=(clock.today() - timedelta(days=1)).isoformat()))
        self.assertContains(self.client.get("/workshop/"), "no answer since")
        row = Knowledge.objects.get()
        there = f"/workshop/W-{self.unit.number}/known/?one={row.pk}"
        told = {**self.KNOWN, **asked, "version": row.version, "answer": "14.318 MHz"}
        wrong = self.client.post(there, told | {"sure": "printed", "write_key": "a1"})
        self.assertContains(wrong, "what somebody said", status_code=wrong.status_code)
        self.assertEqual(self.client.post(there, told | {"write_key": "a2"}).status_code, 302)
        row = self.again(row)
        self.assertEqual((row.answered_on, row.sure, row.overdue), (clock.today(), "outsider", False))
        self.assertNotContains(self.client.get("/workshop/"), "Which clock crystal?")

    def test_what_is_not_so_goes_with_its_file_unless_another_has_it(self):
        rom = bytes(range(256))
        for title in ("Chip", "The same, kept twice"):
            file = SimpleUploadedFile("rom.bin", rom)
            self.done(self.keep(title=title, kind="firmware", sure="measured", file=file, may_pass_on="false"))
        first, other = Knowledge.objects.order_by("pk")
        path = knowledge.path_of(first.sha256)
        page = self.client.get(f"/workshop/W-{self.unit.number}/known/?one={first.pk}")
        self.assertContains(page, "not of this")
        self.assertContains(self.post("workshop:known-forget", [first.pk], follow=True), "Say why")
        for row, stays in ((first, True), (other, False)):
            with self.captureOnCommitCallbacks(execute=True):
                self.done(self.post("workshop:known-forget", [row.pk], why="of another board"))
            self.assertEqual(path.exists(), stays)
        self.assertIn("of another board", HistoryEntry.objects.filter(action="workshop.forget").first().words)

    def test_a_file_that_another_takes_the_place_of_goes(self):
        first, second = bytes(range(256)), bytes(reversed(range(256)))
        asked = {"kind": "firmware", "sure": "measured", "may_pass_on": "false"}
        self.done(self.keep(**asked, file=SimpleUploadedFile("a.bin", first)))
        row = Knowledge.objects.get()
        before = knowledge.path_of(row.sha256)
        there = f"/workshop/W-{self.unit.number}/known/?one={row.pk}"
        told = {**self.KNOWN, **asked, "version": row.version}
        with self.captureOnCommitCallbacks(execute=True):
            self.assertEqual(self.client.post(there, told | {"words": "bank 2", "write_key": "a1"}).status_code, 302)
        self.assertTrue(before.exists())
        told["version"] = self.again(row).version
        with self.captureOnCommitCallbacks(execute=True):
            answer = self.client.post(there, told | {"file": SimpleUploadedFile("b.bin", second), "write_key": "a2"})
        self.assertEqual(answer.status_code, 302)
        self.assertFalse(before.exists())
        self.assertEqual(knowledge.path_of(self.again(row).sha256).read_bytes(), second)

    def test_of_a_part_in_a_drawer(self):
        self.done(self.post("workshop:known-part", [self.part.pk], **self.KNOWN))
        row = Knowledge.objects.get()
        self.assertEqual(row.item, self.part)
        self.done(self.post("workshop:known-forget", [row.pk], why="wrong part"))
        self.done(self.post("workshop:known-part", [self.part.pk], **self.KNOWN))
        with self.assertRaises(IntegrityError), transaction.atomic():
            Knowledge.objects.update(unit=self.unit)


class WhatIsProposed(ShopTest):
    STANDS = "assessed"

    def test_queries_do_not_grow_with_what_is_found(self):
        few, many = self.assessed(missing=("mouse",)), self.assessed(missing=("mouse", "keyboard"))
        hand = self.hand()
        hand.find(few, "front", "residue", 2, "glue")
        for face in ("front", "top", "left", "right", "back"):
            for kind in ("residue", "scratch", "rust"):
                hand.find(many, face, kind, 2, "here")

        def asked(unit) -> int:
            with CaptureQueriesContext(connection) as queries:
                proposals_of(self.again(unit))
            return len(queries)

        self.assertEqual(asked(few), asked(many))

    def test_what_is_missing_from_stock_from_a_donor_or_to_be_found(self):
        donor = self.assessed("donor")
        unit = self.assessed(missing=("mouse", "keyboard"))
        mouse = StockItem.objects.create(name="mouse", drawer="B7")
        stock.buy_stock(self.owner, mouse, 2, D("9.00"))
        found = {one.key: one for one in proposals_of(unit).all}
        keys = {c.name: f"content:{c.pk}" for c in unit.contents.all()}
        self.assertIn("B7", found[keys["mouse"]].why)
        self.assertEqual(found[keys["mouse"]].proposal.parts, D("4.50"))
        self.assertIn(str(donor.tag), found[keys["keyboard"]].why)
        # Nobody said what a keyboard costs: it is not weighed.
        self.assertIsNone(found[keys["keyboard"]].proposal.parts)

    def test_a_job_opened_for_a_missing_thing_still_has_to_pay_for_it(self):
        unit = self.assessed("conserve", missing=("mouse",))
        mouse = StockItem.objects.create(name="mouse", drawer="B7")
        stock.buy_stock(self.owner, mouse, 1, D("9.00"))
        job = workshop.open_proposed(self.technician, unit, f"content:{unit.contents.get(name='mouse').pk}")
        self.assertTrue(job.reversible)

        def parts() -> D:
            return proposals_of(self.again(unit)).get(f"job:{job.pk}").proposal.parts

        self.assertEqual(parts(), D("9.00"))
        issuing.issue_part(self.technician, job, mouse, 1)
        self.assertEqual(parts(), 0)

    def test_what_selling_answers_decides_what_a_job_adds(self):
        unit = self.proven()
        for price, letter in (("200", "A"), ("150", "B"), ("110", "C"), ("60", "D")):
            Comparable.objects.create(
                model=self.model,
                price=D(price),
                currency="EUR",
                rate=1,
                grade=letter,
                sold_on=clock.today(),
                channel="a sale",
            )
        found = proposals_of(unit)
        self.assertEqual(found.best.now.grade, graded_now(unit).grade.label)
        self.assertEqual(found.best.now.likely, market_of(unit, graded_now(unit).grade).band.likely)

    def test_nothing_is_proposed_for_what_left_the_house_or_is_not_taken_in(self):
        (unit,) = self.receive()
        self.assertEqual(len(proposals_of(unit)), 0)
        self.assertEqual(len(proposals_of(self.listed())), 0)
