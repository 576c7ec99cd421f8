"""What a bank says as CSV is read whatever its columns are, or told line by line; no sum is turned round."""

import csv
import io
from datetime import date, timedelta
from decimal import Decimal
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from core.buying.manifest import guess_columns
from core.machine.quantities import Mark
from core.selling.bank_table import HEADS, BankColumn, BankRows, account_in, find_table, read_bank_table
from core.selling.sales_file import DayOrder

D = Decimal
TODAY = date(2026, 12, 1)
C = BankColumn


def read(text: str, columns=None, **how) -> BankRows:
    table = find_table(text)
    return read_bank_table(table, columns or guess_columns(table.head, HEADS), "EUR", TODAY, **how)


def told(found: BankRows) -> list[tuple]:
    return [(one.day.isoformat(), str(one.amount), one.who, one.words) for _, one in found.entries]


class Dialects(TestCase):
    """As banks write them; common practice, no source."""

    def test_semicolons_a_comma_before_cents_and_lines_above_the_head(self):
        found = read(
            "Kontonummer:;DE02 1203 0000 0000 2020 51\n"
            "Zeitraum:;01.11.2026 - 30.11.2026\n\n"
            "Buchungstag;Name;Verwendungszweck;Betrag;Währung;Saldo\n"
            "03.11.26;INES FALK;W-0147 danke;150,00;EUR;1.650,00\n"
            "02.11.26;Skerry Post;Label;-6,90;EUR;1.500,00\n"
        )
        self.assertEqual(
            told(found),
            [
                ("2026-11-03", "150.00", "INES FALK", "W-0147 danke"),
                ("2026-11-02", "-6.90", "Skerry Post", "Label"),
            ],
        )
        self.assertEqual([line for line, _ in found.entries], [5, 6])
        self.assertTrue(found.proven)

    def test_a_column_for_each_way(self):
        found = read(
            "Date,Description,Money out,Money in,Balance\n"
            '2026-11-02,Label,6.90,,"1,500.00"\n'
            '2026-11-03,Falk,,150.00,"1,650.00"\n'
        )
        self.assertEqual([str(one.amount) for _, one in found.entries], ["-6.90", "150.00"])
        self.assertTrue(found.proven)

    def test_a_column_that_says_which_way(self):
        text = "Datum;Soll/Haben;Betrag;Text\n02.11.2026;S;6,90;Label\n03.11.2026;H;150,00;Falk\n"
        self.assertEqual([str(one.amount) for _, one in read(text).entries], ["-6.90", "150.00"])
        bad = read(text.replace(";S;", ";X;")).bad
        self.assertRegex(bad[0].reason, "“x” does not say whether it came in or went out")

    def test_signs_behind_currencies_and_swiss_thousands(self):
        for typed, amount in (
            ("12,30-", "-12.30"),
            ("−12.30", "-12.30"),
            ("+12.30 EUR", "12.30"),
            ("€ 1.234,50", "1234.50"),
            ("1'234.50", "1234.50"),
            ("EUR 12", "12.00"),
            ("1\u00a0234,50", "1234.50"),
        ):
            with self.subTest(typed):
                found = read(f"date\tamount\ttext\n2026-11-02\t{typed}\tx\n")
                self.assertEqual([str(one.amount) for _, one in found.entries], [amount])

    def test_days(self):
        for typed, order, day in (
            ("20261103", DayOrder.ASK, "2026-11-03"),
            ("03.11.26", DayOrder.ASK, "2026-11-03"),
            ("2026-11-03T10:22:00", DayOrder.ASK, "2026-11-03"),
            ("3 Nov 2026", DayOrder.ASK, "2026-11-03"),
            ("03/11/26", DayOrder.DAY_FIRST, "2026-11-03"),
            ("03/11/2026", DayOrder.MONTH_FIRST, "2026-03-11"),
        ):
            with self.subTest(typed):
                found = read(f"date;amount\n{typed};1,00\n", order=order)
                self.assertEqual([one.day.isoformat() for _, one in found.entries], [day])

    def test_the_account_above_the_table(self):
        # The examples of ISO 13616 for Germany and the United Kingdom (from memory), and one with two figures changed.
        for line, account in (
            ("IBAN;DE89 3704 0044 0532 0130 00", "DE89370400440532013000"),
            ("Account GB29NWBK60161331926819, all", "GB29NWBK60161331926819"),
            ("IBAN;DE89 3704 0044 0532 0130 01", ""),
            ("03.11.2026;150,00", ""),
        ):
            self.assertEqual(account_in(f"{line}\ndate;amount\n"), account)
        # Of what stands in the table it is that of somebody else.
        self.assertEqual(account_in("date;amount;from\n2026-11-03;1;DE89 3704 0044 0532 0130 00\n"), "")


class WhatIsWrong(TestCase):
    def reasons(self, line: str, head="date;amount;currency;money in;money out", **how) -> str:
        found = read(f"{head}\n{line}\n", **how)
        self.assertEqual(found.entries, ())
        return found.bad[0].reason

    def test_each_is_told_in_words(self):
        for line, words in (
            ("2026-11-03;x;EUR", "“x” is no amount"),
            ("2026-11-03;1,234;EUR", "amount: 1,234 can be 1234 or 1.234"),
            ("2026-11-03;1.50;USD", "it is in USD, and the books are in EUR"),
            ("2026-12-02;1.50;EUR", "02 December 2026 is still to come"),
            (";1.50;EUR", "nothing says when it was booked"),
            ("03/11/2026;1.50;EUR", "can be two days"),
            ("2026-11-03;;EUR", "nothing says its amount"),
            ("2026-11-03;;EUR;1;2", "both what came in and what went out"),
            ("2026-11-03;1.505;EUR", "amount: 1.505 can be"),
            ("2026-11-03;0.1234;EUR", "is no amount of money"),
            ("2026-11-03;1000000000;EUR", "is no amount of money"),
        ):
            with self.subTest(line):
                self.assertRegex(self.reasons(line), words)
        self.assertRegex(self.reasons("2026-11-03;1.505;EUR", mark=Mark.DECIMAL), "is no amount of money")

    def test_sums_under_the_table_are_no_entries(self):
        found = read("date;amount;text\n2026-11-03;1,00;a\n;;Sum of all\n")
        self.assertEqual((len(found.entries), found.empty, found.bad), (1, 1, ()))

    def test_a_line_that_was_lost_shows_in_the_balances(self):
        lines = [("2026-11-01", 10, 110), ("2026-11-02", -5, 105), ("2026-11-03", 7, 112), ("2026-11-04", 1, 113)]

        def file(rows):
            return "date;amount;balance\n" + "".join(f"{day};{amount};{balance}\n" for day, amount, balance in rows)

        for order in (lines, lines[::-1]):
            self.assertTrue(read(file(order)).proven)
            for lost in (1, 2):
                found = read(file(order[:lost] + order[lost + 1 :]))
                self.assertFalse(found.proven)
                self.assertRegex(found.bad[0].reason, "its balance does not follow")
        # What can’t be shown is not said.
        self.assertIsNone(read(file(lines[:1])).proven)
        self.assertIsNone(read(file(lines).replace(";112", ";")).proven)

    def test_two_alike_are_two_and_are_the_same_two_in_another_file(self):
        twice = "date;amount;text\n2026-11-03;5,00;coffee\n2026-11-03;5,00;coffee\n"
        one, two = (entry.reference for _, entry in read(twice).entries)
        self.assertNotEqual(one, two)
        longer = [entry.reference for _, entry in read(twice + "2026-11-04;1,00;x\n").entries]
        self.assertEqual(longer[:2], [one, two])
        # However its columns are read.
        again = read(twice, {C.DAY: 0, C.CAME_IN: 1})
        self.assertEqual([entry.reference for _, entry in again.entries], [one, two])


ENTRIES = st.lists(
    st.tuples(
        st.dates(date(2020, 1, 1), TODAY),
        st.integers(-(10**8), 10**8).filter(bool),
        st.text("abc W-01;,\"'", max_size=12),
    ),
    min_size=1,
    max_size=8,
)


class ThereAndBack(TestCase):
    @given(ENTRIES, st.sampled_from(";,\t"), st.booleans(), st.sampled_from(["sign", "way", "columns"]), st.booleans())
    def test_every_sum_comes_in_as_it_was_written(self, entries, separator, comma, ways, newest_first):
        def money(cents: int) -> str:
            text = f"{cents / 100:,.2f}"
            return text.translate(str.maketrans(",.", ".,")) if comma else text

        out, balance, rows = io.StringIO(), 0, []
        for day, cents, words in entries:
            balance += cents
            sums = {
                "sign": [money(cents)],
                "way": [money(abs(cents)), "C" if cents > 0 else "D"],
                "columns": [money(cents) if cents > 0 else "", money(-cents) if cents < 0 else ""],
            }[ways]
            rows.append([day.strftime("%d.%m.%Y"), words, *sums, money(balance)])
        heads = {"sign": ["Amount"], "way": ["Amount", "Debit/Credit"], "columns": ["Paid in", "Paid out"]}[ways]
        writer = csv.writer(out, delimiter=separator)
        writer.writerow(["Date", "Text", *heads, "Balance"])
        writer.writerows(rows[::-1] if newest_first else rows)
        found = read(out.getvalue(), mark=Mark.THOUSANDS)
        self.assertEqual(found.bad, ())
        self.assertIsNot(found.proven, False)
        wanted = [(day, D(cents) / 100) for day, cents, _ in entries]
        self.assertEqual([(one.day, one.amount) for _, one in found.entries], wanted[::-1] if newest_first else wanted)
        self.assertEqual(len({one.reference for _, one in found.entries}), len(entries))

    def test_a_day_is_not_moved(self):
        day = TODAY - timedelta(days=400)
        for form in ("%Y-%m-%d", "%d.%m.%Y", "%d.%m.%y", "%Y%m%d"):
            found = read(f"date;amount\n{day.strftime(form)};1,00\n")
            self.assertEqual(found.entries[0][1].day, day)
