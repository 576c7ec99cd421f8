"""What was recorded by a slip is taken off again, with why; what something else rests on stays."""

from datetime import time, timedelta
from decimal import Decimal

from django.urls import reverse
from django.utils import timezone

from core.stock.parts import PartKind
from stations.bench import benchmarks, faults, notes, stops
from stations.bench import services as bench
from stations.bench.benchmarks import BenchmarkRuns
from stations.bench.models import FaultCase
from stations.buying import services as buying
from stations.buying.models import Supplier
from stations.catalogue.models import SerialPattern, VariantRule
from stations.common.refusals import NotAllowed, Refused
from stations.day import services as day
from stations.day.models import Arrival, Promise
from stations.intake import services as intake
from stations.people.models import HistoryEntry
from stations.selling.models import Comparable
from stations.stock import services as stock
from stations.stock.models import StockItem
from stations.stock.services import Sort
from stations.units import colours, findings, parts, photos, picture_files, slips, sounds
from stations.units.models import Content, Finding, Photo, Unit
from stations.workshop import issuing
from stations.workshop import services as workshop
from stations.workshop.new_job import NewJob
from tests.hands import a_picture, a_tone
from tests.stations.base import line_data, lot_data, person
from tests.stations.test_pages import PageTest


class Slips(PageTest):
    def scene(self):
        super().scene()
        self.unit = self.assessed()
        self.there = reverse("intake:slips", args=[self.unit.number])

    def press(self, mark: str, why: str = "wrong key"):
        return self.client.post(self.there, {"mark": mark, "why": why, "write_key": ""})

    def scratch(self) -> Finding:
        return findings.add_finding(self.owner, self.unit, findings.Observation("top", "scratch", 0.5, 0.5))

    def test_a_finding_that_was_none(self):
        row = self.scratch()
        self.assertContains(self.client.get(self.there), str(row))
        self.assertEqual(self.press(f"finding:{row.pk}").status_code, 302)
        self.assertFalse(Finding.objects.exists())
        said = HistoryEntry.objects.filter(action="units.take_off").get()
        self.assertIn("scratch, top, open; wrong key", said.words)
        self.assertEqual(said.data["why"], "wrong key")
        # Pressed by somebody else who has the page open still.
        self.assertContains(self.press(f"finding:{row.pk}"), "Choose what it is", status_code=200)

    def test_a_fault_that_was_none_is_not_looked_for(self):
        case = faults.open_case(self.owner, self.unit, "no-picture")
        faults.record_own(self.owner, case, faults.OwnTry("swapped the cable", "still dark"))
        self.assertTrue(FaultCase.objects.get().tries.exists())
        self.assertContains(self.client.get(self.there), "Looked for")
        self.press(f"fault:{case.pk}", "it was the monitor")
        self.assertFalse(FaultCase.objects.exists())
        self.assertNotIn("fault", self.again(self.unit).stage_reason)
        found = faults.open_case(self.owner, self.unit, "dead")
        faults.close_case(self.owner, found, "", "the lead", "another lead")
        self.assertNotContains(self.client.get(self.there), f"fault:{found.pk}")

    def test_a_leak_that_was_none_holds_it_no_more(self):
        row = self.hand().find(self.unit, "front", "leak", 4, "")
        self.assertEqual(self.again(self.unit).state, "hold")
        slips.take_off(self.owner, self.unit, f"finding:{row.pk}", "a reflection")
        self.assertNotEqual(self.again(self.unit).state, "hold")

    def test_why_is_asked_and_a_choice_too(self):
        row = self.scratch()
        page = self.press(f"finding:{row.pk}", "")
        self.assertContains(page, "Say why")
        self.assertContains(page, "checked")
        self.assertContains(self.press("", "wrong key"), "Choose what it is.")
        for nonsense in ("finding:999999", "photo:x", "content", "unit:1"):
            self.assertContains(self.press(nonsense), "Choose what it is.")
        self.assertEqual(Finding.objects.count(), 1)

    def test_a_discharge_of_another_machine(self):
        """Else this one would be taken for discharged."""
        stops.discharge(self.owner, self.unit, "tube", silent=True)
        row = self.unit.discharges.get()
        self.assertContains(self.client.get(f"/W-{self.unit.number}/"), self.there)
        self.assertContains(self.client.get(self.there), "CRT discharged")
        self.press(f"discharge:{row.pk}", "that was W-102")
        self.assertEqual(self.unit.discharges.count(), 0)
        self.assertIn("CRT discharged", HistoryEntry.objects.get(action="units.take_off").words)

    def test_a_wrong_key_at_a_power_up(self):
        """A failed one holds a machine up, a clean one vouches for it."""
        self.hand().test(self.unit)
        bench.note_start(self.owner, self.unit, False, False, "hung")
        self.assertIn("a start failed", self.again(self.unit).stage_reason)
        row = self.unit.starts.get(passed=False)
        self.assertContains(self.client.get(self.there), "failed, hung")
        self.press(f"start:{row.pk}", "it was W-102 that hung")
        self.assertFalse(self.unit.starts.filter(passed=False).exists())
        self.assertNotIn("a start failed", self.again(self.unit).stage_reason)

    def test_a_benchmark_of_another_machine(self):
        row = benchmarks.record_benchmark(self.owner, self.unit, BenchmarkRuns("loop", "10; 11; 10.5", "before"))
        self.press(f"benchmark:{row.pk}", "that was W-102")
        self.assertFalse(self.unit.benchmarks.exists())

    def test_a_note_at_a_step_goes_and_its_picture_can_go_after_it(self):
        run = bench.start_run(self.owner, self.unit)
        code = bench.plan_of(run)[0].code
        row = notes.add(self.owner, run, code, "", a_picture("step.png"))
        photo = f"photo:{row.photo_id}"
        self.assertIn(
            "a note of a test rests on it", {one.mark: one.keeps for one in slips.on_record(self.unit)}[photo]
        )
        self.press(f"note:{row.pk}", "that was W-102")
        self.press(photo, "that was W-102")
        self.assertEqual((run.notes.count(), self.unit.photos.count()), (0, 0))

    def test_a_colour_of_a_wrong_spot(self):
        photos.add_photos(self.owner, self.unit, [a_picture("front.png")])
        grey, lit = [0.5, 0.1, 180, 180, 180], [0.5, 0.5, 201, 194, 176]
        row = colours.keep_sample(
            self.owner, self.unit.photos.get(), "front", "found", grey, [0.2, 0.2, 200, 198, 190], [lit]
        )
        self.press(f"colour:{row.pk}", "the shadow of the lamp")
        self.assertFalse(self.unit.colours.exists())

    def test_what_a_job_answers_to_stays(self):
        row = self.scratch()
        content = Content.objects.filter(unit=self.unit).first()
        workshop.open_job(self.owner, self.unit, NewJob("Polish it", finding=row))
        workshop.open_job(self.owner, self.unit, NewJob("Find one", source=f"content:{content.pk}"))
        for mark, job in ((f"finding:{row.pk}", "Polish it"), (f"content:{content.pk}", "Find one")):
            with self.assertRaisesRegex(Refused, f"It stays: the job “{job}” answers to it"):
                slips.take_off(self.owner, self.unit, mark, "wrong key")
        self.assertContains(self.client.get(self.there), "answers to it")

    def test_what_a_part_stands_on_the_list_as_stays(self):
        content = Content.objects.filter(unit=self.unit).first()
        described = parts.Described(PartKind.OTHER, content.name)
        part = parts.record_part(self.owner, parts.Place(self.unit, "in front", content=content), described)
        with self.assertRaisesRegex(Refused, f"{part.code} stands on the list as it"):
            slips.take_off(self.owner, self.unit, f"content:{content.pk}", "wrong key")

    def test_what_never_belonged_with_it_counts_no_more(self):
        intake.tick_contents(self.owner, self.unit, {}, missing="moouse")
        row = Content.objects.get(unit=self.unit, name="moouse")
        self.press(f"content:{row.pk}")
        self.assertFalse(Content.objects.filter(name="moouse").exists())
        self.assertNotContains(self.client.get("/intake/wanted/"), "moouse")

    def test_a_look_that_was_none(self):
        self.assertIsNotNone(self.unit.looked_over_at)
        self.press("look:0", "only the front")
        self.assertIsNone(self.again(self.unit).looked_over_at)
        self.assertContains(self.client.get(reverse("intake:unit", args=[self.unit.number])), "not looked all over yet")

    def test_a_wrong_picture_goes_with_its_file_unless_it_is_elsewhere_too(self):
        other = self.receive()[0]
        for unit, names in ((self.unit, ("a.png", "b.png")), (other, ("b.png",))):
            photos.add_photos(self.owner, unit, [a_picture(name, 90 + 50 * (name == "b.png")) for name in names])
        for row, stays in zip(self.unit.photos.order_by("id"), (False, True), strict=True):
            path = picture_files.path_of(row.sha256)
            self.assertTrue(path.exists())
            with self.captureOnCommitCallbacks(execute=True):
                self.press(f"photo:{row.pk}", "somebody’s face")
            self.assertEqual((Photo.objects.filter(pk=row.pk).exists(), path.exists()), (False, stays))

    def test_a_picture_that_proves_something_stays(self):
        leak = self.hand().find(self.unit, "front", "leak", 4, "")
        Finding.objects.filter(pk=leak.pk).update(seen_at=timezone.now() - timedelta(hours=2))
        photos.add_photos(self.owner, self.unit, [a_picture("clean.png")])
        findings.settle_finding(self.owner, self.again(leak), "resolved", "washed with vinegar")
        row = self.unit.photos.get()
        with self.assertRaisesRegex(Refused, "was dealt with"):
            slips.take_off(self.owner, self.unit, f"photo:{row.pk}", "blurred")

    def test_a_noise_goes_with_what_was_heard(self):
        clip = sounds.add_heard(self.owner, self.unit, a_tone(), "a rattle")
        path = sounds.path_of(clip.sha256, clip.kind)
        with self.captureOnCommitCallbacks(execute=True):
            self.press(f"finding:{clip.finding_id}", "it was the street")
        self.assertEqual((self.unit.clips.count(), path.exists()), (0, False))

    def test_who_may_not_record_it_may_not_take_it_off(self):
        row = self.scratch()
        with self.assertRaises(NotAllowed):
            slips.take_off(self.viewer, self.unit, f"finding:{row.pk}", "wrong key")
        with self.assertRaises(NotAllowed):
            slips.take_off(person("sue", "seller"), self.unit, "look:0", "wrong key")

    def test_a_job_that_is_not_wanted_is_cancelled_before_it_is_begun(self):
        row = self.scratch()
        job = workshop.open_job(self.owner, self.unit, NewJob("Polish it", finding=row))
        issuing.reserve(self.owner, job, self.part, Decimal(1))
        page = self.client.get(reverse("workshop:change", args=[job.pk]))
        self.assertContains(page, "Cancel the job")
        there = reverse("workshop:cancel-job", args=[job.pk])
        self.assertContains(self.client.post(there, {"why": ""}), "Say why it is not wanted.")
        self.assertEqual(self.client.post(there, {"why": "another machine"}).status_code, 302)
        job = self.again(job)
        self.assertEqual((job.never_begun, job.result), (True, "cancelled: another machine"))
        self.assertEqual((self.again(row).status, self.again(self.part).reserved), ("open", 0))
        with self.assertRaisesRegex(Refused, "closed already"):
            workshop.cancel_job(self.owner, job, "twice")

    def test_work_that_was_done_is_finished_not_cancelled(self):
        job = workshop.open_job(self.owner, self.unit, NewJob("Polish it"))
        workshop.log_labour(self.owner, job, 5)
        with self.assertRaisesRegex(Refused, "finish it"):
            workshop.cancel_job(self.owner, job, "too late")
        self.assertNotContains(self.client.get(reverse("workshop:change", args=[job.pk])), "Cancel the job")
        with self.assertRaises(NotAllowed):
            workshop.cancel_job(self.viewer, job, "no")

    def test_how_a_maker_did_not_number(self):
        pattern = SerialPattern.objects.create(maker="Halden", pattern="{year:2}")
        rule = VariantRule.objects.create(maker="Halden", base=1500, at_base="v100_120", at_next="v220_240")
        self.assertContains(self.client.get(reverse("catalogue:numbering")), "× {year:2}")
        for what, row in (("pattern", pattern), ("rule", rule)):
            self.assertEqual(self.post("catalogue:drop-numbering", [what, row.pk]).status_code, 302)
            self.assertFalse(type(row).objects.exists())
        self.assertEqual(self.post("catalogue:drop-numbering", ["other", 1]).status_code, 404)

    def test_a_sale_elsewhere_that_was_none(self):
        facts = {"model": self.model, "sold_on": timezone.localdate(), "grade": "B", "price": 90}
        row, own = Comparable.objects.create(**facts), Comparable.objects.create(**facts, own=True)
        for one in (row, own):
            self.post("selling:drop-comparable", [one.pk], page="x")
        self.assertEqual(list(Comparable.objects.all()), [own])
        self.assertContains(self.client.get(reverse("selling:comparables")), "It is a sale of ours")

    def test_what_nobody_promised_and_what_does_not_come(self):
        made = day.promise(self.owner, self.unit, timezone.now() + timedelta(days=1), "ready", Decimal(10))
        self.assertEqual(self.post("day:settle", [made.pk, "park"]).status_code, 404)
        self.post("day:settle", [made.pk, "none"])
        parcel = day.expect(self.owner, timezone.localdate(), time(9), "belts")
        self.post("day:comes-not", [parcel.pk])
        self.assertEqual((Promise.objects.count(), Arrival.objects.count()), (0, 0))
        kept = day.promise(self.owner, self.unit, timezone.now() + timedelta(days=1), "ready", Decimal(10))
        day.settle_promise(self.owner, kept, True)
        with self.assertRaisesRegex(Refused, "settled already"):
            day.take_back_promise(self.owner, kept)

    def test_a_supplier_that_was_typed_in_two_ways_is_one(self):
        twice = buying.record_lot(self.owner, lot_data(supplier_name="Pell Head scool"), [line_data()])
        wrong, right = twice.supplier, self.lot.supplier
        there = reverse("buying:supplier", args=[wrong.pk])
        page = self.client.post(there, {"name": "Pell Head school", "place": ""})
        self.assertContains(page, "Tick the box if they are the same")
        answer = self.client.post(there, {"name": "Pell Head school", "place": "", "together": "on"})
        self.assertEqual(answer["Location"], reverse("buying:supplier", args=[right.pk]))
        self.assertEqual((self.again(twice).supplier, Supplier.objects.filter(pk=wrong.pk).count()), (right, 0))
        self.post("buying:supplier", [right.pk], name="School of Pell Head", place="Pell Head")
        self.assertEqual((self.again(right).name, self.again(right).place), ("School of Pell Head", "Pell Head"))
        self.assertContains(self.client.get(reverse("buying:lot", args=[twice.number])), "was Pell Head scool")
        with self.assertRaises(NotAllowed):
            buying.name_supplier(self.viewer, right, "x", "")

    def test_a_part_that_was_typed_wrong_is_renamed_but_never_to_one_that_is_there(self):
        stock.stock_part(self.owner, Sort("Bellt", "new"), 1, Decimal(3))
        row = StockItem.objects.get(name="Bellt")
        page = self.post("stock:change", [row.pk], version=1, name="Belt", measure="piece", in_use="on")
        self.assertContains(page, "There is a Belt, new, already.")
        self.post("stock:change", [row.pk], version=1, name="Belt, long", measure="piece", in_use="on")
        self.assertEqual(self.again(row).name, "Belt, long")

    def test_what_left_the_house_stays_as_it_is(self):
        Unit.objects.filter(pk=self.unit.pk).update(stage="sold")
        with self.assertRaisesRegex(Refused, "its record stays as it is"):
            slips.take_off(self.owner, self.unit, "look:0", "wrong key")
        self.assertContains(self.client.get(self.there), "Not any more")
