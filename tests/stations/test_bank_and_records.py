"""The model bank and units out of and into files; labels that a scanner reads; colour; triage; the lists."""

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
from stations.catalogue import bank, bank_files
from stations.catalogue.models import MachineModel
from stations.common.files import write_whole
from stations.common.refusals import NotAllowed, Refused
from stations.intake import capture, records, triage
from stations.intake import services as intake
from stations.people.models import HistoryEntry
from stations.selling.models import Comparable
from stations.units import labels, paths, photos, picture_files
from stations.units.models import ColourSample, Unit
from stations.workshop.forms import KeptParts
from tests.stations.base import line_data, lot_data
from tests.stations.test_intake import picture
from tests.stations.test_pages import PageTest

D = Decimal
SCHEMA = Path(__file__).resolve().parents[2] / "docs" / "unit.schema.json"


class Bank(PageTest):
    def test_a_cell_that_begins_a_formula_goes_out_as_text_and_comes_back_as_it_was(self):
        MachineModel.objects.filter(pk=self.model.pk).update(offers="=1+1")
        out = bank_files.as_csv()
        self.assertIn("'=1+1", out)
        bank_files.import_models(self.owner, out.encode())
        self.assertEqual(self.again(self.model).offers, "=1+1")

    def test_nesting_numbers_and_cells_without_end_are_refused_in_words(self):
        for data in (b"[" * 100_000, b'{"models": [' + b"9" * 5000 + b"]}", b"maker,name\n" + b"x" * 200_000 + b",y\n"):
            with self.assertRaises(Refused) as caught:
                bank_files.import_models(self.owner, data)
            self.assertEqual(caught.exception.field, "file")

    def test_every_figure_and_name_is_checked_before_it_is_stored(self):
        (row,) = json.loads(bank_files.as_json())["models"]
        things = [{"name": "keyboard", "weight": 4}]
        for change, words in (
            ({"expected": [{"name": "keyboard", "weight": 99999}]}, "a weight from 1 to 9, not 99999"),
            ({"expected": [{"name": "keyboard", "weight": -1}]}, "a weight from 1 to 9"),
            ({"expected": [{"name": "keyboard", "weight": 4, "estimate": -5}]}, "from 0 to 999,999"),
            ({"expected": [{"name": "keyboard", "weight": 4, "estimate": "NaN"}]}, "from 0 to 999,999"),
            ({"expected": [{"name": "x" * 61, "weight": 4}]}, "1 to 60 characters"),
            ({"expected": ["keyboard"]}, "a name and a weight"),
            ({"expected": [*things, {"name": "KEYBOARD", "weight": 1}]}, "KEYBOARD stands there twice"),
            ({"expected": [*things, {"name": "key\u200bboard", "weight": 1}]}, "stands there twice"),
            ({"expected": [*things, {"name": "\u200b", "weight": 1}]}, "1 to 60 characters"),
            ({"width_mm": 10**30}, "Model 1"),
            ({"drives": -1}, "Model 1"),
            ({"name": "\ud800"}, "half a character"),
        ):
            with self.subTest(change), self.assertRaisesRegex(Refused, words):
                bank_files.import_models(self.owner, json.dumps({"models": [row | change]}).encode())
        for number in ("1e400", "NaN", "-Infinity"):
            with self.subTest(number), self.assertRaises(Refused):
                bank_files.import_models(
                    self.owner, f'{{"models": [{{"maker": "A", "name": "B", "drives": {number}}}]}}'.encode()
                )
        for wrong in ("0 keyboard", "10 keyboard", "4", "4 keyboard\n3 Keyboard", "4 " + "x" * 61, "4 a 1000000"):
            with self.subTest(wrong), self.assertRaises(ValueError):
                bank.read_expected(wrong)

    def test_out_and_in_again_gives_the_same_bank(self):
        MachineModel.objects.filter(pk=self.model.pk).update(
            shots="inside", offers="one drive, SCSI", hazards="Tube: charge", adapter="", year_from=1986
        )
        bank.expect(self.model, bank.read_expected("4 keyboard 28\n2 mouse"))
        for text in (bank_files.as_csv(), bank_files.as_json()):
            before = bank_files.rows()
            MachineModel.objects.filter(pk=self.model.pk).update(year_from=None, hazards="")
            self.model.expected.all().delete()
            self.assertEqual(bank_files.import_models(self.owner, text.encode()), (0, 1, 0))
            self.assertEqual(bank_files.import_models(self.owner, text.encode()), (0, 0, 1))
            self.assertEqual(bank_files.rows(), before)
        renamed = bank_files.as_json().replace('"M2"', '"M3"')
        self.assertEqual(bank_files.import_models(self.owner, renamed.encode()), (1, 0, 0))

    def test_a_file_says_what_it_has_columns_for_and_nothing_else(self):
        as_it_was = {"shots": "inside", "hazards": "Tube: charge", "year_from": 1986, "keeps_data": True, "drives": 2}
        MachineModel.objects.filter(pk=self.model.pk).update(**as_it_was)
        bank.expect(self.model, bank.read_expected("4 keyboard 28\n2 mouse"))

        def taken(text: str) -> MachineModel:
            bank_files.import_models(self.owner, text.encode())
            return self.again(self.model)

        model = taken("maker;name;drives\nHalden;M2;1\n")
        self.assertEqual({name: getattr(model, name) for name in as_it_was}, as_it_was | {"drives": 1})
        self.assertEqual(model.expected.count(), 2)
        # An empty cell says that nobody knows; what can't be empty stays.
        model = taken("maker,name,form_factor,drives,keeps_data,hazards,shots\nHalden,M2,,,,,\n")
        self.assertEqual((model.drives, model.keeps_data, model.hazards, model.shots), (None, None, "", ""))
        self.assertEqual((model.form_factor, model.year_from), ("all_in_one", 1986))
        model = taken("maker,name,expected\nHalden,M2,4 keyboard 28\n")
        self.assertEqual([one.name for one in model.expected.all()], ["keyboard"])
        told = HistoryEntry.objects.filter(action="catalogue.take").latest("pk").words
        self.assertIn("what belongs with it: 4 keyboard 28; before: 4 keyboard 28, 2 mouse", told)
        for text, words in (
            ("maker,name,keeps_data\nHalden,M2,perhaps\n", "keeps_data: yes or no, not “perhaps”"),
            ("maker,name,hazards\nHalden,M2,Tube, charge\n", "Line 2 has 1 more cells than the head"),
            ("maker,name,drives,drives\nHalden,M2,1,2\n", "The head names drives twice"),
        ):
            with self.assertRaisesRegex(Refused, words):
                taken(text)
        with self.assertRaisesRegex(Refused, "nothing says what it is and needs"):
            bank_files.import_parts(self.owner, b"name,need\nSound card,{}\n")

    def test_what_has_no_place_here_is_said_to_be_left_unread(self):
        file = SimpleUploadedFile("models.csv", b"maker,name,hazard,\nHalden,M2,Tube,x\n")
        page = self.client.post(reverse("catalogue:import-models"), {"file": file, "write_key": ""})
        self.assertContains(page, "<b>Not read:</b> column 4, hazard.")
        self.assertContains(page, ">as it is<")

    def test_all_or_nothing_and_the_model_that_is_wrong_is_named(self):
        head = "maker,name,form_factor,width_mm,expected\n"
        good = "Corvane,Micro 9,desktop,400,4 keyboard\n"
        for row, words in (
            ("Corvane,,desktop,400,", "Model 2: a model has a maker and a name"),
            ("Corvane,X,sphere,400,", "Model 2: form_factor"),
            ("Corvane,X,desktop,wide,", "Model 2:"),
            ("Corvane,X,desktop,0,", "Model 2:"),
            ("Corvane,X,desktop,400,keyboard", "a weight from 1 to 9"),
        ):
            with self.subTest(row), self.assertRaisesRegex(Refused, words):
                bank_files.import_models(self.owner, (head + good + row).encode())
        for data, words in (
            (b"{", "no JSON"),
            (b"[3]", "no list"),
            (b"maker,name\n", "a head but nothing under it"),
            (b"\x00", "text file"),
        ):
            with self.subTest(data), self.assertRaisesRegex(Refused, words):
                bank_files.import_models(self.owner, data)
        self.assertEqual(MachineModel.objects.count(), 1)

    def test_a_file_is_looked_at_line_by_line_before_anything_is_taken_in(self):
        text = "maker,name,form_factor,width_mm\nHalden,M2,all_in_one,\nCorvane,Micro 9,desktop,\n"
        bad = text + "Corvane,X,sphere,\nCorvane,Y,desktop,wide\n"
        there = reverse("catalogue:import-models")

        def look(typed: str):
            return self.client.post(there, {"file": SimpleUploadedFile("models.csv", typed.encode()), "write_key": ""})

        page = look(bad)
        self.assertContains(page, "2 of 4 can’t be taken in.")
        self.assertEqual([(row.number, row.name) for row in page.context["bad"]], [(3, "Corvane X"), (4, "Corvane Y")])
        self.assertNotContains(page, "Take in all")
        page = look(text)
        self.assertEqual([row.new for row in page.context["rows"]], [False, True])
        self.assertEqual(MachineModel.objects.count(), 1)
        for nothing, words in (
            ("{", "no JSON"),
            ("maker,name\n", "a head but nothing under it"),
            ("", "The file is empty"),
        ):
            self.assertContains(look(nothing), words)
        self.client.post(there, {"text": page.context["text"], "write_key": ""})
        self.assertEqual(MachineModel.objects.count(), 2)
        self.client.force_login(self.viewer, backend="django.contrib.auth.backends.ModelBackend")
        self.assertContains(look(text), "may import models")
        self.assertNotContains(self.client.get(there), "Look at it")

    def test_through_the_pages(self):
        for form in ("csv", "json"):
            text = self.client.get(reverse("catalogue:export-models", args=[form])).content.decode("utf-8-sig")
            self.assertIn("Halden", text)
        file = SimpleUploadedFile("models.json", bank_files.as_json().replace('"M2"', '"M4"').encode())
        looked = self.client.post("/intake/models/import/", {"file": file}).context["text"]
        self.assertRedirects(self.client.post("/intake/models/import/", {"text": looked}), "/intake/models/")
        self.assertContains(self.client.post("/intake/models/import/", {}), "Choose a file first")
        there = reverse("catalogue:model", args=[self.model.pk])
        form = {
            f.html_name: f.value() for f in self.client.get(there).context["form"] if f.value() not in (None, False)
        }
        self.assertIn("shots", self.client.post(there, form | {"shots": "sideways"}).context["form"].errors)
        self.client.post(there, form | {"expected": "3 keyboard 20", "shots": "inside"})
        self.assertEqual([(e.name, e.weight, e.estimate) for e in self.model.expected.all()], [("keyboard", 3, 20)])
        page = self.post(
            "catalogue:numbering", **{"what": "pattern", "pattern-maker": "Halden", "pattern-pattern": "(.*)+"}
        )
        self.assertIn("pattern", page.context["pattern"].errors)
        self.post(
            "catalogue:numbering", **{"what": "pattern", "pattern-maker": "Halden", "pattern-pattern": "{year:2}"}
        )
        self.post(
            "catalogue:numbering",
            **{
                "what": "rule",
                "rule-maker": "Halden",
                "rule-base": "3",
                "rule-at_base": "v100_120",
                "rule-at_next": "v220_240",
            },
        )
        self.assertContains(self.client.get("/intake/models/numbering/"), "{year:2}")


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
