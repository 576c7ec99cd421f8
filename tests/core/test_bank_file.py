"""Statements of a bank: read whole or refused whole."""

from datetime import date
from decimal import Decimal
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from core.selling.bank_file import BankFileError, read_statements
from simulators.bank import ACCOUNT, entry, part, statement

D = Decimal


class Read(TestCase):
    def read(self, *entries, **more):
        (found,) = read_statements(statement(*entries, **more), "EUR")
        return found

    def test_what_came_and_went(self):
        found = self.read(
            entry("150.00", "2026-03-02", "A1", "A. Reader", "W-0147  with thanks"),
            entry("-12.5", "2026-03-03", "A2", "Skerry Post"),
            moved="137.50",
        )
        self.assertEqual(found.account, ACCOUNT)
        first, second = found.entries
        self.assertEqual((first.day, first.amount, first.who), (date(2026, 3, 2), D("150.00"), "A. Reader"))
        self.assertEqual((first.words, first.reference), ("W-0147 with thanks", "A1"))
        self.assertEqual((second.amount, second.who), (D("-12.50"), "Skerry Post"))

    def test_only_what_is_booked(self):
        found = self.read(entry("5", ref="P", status="PDNG"), entry("6", ref="B"), moved="6")
        self.assertEqual([one.reference for one in found.entries], ["B"])

    def test_what_was_booked_together_is_told_apart(self):
        parts = part("100.00", "A. Reader", "W-0147") + part("50.00", "I. Falk", "W-0148")
        found = self.read(entry("150.00", ref="S", parts=parts), moved="150")
        self.assertEqual([(one.amount, one.who) for one in found.entries], [(100, "A. Reader"), (50, "I. Falk")])
        self.assertEqual([one.reference for one in found.entries], ["S", "S/2"])
        parts = part("4.00", "Skerry Post", role="Cdtr") + part("5.00", "Harbour bank", role="Cdtr")
        out = self.read(entry("-9.00", ref="T", parts=parts), moved="-9")
        self.assertEqual([(one.amount, one.who) for one in out.entries], [(-4, "Skerry Post"), (-5, "Harbour bank")])
        # Where they don’t say all of it, it is one.
        parts = part("100.00", "A. Reader", "W-0147") + part("49.00", "I. Falk", "W-0148")
        (whole,) = self.read(entry("150.00", ref="S", parts=parts), moved="150").entries
        self.assertEqual((whole.amount, whole.who), (150, ""))

    def test_two_alike_are_two_and_the_same_ones_whenever_they_are_read(self):
        alike = [entry("20", who="A. Reader", words="thanks")] * 2
        once, again = self.read(*alike, moved="40"), self.read(*alike, moved="40")
        self.assertEqual(once, again)
        self.assertEqual(len({one.reference for one in once.entries}), 2)
        self.assertNotEqual(once.entries[0].reference, self.read(entry("20"), moved="20").entries[0].reference)

    def test_what_can_not_be_taken_is_said(self):
        whole = statement(entry("5"), moved="5")
        for data, words in (
            (b"", "no whole XML"),
            (b"day;amount\n1;2", "no whole XML"),
            (whole[:-40], "no whole XML"),
            (b"<a/>", "no statement of an account"),
            (whole.replace(b"BkToCstmrStmt", b"BkToCstmrAcctRpt"), "no statement of an account"),
            (whole.replace(b"<IBAN>", b"<X>").replace(b"</IBAN>", b"</X>"), "of which account"),
            (statement(entry("5"), entry("6", ref="lost"), moved="5"), "is not whole: from 100.00 with 11.00"),
            (whole.replace(b"OPBD", b"XXXX"), "lacks the balance"),
            (statement(entry("5", currency="SEK"), moved="5"), "Entry 1: it is in SEK"),
            (statement(entry("5", day="tomorrow"), moved="5"), "Entry 1: it lacks the day"),
            (whole.replace(b'"EUR">5<', b'"EUR">five<'), "Entry 1: its amount is no number"),
            (whole.replace(b'"EUR">5<', b'"EUR">5.001<'), "no sum of money"),
            (whole.replace(b'"EUR">5<', b'"EUR">NaN<'), "no sum of money"),
            (whole.replace(b'"EUR">5<', b'"EUR">1e99<'), "no sum of money"),
            (whole.replace(b"<CdtDbtInd>CRDT", b"<CdtDbtInd>UP"), "came in or went out"),
            (b'<!DOCTYPE a [<!ENTITY b "c">]><a>&b;</a>', "no whole XML"),
        ):
            with self.subTest(words=words), self.assertRaisesRegex(BankFileError, words):
                read_statements(data, "EUR")

    @given(st.binary(max_size=200) | st.text(max_size=200).map(str.encode))
    def test_nothing_breaks_it(self, data):
        with self.assertRaises(BankFileError):
            read_statements(data, "EUR")

    @given(st.data())
    def test_a_file_that_lost_something_never_comes_in_as_whole(self, data):
        whole = statement(entry("5", ref="a"), entry("7.25", ref="b"), entry("-1", ref="c"), moved="11.25")
        start = data.draw(st.integers(0, len(whole) - 1))
        cut = whole[:start] + whole[data.draw(st.integers(start + 1, len(whole))) :]
        try:
            (found,) = read_statements(cut, "EUR")
        except BankFileError:
            return
        self.assertEqual(sum(one.amount for one in found.entries), D("11.25"))
