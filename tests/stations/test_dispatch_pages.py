"""The pages after a sale: what is wrong stands at its field, nothing typed is lost, papers are what they say."""

import threading

from django.urls import reverse

from core.selling.packing import Moment
from simulators import carriers as source
from stations.dispatch import carriers, parcels, receipts
from stations.dispatch.models import BoxSize, Carrier, Parcel, ParcelPhoto, SaleTerms
from tests.hands import a_picture
from tests.stations.test_dispatch import D, DispatchTest

BOX = {
    "name": "long",
    "weight_g": "700",
    "inner_length": "900",
    "inner_width": "300",
    "inner_height": "200",
    "outer_length": "910",
    "outer_width": "310",
    "outer_height": "210",
    "in_use": "on",
    "version": "1",
}


class DispatchPages(DispatchTest):
    def setUp(self):
        self.client.force_login(self.owner)

    def wrong(self, there: str, data: dict, form: str, field: str, words: str):
        """It is refused at this field, in words, and what was typed is still there."""
        page = self.client.post(there, data)
        self.assertEqual(page.status_code, 200)
        self.assertIn(words, " ".join(page.context[form].errors[field]))
        for typed in filter(None, data.values()):
            if len(typed) > 3:
                self.assertContains(page, typed)

    def test_a_box_larger_than_there_is_one(self):
        """Each edge says so, before what they come to together is looked at."""
        edges = {f"{side}_{edge}": "5000" for side in ("inner", "outer") for edge in ("length", "width", "height")}
        sent = {"name": "hall", "weight_g": "900", "in_use": "on", "version": "0"} | edges
        for edge in edges:
            self.wrong(reverse("dispatch:boxes"), sent, "form", edge, "3,000 mm at most.")

    def test_a_box_says_what_is_wrong_with_it(self):
        for change, field, words in (
            ({"outer_length": "899"}, "outer_length", "never less than the 900 mm inside"),
            ({"inner_height": "3001"}, "inner_height", "3,000 mm at most"),
            ({"inner_width": "0"}, "inner_width", "At least 1 mm"),
            ({"weight_g": "a lot"}, "weight_g", "whole number"),
            ({"weight_g": "70000"}, "outer_length", "Type grams"),
            ({"name": ""}, "name", "Fill this in."),
            ({"name": "small"}, "name", "Another one has this already."),
        ):
            self.wrong("/dispatch/boxes/", BOX | change, "form", field, words)
        self.assertEqual(self.client.post("/dispatch/boxes/", BOX).status_code, 302)
        row = BoxSize.objects.get(name="long")
        there = f"/dispatch/boxes/{row.pk}/"
        self.assertEqual(self.client.post(there, BOX | {"name": "longer"}).status_code, 302)
        stale = self.client.post(there, BOX | {"name": "longest"})
        self.assertContains(stale, "Somebody else saved this")
        self.assertContains(stale, "longest")

    def test_an_address_is_typed_once_whichever_paper_comes_first(self):
        sale = self.sold()
        parcel = parcels.begin(self.owner, sale)
        there = "Ines Falk\nQuay 4\nMarrowick"
        parcels.measure(self.owner, parcel, parcel.version, parcels.Measured(300, 200, 100, 4000, "home", there))
        form = self.client.get(f"/dispatch/sales/{sale.pk}/").context["receipt_form"]
        self.assertEqual(form["buyer"].value(), there)
        other = self.sold()
        receipts.issue(self.owner, other, there)
        self.assertEqual(parcels.begin(self.owner, other).address, there)

    def test_prices_are_typed_fetched_and_refused_in_words(self):
        row = Carrier.objects.get(name="Harbour Bike")
        there = f"/dispatch/carriers/{row.pk}/"
        bands = f"{there}bands/"
        self.wrong(bands, {"new-zone": "home", "new-bands": "5: 4.00\n2: 6.00"}, "bands_form", "bands", "Line 2")
        self.wrong(bands, {"new-zone": "", "new-bands": "2: 6.00"}, "bands_form", "zone", "Which zone?")
        self.client.post(bands, {"new-zone": "harbour", "new-bands": "2: 6,00"})
        self.assertEqual(row.bands.get(zone="harbour").price, D("6.00"))
        typed = {"name": "Harbour Bike", "divisor": "4000", "cells": "none", "version": str(row.version)}
        typed |= {"covered": "50", "cover_percent": "0", "cover_most": "50"}
        self.wrong(there, typed | {"track": "https://example.org/"}, "form", "track", "{number}")
        self.wrong(there, typed | {"divisor": "12"}, "form", "divisor", "At least 1,000")

    def test_the_table_of_the_source_comes_over_the_network(self):
        server = source.serve()
        threading.Thread(target=server.serve_forever, daemon=True).start()
        self.addCleanup(server.server_close)
        self.addCleanup(server.shutdown)
        Carrier.objects.filter(name="Skerry Post").update(divisor=9999)
        carriers.keep_bands(self.owner, Carrier.objects.get(name="Skerry Post"), "moon", ())
        with self.settings(CARRIERS_URL=f"http://127.0.0.1:{server.server_port}/prices.csv"):
            page = self.client.post("/dispatch/carriers/fetch/", follow=True)
        self.assertContains(page, "The prices of 3 carriers are here")
        self.assertEqual(Carrier.objects.get(name="Skerry Post").divisor, 5000)

    def test_the_packing_page_says_what_is_wrong_at_its_field(self):
        parcel = parcels.begin(self.owner, self.sold())
        there = f"/dispatch/parcels/{parcel.pk}/"
        size = {"length": "246", "width": "277", "height": "346", "weight_g": "9400", "zone": "home", "address": "A"}
        size |= {"version": str(parcel.version)}
        for change, field, words in (
            ({"length": "3001"}, "length", "3,000 mm at most"),
            ({"weight_g": "200001"}, "weight_g", "200 kg at most"),
            ({"weight_g": "0"}, "weight_g", "More than 0"),
            ({"weight_g": "4"}, "weight_g", "lighter than foam"),
            ({"length": "30", "width": "20", "height": "10"}, "length", "30 cm are 300"),
            ({"zone": "the moon"}, "zone", "not among the choices"),
            ({"address": "x" * 401}, "address", "at most 400"),
        ):
            self.wrong(f"{there}size/", size | change, "measure_form", field, words)
        self.assertEqual(self.client.post(f"{there}size/", size).status_code, 302)
        self.assertContains(self.client.get(there), "Marrow Parcel")
        self.assertContains(
            self.client.post(f"{there}pictures/", {"moment": "before"}, follow=True), "Choose a picture"
        )
        self.assertContains(self.client.post(f"{there}step/1-nonsense/", follow=True), "no such step")
        self.assertEqual(self.client.post(f"{there}burn/").status_code, 404)

    def test_too_large_for_every_box_it_says_how_large_one_must_be(self):
        parcel = parcels.begin(self.owner, self.sold())
        Parcel.objects.filter(pk=parcel.pk).update(length=900, width=900, height=900, weight_g=9000)
        page = self.client.get(f"/dispatch/parcels/{parcel.pk}/")
        self.assertContains(page, "No box of ours is large enough")
        self.assertContains(page, "1050 × 1050 × 1050 mm")

    def test_where_nothing_is_set_up_the_packing_page_leads_there(self):
        sale = self.sold()
        parcel = parcels.begin(self.owner, sale)
        Parcel.objects.filter(pk=parcel.pk).update(length=300, width=300, height=300, weight_g=9000)
        there, words = reverse("dispatch:parcel", args=[parcel.pk]), ("No box is known here", "No carrier has prices")
        for known in words:
            self.assertNotContains(self.client.get(there), known)
        BoxSize.objects.all().delete()
        Carrier.objects.all().delete()
        page = self.client.get(there)
        for known, name in zip(words, ("boxes", "carriers"), strict=True):
            self.assertContains(page, known)
            self.assertContains(page, reverse(f"dispatch:{name}"))

    def test_papers_are_what_they_say(self):
        sale = self.sold()
        receipt = receipts.issue(self.seller, sale)
        parcel = parcels.begin(self.owner, sale)
        for there in (f"/dispatch/receipts/{receipt.pk}.pdf", f"/dispatch/parcels/{parcel.pk}/label.pdf"):
            self.assertTrue(self.client.get(there).content.startswith(b"%PDF"), there)
        self.assertEqual(self.client.get(f"/dispatch/parcels/{parcel.pk}/claim.zip").status_code, 404)
        parcels.add_pictures(self.owner, parcel, Moment.BEFORE, [a_picture("before.png")])
        photo = ParcelPhoto.objects.get()
        for size in ("small", "full"):
            answer = self.client.get(f"/dispatch/pictures/{photo.pk}/{size}/")
            self.assertEqual((answer.status_code, answer["Content-Type"]), (200, "image/jpeg"))
        self.assertContains(self.client.get("/dispatch/receipts/", {"q": receipt.code}), receipt.code)
        self.assertContains(self.client.get("/dispatch/receipts/", {"q": "nobody"}), "None is found so")

    def test_terms_are_the_owners(self):
        row = SaleTerms.objects.get()
        typed = {field.name: getattr(row, field.name) for field in SaleTerms._meta.fields if field.name != "id"}
        typed = {name: "" if value is None else str(value) for name, value in typed.items()}
        self.wrong("/dispatch/terms/", typed | {"wipe_after": "29"}, "form", "wipe_after", "At least 30")
        self.wrong(
            "/dispatch/terms/", typed | {"global_since": "never"}, "form", "global_since", "Type a day: 2026-07-31."
        )
        self.assertEqual(self.client.post("/dispatch/terms/", typed | {"warranty_a": "365"}).status_code, 302)
        self.assertEqual(SaleTerms.objects.get().warranty("A"), 365)
        self.client.force_login(self.seller)
        self.assertContains(self.client.post("/dispatch/terms/", typed), "Only an owner may")

    def test_by_its_unit_a_sale_is_found(self):
        sale = self.sold()
        self.assertRedirects(self.client.get(f"/dispatch/W-{sale.unit.number}/"), f"/dispatch/sales/{sale.pk}/")
        self.assertEqual(self.client.get("/dispatch/W-9999/").status_code, 404)
