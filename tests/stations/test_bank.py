"""Money by bank transfer, from the file to the sale, the book and what is wiped."""

from datetime import timedelta
from decimal import Decimal

from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import IntegrityError, transaction
from django.urls import reverse

from simulators.bank import ACCOUNT, entry, statement
from stations.common import clock
from stations.common.refusals import Refused
from stations.dispatch import bank, wiping
from stations.dispatch.models import BankBooking, BankFile, BankLine
from stations.selling import payments
from stations.selling import services as selling
from stations.selling.models import Payment
from tests.stations.base import ShopTest

D = Decimal


class Bank(ShopTest):
    STANDS = "listed"

    def setUp(self):
        self.client.force_login(self.seller, backend="django.contrib.auth.backends.ModelBackend")

    def sold(self, price="150", buyer="Ines Falk"):
        unit = self.listed()
        return selling.sell(self.seller, unit, D(price), buyer, D(9))

    def came(self, amount, ref="A", who="", words="", days=0):
        """A line as it stands in a file."""
        return entry(amount, (clock.today() - timedelta(days=days)).isoformat(), ref, who, words)

    def take_in(self, *entries, moved):
        file = SimpleUploadedFile("march.xml", statement(*entries, moved=moved))
        return self.client.post(reverse("dispatch:bank"), {"file": file}, follow=True)

    def one_line(self, amount="150", **more):
        self.take_in(self.came(amount, **more), moved=amount)
        return BankLine.objects.to_place().get()

    def refused(self, words, act, *args):
        with self.assertRaisesRegex(Refused, words):
            act(self.seller, *args)

    def press(self, what, line, **sent):
        return self.client.post(reverse(f"dispatch:{what}", args=[line.pk]), sent, follow=True)

    def test_from_the_file_to_the_sale(self):
        sale = self.sold()
        page = self.take_in(
            self.came("150", who="INES FALK", words="thank you"), self.came("-12", "B", "Skerry Post"), moved="138"
        )
        self.assertContains(page, "2 new entries taken in.")
        self.assertContains(page, f"For {sale.unit.tag}, 150.00 open, Ines Falk")
        self.assertContains(page, "exactly what is open, the buyer’s name")
        self.assertNotContains(page, "Skerry Post")
        line = BankLine.objects.to_place().get()
        waits = self.client.get(reverse("dispatch:dispatch"))
        self.assertContains(waits, "1 sum that came at the bank</a>")
        page = self.press("book", line, sale=sale.pk)
        self.assertContains(page, f"Booked: 150.00 for {sale.unit.tag}.")
        self.assertContains(page, "All that came in is placed.")
        payment = Payment.objects.get()
        self.assertEqual((payment.amount, clock.day_of(payment.came_at)), (150, line.day))
        self.assertEqual(payment.posting.happened_on, line.day)
        self.assertEqual(self.again(sale).owed, 0)
        self.balanced()
        page = self.client.get(reverse("dispatch:bank"), {"all": 1})
        self.assertContains(page, reverse("dispatch:sale", args=[sale.pk]))
        self.assertContains(page, "went out")

    def test_the_same_file_again_brings_nothing_twice(self):
        both = self.came("150"), self.came("20", "B")
        self.take_in(both[0], moved="150")
        page = self.take_in(*both, moved="170")
        self.assertContains(page, "1 new entry taken in, 1 were there already.")
        self.assertEqual(BankLine.objects.count(), 2)
        self.take_in(*both, moved="170")
        self.assertEqual((BankLine.objects.count(), BankFile.objects.count()), (2, 2))
        with self.assertRaises(IntegrityError), transaction.atomic():
            BankLine.objects.create(
                file=BankFile.objects.first(),
                account=ACCOUNT,
                reference="A",
                day=clock.today(),
                amount=1,
            )

    def test_references_are_told_apart_letter_for_letter(self):
        self.take_in(self.came("1", "aB"), moved="1")
        self.take_in(self.came("1", "aB"), self.came("2", "Ab"), moved="3")
        self.assertEqual(sorted(BankLine.objects.values_list("reference", flat=True)), ["Ab", "aB"])

    def test_a_file_that_is_not_whole_is_refused_whole(self):
        page = self.take_in(self.came("150"), self.came("20", "B"), moved="150")
        self.assertContains(page, "It is not whole", status_code=422)
        self.assertEqual(BankLine.objects.count(), 0)

    def test_more_than_is_open_and_what_is_left_of_it(self):
        first, line = self.sold(), self.one_line("180", words="for both")
        self.press("book", line, tag=str(first.unit.tag))
        page = self.client.get(reverse("dispatch:bank"))
        self.assertContains(page, "left of 180.00")
        second = self.sold("30", "Ines Falk")
        self.press("book", line, tag=second.unit.tag.short)
        self.assertEqual([one.amount for one in Payment.objects.all()], [150, 30])
        self.assertFalse(BankLine.objects.to_place().exists())
        self.balanced()

    def test_several_that_one_buyer_pays_at_once(self):
        first, second = self.sold("30"), self.sold("40")
        line = self.one_line("70", who="Ines Falk")
        page = self.client.get(reverse("dispatch:bank"))
        self.assertContains(page, f"For {first.unit.tag}, {second.unit.tag}, 70.00 open, Ines Falk", html=False)
        page = self.press("book", line, sale=[first.pk, second.pk])
        self.assertContains(page, f"Booked: 30.00 for {first.unit.tag}, 40.00 for {second.unit.tag}.")
        self.assertFalse(BankLine.objects.to_place().exists())
        self.balanced()

    def test_several_of_which_one_was_paid_meanwhile_are_not_booked_in_part(self):
        first, second = self.sold("30"), self.sold("40")
        line = self.one_line("70", who="Ines Falk")
        self.hand().pay(second)
        page = self.press("book", line, sale=[first.pk, second.pk])
        self.assertContains(page, f"{second.unit.tag} is paid.")
        self.assertEqual(Payment.objects.count(), 1)

    def test_what_nobody_owes_is_set_aside_and_taken_up_again(self):
        line = self.one_line("7")
        self.assertContains(self.press("set-aside", line, why=" "), "Say why")
        self.press("set-aside", line, why="interest")
        self.assertFalse(BankLine.objects.to_place().exists())
        page = self.client.get(reverse("dispatch:bank"), {"all": 1})
        self.assertContains(page, "interest")
        self.refused("It was set aside: interest", bank.book, line, [self.sold()])
        self.press("take-up", line)
        self.assertEqual(BankLine.objects.to_place().get(), line)
        self.refused("is not set aside", bank.take_up, line)
        with self.assertRaises(IntegrityError), transaction.atomic():
            BankLine.objects.update(aside="so")

    def test_a_payment_taken_back_is_to_be_placed_again(self):
        sale, line = self.sold(), self.one_line()
        (payment,) = bank.book(self.seller, line, [sale])
        self.refused("All of it is booked", bank.book, line, [sale])
        payments.take_back_payment(self.seller, payment, "of somebody else")
        self.assertEqual(BankLine.objects.to_place().get().rest, 150)
        bank.book(self.seller, line, [sale])
        self.assertEqual(BankBooking.objects.count(), 2)
        self.balanced()

    def test_what_can_not_be_booked_is_said_and_what_was_typed_stays(self):
        sale, line = self.sold(), self.one_line()
        wrong = str(sale.unit.tag)[:-1] + ("A" if str(sale.unit.tag)[-1] != "A" else "B")
        for tag, words in (("", "Type the tag"), ("W-9999", "is not sold"), (wrong, "wrong check character")):
            page = self.press("book", line, tag=tag)
            self.assertContains(page, words)
            self.assertContains(page, f"You had typed: {tag}" if tag else words)
        self.hand().pay(sale)
        self.assertContains(self.press("book", line, sale=sale.pk), "is paid.")
        self.assertEqual(Payment.objects.count(), 1)

    def test_who_does_not_sell_sees_and_does_nothing(self):
        line = self.one_line()
        self.client.force_login(self.technician, backend="django.contrib.auth.backends.ModelBackend")
        page = self.client.get(reverse("dispatch:bank"))
        self.assertContains(page, "150.00")
        self.assertNotContains(page, reverse("dispatch:book", args=[line.pk]))
        self.assertContains(self.press("set-aside", line, why="so"), "Only")

    def test_who_paid_is_wiped_with_who_bought(self):
        sale, line = self.sold(), self.one_line(who="Ines Falk", words="from Ines Falk")
        bank.book(self.seller, line, [sale])
        self.hand().hand_over(sale.unit)
        self.take_in(self.came("3", "C", "Somebody", days=400), moved="3")
        old = BankLine.objects.get(who="Somebody")
        wiping.wipe_some()
        self.assertEqual(self.again(old).who, "Somebody")
        bank.set_aside(self.seller, old, "interest")
        self.take_in(self.came("4", "D", "Somebody new"), moved="4")
        with clock.at(clock.now() + timedelta(days=365 * 12)):
            wiping.wipe_some()
        for row in (line, old):
            self.assertEqual((self.again(row).who, self.again(row).words), ("", ""))
        self.assertTrue(BankLine.objects.filter(who="Somebody new").exists())

    def test_the_page_asks_no_more_however_much_came(self):
        self.sold()
        self.take_in(self.came("150"), moved="150")
        self.asks_as_many()
        self.take_in(*(self.came("5", f"N{n}") for n in range(9)), moved="45")
        self.sold("40")
        self.asks_as_many()

    def asks_as_many(self):
        there = reverse("dispatch:bank")
        self.client.get(there)
        for asked, count in ({}, 12), ({"all": 1}, 12):
            with self.subTest(asked=asked), self.assertNumQueries(count):
                self.client.get(there, asked)
