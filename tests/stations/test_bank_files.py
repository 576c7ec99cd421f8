"""The model bank out of and into files: whole, in part, and with all that may be wrong in one."""

import json

from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from stations.catalogue import bank, bank_files
from stations.catalogue.models import MachineModel
from stations.common.refusals import Refused
from stations.people.models import HistoryEntry
from tests.stations.test_pages import PageTest


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
