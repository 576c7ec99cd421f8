"""What comes back: held against what was said, paid back, taken in anew, learned from."""

from datetime import timedelta
from decimal import Decimal

from django.db import IntegrityError, transaction
from django.db.models import Sum
from django.urls import reverse
from django.utils import timezone

from core.money import ZERO
from core.selling.grade import Grade
from stations.bench import faults
from stations.bench.fixes import fixes_of, trials_of
from stations.bench.models import StartTrial
from stations.common import clock
from stations.common.refusals import NotAllowed, Refused
from stations.dispatch import here_again, parcels, receipts, refunds, returns, warranty
from stations.dispatch.models import Parcel, Receipt, Refund, Return, SaleTerms
from stations.intake import capture, settling
from stations.ledger.models import Account, LedgerEntry
from stations.ledger.selectors import balance, by_kind
from stations.selling import market, payments, selectors
from stations.selling import services as selling
from stations.selling.models import Comparable, Sale
from stations.units.models import Content, Unit
from tests.stations.test_dispatch import DispatchTest, text_of

D = Decimal


class ReturnTest(DispatchTest):
    def delivered(self, unit: Unit | None = None, price: str = "150") -> Sale:
        sale = selling.sell(self.seller, unit or self.listed(price), D(price), "A. Reader", D(9))
        self.hand().hand_over(sale.unit)
        return Sale.objects.select_related("unit", "channel").get(pk=sale.pk)

    def place_of(self, sale: Sale, words: str) -> int:
        return next(place for place, one in enumerate(sale.told) if words in one[2])


class Asked(ReturnTest):
    def test_what_was_said_and_measured_then_stands_whatever_happened_since(self):
        unit = self.proven()
        self.hand().find(unit, "front", "scratch", 2, "a scratch by the lever")
        self.hand().offer(unit, "150", pictures=1)
        sale = self.delivered(self.again(unit))
        unit.findings.all().delete()
        told = returns.told_of(sale)
        self.assertTrue(any("a scratch by the lever" in one.words for one in told if one.what == "said"))
        read = [one.words for one in told if one.what == "passed"]
        self.assertTrue(any("±" in words and "V" in words for words in read), read)

    def test_something_that_was_said_is_owed_nothing_and_the_way_to_it_is_shown(self):
        unit = self.proven()
        self.hand().find(unit, "front", "scratch", 2, "a scratch by the lever")
        self.hand().offer(unit, "150", pictures=1)
        sale = self.delivered(self.again(unit))
        with clock.at(timezone.now() + timedelta(days=20)):
            back = returns.ask(self.seller, sale, "not_as_said", "There are scratches near the lever!")
            self.assertEqual(back.whose, "ours")
            near = returns.near_of(back)[0]
            self.assertIn("a scratch by the lever", near.words)
            returns.is_about(self.seller, back, returns.told_of(sale).index(near))
        back.refresh_from_db()
        self.assertEqual((back.whose, returns.verdict_of(back).refund), ("buyers", ZERO))

    def test_one_at_a_time_and_only_of_what_was_sent(self):
        sale = selling.sell(self.seller, self.listed(), D(150), "A. Reader", D(9))
        with self.assertRaisesRegex(Refused, "call the sale off"):
            returns.ask(self.seller, sale, "fault", "")
        self.hand().hand_over(sale.unit)
        returns.ask(self.seller, sale, "fault", "")
        with self.assertRaisesRegex(Refused, "open already"):
            returns.ask(self.seller, sale, "mind", "")
        unit = self.again(sale.unit)
        self.assertEqual((unit.state, unit.next_step), ("stuck", "settle the return"))

    def test_nonsense_is_refused_at_its_field(self):
        sale = self.delivered()
        for reason, words, about, field in (
            ("rain", "", None, "reason"),
            ("fault", "x" * 1001, None, "words"),
            ("fault", "", 999, "about"),
            ("fault", "", -1, "about"),
        ):
            with self.assertRaises(Refused) as caught:
                returns.ask(self.seller, sale, reason, words, about)
            self.assertEqual(caught.exception.field, field)
        self.assertFalse(Return.objects.exists())


class Settled(ReturnTest):
    def test_taken_back_whole_it_is_received_anew_and_sold_again(self):
        self.taxed("margin")
        unit = self.listed()
        before = balance(Account.UNIT, unit.pk)
        sale = self.delivered(unit)
        back = returns.ask(self.seller, sale, "fault", "no picture")
        chosen = returns.Settlement(refund=D(150), fee_back=D(15), take_back=True, cost=D("7.50"))
        with self.assertRaisesRegex(Refused, "not here yet"):
            returns.settle(self.owner, back, chosen)
        here_again.receive(self.technician, back)
        returns.settle(self.owner, back, chosen)
        # Postage one way was not spent (it was fetched), the way back was; tax and fee are as if nothing had been.
        self.assertEqual(balance(Account.UNIT, unit.pk) - before, D("7.50"))
        sums = by_kind(Account.UNIT, [unit.pk])[unit.pk]
        self.assertEqual((sums["tax"], sums["fee"]), (ZERO, ZERO))
        unit = self.again(unit)
        self.assertEqual((unit.stage, unit.assessed_at, unit.looked_over_at), ("received", None, None))
        self.assertFalse(Comparable.objects.filter(own=True).exists())
        self.assertEqual(set(Content.objects.filter(unit=unit).values_list("presence", flat=True)), {"unseen"})
        # Nothing that was proven before its journey is taken for proven now.
        self.hand().wait(days=4).assess(unit, "period")
        unit = self.again(unit)
        self.assertNotEqual(unit.stage, "proven")
        self.assertIn("it was away until", "; ".join(selectors.offer_facts([unit])[unit.pk].not_proven))
        hand = self.hand().wait(days=5)
        hand.test(unit)
        # Its buyer may have left something on its disk.
        self.assertIn("data", "; ".join(block.words for block in selectors.blocks_of(self.again(unit))))
        hand.do(settling.record_sanitisation, unit, "clear", "read back, all noughts")
        with self.assertRaisesRegex(Refused, "1 photo missing"):
            hand.offer(unit, "140", pictures=1)  # the same as before its journey
        self.assertEqual(self.again(unit).place, "")
        hand.offer(unit, "140", pictures=2)
        again = selling.sell(self.seller, self.again(unit), D(140), "B. Reader", D(9))
        self.assertEqual((self.again(unit).sale, unit.sales.count()), (again, 2))
        self.balanced()

    def test_kept_with_something_off(self):
        self.taxed("margin")
        sale = self.delivered()
        tax = sale.tax
        back = returns.ask(self.seller, sale, "not_as_said", "a crack at the back")
        settled = returns.Settlement(refund=D(30), missing="defect", lesson="Look at the back in raking light.")
        returns.settle(self.owner, back, settled)
        given = Refund.objects.get()
        # A sixth of 30.
        self.assertEqual((given.tax_back, given.paid_back), (D("5.00"), D(30)))
        self.assertEqual(by_kind(Account.UNIT, [sale.unit_id])[sale.unit_id]["tax"], tax - D(5))
        self.assertEqual((self.again(sale).costs, self.again(sale).stands), (D(120), True))
        self.assertEqual(self.again(sale.unit).stage, "closed")
        self.client.force_login(self.owner, backend="django.contrib.auth.backends.ModelBackend")
        self.assertContains(self.client.get(reverse("dispatch:returns")), 'A defect <b class="mono">1</b>')
        learned = returns.lessons()
        self.assertEqual((learned.missing, learned.settled, learned.cost), ([("a defect", 1)], 1, D(30)))
        with self.assertRaisesRegex(Refused, "settled already"):
            returns.settle(self.owner, back, settled)
        self.balanced()

    def test_a_refund_is_never_above_what_it_cost(self):
        sale = self.delivered()
        refunds.refund(self.owner, sale, D(100), "much was wrong")
        back = returns.ask(self.seller, sale, "fault", "")
        for chosen, field in (
            (returns.Settlement(refund=D("50.01")), "amount"),
            (returns.Settlement(refund=D("-1")), "amount"),
            (returns.Settlement(refund=D(50), fee_back=D("15.01")), "fee_back"),
            (returns.Settlement(fee_back=D(1)), "fee_back"),
            (returns.Settlement(cost=D(-1)), "cost"),
            (returns.Settlement(missing="weather"), "missing"),
        ):
            with self.assertRaises(Refused) as caught:
                returns.settle(self.owner, back, chosen)
            self.assertEqual(caught.exception.field, field)
        with self.assertRaises(NotAllowed):
            returns.settle(self.technician, back, returns.Settlement())
        with self.assertRaises(IntegrityError), transaction.atomic():
            Return.objects.filter(pk=back.pk).update(cost=D(-1))
        self.balanced()

    def test_what_was_not_paid_yet_is_only_taken_off(self):
        sale = selling.sell(self.seller, self.listed(), D(150), "A. Reader", D(9))
        payments.take_payment(self.seller, sale, D(100))
        self.assertEqual(refunds.refund(self.owner, sale, D(30), "agreed").paid_back, ZERO)
        self.assertEqual(refunds.refund(self.owner, sale, D(30), "agreed").paid_back, D(10))
        self.assertEqual((self.again(sale).owed, self.again(sale).paid), (ZERO, D(90)))
        self.balanced()

    def test_an_owner_gives_back_his_part(self):
        unit = self.listed()
        capture.set_ownership(self.owner, unit, capture.Ownership("consigned", "E. Norr", commission_percent=D(25)))
        sale = self.delivered(self.again(unit))
        owed = -balance(Account.OWNER_OWED, 0)
        self.assertEqual(owed, D("112.50"))
        refunds.refund(self.owner, sale, D(50), "a scratch")
        self.assertEqual(-balance(Account.OWNER_OWED, 0), D("75.00"))
        self.balanced()


class Awaited(ReturnTest):
    def test_what_does_not_come_back_and_a_carrier_that_does_not_answer_stand_out(self):
        sale = self.delivered()
        back = returns.ask(self.seller, sale, "fault", "no picture")
        parcel = parcels.parcel_of(sale)
        Parcel.objects.filter(pk=parcel.pk).update(damage="cracked", damage_at=timezone.now())
        for days, late in ((21, False), (22, True)):
            with clock.at(timezone.now() + timedelta(days=days)):
                found = (self.again(back).awaited_long, self.again(parcel).claim_is_late)
                self.assertEqual(found, (late, late))
                self.client.force_login(self.owner)
                self.assertContains(self.client.get(reverse("dispatch:dispatch")), "</svg>long</span>", 2 * late)
        here_again.receive(self.seller, back)
        Parcel.objects.filter(pk=parcel.pk).update(paid_back=0)
        with clock.at(timezone.now() + timedelta(days=60)):
            found = (self.again(back).awaited_long, self.again(parcel).claim_is_late)
            self.assertEqual(found, (False, False))


class RefundsTakenBack(ReturnTest):
    def book(self) -> dict:
        """What stands on each account, by kind; nothing where it comes to nothing."""
        rows = LedgerEntry.objects.values_list("account", "account_id", "kind").annotate(sum=Sum("amount"))
        return {(account, of, kind): total for account, of, kind, total in rows.order_by() if total}

    def test_all_is_as_it_was_before_it(self):
        self.taxed("standard")
        unit = self.listed()
        capture.set_ownership(self.owner, unit, capture.Ownership("consigned", "E. Norr", commission_percent=D(25)))
        sale = self.delivered(self.again(unit))
        before, had = self.book(), self.again(sale)
        given = refunds.refund(self.owner, sale, D(50), "a scratch", fee_back=D(5))
        self.assertNotEqual(self.book(), before)
        refunds.take_back(self.owner, given, "five was meant")
        self.assertEqual(self.book(), before)
        self.assertEqual((self.again(sale).paid, self.again(sale).refunded), (had.paid, ZERO))
        refunds.refund(self.owner, self.again(sale), D(5), "a scratch", fee_back=had.fee)
        self.balanced()

    def test_the_newest_goes_first_and_each_goes_once(self):
        sale = self.delivered()
        first, second = (refunds.refund(self.owner, self.again(sale), D(amount), "agreed") for amount in (10, 20))
        with self.assertRaisesRegex(Refused, "20.00 were taken off after it"):
            refunds.take_back(self.owner, first, "a mistake")
        with self.assertRaisesRegex(Refused, "Say why"):
            refunds.take_back(self.owner, second, " ")
        with self.assertRaises(NotAllowed):
            refunds.take_back(self.technician, second, "a mistake")
        refunds.take_back(self.owner, second, "a mistake")
        with self.assertRaisesRegex(Refused, "taken back already"):
            refunds.take_back(self.owner, second, "twice")
        refunds.take_back(self.owner, first, "a mistake")
        self.balanced()

    def test_a_paper_says_that_it_is_owed_again(self):
        self.taxed("standard")
        sale = self.delivered(price="120")
        receipt = receipts.issue(self.seller, sale, "A. Reader\nNorth End 2", "invoice")
        refunds.take_back(self.owner, refunds.refund(self.owner, self.again(sale), D(30), "a scratch"), "another’s")
        again = Receipt.objects.order_by("number").last()
        self.assertEqual((again.kind, again.total, again.tax, again.number), ("invoice", D(30), D(5), 3))
        self.assertEqual(receipts.receipt_of(sale), receipt)
        self.assertIn("taken off by mistake", text_of(receipts.as_pdf(again)))

    def test_one_of_a_return_is_given_anew_for_it(self):
        sale = self.delivered()
        back = returns.ask(self.seller, sale, "fault", "no picture")
        returns.settle(self.owner, back, returns.Settlement(refund=D(30)))
        grade = Grade(sale.grade)
        # It was fetched: no postage was lost.
        self.assertEqual(warranty.answered()[grade].cost, D(30))
        refunds.take_back(self.owner, Refund.objects.get(), "three was meant")
        self.assertEqual((warranty.answered()[grade].cost, returns.lessons().cost), (ZERO, ZERO))
        there = reverse("dispatch:sale", args=[sale.pk])
        self.client.force_login(self.owner)
        self.assertContains(self.client.get(there), "For its return")
        self.client.post(reverse("dispatch:refund", args=[sale.pk]), {"amount": "3", "why": "dim", "back": back.pk})
        self.assertEqual((warranty.answered()[grade].cost, returns.lessons().cost), (D(3), D(3)))
        self.balanced()

    def test_through_the_page(self):
        sale = self.delivered()
        given = refunds.refund(self.owner, sale, D(50), "a scratch")
        self.client.force_login(self.owner)
        there, to = reverse("dispatch:sale", args=[sale.pk]), reverse("dispatch:refund-back", args=[given.pk])
        self.assertContains(self.client.get(there), "The last refund was a mistake")
        self.assertContains(self.client.post(to, {"why": ""}, follow=True), "Say why")
        self.client.post(to, {"why": "five was meant"})
        page = self.client.get(there)
        self.assertNotContains(page, "The last refund")
        self.assertContains(page, "<s>Refunded")
        self.assertEqual(self.again(sale).refunded, ZERO)

    def test_what_ended_stays_ended(self):
        sale = selling.sell(self.seller, self.listed(), D(150), "A. Reader", D(9))
        refunds.call_off(self.owner, sale, "never paid")
        with self.assertRaisesRegex(Refused, "The sale ended"):
            refunds.take_back(self.owner, Refund.objects.get(), "it was paid")


class Learned(ReturnTest):
    def fixed(self) -> Unit:
        unit = self.assessed()
        case = faults.open_case(self.technician, unit, "dead")
        faults.close_case(self.technician, case, "", "a joint", "made anew")
        with clock.at(timezone.now() + timedelta(minutes=5)):
            settling.record_sanitisation(self.owner, unit, "clear", "read back, all noughts")
        hand = self.hand().wait(days=4)
        hand.test(unit)
        hand.offer(unit, "150", reason="as repaired", pictures=1)
        return self.again(unit)

    def test_a_repair_that_fails_at_the_buyers_counts_against_it(self):
        sale = self.delivered(self.fixed())
        back = returns.ask(
            self.seller,
            sale,
            "fault",
            "dead again",
            next(place for place, one in enumerate(sale.told) if one[0] == "fixed"),
        )
        self.assertEqual(returns.verdict_of(back).whose, "ours")
        before = StartTrial.objects.filter(unit=sale.unit, passed=False).count()
        with clock.at(timezone.now() + timedelta(days=9)):
            returns.settle(self.owner, back, returns.Settlement(refund=D(20)))
        self.assertEqual(StartTrial.objects.filter(unit=sale.unit, passed=False).count(), before + 1)
        ((_, status),) = fixes_of(sale.unit, trials_of(sale.unit))
        self.assertEqual(status.fix.value, "failed")

    def test_what_it_cost_is_in_the_floor_of_the_next(self):
        unit = self.listed()
        _, floor = market.unit_books(unit).floors(self.channel)
        sale = self.delivered()
        back = returns.ask(self.seller, sale, "fault", "no picture")
        returns.settle(self.owner, back, returns.Settlement(refund=D(30), cost=D(12)))
        grade = Grade(sale.grade)
        # One sale, and 30 + 12 for it, and no postage, since it was fetched: 42, drawn to the 42 of all.
        self.assertEqual(warranty.reckoned(grade), D("42.00"))
        _, after = market.unit_books(self.again(unit)).floors(self.channel)
        self.assertEqual(after - floor, (D(42) / D("0.9")).quantize(D("0.01"), rounding="ROUND_CEILING"))

    def test_the_warranty_goes_by_the_grade_and_from_its_arrival(self):
        SaleTerms.objects.update_or_create(pk=1, defaults={"warranty_a": 40})
        sale = selling.sell(self.seller, self.listed(), D(150), "A. Reader", D(9))
        self.assertIsNone(warranty.term_of(sale))
        self.hand().hand_over(sale.unit)
        sale.refresh_from_db()
        self.assertEqual(sale.grade, "A")
        arrived = clock.day_of(sale.closed_at)
        self.assertEqual(warranty.days_left(sale, arrived + timedelta(days=39)), 1)
        self.assertEqual(warranty.days_left(sale, arrived + timedelta(days=41)), 0)
