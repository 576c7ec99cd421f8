from decimal import Decimal
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from core.buying.manifest import (
    HEADS,
    Column,
    ManifestError,
    Table,
    decode,
    guess_columns,
    read_claim,
    read_lines,
    read_shape,
    read_table,
)

D = Decimal
COLUMNS = {Column.DESCRIPTION: 0, Column.QUANTITY: 1, Column.WORTH: 2}
CELL = st.text(st.characters(blacklist_categories=("Cs", "Cc"), blacklist_characters='"'), min_size=1, max_size=20)


class Shapes(TestCase):
    def test_words_tell_kind_and_form_factor(self):
        for words, wanted in (
            ("Tower PC", ("machine", "tower")),
            ("Bildschirm 14 Zoll", ("peripheral", "monitor")),
            ("grafikkort", ("board", "board")),
            ("home computer, boxed", ("machine", "keyboard")),
            ("whatever", ("machine", "")),
            ("Halden 16 in a cardboard box, for parts", ("machine", "")),
            ("driver's desk lamp, partly diskless", ("machine", "")),
            ("spare keyboard", ("peripheral", "")),
            ("Grafikkarten", ("board", "board")),
        ):
            self.assertEqual(read_shape(words), wanted)


class Dialects(TestCase):
    def test_separators_encodings_and_decimals_give_the_same_lines(self):
        wanted = [("Grün", 2, D("12.50")), ("Röd", 1, D("1234.50"))]
        for text in (
            'item,qty,value\r\nGrün,2,12.50\r\nRöd,1,"1,234.50"\r\n',
            "item;qty;value\nGrün;2;12,5\nRöd;1;1.234,50\n",
            "item\tqty\tvalue\nGrün\t2\t€ 12,50\nRöd\t\t1234.5 kr\n",
        ):
            for encoding in ("utf-8", "utf-8-sig", "windows-1252"):
                good, bad = read_lines(read_table(decode(text.encode(encoding))), COLUMNS)
                self.assertEqual([(line.description, line.quantity, line.worth_likely) for line in good], wanted)
                self.assertEqual(bad, [])

    @given(
        st.lists(st.tuples(CELL, st.integers(1, 999), st.integers(0, 10**6)), min_size=1, max_size=20),
        st.sampled_from(";\t"),
    )
    def test_whatever_is_written_is_read_back(self, rows, separator):
        lines = [f'"{name}"{separator}{count}{separator}{cents / 100:.2f}' for name, count, cents in rows]
        table = read_table(separator.join(("item", "qty", "value")) + "\n" + "\n".join(lines))
        good, bad = read_lines(table, COLUMNS)
        kept = [(name, count, cents) for name, count, cents in rows if name.strip()]
        self.assertEqual(
            [(g.description, g.quantity, g.worth_likely * 100) for g in good], [(n.strip(), c, w) for n, c, w in kept]
        )
        self.assertEqual(len(good) + len(bad), len(table.rows))

    def test_what_is_no_manifest_says_so(self):
        for data, words in (
            (b"", "empty"),
            (b"item;qty\n", "nothing under it"),
            (b"PK\x03\x04\x00\x00", "no text file"),
            (b"item;qty\n\x81\x8d;1\n", "neither"),
            (b"a;b\n" + b"x;1\n" * 5001, "More than 5,000"),
            (b"x" * 5_000_000, "larger than 4 MB"),
        ):
            with self.subTest(words), self.assertRaisesRegex(ManifestError, words):
                read_table(decode(data))


class Lines(TestCase):
    def test_columns_are_guessed_by_their_heads(self):
        found = guess_columns(("Pos", "Bezeichnung", "Anzahl", "Zustand", "Gewicht kg", "Schätzwert"), HEADS)
        self.assertEqual(
            found, {Column.DESCRIPTION: 1, Column.QUANTITY: 2, Column.CLAIM: 3, Column.WEIGHT: 4, Column.WORTH: 5}
        )

    def test_every_bad_line_is_named_by_its_number_in_the_file(self):
        table = read_table('item;qty;value\n"two\nlines";1;5\n;2;5\nx;0;5\ny;1,5;5\nz;1;-3\nw;1;inf\nv;1;much\n')
        good, bad = read_lines(table, COLUMNS)
        self.assertEqual([line.description for line in good], ["two\nlines"])
        self.assertEqual([line.number for line in bad], [4, 5, 6, 7, 8, 9])
        self.assertIn("nothing says what it is", bad[0].reason)
        self.assertIn("“0” is no quantity", bad[1].reason)
        self.assertIn("“-3” is no worth", bad[3].reason)

    @given(*[st.text("abc ;,.", min_size=1, max_size=180).map(str.strip).filter(bool)] * 3)
    def test_whatever_a_seller_wrote_is_kept_or_refused_and_never_cut(self, what, claim, words):
        table = Table(("item", "claim", "remarks"), ((what, claim, words),), (2,))
        good, bad = read_lines(table, {Column.DESCRIPTION: 0, Column.CLAIM: 1, Column.WORDS: 2})
        self.assertEqual(len(good) + len(bad), 1)
        for line in good:
            self.assertLessEqual(len(line.description), 80)
            self.assertTrue(what == line.description or line.claim_words.startswith(what))
            self.assertTrue(claim in line.claim_words and words in line.claim_words)
        for line in bad:
            self.assertIn("400 at most", line.reason)

    def test_claims_in_the_words_of_sellers(self):
        for words, claim in (
            ("Ungetestet", "untested"),
            ("not tested", "untested"),
            ("läuft, funktioniert", "working"),
            ("no power", "dead"),
            ("Ersatzteile", "parts"),
            ("powers on, no picture", "powers_on"),
            ("trasig", "faulty"),
            ("", "none"),
            ("nice", "none"),
        ):
            self.assertEqual(read_claim(words), claim)
