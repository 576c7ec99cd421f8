"""Units out of and into files; labels that a scanner reads; colour; triage; the lists."""

import csv
import io
import json
import threading
import time
from datetime import timedelta
from decimal import Decimal
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest.mock import patch

import jsonschema
import pypdfium2
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import SimpleTestCase
from django.urls import reverse
from django.utils import timezone
from PIL import Image
from pyzbar.pyzbar import decode

from core.buying.manifest import ManifestError, read_table
from core.machine.tags import parse_tag
from simulators import label_printer
from stations.buying import services as buying
from stations.buying.forms.charges import Charges
from stations.buying.forms.lots import Lines
from stations.common.files import write_whole
from stations.common.refusals import NotAllowed, Refused
from stations.intake import capture, records, triage
from stations.intake import services as intake
from stations.selling.models import Comparable
from stations.units import labels, paths, photos, picture_files
from stations.units.models import ColourSample, Unit
from stations.workshop.forms import KeptParts
from tests.stations.base import line_data, lot_data
from tests.stations.test_intake import picture
from tests.stations.test_pages import PageTest

D = Decimal
SCHEMA = Path(__file__).resolve().parents[2] / "docs" / "unit.schema.json"


class Records(PageTest):
    def unit(self) -> Unit:
        unit = self.assessed(place="shelf 3")
        self.hand().find(unit, "front", "crack", 2, "corner")
        return Unit.objects.select_related("lot", "line", "model").get(pk=unit.pk)

    def test_a_record_keeps_to_the_published_schema_and_comes_back_the_same(self):
        unit = self.unit()
        record = json.loads(self.client.get(f"/intake/W-{unit.number}/record.json").content)
        schema = json.loads(SCHEMA.read_text())
        jsonschema.Draft202012Validator.check_schema(schema)
        jsonschema.validate(record, schema)
        file = SimpleUploadedFile("unit.json", json.dumps(record).encode())
        page = self.client.post(reverse("intake:import-record", args=[self.line.pk]), {"file": file})
        twin = Unit.objects.select_related("lot", "line", "model").latest("number")
        self.assertRedirects(page, f"/intake/W-{twin.number}/")
        again = records.export(twin)
        own = {"tag", "history", "photos", "received_at", "stage"}
        self.assertEqual(
            {k: v for k, v in again.items() if k not in own}, {k: v for k, v in record.items() if k not in own}
        )

    def test_what_is_no_record_is_refused_where_it_is_wrong(self):
        record = records.export(self.unit())
        for change, words in (
            ({"form_factor": "sphere"}, "form_factor"),
            ({"findings": [record["findings"][0] | {"x": 7}]}, "findings/0/x"),
            ({"holding": "custody", "owner_name": ""}, "owner_name"),
            ({"surprise": 1}, "the whole"),
            ({"adapter_volts": "lots"}, "adapter_volts"),
        ):
            with self.subTest(change), self.assertRaisesRegex(Refused, words):
                records.read(json.dumps(record | change).encode())
        thing, finding = record["contents"][0], record["findings"][0]
        for change, words in (
            ({"contents": [thing, thing]}, "contents/1: keyboard stands there twice"),
            ({"contents": [thing, thing | {"name": "Key\u200bboard"}]}, "contents/1"),
            ({"contents": [thing | {"weight": 99999}]}, "contents/0"),
            ({"findings": [finding | {"seen_at": "2026-02-31T10:00:00Z"}]}, "no moment it can have been seen at"),
            ({"findings": [finding | {"seen_at": "2026-02-01"}]}, "findings/0/seen_at"),
            ({"findings": [finding | {"seen_at": "9999-12-31T23:59:59-12:00"}]}, "no moment"),
            ({"form_factor": "board", "findings": [finding | {"face": "left"}]}, "has no left"),
            ({"holding": "custody", "owner_name": "Museum", "approach": "donor"}, "only conserving"),
            ({"holding": "consigned", "owner_name": "E. Norr", "approach": "donor"}, "Only what is ours"),
        ):
            with self.subTest(change), self.assertRaisesRegex(Refused, words):
                records.import_record(self.owner, self.line, records.read(json.dumps(record | change).encode()))
        self.assertEqual(Unit.objects.count(), 1)
        text = json.dumps(record)
        for spoiled in (text.replace('"x": 0.', '"x": NaN, "y": 0.'), text.replace("corner", "\\ud800")):
            with self.subTest(spoiled[-40:]), self.assertRaises(Refused):
                records.read(spoiled.encode())
        for data in (b"", b"{", b"\xff", b"[" * 100_000):
            with self.subTest(data[:2]), self.assertRaises(Refused):
                records.read(data)
        with self.assertRaises(NotAllowed):
            records.import_record(self.viewer, self.line, record)


class Labels(PageTest):
    def tags_on(self, pdf: bytes) -> list[str]:
        """What a scanner reads off every page, at 300 dots an inch."""
        found = []
        for page in pypdfium2.PdfDocument(pdf):
            found += [code.data.decode() for code in decode(page.render(scale=300 / 72).to_pil())]
        return found

    def test_every_size_reads_back_as_the_tag(self):
        (unit,) = self.receive()
        Unit.objects.filter(pk=unit.pk).update(
            title="Halden <M2> & a long name that can’t fit on any label", serial="X" * 40
        )
        for size in labels.SIZES.values():
            with self.subTest(size.code):
                page = self.client.get(reverse("units:label-file", args=[unit.number, "pdf"]), {"size": size.code})
                self.assertEqual(self.tags_on(page.content), [str(unit.tag)])
                self.assertEqual(parse_tag(self.tags_on(page.content)[0]), unit.tag)
        page = self.client.get(reverse("units:label-file", args=[unit.number, "svg"]))
        self.assertEqual(page["Content-Type"], "image/svg+xml")
        self.assertIn("&lt;M2&gt; &amp;", page.content.decode())

    def test_a_sheet_begins_where_the_last_one_ended(self):
        units = self.receive(3)
        there = reverse("units:lot-labels", args=[self.lot.number])
        pdf = self.client.get(there, {"file": "pdf", "size": "sheet-24", "first": "23"}).content
        self.assertEqual(len(pypdfium2.PdfDocument(pdf)), 2)
        self.assertEqual(sorted(self.tags_on(pdf)), sorted(str(unit.tag) for unit in units))
        page = self.client.get(there, {"file": "pdf", "size": "sheet-24", "first": "25"}, follow=True)
        self.assertContains(page, "places 1 to 24")

    def test_the_label_printer_gets_its_files_and_a_dead_one_is_said(self):
        (unit,) = self.receive()
        with TemporaryDirectory() as folder, self.settings(LABEL_PRINTER=f"{folder}/out"):
            self.post("units:print-label", [unit.number], size="tie-on")
            (file,) = Path(folder, "out").iterdir()
            self.assertEqual(file.name, f"{unit.tag}-tie-on.svg")
            self.assertEqual(label_printer.print_waiting(Path(folder, "out"), Path(folder, "printed")), 1)
            (printed,) = Path(folder, "printed").iterdir()
            self.assertIn(str(unit.tag), printed.read_text())
        with TemporaryDirectory() as folder, self.settings(LABEL_PRINTER=f"{folder}/file/out"):
            Path(folder, "file").write_text("in the way")
            page = self.client.post(reverse("units:print-label", args=[unit.number]), {"size": "tie-on"}, follow=True)
            self.assertContains(page, "does not answer")


class Colours(PageTest):
    SPOTS = {
        "neutral": [0.1, 0.1, 200, 200, 200],
        "sheltered": [0.2, 0.2, 226, 217, 196],
        "exposed": [[0.5, 0.5, 214, 196, 150]],
    }

    def scene(self) -> None:
        super().scene()
        (self.unit,) = self.receive()
        photos.add_photos(self.owner, self.unit, [picture()])
        self.photo = self.unit.photos.get()

    def keep(self, spots, **data):
        sent = {"spots": json.dumps(spots), "part": "top cover", "moment": "found"} | data
        return self.client.post(reverse("units:keep-colour", args=[self.photo.pk]), sent, follow=True)

    def test_measured_kept_and_set_against_after_treatment(self):
        page = self.client.post("/intake/colour/measure/", {"spots": json.dumps(self.SPOTS)})
        self.assertContains(page, "yellowed")
        self.keep(self.SPOTS)
        page = self.keep(self.SPOTS | {"exposed": [[0.5, 0.5, 225, 216, 194]]}, moment="after")
        self.assertContains(page, "as found")
        before, after = ColourSample.objects.all()
        self.assertGreater(before.yellowing, after.yellowing)

    def test_a_paint_sample_against_its_reference(self):
        spots = {"reference": [0.1, 0.1, 200, 190, 160], "sample": [0.2, 0.2, 180, 160, 100]}
        self.assertContains(self.client.post("/intake/colour/measure/", {"spots": json.dumps(spots)}), "darker")
        for nonsense in ("9" * 5000, "[" * 3000, "{", "null", '{"sample": [1e400]}', '{"neutral": "x"}'):
            answer = self.client.post("/intake/colour/measure/", {"spots": nonsense})
            self.assertEqual(answer.status_code, 200)

    def test_nonsense_is_refused_in_words(self):
        for spots, words in (
            ({}, "sheltered area"),
            (self.SPOTS | {"exposed": [[2, 0, 1, 1, 1]]}, "off the picture"),
            (self.SPOTS | {"sheltered": "x"}, "a place on the picture"),
            (self.SPOTS | {"neutral": [0, 0, 0, 9, 9]}, "black in one channel"),
            (self.SPOTS | {"exposed": [[0, 0, 1, 1, 1]] * 13}, "12 exposed spots"),
        ):
            with self.subTest(words):
                self.assertContains(self.keep(spots), words)
        self.assertContains(self.keep(self.SPOTS, part=""), "Say of what")
        self.assertContains(self.client.post("/intake/colour/measure/", {"spots": "["}), "Click the picture again")
        self.assertFalse(ColourSample.objects.exists())


class WhatBecomesOfIt(PageTest):
    def test_a_whole_lot_on_one_page_in_a_fixed_number_of_queries(self):
        def queries():
            units = list(paths.with_facts(self.lot.units.all()))
            paths.weigh_paths(units)

        # Nine of what is weighed and how such turned out, ten of what a sale leaves, ten of what the bench has shown.
        self.receive()
        with self.assertNumQueries(29):
            queries()
        self.receive(2)
        with self.assertNumQueries(29):
            queries()
        page = self.client.get(f"/intake/L-{self.lot.number}/triage/")
        matters = [row.found.matters for row in page.context["rows"]]
        self.assertEqual((len(matters), matters), (3, sorted(matters, reverse=True)))
        picked = [row.unit.number for row in page.context["rows"]][:2]
        self.client.post(f"/intake/L-{self.lot.number}/triage/", {"unit": picked})
        self.assertEqual(Unit.objects.exclude(path="").count(), 2)

    def test_another_path_than_the_best_wants_a_reason(self):
        unit = self.assessed()
        with self.assertRaisesRegex(Refused, "should leave more. Say why"):
            triage.choose_path(self.owner, unit, "scrap")
        triage.choose_path(self.owner, unit, "scrap", "smells of smoke")
        self.assertEqual((self.again(unit).path, self.again(unit).path_reason), ("scrap", "smells of smoke"))
        with self.assertRaisesRegex(Refused, "one of the paths"):
            triage.choose_path(self.owner, unit, "burn")

    def test_prices_come_from_sales_elsewhere_when_there_are_enough(self):
        unit = self.assessed()
        for age, price in ((30, 300), (60, 310), (90, 290), (120, 305), (20, 295)):
            Comparable.objects.create(
                model=self.model,
                sold_on=timezone.localdate() - timedelta(days=age),
                grade="B",
                completeness=100,
                price=D(price),
                channel="fair",
            )
        (weighed,) = paths.weigh_paths(list(paths.with_facts(Unit.objects.filter(pk=unit.pk))))
        self.assertTrue(290 <= weighed.facts.prices.working <= 310)
        self.assertIn("5 sales", weighed.facts.prices.source)

    def test_what_is_known_and_what_is_not_ours(self):
        unit = self.proven()
        (weighed,) = paths.weigh_paths(list(paths.with_facts(Unit.objects.filter(pk=unit.pk))))
        self.assertEqual(weighed.facts.odds, (1.0, 0.0, 0.0, 0.0))
        Unit.objects.filter(pk=unit.pk).update(holding="custody", owner_name="Museum")
        self.assertEqual(paths.weigh_paths(list(paths.with_facts(Unit.objects.filter(pk=unit.pk)))), [])


class Lists(PageTest):
    def test_every_filter_narrows(self):
        unit, other = self.assessed(place="shelf 9"), self.receive()[0]
        for query, found in (
            ({"place": "shelf 9"}, [unit]),
            ({"station": "bench"}, [unit]),
            ({"lot": "L-001"}, [other, unit]),
            ({"lot": "999"}, []),
            ({"model": str(self.model.pk)}, [other, unit]),
            ({"approach": "period"}, [unit]),
            ({"flag": "open"}, [other]),
            ({"flag": "data"}, [other, unit]),
            ({"q": unit.serial}, [unit]),
            ({"model": "²", "station": "moon", "flag": "x", "lot": "²"}, [other, unit]),
        ):
            with self.subTest(query):
                page = self.client.get("/intake/units/", query)
                self.assertEqual([u.number for u in page.context["page"]], [u.number for u in found])
        Unit.objects.filter(pk=unit.pk).update(title="=1+1")
        text = self.client.get("/intake/units.csv", {"place": "shelf 9"}).content.decode("utf-8-sig")
        (row,) = csv.DictReader(io.StringIO(text))
        self.assertEqual((row["tag"], row["title"]), (str(unit.tag), "'=1+1"))
        self.assertContains(self.client.get("/intake/places/"), "shelf 9")

    def test_a_lot_in_custody_stays_in_custody(self):
        data = lot_data(source_kind="custody", owner_name="Museum", price=None, premium_percent=None, freight=None)
        lot = buying.record_lot(self.owner, data, [line_data()])
        (unit,) = intake.receive(self.owner, lot.lines.get(), 1)
        with self.assertRaisesRegex(Refused, "lot is in custody"):
            capture.set_ownership(self.owner, unit, capture.Ownership())
        self.assertEqual(paths.weigh_paths(list(paths.with_facts(Unit.objects.filter(pk=unit.pk)))), [])


class ManyAtOnce(SimpleTestCase):
    # A line of a lot is held against its constraint there.
    databases = {"default"}

    def test_pictures_are_taken_in_one_at_a_time(self):
        """By several threads, as several people send them: never two held unpacked at once."""
        inside, most = 0, 0

        def upright(data: bytes):
            nonlocal inside, most
            inside += 1
            most = max(most, inside)
            time.sleep(0.02)
            inside -= 1
            return Image.new("RGB", (20, 20), (len(data), 0, 0))

        with (
            TemporaryDirectory() as folder,
            self.settings(MEDIA_ROOT=folder),
            patch.object(picture_files, "_upright", upright),
        ):
            threads = [threading.Thread(target=picture_files.store, args=[b"x" * number]) for number in range(8)]
            for thread in threads:
                thread.start()
            for thread in threads:
                thread.join()
        self.assertEqual(most, 1)

    def test_the_same_picture_twice_at_the_same_moment(self):
        with TemporaryDirectory() as folder:
            there = Path(folder) / "ab" / "same.jpg"
            threads = [threading.Thread(target=write_whole, args=[there, b"x" * 100_000]) for _ in range(16)]
            for thread in threads:
                thread.start()
            for thread in threads:
                thread.join()
            self.assertEqual([path.name for path in there.parent.iterdir()], ["same.jpg"])
            self.assertEqual(there.stat().st_size, 100_000)

    def test_forms_and_columns_without_end_are_refused_at_once(self):
        for made in (Lines, Charges, KeptParts):
            many = {"form-TOTAL_FORMS": "99999999", "form-INITIAL_FORMS": "0"}
            lines = made(many)
            self.assertFalse(lines.is_valid())
            self.assertLessEqual(len(lines.forms), made.max_num + 1)
        with self.assertRaisesRegex(ManifestError, "1,000,000 columns; 60 at most"):
            read_table("a" + "," * 999_999 + "\nb\n")
