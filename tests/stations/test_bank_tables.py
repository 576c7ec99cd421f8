"""A statement of the bank as CSV, from the file through its columns to what is to be placed."""

from datetime import timedelta
from decimal import Decimal

from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from simulators.bank import ACCOUNT, entry, statement
from stations.common import clock
from stations.common.refusals import NotAllowed, Refused
from stations.dispatch import bank, bank_tables, wiping
from stations.dispatch.models import BankFile, BankLine, BankTable
from stations.people.models import HistoryEntry
from stations.selling import services as selling
from tests.stations.base import ShopTest

D = Decimal
HEAD = "Booked;Payer;Reference;Amount"


class FromTheBankAsCsv(ShopTest):
    STANDS = "listed"

    def setUp(self):
        self.client.force_login(self.seller, backend="django.contrib.auth.backends.ModelBackend")
        self.day = clock.today().isoformat()

    def send(self, *lines, head=HEAD, name="march.csv"):
        file = SimpleUploadedFile(name, "\n".join((head, *lines)).encode("windows-1252"))
        return self.client.post(reverse("dispatch:bank"), {"file": file, "write_key": ""}, follow=True)

    def waiting(self) -> str:
        return reverse("dispatch:bank-table", args=[BankTable.objects.get().pk])

    def press(self, **more):
        """What the page sends when its button is pressed."""
        page = self.client.get(self.waiting())
        sent = {name: "" if value is None else value for name, value in page.context["chosen"].items()}
        sent |= {"how": page.context["query"], "write_key": "", **more}
        return self.client.post(self.waiting(), sent, follow=True)

    def test_from_the_file_to_the_sale(self):
        sale = selling.sell(self.seller, self.listed(), D(150), "Börje Ström", D(9))
        page = self.send(f"{self.day};BÖRJE STRÖM;thank you;150,00", f"{self.day};Skerry Post;label;-6,90")
        self.assertContains(page, "2 new entries")
        self.assertContains(page, "It has no balances to show whether a line is missing.")
        self.assertEqual(BankLine.objects.count(), 0)
        self.assertContains(page, "<b>Say of which account it is</b>")
        self.assertNotContains(page, "Take 2 entries in")
        with self.assertRaisesRegex(Refused, "Say of which account it is"):
            bank_tables.take_table_in(self.seller, BankTable.objects.get(), bank_tables.Reading())
        page = self.press(account="Savings 1")
        self.assertContains(page, "2 new entries taken in.")
        self.assertContains(page, f"For {sale.unit.tag}, 150.00 open, Börje Ström")
        self.assertContains(page, "exactly what is open, the buyer’s name")
        self.assertFalse(BankTable.objects.exists())
        self.assertEqual(HistoryEntry.objects.latest("pk").words, "Bank statement march.csv: 2 new entries taken in.")
        self.assertEqual(BankFile.objects.get().account, "Savings 1")

    def test_months_that_overlap_come_once(self):
        lines = [f"{self.day};Falk;a;5", f"{self.day};Falk;a;5", f"{self.day};Moen;b;7"]
        self.send(*lines[:2])
        self.press(account="Savings 1")
        # The only account is that of the next, however it is typed.
        page = self.send(*lines)
        self.assertContains(page, "<b>1 new entry</b>, 2")
        page = self.press(account="savings1")
        self.assertContains(page, "1 new entry taken in, 2 were there already.")
        self.assertEqual(sorted(BankLine.objects.values_list("amount", flat=True)), [D(5), D(5), D(7)])

    def test_the_account_is_that_which_the_file_names_or_the_only_one(self):
        for account in ("Savings 1", "Savings 2"):
            self.send(f"{self.day};Falk;{account};5")
            first = "" if account == "Savings 1" else "Savings 1"
            self.assertEqual(self.client.get(self.waiting()).context["how"].account, first)
            self.press(account=account)
        self.send(f"{self.day};Falk;c;5")
        self.assertEqual(self.client.get(self.waiting()).context["how"].account, "")
        BankTable.objects.all().delete()
        self.send(HEAD, f"{self.day};Falk;c;5", head="Account;DE89 3704 0044 0532 0130 00;;")
        self.assertEqual(self.client.get(self.waiting()).context["how"].account, "DE89370400440532013000")

    def test_of_what_an_xml_file_told_already_it_is_asked(self):
        bank.take_in(self.seller, "a.xml", statement(entry("150", self.day, "A", "INES FALK", "x"), moved="150"))
        self.send(f"{self.day};Ines Falk;x;150", f"{self.day};Moen;b;7")
        page = self.client.get(self.waiting())
        self.assertContains(page, "1 of them is there already")
        self.assertContains(page, f"of {ACCOUNT}")
        page = self.press()
        self.assertContains(page, "1 of them are there already by day and sum")
        self.assertEqual(BankLine.objects.count(), 1)
        self.press(again="yes")
        self.assertEqual(BankLine.objects.count(), 3)

    def test_a_bad_line_stops_all_and_columns_are_said(self):
        self.send(f"{self.day};Falk;a;1,234", f"{self.day};Moen;b;7")
        page = self.client.get(self.waiting())
        self.assertContains(page, "<b>1 bad line</b>, 1 good.")
        self.assertContains(page, "1,234 can be 1234 or 1.234")
        row = BankTable.objects.get()
        with self.assertRaisesRegex(Refused, "1 bad lines; nothing was taken in. The first: line 2"):
            bank_tables.take_table_in(self.seller, row, bank_tables.Reading(account="S"))
        page = self.client.get(self.waiting() + "?day=0&amount=3&who=2&mark=thousands&account=S")
        self.assertContains(page, "<b>2 new entries</b>")
        self.assertContains(page, "1,234.00")
        self.assertContains(page, "Take 2 entries in, of S")
        page = self.client.get(self.waiting() + "?day=&amount=3")
        self.assertContains(page, "Nothing says when it was booked")

    def test_what_is_no_table_is_said_at_the_file(self):
        for name, data, words in (
            ("a.csv", b"\x00\x01", "This is no text file"),
            ("a.csv", b"only a head", "There is a head but nothing under it."),
            ("a.xml", b"\xef\xbb\xbf <Document/>", "This is no statement of an account"),
            ("a.xml", "<a/>".encode("utf-16"), "This is no statement of an account"),
        ):
            file = SimpleUploadedFile(name, data)
            page = self.client.post(reverse("dispatch:bank"), {"file": file, "write_key": ""})
            self.assertContains(page, words, status_code=422)
        self.assertFalse(BankTable.objects.exists())

    def test_nothing_without_a_day_and_an_amount_is_taken_in(self):
        self.send("a;b", head="one;two")
        row = BankTable.objects.get()
        with self.assertRaisesRegex(Refused, "No line of it has a day and an amount"):
            bank_tables.take_table_in(self.seller, row, bank_tables.Reading(account="S"))
        with self.assertRaisesRegex(Refused, "64 characters at most"):
            bank_tables.take_table_in(self.seller, row, bank_tables.Reading(account="S" * 65))

    def test_twice_pressed_and_left_for_a_day(self):
        self.send(f"{self.day};Falk;a;5")
        there, row = self.waiting(), BankTable.objects.get()
        self.press(account="S")
        page = self.client.post(there, {"account": "S"}, follow=True)
        self.assertContains(page, bank_tables.GONE)
        with self.assertRaisesRegex(Refused, bank_tables.GONE):
            bank_tables.take_table_in(self.seller, row, bank_tables.Reading(account="S"))
        self.assertEqual(BankLine.objects.count(), 1)
        self.send(f"{self.day};Moen;b;7")
        wiping.wipe_some()
        self.assertEqual(BankTable.objects.count(), 1)
        BankTable.objects.update(uploaded_at=clock.now() - timedelta(days=1, hours=1))
        wiping.wipe_some()
        self.assertFalse(BankTable.objects.exists())

    def test_who_may_not_is_refused(self):
        with self.assertRaises(NotAllowed):
            bank_tables.upload(self.viewer, "a.csv", b"date;amount\n2026-01-01;1\n")
        self.send(f"{self.day};Falk;a;5")
        with self.assertRaises(NotAllowed):
            bank_tables.take_table_in(self.viewer, BankTable.objects.get(), bank_tables.Reading(account="S"))

    def test_its_queries_do_not_grow(self):
        def asked(count: int) -> None:
            BankTable.objects.all().delete()
            self.send(*(f"{self.day};Falk;{turn};5" for turn in range(count)))
            row = BankTable.objects.get()
            with self.assertNumQueries(2):
                bank_tables.preview(row, bank_tables.Reading(account="S"))

        asked(1)
        asked(300)
