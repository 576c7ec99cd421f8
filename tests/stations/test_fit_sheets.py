"""Sheets of models and parts, typed and in files; and ways from plug to plug."""

import json
from datetime import date
from decimal import Decimal as D

from django.core.files.uploadedfile import SimpleUploadedFile

from core.catalogue.fit.needs import Needs
from core.catalogue.fit.offers import Offers
from core.catalogue.fit.schema import groups_of, read_sheet, sheet_data, write_records
from stations.catalogue import bank_files, fit_sheets
from stations.catalogue.models import ModelOffers, PartSheet, Tried
from stations.common.refusals import Refused, StaleEdit
from stations.stock import services as stock
from stations.stock.models import PartOffer
from stations.stock.services import Sort
from tests.core.fit_examples import D as OFFERS
from tests.core.fit_examples import said
from tests.core.test_fit_rules import DISK, SCREEN
from tests.stations.test_fit import NET, SCSI, Fit


class Ways(Fit):
    def test_from_plug_to_plug(self):
        line = (
            "goes in 9-pin D/RGBI; comes out 15-pin D/analogue RGB; loss two colours; line in 15 to 16; line out 31.469"
        )
        self.sheet("Line doubler", f"converts\n w: {line}\ndraws\n +5: amps 0")
        find = "/workshop/ways/?from=9-pin+D/RGBI&to=15-pin+D/analogue+RGB"
        self.assertContains(self.client.get(find), "not all prices known")
        offer = {"want": "Line doubler", "seller": "Quay", "each": "68", "most": "", "days": "4", "claim": ""}
        self.done(self.post("units:cheapest-way", **offer | {"postage": "", "free_from": ""}))
        self.assertEqual(PartOffer.objects.get().each, D(68))
        page = self.client.get(f"{find}&line=15.734&field=59.94")
        self.assertContains(page, "two colours")
        self.assertContains(page, "gives 31.469 kHz")
        self.assertContains(page, "59.94 Hz")
        self.assertContains(self.client.get(f"{find}&line=31.5"), "no converter on it takes that line rate")
        self.assertContains(self.client.get(f"{find}&wish=here"), "No way is known")
        stock.stock_part(self.owner, Sort("Line doubler", "new", "E1"), "1", D(60))
        self.assertContains(self.client.get(f"{find}&wish=here"), "drawer E1")
        self.assertContains(self.client.get(f"{find}&line=x&field=-4"), "is no number")

    def test_the_check_of_a_screen_takes_the_way(self):
        self.sheet("Lead", "converts\n w: goes in 9-pin D/RGBI; comes out phono/composite; loss fine detail")
        screen = self.sheet(
            "Screen",
            said(SCREEN, "plug 9-pin D; signals RGBI", "plug phono; signals composite")
            + "\ndraws none".replace("draws none", "draws\n +5: amps 0"),
        )
        self.assertEqual(self.verdict(screen).sentence, "Fits, with Lead (fine detail).")
        self.assertContains(self.client.get(self.address(screen)), "From 9-pin D/RGBI to phono/composite")


class Sheets(Fit):
    def fields(self, kind, sheet, **more) -> dict:
        return {name: write_records(getattr(sheet, name)) for name in groups_of(kind)} | more

    def test_what_a_model_offers_is_typed_and_drawn(self):
        offers = read_sheet(Offers, OFFERS)
        sent = self.fields(Offers, offers, version=str(ModelOffers.objects.get().version))
        sent["slots"] += "\n4: bus 8-bit; length 200"
        self.assertContains(self.post("catalogue:offers-drawn", [self.model.pk], **sent), "slot 4, 8-bit: free")
        self.done(self.post("catalogue:offers", [self.model.pk], **sent))
        self.assertEqual(len(fit_sheets.offers_of(self.model).slots), 4)
        self.done(self.post("catalogue:offers", [self.model.pk], **sent))  # it is so already
        sent["slots"] += "\n5: bus 8-bit; length 200"
        self.says(self.post("catalogue:offers", [self.model.pk], **sent), "Somebody else saved this", "")

    def test_bad_input_is_named_at_its_field(self):
        offers = read_sheet(Offers, OFFERS)
        for field, typed, words in (
            ("slots", "1: bus ribbon", "one of 8-bit"),
            ("slots", "1: length -3", "from 1 to 1000 mm"),
            ("slots", "1: length 0", "from 1 to 1000 mm"),
            ("slots", "1: bus 8-bit\n1: bus 16-bit", "stands there twice"),
            ("slots", "1: bus 8-bit; shares 1", "no other slot"),
            ("slots", "no colon", "then a colon"),
            ("slots", "1: bus 8-bit; bus 16-bit", "bus stands there twice"),
            ("slots", "1: colour red", "begins with none of"),
            ("rails", "+5: amps -1", "from 0 to 100 A"),
            ("rails", "five: amps 1", "a rail is called by its volts"),
            ("rails", "+5: amps 1\n+5.0: amps 2", "The same rail stands there twice"),
            ("connectors", "serial drive: count 1", "A serial drive connector carries +3.3 V: there is no such rail"),
            ("devices", "a: irq 5\nb: irq 5", "both take interrupt 5"),
            ("devices", "a: io 300-31F, 310-32F", "overlaps"),
            ("devices", "a: io 300-31F\nb: io 310-32F", "The addresses of a and b overlap"),
            ("devices", "a: io 31F-300", "the lower address first"),
            ("modules", "A1: bank A\nA2: bank A\nA3: bank A", "can’t be filled by 2"),
            ("slots", "x" * 21000, "at most 20000"),
        ):
            with self.subTest(typed=typed[:40]):
                page = self.post(
                    "catalogue:offers", [self.model.pk], **self.fields(Offers, offers, version="1") | {field: typed}
                )
                self.assertContains(page, words)
                self.assertIn(field, page.context["form"].errors)
                if len(typed) < 100:
                    self.assertContains(page, typed.splitlines()[0].replace('"', "&quot;"))
        needs = self.fields(Needs, Needs(), version="0", name="Thing")
        for field, typed, words in (
            ("uses", "J1: irq 5; dma 1", "say one of irq, dma and io"),
            ("uses", "J1: irq 5; now 6", "which it can’t be set to"),
            ("converts", "w: goes in a", "a way has two ends"),
            ("converts", "w: goes in a; comes out a", "the same goes in and comes out"),
            ("cards", "a: bus 8-bit\nb: bus 8-bit", "One line"),
            ("name", "", "Say which part it is."),
            ("name", "Network card", "There is a sheet of Network card already."),
        ):
            page = self.post("catalogue:part-sheet-new", **needs | {field: typed})
            self.assertContains(page, words)

    def test_the_sheet_of_what_lies_in_a_drawer(self):
        there = self.client.get("/workshop/part-sheets/of/?name=SCSI+host+card")
        self.assertEqual(there["Location"], f"/workshop/part-sheets/{self.card.pk}/")
        page = self.client.get(there["Location"])
        self.assertContains(page, "card, to scale")
        self.assertContains(page, "interrupts 10: this part")
        new = self.client.get("/workshop/part-sheets/of/?name=Belt")
        self.assertContains(self.client.get(new["Location"]), 'value="Belt"')

    def test_none_and_not_known_are_different(self):
        fields = self.fields(Offers, Offers(), version=str(ModelOffers.objects.get().version), slots="none")
        self.done(self.post("catalogue:offers", [self.model.pk], **fields))
        kept = fit_sheets.offers_of(self.model)
        self.assertEqual((kept.slots, kept.bays), ((), None))
        self.assertIn("no slots", self.verdict().sentence)

    def test_two_who_change_a_sheet(self):
        fit_sheets.keep_needs(self.owner, self.again(self.card), self.card.name, Needs(), self.card.version)
        with self.assertRaises(StaleEdit):
            fit_sheets.keep_needs(self.owner, self.again(self.card), self.card.name, Needs(), self.card.version)

    def test_out_to_files_and_in(self):
        self.assertContains(self.client.get("/workshop/part-sheets/?q=scsi"), "SCSI host card")
        for form in ("json", "csv"):
            with self.subTest(form=form):
                file = self.client.get(f"/workshop/part-sheets.{form}").content
                models = (bank_files.as_json() if form == "json" else bank_files.as_csv()).encode()
                PartSheet.objects.all().delete()
                ModelOffers.objects.all().delete()
                taken = SimpleUploadedFile(f"parts.{form}", file)
                looked = self.post("catalogue:import-parts", file=taken)
                self.assertContains(looked, "<b>2 can go in.</b>")
                self.assertFalse(PartSheet.objects.exists(), "it is only looked at")
                self.done(self.post("catalogue:import-parts", text=looked.context["text"]))
                self.assertEqual(bank_files.import_models(self.owner, models)[0], 0)
                self.assertEqual(
                    fit_sheets.needs_of(PartSheet.objects.get(name="SCSI host card")), read_sheet(Needs, SCSI)
                )
                self.assertEqual(fit_sheets.offers_of(self.model), read_sheet(Offers, OFFERS))
                self.assertEqual(bank_files.import_parts(self.owner, file), (0, 0, 2))

    def test_a_sheet_through_its_page_a_form_that_is_none_and_the_page_to_import(self):
        typed = self.fields(Needs, Needs(), version="0", name="Sound card")
        there = self.done(self.post("catalogue:part-sheet-new", **typed))
        row = PartSheet.objects.get(name="Sound card")
        self.assertEqual(there, f"/workshop/part-sheets/{row.pk}/")
        self.done(self.post("catalogue:part-sheet", [row.pk], **typed | {"version": row.version, "name": "Sound"}))
        self.assertEqual(self.again(row).name, "Sound")
        stale = self.post("catalogue:part-sheet", [row.pk], **typed | {"version": row.version, "name": "Noise"})
        self.says(stale, "Somebody else saved this", "Noise")
        self.assertEqual(self.client.get("/workshop/part-sheets.xml").status_code, 404)
        self.assertContains(self.client.get("/workshop/part-sheets/import/"), "all of them or nothing")

    def test_a_bad_file_is_refused_whole(self):
        good = {"name": "A", "needs": {"cards": [{"name": "c", "bus": "8-bit"}]}}
        for bad, words in (
            ({"name": "B", "needs": {"cards": [{"name": "c", "bus": "ribbon"}]}}, "Part 2: card: c: bus: “ribbon”"),
            ({"name": "", "needs": {}}, "Part 2: Say which part"),
            ({"name": "B", "needs": {"wings": []}}, "“wings” is none of"),
            ({"name": "B", "needs": "{"}, "This is no JSON"),
            ({"name": "B", "needs": [1]}, "Groups of records are wanted"),
            ({"name": "B", "needs": {"cards": [{"name": "c", "bus": None}]}}, "“None”"),
        ):
            with self.subTest(words=words), self.assertRaisesRegex(Refused, words):
                bank_files.import_parts(self.owner, json.dumps({"parts": [good, bad]}).encode())
        self.assertFalse(PartSheet.objects.filter(name="A").exists())
        model = {"maker": "Pellmark", "name": "9", "form_factor": "desktop", "fit": {"rails": [{"name": "x"}]}}
        with self.assertRaisesRegex(Refused, "Model 1: “x”: a rail is called by its volts"):
            bank_files.import_models(self.owner, json.dumps({"models": [model]}).encode())

    def test_a_look_alike_is_named(self):
        disk = self.sheet("Disk", said(DISK, "ATA 16-bit", "ATA 8-bit"))
        self.assertContains(self.client.get(self.address(disk)), "40 pins both, but the one has 8 bits")

    def test_data_of_a_sheet_is_what_was_typed(self):
        self.assertEqual(sheet_data(read_sheet(Needs, NET)), PartSheet.objects.get(name="Network card").needs)
        self.assertEqual(Tried(sheet=self.card, model=self.model, runs=True, who="x", on=date.today()).runs, True)
