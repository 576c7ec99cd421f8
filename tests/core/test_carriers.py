import unittest
from decimal import Decimal

from hypothesis import given
from hypothesis import strategies as st

from core.selling.carriers import (
    Band,
    BandError,
    Cells,
    NotTaken,
    Quote,
    Tariff,
    ToSend,
    bands_text,
    girth,
    quote,
    quotes,
    read_bands,
    read_table,
)
from core.selling.packing import Size
from simulators import carriers as source

D = Decimal
BANDS = (Band(2000, D("5.20")), Band(5000, D("6.90")), Band(10_000, D("9.40")))


def parcel(weight: int = 1800, size: tuple[int, int, int] = (300, 200, 100), value: str = "80", **more) -> ToSend:
    return ToSend(Size(*size), weight, D(value), **more)


class Quotes(unittest.TestCase):
    def priced(self, sent: ToSend, **terms) -> Quote | NotTaken:
        return quote(Tariff("Skerry Post", BANDS, **terms), sent)

    def test_a_band_holds_up_to_its_weight(self):
        self.assertEqual(self.priced(parcel(2000)).price, D("5.20"))
        self.assertEqual(self.priced(parcel(2001)).price, D("6.90"))

    def test_a_large_light_parcel_is_billed_by_its_volume(self):
        # 40 x 40 x 30 cm are 48,000 cm3: 9.6 kg at 5,000, 8 kg at 6,000.
        sent = parcel(1800, (400, 400, 300))
        self.assertEqual((self.priced(sent).billed_g, self.priced(sent).price), (9600, D("9.40")))
        self.assertEqual(self.priced(sent, divisor=6000).billed_g, 8000)

    def test_why_it_is_not_taken(self):
        cell = parcel(cell=True)
        for sent, terms, words in (
            (parcel(size=(1300, 50, 50)), {"longest_mm": 1200}, "1,300 mm long"),
            (parcel(size=(600, 500, 400)), {"girth_mm": 2000}, "girth 2,400 mm"),
            (parcel(32_000), {"heaviest_g": 31_500}, "32.00 kg; it takes 31.50 at most"),
            (cell, {}, "no lithium cells"),
            (parcel(cell=True, cell_apart=True), {"cells": Cells.INSIDE}, "by itself"),
            (parcel(12_000), {}, "prices end at 10.00"),
        ):
            found = self.priced(sent, **terms)
            self.assertIsInstance(found, NotTaken)
            self.assertIn(words, found.words)
        self.assertIsInstance(self.priced(cell, cells=Cells.INSIDE), Quote)
        self.assertIn("no prices there", quote(Tariff("Bike", ()), parcel()).words)

    def test_cover_costs_above_what_is_within_the_price(self):
        terms = {"covered": D(100), "cover_percent": D("0.8"), "cover_most": D(1000)}
        self.assertEqual(self.priced(parcel(value="100"), **terms).total, D("5.20"))
        dear = self.priced(parcel(value="250"), **terms)
        self.assertEqual((dear.cover, dear.cover_price, dear.short), (D(250), D("2.00"), D(0)))
        dearer = self.priced(parcel(value="1400"), **terms)
        self.assertEqual((dearer.cover, dearer.short), (D(1000), D(400)))
        self.assertEqual(self.priced(parcel(value="300"), covered=D(50)).short, D(250))

    def test_the_cheapest_first_and_who_covers_more_before_who_covers_less(self):
        tariffs = [
            Tariff("Dear", (Band(5000, D(9)),), covered=D(500)),
            Tariff("Bare", (Band(5000, D(6)),)),
            Tariff("Covered", (Band(5000, D(6)),), covered=D(500)),
            Tariff("Small", (Band(1000, D(1)),)),
        ]
        taken, not_taken = quotes(tariffs, parcel())
        self.assertEqual([one.carrier for one in taken], ["Covered", "Bare", "Dear"])
        self.assertEqual([one.carrier for one in not_taken], ["Small"])

    @given(st.integers(1, 40_000), st.tuples(*[st.integers(50, 900)] * 3), st.integers(0, 3000))
    def test_whatever_is_taken_keeps_every_limit(self, weight, edges, value):
        tariffs = [table.tariff for table in read_table(source.table())]
        tables = {table.tariff.carrier: table for table in read_table(source.table())}
        full = [
            Tariff(**(vars(tariff) | {"bands": tables[tariff.carrier].zones["home"]}))
            for tariff in tariffs
            if "home" in tables[tariff.carrier].zones
        ]
        sent = ToSend(Size(*edges), weight, D(value), cell=True)
        taken, not_taken = quotes(full, sent)
        self.assertEqual(len(taken) + len(not_taken), len(full))
        by_name = {tariff.carrier: tariff for tariff in full}
        for one in taken:
            tariff = by_name[one.carrier]
            self.assertLessEqual(weight, tariff.heaviest_g)
            self.assertLessEqual(max(edges), tariff.longest_mm)
            self.assertLessEqual(girth(sent.outer), tariff.girth_mm)
            self.assertGreaterEqual(one.billed_g, weight)
            self.assertNotEqual(tariff.cells, Cells.NONE)
            self.assertIn(one.price, {band.price for band in tariff.bands if one.billed_g <= band.up_to_g})
        self.assertEqual([one.total for one in taken], sorted(one.total for one in taken))


class Typed(unittest.TestCase):
    def test_lines_as_they_are_typed(self):
        self.assertEqual(
            read_bands("2: 5,20\n 5 : 6.9 \n\n31,5: 21.50"),
            (Band(2000, D("5.20")), Band(5000, D("6.90")), Band(31_500, D("21.50"))),
        )

    def test_what_is_wrong_is_said_with_its_line(self):
        for text, words in (
            ("2 5.20", "Line 1: write"),
            ("2: 5.20\n2: 6", "Line 2: each line is for heavier"),
            ("0: 4", "Line 1: a weight"),
            ("201: 4", "Line 1: a weight"),
            ("2: -1", "Line 1: a price"),
            ("2: 1.234567", "Line 1: a price"),
            ("two: 4", "“two” is no number"),
            ("\n".join(f"{n}: 1" for n in range(1, 62)), "60 lines"),
        ):
            with self.assertRaises(BandError) as caught:
                read_bands(text)
            self.assertIn(words, str(caught.exception))

    @given(
        st.lists(st.tuples(st.integers(1, 200_000), st.integers(0, 9_999_900)), max_size=20, unique_by=lambda p: p[0])
    )
    def test_what_is_shown_is_read_again(self, pairs):
        bands = tuple(Band(grams, D(cents) / 100) for grams, cents in sorted(pairs))
        self.assertEqual(
            [(b.up_to_g, b.price) for b in read_bands(bands_text(bands))], [(b.up_to_g, b.price) for b in bands]
        )


class Tables(unittest.TestCase):
    def test_the_source_is_read(self):
        found = {table.tariff.carrier: table for table in read_table(source.table())}
        post = found["Skerry Post"]
        self.assertEqual((post.tariff.heaviest_g, post.tariff.cells, post.tariff.divisor), (31_500, Cells.INSIDE, 5000))
        self.assertEqual(post.zones["home"][0], Band(2000, D("5.20")))
        self.assertNotIn("far abroad", found["Harbour Bike"].zones)

    def test_a_bad_table_is_refused_whole(self):
        good = source.table().splitlines()
        for line, words in (
            (good[1].replace("inside", "perhaps"), "lithium_cells is"),
            (good[1].replace("5000,31.5", "500,31.5"), "divisor"),
            (good[1].replace("home", "z" * 31), "a zone 1 to 30"),
            (good[1].replace("5.20", "nine"), "no number"),
        ):
            with self.assertRaises(BandError) as caught:
                read_table("\n".join([good[0], line]))
            self.assertIn(words, str(caught.exception))
        with self.assertRaisesRegex(BandError, "the columns are"):
            read_table("carrier,price\nx,1")
