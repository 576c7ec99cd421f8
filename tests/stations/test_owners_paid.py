"""What owners of things sold on commission get: due once the buyer paid, paid, given back after a refund."""

from decimal import Decimal

from django.db import IntegrityError, transaction
from django.urls import reverse

from core.money import ZERO
from stations.common.refusals import NotAllowed, Refused
from stations.dispatch import owners, refunds, selectors
from stations.dispatch.models import OwnerPayment
from stations.intake import capture
from stations.ledger.models import Account
from stations.ledger.selectors import balance
from stations.selling import payments
from stations.selling import services as selling
from stations.selling.models import Sale
from tests.stations.test_dispatch import DispatchTest

D = Decimal


class OnCommission(DispatchTest):
    """Sold for 150 with a quarter for us: 112.50 are its owner’s."""

    STANDS = "listed"

    def setUp(self):
        super().setUp()
        unit = self.listed()
        capture.set_ownership(self.owner, unit, capture.Ownership("consigned", "E. Norr", commission_percent=D(25)))
        self.made = selling.sell(self.seller, self.again(unit), D(150), "A. Reader", D(9))
        self.client.force_login(self.seller, backend="django.contrib.auth.backends.ModelBackend")

    @property
    def sale(self) -> Sale:
        return Sale.objects.select_related("unit", "channel").get(pk=self.made.pk)

    def waiting(self) -> list[Decimal]:
        return [one.owner_due for one in selectors.owners_to_pay()]

    def to(self, amount: str):
        there = reverse("dispatch:pay-owner", args=[self.made.pk])
        return self.client.post(there, {"owner-amount": amount}, follow=True)

    def test_it_waits_once_the_buyer_has_paid(self):
        there = reverse("dispatch:sale", args=[self.made.pk])
        self.assertEqual((self.sale.owner_due, self.waiting()), (D("112.50"), []))
        self.assertContains(self.client.get(there), "The buyer has not paid yet.")
        payments.take_payment(self.owner, self.sale, D(150))
        self.assertEqual(self.waiting(), [D("112.50")])
        for page in (reverse("dispatch:dispatch"), there):
            self.assertContains(self.client.get(page), "E. Norr")
        self.assertContains(self.client.get(reverse("selling:selling")), "to be paid to owners")

    def test_paid_in_parts_and_never_more_than_is_due(self):
        payments.take_payment(self.owner, self.sale, D(150))
        self.assertContains(self.to("112.51"), "Only 112.50 is due.")
        self.to("100")
        self.to("12.50")
        self.assertEqual((self.sale.owner_due, self.waiting(), balance(Account.OWNER_OWED, 0)), (ZERO, [], ZERO))
        with self.assertRaisesRegex(Refused, "Nothing is due"):
            owners.pay_owner(self.owner, self.sale, D(1))
        with self.assertRaisesRegex(Refused, "more than 0"):
            owners.pay_owner(self.owner, self.sale, D(0))
        with self.assertRaises(NotAllowed):
            owners.pay_owner(self.technician, self.sale, D(1))
        self.balanced()

    def test_what_was_paid_too_much_after_a_refund_comes_back(self):
        payments.take_payment(self.owner, self.sale, D(150))
        owners.pay_owner(self.owner, self.sale, D("112.50"))
        refunds.refund(self.owner, self.sale, D(50), "a scratch")
        self.assertEqual((self.sale.owner_due, self.waiting()), (D("-37.50"), [D("-37.50")]))
        self.assertContains(self.client.get(reverse("dispatch:dispatch")), "Ask back what was too much")
        self.assertContains(self.to("40"), "Only 37.50 is due.")
        self.to("37.50")
        self.assertEqual((self.sale.owner_due, OwnerPayment.objects.last().amount), (ZERO, D("-37.50")))
        self.balanced()
        # With the refund taken back it is due again.
        refunds.take_back(self.owner, self.sale.refunds.get(), "another’s")
        self.assertEqual(self.waiting(), [D("37.50")])
        self.balanced()

    def test_a_sale_that_came_to_nothing(self):
        owners.pay_owner(self.owner, self.sale, D(100))
        refunds.call_off(self.owner, self.sale, "never paid")
        self.assertEqual(self.waiting(), [D(-100)])
        owners.pay_owner(self.owner, self.sale, D(100))
        self.assertEqual(self.waiting(), [])
        self.balanced()

    def test_a_mistake_is_taken_back(self):
        first = owners.pay_owner(self.owner, self.sale, D(100))
        back = reverse("dispatch:owner-back", args=[first.pk])
        self.assertContains(self.client.post(back, {"why": ""}, follow=True), "Say why")
        self.assertContains(self.client.post(back, {"why": "another’s money"}, follow=True), "<s>Paid")
        self.assertEqual(self.sale.owner_due, D("112.50"))
        with self.assertRaisesRegex(Refused, "taken back already"):
            owners.take_back_owner_payment(self.owner, first, "twice")
        second = owners.pay_owner(self.owner, self.sale, D("112.50"))
        refunds.refund(self.owner, self.sale, D(150), "all of it")
        came = owners.pay_owner(self.owner, self.sale, D("112.50"))
        with self.assertRaisesRegex(Refused, "take that back first"):
            owners.take_back_owner_payment(self.owner, second, "another’s money")
        owners.take_back_owner_payment(self.owner, came, "it did not")
        owners.take_back_owner_payment(self.owner, second, "another’s money")
        self.assertEqual((self.sale.owner_paid, self.sale.owner_due), (ZERO, ZERO))
        self.balanced()

    def test_the_database_keeps_it_in_bounds(self):
        for wrong in ({"owner_paid": D(113)}, {"owner_back": D(113)}, {"owner_paid": D(-1)}, {"owners_part": D(151)}):
            with self.assertRaises(IntegrityError), transaction.atomic():
                Sale.objects.filter(pk=self.made.pk).update(**wrong)
        # A figure that the book does not bear out is found.
        Sale.objects.filter(pk=self.made.pk).update(owner_paid=D(1))
        with self.assertRaisesRegex(AssertionError, "due to them"):
            self.balanced()

    def test_what_is_ours_has_no_owner_to_pay(self):
        sale = self.sold()
        self.assertNotContains(self.client.get(reverse("dispatch:sale", args=[sale.pk])), 'id="owner"')
