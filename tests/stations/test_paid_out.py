"""What a marketplace takes and passes on: compared with what was due, missed when it does not come."""

from datetime import timedelta
from decimal import Decimal

from django.db import IntegrityError, transaction
from django.urls import reverse

from core.money import ZERO
from stations.common import clock
from stations.common.refusals import NotAllowed, Refused
from stations.dispatch import refunds, selectors
from stations.ledger.models import Account, EntryKind
from stations.ledger.selectors import balance, by_kind
from stations.selling import news, payments
from stations.selling.models import ChannelMessage, Payment, Sale
from tests.stations.test_channels import OnChannels
from tests.stations.test_dispatch import DispatchTest

D = Decimal


class SoldThere(OnChannels):
    """One sold for 150 on a marketplace that keeps 12 %: 132 are due."""

    def setUp(self):
        super().setUp()
        self.unit = self.on_both()
        self.there.buy(str(self.unit.tag), "Ines Falk")
        self.read()

    @property
    def sale(self) -> Sale:
        return Sale.objects.select_related("unit", "channel").get()

    @property
    def waits(self) -> ChannelMessage:
        return ChannelMessage.objects.get(kind="payout", outcome="waits", settled_at=None)

    def fee(self) -> Decimal:
        return by_kind(Account.UNIT, [self.unit.pk])[self.unit.pk][EntryKind.FEE]

    def pay(self, amount: str) -> None:
        self.there.pay(str(self.unit.tag), amount)
        self.read()


class PaidOut(SoldThere):
    def test_what_was_due_is_taken_by_itself(self):
        self.pay("132.00")
        self.assertEqual((self.sale.owed, self.sale.paid_out), (ZERO, D(132)))
        self.balanced()

    def test_after_a_refund_less_is_due(self):
        refunds.refund(self.owner, self.sale, D(50), "a scratch", fee_back=D(6))
        self.pay("88.00")
        self.assertEqual((self.sale.owed, self.sale.fee_kept), (ZERO, D(12)))
        self.assertFalse(ChannelMessage.objects.filter(outcome="waits").exists())
        self.balanced()

    def test_a_channel_that_kept_more_is_taken_at_its_word_by_a_person(self):
        self.pay("130.50")
        self.assertIn("132.00 was due", self.waits.words)
        self.assertEqual(self.sale.owed, D(150))
        self.assertContains(self.client.get(reverse("selling:selling")), "the channel kept the rest")
        with self.assertRaises(NotAllowed):
            news.take_payout(self.technician, self.waits)
        self.done(self.post("selling:message", [self.waits.pk, "payout"]))
        self.assertEqual((self.sale.owed, self.sale.fee, self.fee()), (ZERO, D("19.50"), D("19.50")))
        self.assertEqual(Payment.objects.get().how, "channel")
        self.assertFalse(ChannelMessage.objects.filter(kind="payout", outcome="waits").exists())
        self.balanced()

    def test_what_can_not_be_right_is_left_to_a_person(self):
        self.pay("150.01")
        with self.assertRaisesRegex(Refused, "more was paid out"):
            news.take_payout(self.owner, self.waits)
        news.set_aside(self.owner, self.waits)
        self.pay("132.00")
        self.pay("131.00")
        with self.assertRaisesRegex(Refused, "150.00 came in for it before"):
            news.take_payout(self.owner, self.waits)
        self.assertEqual(Payment.objects.count(), 1)

    def test_for_a_sale_that_ended_nothing_is_taken(self):
        refunds.call_off(self.owner, self.sale, "never answered")
        self.pay("132.00")
        self.assertIn("the sale ended: called off", self.waits.words)
        with self.assertRaisesRegex(Refused, "The sale ended"):
            news.take_payout(self.owner, self.waits)
        self.balanced()

    def test_one_that_does_not_come_is_missed(self):
        page = self.client.get(reverse("dispatch:dispatch"))
        self.assertContains(page, "No buyer owes anything.")
        self.assertContains(page, "To be paid out by a marketplace")
        Sale.objects.update(sent_at=clock.now())
        for days, count in ((13, 0), (15, 1)):
            with clock.at(clock.now() + timedelta(days=days)):
                self.assertEqual(selectors.overdue().count(), count)
                due = self.client.get(reverse("selling:selling"))
                self.assertEqual("overdue from marketplaces" in due.content.decode(), bool(count))
                there = self.client.get(reverse("dispatch:sale", args=[self.sale.pk]))
                self.assertEqual("late: ask there" in there.content.decode(), bool(count))
        # Closed, it is still not paid out.
        Sale.objects.update(closed_at=clock.now())
        self.assertEqual(selectors.to_be_paid_out().count(), 1)
        self.pay("132.00")
        self.assertEqual(selectors.to_be_paid_out().count(), 0)


class Fees(SoldThere):
    def to(self, **typed: str):
        there = reverse("dispatch:fee", args=[self.sale.pk])
        return self.client.post(there, {f"fee-{name}": value for name, value in typed.items()}, follow=True)

    def test_it_is_corrected_through_the_page_and_back(self):
        before = balance(Account.CASH, 0)
        self.assertContains(self.to(kept="150.01", why="its bill"), "no channel keeps more")
        self.assertContains(self.to(kept="18", why="its bill"), "So much is in the books already")
        self.assertContains(self.to(kept="20", why=""), "Say how you know.")
        self.to(kept="20", why="its bill")
        self.assertEqual((self.sale.fee, self.fee(), balance(Account.CASH, 0) - before), (D(20), D(20), D(-2)))
        self.balanced()
        self.to(kept="18", why="another’s bill")
        self.assertEqual((self.fee(), self.sale.fee_changes.count()), (D(18), 2))
        self.balanced()

    def test_a_channel_that_gave_no_fee_back_after_all(self):
        refunds.call_off(self.owner, self.sale, "never answered")
        self.assertEqual((self.sale.fee_kept, self.fee()), (ZERO, ZERO))
        payments.correct_fee(self.owner, self.sale, D(18), "it gave none back")
        self.assertEqual((self.sale.fee_kept, self.fee()), (D(18), D(18)))
        self.balanced()

    def test_who_may_and_what_the_database_keeps(self):
        for kept, why, wrong in ((D(-1), "x", "below 0"), (D(3), " ", "Say why")):
            with self.assertRaisesRegex(Refused, wrong):
                payments.correct_fee(self.owner, self.sale, kept, why)
        with self.assertRaises(NotAllowed):
            payments.correct_fee(self.technician, self.sale, D(3), "its bill")
        change = payments.correct_fee(self.owner, self.sale, D(3), "its bill")
        for wrong in (
            lambda: type(change).objects.update(amount=0),
            lambda: Sale.objects.update(fee_back=D("3.01")),
        ):
            with self.assertRaises(IntegrityError), transaction.atomic():
                wrong()

    def test_what_the_channel_kept_belongs_to_what_was_paid(self):
        with self.assertRaisesRegex(Refused, "150.00 were paid") as caught:
            payments.take_payment(self.owner, self.sale, D(132), Payment.How.CHANNEL)
        self.assertEqual(caught.exception.field, "amount")
        payments.take_payment(self.owner, self.sale, D(132))
        self.assertContains(
            self.client.get(reverse("dispatch:sale", args=[self.sale.pk])), "with what the channel kept"
        )

    def test_a_payment_typed_as_paid_out_is_taken_back(self):
        wrong = payments.take_payment(self.owner, self.sale, D(150), Payment.How.CHANNEL)
        payments.take_back_payment(self.owner, wrong, "it was for another")
        self.pay("132.00")
        with self.assertRaisesRegex(Refused, "put that right there"):
            payments.take_back_payment(self.owner, self.sale.payments.last(), "no")
        self.balanced()


class KeptWaiting(DispatchTest):
    """Who has paid and gets nothing, and who gets nothing because nothing was paid."""

    STANDS = "proven"

    def test_a_buyer_who_paid_is_seen_after_three_days_one_who_did_not_after_a_week(self):
        self.client.force_login(self.seller)
        sale, page = self.sold(), reverse("selling:selling")
        for days, unpaid in ((6, False), (8, True)):
            with clock.at(clock.now() + timedelta(days=days)):
                due = self.client.get(page).content.decode()
                self.assertEqual("payments overdue" in due, unpaid)
                self.assertNotIn("paid for and still here", due)
                heaps = self.client.get(reverse("dispatch:dispatch")).content.decode()
                self.assertEqual('id="pay"' in heaps and "long</span>" in heaps, unpaid)
        with clock.at(clock.now() + timedelta(days=8)):
            paid = payments.take_payment(self.seller, sale, sale.owed)
            self.assertNotIn("payments overdue", self.client.get(page).content.decode())
        for days, waits in ((10, False), (12, True)):
            with clock.at(clock.now() + timedelta(days=days)):
                self.assertEqual("paid for and still here" in self.client.get(page).content.decode(), waits)
                self.assertEqual(selectors.kept_waiting().count(), int(waits))
        with clock.at(clock.now() + timedelta(days=12)):
            payments.take_back_payment(self.owner, paid, "it was for another")
            self.assertEqual(selectors.kept_waiting().count(), 0)
            payments.take_payment(self.seller, self.again(sale), sale.price)
            self.assertEqual(selectors.kept_waiting().count(), 0)
