"""Sales elsewhere, read from a file: each line is a sale or says what is wrong with it."""

import unittest
from datetime import date
from decimal import Decimal as D

from hypothesis import given
from hypothesis import strategies as st

from core.buying.manifest import guess_columns, read_table
from core.machine.quantities import Mark
from core.selling.grade import Grade
from core.selling.sales_file import (
    HEADS,
    MOST_PRICE,
    DayOrder,
    SalesColumn,
    read_day,
    read_price,
    read_sales,
    read_state,
)

TODAY = date(2026, 11, 20)
HEAD = "Date;Price;Currency;Item;Condition;Complete;Shipping;Where;Type;Extras"
WHOLE = "2026-11-03;180,50;gbp;Halden M2;working;80 %;9;Quay market;auction;sound, network"


def read(*lines: str, head: str = HEAD, **how):
    table = read_table("\n".join((head, *lines)))
    return read_sales(table, guess_columns(table.head, HEADS), TODAY, **how)


class Lines(unittest.TestCase):
    def test_a_whole_line(self):
        (sale,), bad = read(WHOLE)
        self.assertEqual(bad, [])
        self.assertEqual(
            (sale.number, sale.sold_on, sale.price, sale.currency), (2, date(2026, 11, 3), D("180.50"), "GBP")
        )
        self.assertEqual((sale.model, sale.grade, sale.words), ("Halden M2", Grade.B, "working"))
        self.assertEqual((sale.completeness, sale.postage, sale.channel), (80, D(9), "Quay market"))
        self.assertEqual((sale.auction, sale.features), (True, "sound, network"))

    def test_what_the_file_does_not_say_stays_unknown(self):
        (sale,), bad = read("3.11.2026,€45,untested", head="sold on,price,state")
        self.assertEqual(bad, [])
        self.assertEqual((sale.completeness, sale.postage, sale.auction), (None, None, None))
        self.assertEqual((sale.currency, sale.model, sale.channel, sale.features), ("EUR", "", "", ""))
        (short,), _ = read("2026-11-03;45;;;working")
        self.assertEqual((short.completeness, short.channel), (None, ""))

    def test_each_bad_line_is_told_with_its_number_and_the_good_ones_stay(self):
        good, bad = read(
            WHOLE,
            WHOLE.replace("2026-11-03", "2026-12-24"),
            WHOLE.replace("2026-11-03", "1985-01-01"),
            WHOLE.replace("180,50", "0"),
            WHOLE.replace("180,50", "much"),
            WHOLE.replace("gbp", "pounds"),
            WHOLE.replace(";working;", ";;"),
            WHOLE.replace("80 %", "120 %"),
            WHOLE.replace("80 %", "most"),
            WHOLE.replace(";auction;", ";raffle;"),
            WHOLE.replace(";9;", ";cheap;"),
            WHOLE.replace("Quay market", "Quay market, " * 8),
        )
        self.assertEqual([sale.number for sale in good], [2])
        self.assertEqual([one.number for one in bad], list(range(3, 14)))
        for one, words in zip(
            bad,
            (
                "still to come",
                "too long ago",
                "above 0",
                "no price",
                "no currency",
                "in what state",
                "no share",
                "no share",
                "neither auction",
                "no postage",
                "where it was sold has 103 characters, 60 at most",
            ),
            strict=True,
        ):
            self.assertIn(words, one.reason)

    @given(st.lists(st.lists(st.text(max_size=12), min_size=1, max_size=10), min_size=1, max_size=6))
    def test_any_cells_are_a_sale_or_a_reason(self, rows):
        cells = [[cell.replace("\x00", "").replace(";", " ").strip() or "x" for cell in row] for row in rows]
        text = "\n".join((HEAD, *(";".join(" ".join(cell.split()) or "x" for cell in row) for row in cells)))
        table = read_table(text.replace('"', "'"))
        good, bad = read_sales(table, guess_columns(table.head, HEADS), TODAY)
        self.assertEqual(len(good) + len(bad), len(table.rows))
        self.assertTrue(all(one.reason for one in bad))


class Days(unittest.TestCase):
    @given(st.dates(date(1990, 1, 1), TODAY))
    def test_every_way_to_write_a_day_reads_the_same(self, day):
        ways = [f"{day:%Y-%m-%d}", f"{day:%Y/%m/%d}", f"{day:%d.%m.%Y}", f"{day:%d %b %Y}", f"{day:%d %B %Y}"]
        self.assertEqual({read_day(way) for way in ways}, {day})
        self.assertEqual(read_day(f"{day.day}/{day.month}/{day.year}", DayOrder.DAY_FIRST), day)
        self.assertEqual(read_day(f"{day.month}/{day.day}/{day.year}", DayOrder.MONTH_FIRST), day)

    @given(st.dates(date(1990, 1, 1), TODAY))
    def test_two_days_at_once_are_asked_about_and_never_guessed(self, day):
        text = f"{day.day}/{day.month}/{day.year}"
        if day.day > 12 or day.day == day.month:
            self.assertEqual(read_day(text), day)
        else:
            with self.assertRaisesRegex(ValueError, "can be two days"):
                read_day(text)

    def test_no_day(self):
        for text, words in (
            ("", "nothing says"),
            ("soon", "no date"),
            ("31/2/2026", "no day"),
            ("2026-02-30", "no date"),
            ("3/11/26", "no date"),
        ):
            with self.assertRaisesRegex(ValueError, words):
                read_day(text, DayOrder.DAY_FIRST)


class Prices(unittest.TestCase):
    def test_signs_and_letters_tell_the_currency(self):
        for text, amount, currency in (
            ("€ 45.00", "45", "EUR"),
            ("£45", "45", "GBP"),
            ("45 $", "45", "USD"),
            ("sek 450", "450", "SEK"),
            ("45", "45", ""),
            ("1\u00a0200,50 EUR", "1200.50", "EUR"),
        ):
            self.assertEqual(read_price(text, "price", Mark.DECIMAL), (D(amount), currency), text)

    def test_a_comma_before_three_figures_is_asked_about(self):
        with self.assertRaisesRegex(ValueError, "price: "):
            read_price("1,234", "price")
        self.assertEqual(read_price("1,234", "price", Mark.THOUSANDS)[0], D(1234))
        self.assertEqual(read_price("1,234", "price", Mark.DECIMAL)[0], D("1.23"))

    @given(st.decimals(0, MOST_PRICE - 1, places=2))
    def test_an_amount_comes_back_to_the_cent(self, amount):
        self.assertEqual(read_price(f"{amount:.2f}", "price", Mark.DECIMAL), (amount, ""))

    def test_what_is_no_amount(self):
        for text in ("", "-5", "10000000", "free"):
            with self.assertRaises(ValueError):
                read_price(text, "price")


class States(unittest.TestCase):
    def test_our_letters_and_what_a_claim_is_worth(self):
        for words, grade in (
            ("a", Grade.A),
            ("Grade C", Grade.C),
            ("tested and working", Grade.B),
            ("powers on", Grade.UNTESTED),
            ("untested", Grade.UNTESTED),
            ("not working", Grade.PARTS),
            ("for parts", Grade.PARTS),
        ):
            self.assertEqual(read_state(words), grade, words)
        for words in ("", "lovely"):
            with self.assertRaises(ValueError):
                read_state(words)

    def test_every_column_has_a_name_and_words_to_be_guessed_by(self):
        self.assertEqual(set(HEADS), set(SalesColumn))
        self.assertEqual(len({column.label for column in SalesColumn}), len(SalesColumn))
        self.assertEqual({order.label for order in DayOrder}, {"ask me", "3 November", "11 March"})
