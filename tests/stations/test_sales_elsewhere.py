"""Sales elsewhere: typed one by one, or taken in from a file; each counted once."""

from datetime import timedelta
from decimal import Decimal

from django.core.files.uploadedfile import SimpleUploadedFile

from stations.common import clock
from stations.common.refusals import Refused
from stations.selling import comparable_files
from stations.selling.comparable_files import Reading
from stations.selling.models import Comparable, ComparableFile
from tests.stations.test_selling_well import Priced

D = Decimal
HEAD = "Sold on;Item;Condition;Complete;Price;Postage;Where\n"


class Typed(Priced):
    def setUp(self):
        super().setUp()
        self.good = {
            "model": self.model.pk, "sold_on": clock.today().isoformat(), "grade": "B", "completeness": "100",
            "price": "90", "currency": "EUR", "rate": "1", "postage": "", "auction": "", "channel": "", "features": "",
            "buyer": "",
        }  # fmt: skip

    def test_a_price_of_a_sale_ahead_or_of_nothing_is_refused_at_the_field(self):
        ahead = (clock.today() + timedelta(days=1)).isoformat()
        for change, words in (
            ({"sold_on": ahead}, "still to come"),
            ({"price": "0"}, "above 0"),
            ({"rate": "0.09"}, "EUR is ours: one is 1."),
            ({"currency": "SEK", "rate": ""}, "No rate is known for SEK"),
        ):
            self.says(self.post("selling:comparables", **self.good | change), words)
        self.done(self.post("selling:comparables", **self.good | {"auction": "True", "postage": "7,50"}))
        made = Comparable.objects.order_by("-id").first()
        self.assertEqual((made.auction, made.postage), (True, D("7.50")))

    def test_a_sale_elsewhere_counts_once(self):
        before = Comparable.objects.count()
        self.done(self.post("selling:comparables", **self.good))
        self.says(self.post("selling:comparables", **self.good | {"grade": "C"}), "That sale is here")
        self.done(self.post("selling:comparables", **self.good | {"another": "on"}))
        self.done(self.post("selling:comparables", **self.good | {"price": "91"}))
        self.assertEqual(Comparable.objects.count(), before + 3)


class FromAFile(Priced):
    def upload(self, text: str, name: str = "sales.csv") -> ComparableFile:
        file = SimpleUploadedFile(name, text.encode())
        self.done(self.post("selling:upload", file=file))
        return ComparableFile.objects.latest("pk")

    def lines(self, *rows: str) -> str:
        return HEAD + "\n".join(rows) + "\n"

    def test_whole_or_not_at_all(self):
        file = self.upload(
            self.lines("2026-08-03;Halden M2;tested ok;100;189,50;12;Quay", "3.9.2026;m2;untested;;€ 99;;fair")
        )
        page = self.client.get(f"/selling/comparables/file/{file.pk}/")
        self.assertContains(page, "2 sales, all good")
        self.done(self.post("selling:file", [file.pk], **page.context["chosen"]))
        one, two = Comparable.objects.filter(file=file).order_by("id")
        self.assertEqual((one.price, one.postage, one.grade, one.words), (D("189.50"), D(12), "B", "tested ok"))
        self.assertEqual((two.grade, two.postage, two.auction, two.currency), ("untested", None, None, "EUR"))
        self.assertEqual((one.completeness, two.completeness), (100, None))
        with self.assertRaisesRegex(Refused, "taken in already"):
            comparable_files.take_in(self.seller, file, Reading())

    def test_every_bad_line_is_named_and_stops_it(self):
        ahead = (clock.today() + timedelta(days=3)).isoformat()
        bad = (
            (f"{ahead};M2;working;;90;;", "still to come"),
            ("2026-02-30;M2;working;;90;;", "is no date"),
            ("3/4/2026;M2;working;;90;;", "can be two days"),
            ("2026-02-03;M2;working;;0;;", "above 0"),
            ("2026-02-03;M2;working;;-5;;", "is no price"),
            ("2026-02-03;M2;working;;1.234;;", "can be"),
            ("2026-02-03;Nothing 9;working;;90;;", "no model in the bank"),
            ("2026-02-03;M2;shiny;;90;;", "nothing of the state"),
            ("2026-02-03;M2;;;90;;", "in what state"),
            ("2026-02-03;M2;working;140;90;;", "share from 0 to 100"),
            ("2026-02-03;M2;working;;SEK 900;;", "no rate is known for SEK"),
            ("1970-02-03;M2;working;;90;;", "too long ago"),
        )
        file = self.upload(self.lines("2026-02-03;M2;working;;95;;", *(row for row, _ in bad)))
        found = comparable_files.preview(file, Reading())
        self.assertEqual([line.number for line in found.bad], list(range(3, 3 + len(bad))))
        for line, (_, words) in zip(found.bad, bad, strict=True):
            self.assertIn(words, line.reason)
        before = Comparable.objects.count()
        with self.assertRaisesRegex(Refused, f"{len(bad)} bad lines; nothing was taken in"):
            comparable_files.take_in(self.seller, file, Reading())
        self.assertEqual(Comparable.objects.count(), before)

    def test_the_same_file_twice_and_the_same_sale_twice_are_asked_about(self):
        text = self.lines("2026-08-03;M2;working;;90;;")
        comparable_files.take_in(self.seller, self.upload(text), Reading())
        again = self.upload(text)
        with self.assertRaisesRegex(Refused, "same file was taken in"):
            comparable_files.take_in(self.seller, again, Reading())
        more = self.upload(self.lines("2026-08-03;M2;working;;90;;", "2026-08-04;M2;working;;92;;"))
        with self.assertRaisesRegex(Refused, "1 of these sales"):
            comparable_files.take_in(self.seller, more, Reading())
        self.assertEqual(comparable_files.take_in(self.seller, more, Reading(), again=True), 2)

    def test_dialects_are_read(self):
        for text in (
            "date,price,state,how\n2026-08-03,90.50,working,auction\n",
            "Datum\tPreis\tZustand\tAuktion\n3.8.2026\t90,50\tfunktioniert\tja\n",
            "\ufeffDatum;Pris;Skick;Auktion\n2026-08-03;90,50;fungerar;ja\n",
        ):
            file = self.upload(text)
            ((line, row),) = comparable_files.preview(file, Reading(model=self.model)).good
            self.assertEqual((line.price, row.grade, row.auction), (D("90.50"), "B", True))

    def test_what_is_no_file_of_sales_is_said_at_the_field(self):
        for data, words in ((b"", "empty"), (b"\x00\x01", "no text file"), (b"one line", "nothing under it")):
            self.says(self.post("selling:upload", file=SimpleUploadedFile("x.csv", data)), words)
