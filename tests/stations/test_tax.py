"""Tax by the item and by the period, and the books whatever order things come in."""

import contextlib
import random
from datetime import date, datetime, time, timedelta
from decimal import Decimal

from django.db import transaction
from django.urls import reverse
from django.utils import timezone

from core.money import ZERO
from stations.books import taxes
from stations.books.models import TaxPeriod
from stations.common import clock
from stations.common.refusals import NotAllowed, Refused
from stations.dispatch import here_again, owners, parcels, receipts, refunds, returns
from stations.dispatch.models import SaleTerms
from stations.intake import capture
from stations.ledger.models import Account, EntryKind, LedgerEntry
from stations.ledger.selectors import balance, by_kind
from stations.people.models import ShopSettings
from stations.selling import news, payments
from stations.selling import services as selling
from stations.selling.models import Sale
from stations.units.costs import purchase_of
from tests.stations.test_dispatch import DispatchTest

D = Decimal


class ByTheItem(DispatchTest):
    STANDS = "proven"

    def test_freight_is_no_purchase_and_the_premium_is_one_if_so_set(self):
        unit = self.listed()
        carried = by_kind(Account.UNIT, [unit.pk])[unit.pk]["transfer"]
        for counts, whole in ((True, 118), (False, 100)):
            ShopSettings.objects.update_or_create(pk=1, defaults={"premium_counts": counts})
            self.assertEqual(purchase_of([unit])[unit.pk], (carried * whole / 130).quantize(D("0.01")))

    def test_a_sale_that_is_refunded_whole_owes_no_tax(self):
        for scheme in ("standard", "margin"):
            self.taxed(scheme)
            sale = self.sold()
            self.assertGreater(sale.tax, 0)
            refunds.refund(self.owner, sale, D(50), "a part")
            refunds.refund(self.owner, sale, D(100), "the rest")
            self.assertEqual(by_kind(Account.UNIT, [sale.unit_id])[sale.unit_id]["tax"], ZERO)
        self.balanced()


class ByThePeriod(DispatchTest):
    """Global accounting by the month; lots are bought today, sales are put where they are wanted."""

    STANDS = "proven"

    def scene(self) -> None:
        super().scene()
        self.taxed("global")
        today = timezone.localdate()
        self.first = today.replace(day=1)
        SaleTerms.objects.update_or_create(pk=1, defaults={"period": "month", "global_since": self.first})
        self.next_month = timezone.make_aware(datetime.combine(self.month(1), time(12)))

    def month(self, offset: int) -> date:
        count = self.first.year * 12 + self.first.month - 1 + offset
        return date(count // 12, count % 12 + 1, 1)

    def test_sold_less_bought_times_the_rate_once_the_month_is_over(self):
        sales = [self.sold("600"), self.sold("240")]
        self.assertEqual([sale.tax for sale in sales], [ZERO, ZERO])
        (one,) = taxes.open_periods()
        # 840 - 118 (price and premium) = 722, a sixth is 120.33.
        self.assertEqual((one.figures.sales, one.figures.purchases, one.figures.tax), (D(840), D(118), D("120.33")))
        with self.assertRaisesRegex(Refused, "It runs until"):
            taxes.close_period(self.owner, self.first)
        with self.assertRaises(NotAllowed):
            taxes.close_period(self.seller, self.first)
        with clock.at(self.next_month):
            closed = taxes.close_period(self.owner, self.first)
            with self.assertRaisesRegex(Refused, "oldest one first|It runs until"):
                taxes.close_period(self.owner, self.first)
        self.assertEqual(closed.tax, D("120.33"))
        posted = [by_kind(Account.UNIT, [sale.unit_id])[sale.unit_id]["tax"] for sale in sales]
        self.assertEqual(posted, [D("85.95"), D("34.38")])
        self.assertEqual(-balance(Account.TAX_OWED, 0), D("120.33"))
        self.balanced()

    def test_what_is_closed_is_what_was_seen(self):
        self.sold("600")
        self.client.force_login(self.owner)
        with clock.at(self.next_month):
            page = self.client.get(reverse("books:tax"))
            seen = page.context["open"][0].mark
            late = self.listed("240")
            selling.sell(self.owner, late, D(240), "Ines Falk", D(9), on=timezone.localdate())
            there = reverse("books:close-period", args=[self.first.year, self.first.month, self.first.day])
            self.client.post(there, {"seen": seen})
            self.assertContains(self.client.get(reverse("books:tax")), "by something recorded meanwhile")
            self.assertFalse(TaxPeriod.objects.exists())
            self.client.post(there, {"seen": taxes.open_periods()[0].mark})
            self.assertEqual(TaxPeriod.objects.get().sales, D(840))

    def test_a_month_below_nothing_is_carried_on(self):
        self.sold("100")
        with clock.at(self.next_month):
            closed = taxes.close_period(self.owner, self.first)
            self.assertEqual((closed.margin, closed.tax, closed.carried_out), (D(-18), ZERO, D(-18)))
            self.assertIsNone(closed.posting)
            sale = self.sold("150")
            (one,) = taxes.open_periods()
            self.assertEqual((one.figures.carried_in, one.figures.margin, one.figures.tax), (D(-18), D(132), D(22)))
            # A refund counts in the month in which it is made, also of a sale of the month before.
            refunds.refund(self.owner, sale, D(30), "a scratch")
            (one,) = taxes.open_periods()
            self.assertEqual(one.figures.margin, D(102))
            refunds.take_back(self.owner, sale.refunds.get(), "another sale was meant")
            (one,) = taxes.open_periods()
            self.assertEqual(one.figures.margin, D(132))
        self.balanced()

    def test_a_unit_taken_out_is_taxed_by_itself(self):
        unit = self.listed()
        with self.assertRaisesRegex(Refused, "Say why"):
            taxes.take_out(self.owner, unit, " ")
        row = taxes.take_out(self.owner, unit, "sold abroad")
        (one,) = taxes.open_periods()
        self.assertEqual(one.figures.purchases, D(118) - row.purchase)
        with self.assertRaisesRegex(Refused, "taken out already"):
            taxes.take_out(self.owner, unit, "again")
        sale = selling.sell(self.seller, unit, D(150), "A. Reader", D(9))
        self.assertEqual((sale.tax_scheme, sale.tax), ("margin", ((D(150) - row.purchase) / 6).quantize(D("0.01"))))
        (one,) = taxes.open_periods()
        self.assertEqual(one.figures.sales, ZERO)
        with self.assertRaisesRegex(Refused, "was sold under it"):
            taxes.take_out(self.owner, self.sold().unit, "too late")

    def test_not_under_another_scheme_and_not_what_never_counted(self):
        unit = self.listed()
        SaleTerms.objects.update(global_since=timezone.localdate() + timedelta(days=1))
        with self.assertRaisesRegex(Refused, "never counted"):
            taxes.take_out(self.owner, unit, "sold abroad")
        self.taxed("margin")
        with self.assertRaisesRegex(Refused, "not the scheme"):
            taxes.take_out(self.owner, unit, "sold abroad")

    def test_without_a_beginning_nothing_is_counted(self):
        SaleTerms.objects.update(global_since=None)
        self.assertEqual(taxes.open_periods(), [])
        self.sold()
        self.assertEqual(len(taxes.open_periods()), 1)

    def test_through_the_page(self):
        self.sold("600")
        self.client.force_login(self.owner)
        page = self.client.get("/books/tax/")
        self.assertContains(page, "runs until")
        self.assertContains(page, "ask an accountant")
        with clock.at(self.next_month):
            first, seen = self.first, taxes.open_periods()[0].mark
            answer = self.client.post(f"/books/tax/{first.year}-{first.month}-{first.day}/close/", {"seen": seen})
        self.assertEqual((answer.status_code, TaxPeriod.objects.count()), (302, 1))
        self.assertEqual(self.client.post("/books/tax/2026-2-31/close/").status_code, 404)
        answer = self.client.post("/books/tax/out/", {"unit": "W-9999", "why": "lost"})
        self.assertContains(answer, "There is no unit")
        unit = self.listed()
        self.client.post("/books/tax/out/", {"unit": str(unit.tag), "why": "sold abroad"})
        with clock.at(self.next_month):
            page = self.client.get("/books/tax/")
        self.assertContains(page, "sold abroad")
        self.assertContains(page, f"{self.first:%B %Y}</td>")
        ((period, amount),) = page.context["posted"]
        self.assertEqual((period.first, amount), (self.first, TaxPeriod.objects.get().tax))


class InAnyOrder(DispatchTest):
    """Whatever is done after sales, in whatever order: the books add up, and a buyer owes what he has not paid."""

    takes = 30

    ORDERS, ACTS = 24, 14

    def test_the_books_balance(self):
        units = [self.listed("150") for _ in range(2)]
        owned = capture.Ownership("consigned", "E. Norr", commission_percent=D(25))
        capture.set_ownership(self.owner, units[1], owned)
        for seed in range(self.ORDERS):
            with self.subTest(seed=seed), contextlib.suppress(_Undo):
                self.one_order(random.Random(seed), units)

    def one_order(self, dice: random.Random, units) -> None:
        with transaction.atomic():
            self.taxed(dice.choice(["none", "standard", "margin", "global"]))
            hand = self.hand().wait(days=3)
            for _ in range(self.ACTS):
                try:
                    self.one_act(dice, hand, dice.choice(units))
                except Refused:
                    continue
                self.prove()
            raise _Undo

    def one_act(self, dice: random.Random, hand, unit) -> None:
        unit = self.again(unit)
        amount = D(dice.choice(["10", "33.33", "0.01", "150"]))
        sale = Sale.objects.filter(unit=unit).order_by("-id").first()
        back = sale.returns.filter(settled_at=None).first() if sale else None
        acts = [lambda: selling.sell(self.owner, unit, amount, "A. Reader", D(dice.randrange(0, 12)))]
        if sale:
            acts += [
                lambda: hand.do(payments.take_payment, sale, min(amount, sale.owed or amount)),
                lambda: hand.do(
                    refunds.refund, sale, min(amount, sale.costs or amount), "agreed", fee_back=D(dice.choice("01"))
                ),
                lambda: hand.do(receipts.issue, sale),
                lambda: hand.do(parcels.hand_over, sale, "on trust"),
                lambda: hand.do(refunds.call_off, sale, "never paid"),
                lambda: self.paid_out(dice, sale),
                lambda: hand.do(returns.ask, sale, dice.choice(["fault", "mind", "damaged"]), "it hums"),
            ]
            acts += [
                lambda: hand.do(payments.correct_fee, sale, D(dice.randrange(20)), "its bill"),
                lambda: hand.do(owners.pay_owner, sale, min(amount, abs(sale.owner_due) or amount)),
            ]
            acts += [
                lambda paid=paid: hand.do(owners.take_back_owner_payment, paid, "another’s")
                for paid in sale.owner_payments.all()
            ]
            acts += [
                lambda given=given: hand.do(refunds.take_back, given, "another sale was meant")
                for given in sale.refunds.all()
            ]
        if back:
            chosen = returns.Settlement(
                min(amount, sale.costs), take_back=dice.random() < 0.5, cost=D(dice.randrange(9))
            )
            acts += [lambda: hand.do(here_again.receive, back), lambda: hand.do(returns.settle, back, chosen)]
        dice.choice(acts)()

    def paid_out(self, dice: random.Random, sale: Sale) -> None:
        """Its channel pays out what is due, or something else."""
        amount = sale.passed_on - dice.choice([0, 0, 1])
        if amount <= 0:
            raise Refused("Nothing is paid out.")
        told = {"kind": "payout", "id": f"p{dice.random()}", "listing": str(sale.unit.tag), "currency": "EUR"}
        message = news.keep(self.channel, told | {"amount": str(amount), "who": ""})
        news.go_through(message)
        if dice.random() < 0.5:
            news.take_payout(self.owner, message)

    def prove(self) -> None:
        self.balanced()
        for sale in Sale.objects.all():
            paid = sum(sale.payments.values_list("amount", flat=True), ZERO)
            stand = sale.refunds.standing()
            back = sum(stand.values_list("paid_back", flat=True), ZERO)
            off = sum(stand.values_list("amount", flat=True), ZERO)
            self.assertEqual((sale.paid, sale.refunded), (paid - back, off))
            self.assertEqual(balance(Account.BUYER_OWES, sale.pk), sale.price - off - paid + back)
        cash = LedgerEntry.objects.filter(account=Account.CASH, kind__in=[EntryKind.SALE, EntryKind.REFUND])
        money = sum(cash.values_list("amount", flat=True), ZERO)
        self.assertEqual(money, sum(Sale.objects.values_list("paid", flat=True), ZERO))


class _Undo(Exception):
    """Ends an order: what it did is undone."""
