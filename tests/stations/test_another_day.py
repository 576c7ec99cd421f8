"""What happened on another day than it is typed: so it counts in the books, in periods and in what is left of them."""

from datetime import datetime, time, timedelta
from decimal import Decimal

from django.db.models import Sum
from django.test import SimpleTestCase
from django.urls import reverse
from django.utils import timezone

from core.books.tax import Period
from core.selling.taking_back import Reason
from stations.books import taxes
from stations.books.selectors import complaints
from stations.buying import services as buying
from stations.buying.details import LotDetails
from stations.buying.models import Lot
from stations.buying.selectors import lot_status, with_money
from stations.common import clock
from stations.common.happened import moment_on
from stations.common.refusals import Refused
from stations.dispatch import here_again, owners, packing, parcels, refunds, returns, warranty
from stations.dispatch.models import Carrier, OwnerPayment, Parcel, Refund, SaleTerms
from stations.intake import capture
from stations.ledger.models import Account, LedgerEntry, Posting
from stations.ledger.selectors import by_kind
from stations.ledger.services import reverse_posting
from stations.selling import payments
from stations.selling import services as selling
from stations.selling.models import Payment, PriceStep, Sale
from stations.stock import orders
from stations.stock import services as stock
from stations.stock.models import PartOrder, StockPurchase
from stations.stock.services import Sort
from stations.units.models import Part, PartMove
from stations.workshop.models import Job, LabourEntry
from tests.stations.base import line_data, lot_data
from tests.stations.test_dispatch import DispatchTest

D = Decimal


def carrier_of(parcel: Parcel) -> Carrier:
    """The cheapest that takes it."""
    quotes, _ = packing.quotes_of(packing.plan_of(parcel), parcel.zone)
    return Carrier.objects.get(name=quotes[0].carrier)


def ago(days: int):
    return timezone.localdate() - timedelta(days=days)


class Moment(SimpleTestCase):
    def test_now_on_the_day_and_noon_on_a_day_before(self):
        now = timezone.now()
        with clock.at(now):
            self.assertEqual((moment_on(None), moment_on(clock.today())), (now, now))
            noon = timezone.localtime(moment_on(ago(3)))
        self.assertEqual((noon.date(), noon.time()), (ago(3), time(12)))

    def test_never_before_what_it_rests_on(self):
        sold = timezone.make_aware(datetime.combine(ago(3), time(18, 30)))
        self.assertEqual(moment_on(ago(3), sold, "sold"), sold)
        for day, words in (
            (ago(4), f"It was sold on {ago(3):%-d %B %Y}: not before that."),
            (ago(-1), "That day has not come yet."),
        ):
            with self.assertRaisesMessage(Refused, words) as caught:
                moment_on(day, sold, "sold")
            self.assertEqual(caught.exception.field, "on")
        with self.assertRaisesMessage(Refused, "look at the year"):
            moment_on(datetime(205, 11, 3).date())


class AnotherDay(DispatchTest):
    """A lot bought 30 days ago; what is sold of it was sold 9 days ago."""

    STANDS = "listed"

    def scene(self) -> None:
        super().scene()
        Lot.objects.update(bought_on=ago(30))

    def sold_on(self, day, **more) -> Sale:
        return self.again(self.sold(on=day, **more))

    def days(self, of) -> set:
        """The days on which the entries of what was posted count."""
        return set(LedgerEntry.objects.filter(posting=of.posting).values_list("happened_on", flat=True))

    def test_a_sale_of_last_week(self):
        sale = self.sold_on(ago(9))
        self.assertEqual(
            (clock.day_of(sale.sold_at), sale.comparable.sold_on, self.days(sale)), (ago(9),) * 2 + ({ago(9)},)
        )
        self.assertEqual(clock.day_of(sale.posting.when), ago(0))
        step = PriceStep.objects.get()
        # It was put on offer after that day: it stood there for no time, and not for less.
        self.assertEqual((step.sold, step.ended_at), (True, step.begun_at))
        for wrong in (ago(31), ago(-1)):
            with self.assertRaises(Refused) as caught:
                selling.sell(self.seller, self.listed("140"), D(140), "B. Reader", D(9), on=wrong)
            self.assertEqual(caught.exception.field, "on")
        self.balanced()

    def test_its_tax_counts_in_the_period_in_which_it_was_sold(self):
        self.taxed("margin")
        sale = self.sold_on(ago(9))
        some = [Period(ago(10), ago(5)), Period(ago(5), ago(-1))]
        self.assertGreater(sale.tax, 0)
        self.assertEqual(taxes.posted_by_period(some), [sale.tax, D(0)])

    def test_money_comes_and_goes_on_its_days(self):
        sale = self.sold_on(ago(9))
        paid = payments.take_payment(self.seller, sale, D(150), on=ago(8))
        back = refunds.refund(self.owner, sale, D(10), "a scratch", on=ago(2))
        self.assertEqual((self.days(paid), self.days(back)), ({ago(8)}, {ago(2)}))
        self.assertEqual((clock.day_of(paid.came_at), clock.day_of(back.when)), (ago(8), ago(2)))
        # It may be paid before it is sold, and never before the lot was bought.
        other = self.sold("140")
        payments.take_payment(self.seller, other, D(70), on=ago(12))
        with self.assertRaisesMessage(Refused, "It was bought on"):
            payments.take_payment(self.seller, other, D(10), on=ago(31))
        with self.assertRaisesMessage(Refused, "It was sold on"):
            refunds.refund(self.owner, sale, D(10), "a scratch", on=ago(10))
        self.balanced()

    def test_a_payment_that_is_taken_back_changes_no_past_day(self):
        sale = self.sold_on(ago(9))
        paid = payments.take_payment(self.seller, sale, D(150), on=ago(8))
        payments.take_back_payment(self.seller, paid, "another sale was meant")
        mirror = Posting.objects.get(reverses=paid.posting)
        self.assertEqual((mirror.happened_on, self.days(paid)), (ago(0), {ago(8)}))

    def test_sent_arrived_asked_for_and_back_on_their_days(self):
        sale = self.sold_on(ago(9))
        payments.take_payment(self.seller, sale, D(150))
        parcel = self.hand().pack(sale)
        carrier = carrier_of(parcel)
        for wrong in (ago(10), ago(-1)):
            with self.assertRaises(Refused) as caught:
                parcels.send(self.seller, parcel, carrier, D("6.90"), on=wrong)
            self.assertEqual(caught.exception.field, "on")
        parcels.send(self.seller, parcel, carrier, D("6.90"), on=ago(7))
        with self.assertRaisesMessage(Refused, "It was sent on"):
            parcels.arrived(self.seller, parcel, ago(8))
        parcels.arrived(self.seller, parcel, ago(5))
        parcel, sale = self.again(parcel), self.again(sale)
        self.assertEqual(
            [clock.day_of(moment) for moment in (parcel.sent_at, sale.sent_at, parcel.arrived_at, sale.closed_at)],
            [ago(7), ago(7), ago(5), ago(5)],
        )
        self.assertEqual(warranty.term_of(sale).begun, ago(5))
        with self.assertRaisesMessage(Refused, "It was sent on"):
            returns.ask(self.seller, sale, Reason.MIND, "", on=ago(8))
        back = returns.ask(self.seller, sale, Reason.MIND, "", on=ago(2))
        # Asked for on the third day, whenever somebody types it.
        self.assertEqual(returns.case_of(back).days, 3)
        here_again.receive(self.seller, back, ago(1))
        self.assertEqual(clock.day_of(self.again(back).received_at), ago(1))
        with self.assertRaisesMessage(Refused, "It was received on"):
            here_again.went_back(self.seller, self.again(back), "", ago(2))
        chosen = returns.Settlement(refund=D(150), take_back=True, on=ago(1))
        returns.settle(self.owner, self.again(back), chosen)
        self.assertEqual(clock.day_of(Refund.objects.get().when), ago(1))
        self.balanced()

    def test_collected_in_person_last_week(self):
        sale = self.sold_on(ago(9))
        payments.take_payment(self.seller, sale, D(150))
        parcel = self.again(parcels.hand_over(self.seller, sale, on=ago(9)))
        self.assertEqual((parcel.sent_at, parcel.arrived_at), (self.again(sale).sold_at,) * 2)

    def test_what_its_owner_was_paid(self):
        unit = self.listed()
        capture.set_ownership(self.owner, unit, capture.Ownership("consigned", "E. Norr", commission_percent=D(25)))
        sale = selling.sell(self.seller, self.again(unit), D(150), "A. Reader", D(9), on=ago(9))
        with self.assertRaisesMessage(Refused, "It was sold on"):
            owners.pay_owner(self.owner, sale, D(50), ago(10))
        owners.pay_owner(self.owner, sale, D(50), ago(4))
        self.assertEqual(self.days(OwnerPayment.objects.get()), {ago(4)})

    def test_a_sale_whose_day_was_wrong(self):
        self.taxed("margin")
        sale = self.sold()
        before = by_kind(Account.UNIT, [sale.unit_id])
        selling.correct_sold_on(self.seller, sale, ago(9), "the receipt says so")
        sale = self.again(sale)
        self.assertEqual(
            (clock.day_of(sale.sold_at), sale.comparable.sold_on, self.days(sale)), (ago(9),) * 2 + ({ago(9)},)
        )
        self.assertEqual(by_kind(Account.UNIT, [sale.unit_id]), before)
        self.assertEqual(taxes.posted_by_period([Period(ago(0), ago(-1)), Period(ago(9), ago(8))]), [D(0), sale.tax])
        self.balanced()

    def test_and_what_can_not_be_its_day(self):
        sale = self.sold_on(ago(9))
        payments.take_payment(self.seller, sale, D(150))
        parcels.hand_over(self.seller, sale, on=ago(7))
        for day, words in (
            (None, "On which day"),
            (ago(9), "That is the day it has."),
            (ago(6), "It was sent on"),
            (ago(31), "It was bought on"),
            (ago(-1), "has not come"),
        ):
            with self.assertRaisesMessage(Refused, words):
                selling.correct_sold_on(self.seller, sale, day, "typed wrong")
        with self.assertRaises(Refused):
            selling.correct_sold_on(self.seller, sale, ago(8), " ")

    def test_parts_that_were_bought_last_week(self):
        stock.stock_part(self.owner, Sort("Fuse", "new", "B2"), "5", D(4), ago(6))
        bought = StockPurchase.objects.latest("pk")
        self.assertEqual((clock.day_of(bought.when), self.days(bought)), (ago(6), {ago(6)}))
        order = orders.order_parts(self.owner, "Quay parts", orders.Terms(currency="EUR", ordered_on=ago(6)))
        orders.add_to_order(self.owner, order, orders.Ordered(Sort("Fuse", "new", "B2"), "5", D(1)))
        with self.assertRaisesMessage(Refused, "It was ordered on"):
            orders.take_in(self.owner, order, {}, ago(7))
        orders.take_in(self.owner, order, {}, ago(3))
        order = self.again(order)
        self.assertEqual(
            (order.ordered_on, clock.day_of(order.arrived_at), self.days(order)), (ago(6), ago(3), {ago(3)})
        )
        with self.assertRaisesMessage(Refused, "has not come"):
            orders.order_parts(self.owner, "Quay parts", orders.Terms(currency="EUR", ordered_on=ago(-1)))
        self.balanced()


class BoughtThen(DispatchTest):
    def test_a_lot_counts_from_the_day_it_was_bought(self):
        lot = buying.record_lot(self.owner, lot_data(bought_on=ago(20)), [line_data()])
        self.assertEqual(self.by_day(lot), {ago(20): -lot.landed_total})
        said = self.said(lot)
        buying.correct_lot(self.owner, lot, lot.version, self.said(lot, bought_on=ago(25)), None)
        lot = self.again(lot)
        self.assertEqual(self.by_day(lot), {ago(25): -lot.landed_total})
        # Its charges and its day stay: nothing is written anew.
        postings = Posting.objects.count()
        buying.correct_lot(self.owner, lot, lot.version, self.said(lot, title="Loft"), None)
        self.assertEqual(Posting.objects.count(), postings)
        for name in ("bought_on", "paid_on", "arrived_on"):
            with self.assertRaisesMessage(Refused, "has not come") as caught:
                buying.record_lot(self.owner, lot_data(**{name: ago(-1)}), [line_data()])
            self.assertEqual(caught.exception.field, name)
        self.assertEqual(said.bought_on, ago(20))
        self.balanced()

    def by_day(self, lot: Lot) -> dict:
        rows = LedgerEntry.objects.filter(account=Account.CASH, lot_id=lot.pk).order_by().values_list("happened_on")
        return {day: sum for day, sum in rows.annotate(sum=Sum("amount")) if sum}

    def said(self, lot: Lot, **changes) -> LotDetails:
        return lot_data(**{"bought_on": lot.bought_on, "title": lot.title} | changes)

    def test_it_was_even_on_the_day_of_the_sale(self):
        Lot.objects.update(bought_on=ago(30))
        sale = self.sold("900", on=ago(9))
        (row,) = with_money([sale.unit.lot])
        self.assertEqual(lot_status(row).even_on, ago(9))


class Closed(DispatchTest):
    """Global accounting by the month: the first is closed, and a sale of it is typed after that."""

    STANDS = "listed"

    def test_a_sale_of_a_closed_month_is_taxed_in_the_one_that_is_open(self):
        self.taxed("global")
        first = timezone.localdate().replace(day=1)
        SaleTerms.objects.update_or_create(pk=1, defaults={"period": "month", "global_since": first})
        early, late = self.listed(), self.listed("140")
        selling.sell(self.seller, early, D(600), "A. Reader", D(9))
        after = timezone.make_aware(datetime.combine((first + timedelta(days=40)).replace(day=1), time(12)))
        with clock.at(after):
            closed = taxes.close_period(self.owner, first)
        with clock.at(after + timedelta(hours=1)):
            sale = selling.sell(self.seller, late, D(240), "B. Reader", D(9), on=timezone.localdate())
            (one,) = taxes.open_periods()
            self.assertEqual((one.figures.sales, one.figures.tax), (D(240), D(40)))
        with clock.at(after + timedelta(days=40)):
            taxes.close_period(self.owner, closed.after)
        self.assertEqual(by_kind(Account.UNIT, [sale.unit_id])[sale.unit_id]["tax"], D(40))
        self.balanced()


class ThroughThePages(DispatchTest):
    """Each form that says a day: one that has not come is refused at the field, and one that is past is kept."""

    STANDS = "listed"

    def setUp(self):
        super().setUp()
        Lot.objects.update(bought_on=ago(30))
        self.client.force_login(self.owner, backend="django.contrib.auth.backends.ModelBackend")

    def typed(self, there: str, form: str, field: str = "on", **sent):
        """Sends it with a day that has not come, with no day at all and with one 2 days ago."""
        for day, words in ((ago(-1), "That day has not come yet."), ("the 3rd", "Type a day: 2026-07-31.")):
            answer = self.client.post(there, sent | {field: str(day)})
            self.assertEqual(answer.context[form].errors, {"on": [words]}, there)
            self.assertContains(answer, f'value="{day}"', status_code=answer.status_code)
        answer = self.client.post(there, sent | {field: ago(2).isoformat()})
        self.assertEqual(answer.status_code, 302, answer.context and answer.context[form].errors)

    def test_from_the_sale_to_the_settled_return(self):
        unit = self.listed()
        at = reverse("selling:sale", args=[unit.number])
        self.typed(at, "sale_form", price="150", postage="9", buyer="A. Reader")
        sale = Sale.objects.get()

        def to(name: str, pk: int = sale.pk) -> str:
            return reverse(f"dispatch:{name}", args=[pk])

        self.typed(to("payment"), "payment_form", amount="150", how="cash")
        self.typed(to("refund"), "refund_form", amount="10", why="a scratch")
        self.typed(to("hand-over"), "hand_form", "hand-on")
        self.typed(to("return"), "return_form", "back-on", **{"back-reason": "fault"})
        (back,) = sale.returns.all()
        self.typed(to("receive", back.pk), "received_form", "received-on")
        self.typed(to("went-back", back.pk), "went_form", "went-on")
        self.typed(to("one-return", back.pk), "form", refund="20", take_back="")
        sale.refresh_from_db()
        back.refresh_from_db()
        moments = [sale.sold_at, Payment.objects.get().came_at, sale.sent_at, sale.closed_at, back.asked_at]
        moments += [back.received_at, back.went_back_at, *Refund.objects.values_list("when", flat=True)]
        self.assertEqual({clock.day_of(moment) for moment in moments}, {ago(2)})
        posted = Posting.objects.filter(entries__account=Account.BUYER_OWES)
        self.assertEqual(set(posted.values_list("happened_on", flat=True)), {ago(2)})
        self.assertContains(self.client.get(reverse("books:unit", args=[unit.number])), "typed")
        self.balanced()

    def test_a_parcel(self):
        sale = self.sold(on=ago(2))
        payments.take_payment(self.owner, sale, D(150))
        parcel = self.hand().pack(sale)
        carrier = carrier_of(parcel)

        def to(name: str) -> str:
            return reverse(f"dispatch:{name}", args=[parcel.pk])

        self.typed(to("send"), "send_form", carrier=carrier.pk, price="6.90")
        self.typed(to("arrived"), "arrived_form")
        parcels.broken(self.owner, self.again(parcel), "a corner", D(30))
        self.typed(to("claim-paid"), "claim_form", paid_back="30")
        posted = LedgerEntry.objects.filter(posting=self.again(parcel).claim_posting)
        self.assertEqual(set(posted.values_list("happened_on", flat=True)), {ago(2)})

    def test_sold_on_another_day(self):
        sale = self.sold()
        there = reverse("dispatch:sold-on", args=[sale.pk])
        self.typed(there, "sold_form", "sold-on", **{"sold-why": "the receipt says so"})
        self.assertEqual(clock.day_of(self.again(sale).sold_at), ago(2))
        answer = self.client.post(there, {"sold-on": "", "sold-why": ""})
        self.assertEqual(set(answer.context["sold_form"].errors), {"on", "why"})

    def test_written_off_and_given_back(self):
        (unit,) = self.receive()
        there = reverse("intake:act", args=[unit.number, "write-off"])
        self.typed(there, "form", reason="rust", sure="on")
        unit = self.again(unit)
        self.assertEqual((clock.day_of(unit.scrapped_at), unit.scrap_posting.happened_on), (ago(2), ago(2)))
        (unit,) = self.receive()
        capture.set_ownership(self.owner, unit, capture.Ownership("consigned", "E. Norr", commission_percent=D(25)))
        self.typed(reverse("intake:act", args=[unit.number, "give-back"]), "form")
        self.assertEqual(clock.day_of(self.again(unit).returned_at), ago(2))

    def test_parts_and_minutes(self):
        sort = {"name": "Fuse", "condition": "new", "drawer": "B2", "measure": "piece", "quantity": "5"}
        self.typed(reverse("stock:parts"), "form", paid="4", **sort)
        self.assertEqual(clock.day_of(StockPurchase.objects.latest("pk").when), ago(2))
        part = {"name": "Drive", "kind": "drive", "condition": "tested", "quantity": "1", "drawer": "C1"}
        self.typed(reverse("workshop:buy-part"), "form", paid="12", version="1", **part)
        move = PartMove.objects.get(part=Part.objects.get())
        self.assertEqual((clock.day_of(move.when), move.posting.happened_on), (ago(2), ago(2)))
        order = orders.order_parts(self.owner, "Quay parts", orders.Terms(currency="EUR", ordered_on=ago(2)))
        orders.add_to_order(self.owner, order, orders.Ordered(Sort("Fuse", "new", "B2"), "5", D(1)))
        self.typed(reverse("stock:take-in", args=[order.number]), "came", **{f"came-{order.lines.get().pk}": ""})
        self.assertEqual(clock.day_of(PartOrder.objects.get().arrived_at), ago(2))
        job = Job.objects.create(unit=self.assessed(), title="Belt", opened_at=clock.now(), opened_by=self.owner)
        self.typed(reverse("workshop:minutes", args=[job.pk]), "minutes", minutes="30")
        entry = LabourEntry.objects.get()
        for there in (reverse("workshop:job", args=[job.pk]), reverse("stock:order", args=[order.number])):
            page = self.client.get(there)
            self.assertContains(page, f"{ago(2):%-d %b}")
            # At what hour was said by nobody.
            self.assertNotContains(page, "12:00")
        self.assertEqual((clock.day_of(entry.started_at), entry.posting.happened_on), (ago(2), ago(2)))


class Proved(DispatchTest):
    def test_entries_count_on_the_day_of_their_posting(self):
        entry = LedgerEntry.objects.first()
        Posting.objects.filter(pk=entry.posting_id).update(happened_on=ago(3))
        self.assertIn(f"posting {entry.posting_id}", {one.what for one in complaints()})

    def test_a_mirror_counts_where_it_is_told_to(self):
        posting = Posting.objects.first()
        mirror = reverse_posting(self.owner, posting, "typed wrong", ago(4))
        self.assertEqual({entry.happened_on for entry in mirror.entries.all()}, {ago(4)})
