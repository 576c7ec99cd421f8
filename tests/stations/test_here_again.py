"""What a buyer sent back is here, and the buyer’s: found, mended, sent to its buyer again, or taken back."""

from datetime import timedelta
from decimal import Decimal

from django.db import IntegrityError, transaction
from django.urls import reverse

from core.flow.stage import Station
from core.selling.grade import Grade
from core.stock.parts import PartKind
from stations.bench import power, stops
from stations.books.selectors import to_settle
from stations.common import clock
from stations.common.refusals import Refused
from stations.dispatch import here_again, returns, warranty
from stations.dispatch.models import Return
from stations.floor.selectors import line
from stations.ledger.models import Account
from stations.ledger.selectors import balance
from stations.selling import services as selling
from stations.units import parts, whereabouts
from stations.units.parts import Described, Place
from stations.workshop import services as workshop
from stations.workshop.services import JobResult, NewJob
from tests.stations.test_returns import ReturnTest

D = Decimal
MEND = NewJob(title="make the joint anew", kind="repair", estimate_minutes=30)


class HereAgain(ReturnTest):
    def setUp(self):
        super().setUp()
        self.sale = self.delivered()
        self.unit = self.sale.unit
        self.back = returns.ask(self.seller, self.sale, "fault", "no picture")

    def received(self) -> Return:
        here_again.receive(self.technician, self.back)
        self.back.refresh_from_db()
        return self.back

    def at(self, back: Return) -> str:
        return reverse("dispatch:one-return", args=[back.pk])

    def test_it_stands_here_and_is_its_buyers(self):
        self.assertEqual(list(whereabouts.standing_at("returns")), [])
        self.received()
        unit = self.again(self.unit)
        self.assertEqual((unit.stage, unit.state, unit.whose), ("back", "stuck", "its buyer’s"))
        self.assertEqual(list(whereabouts.standing_at("returns")), [unit])
        self.assertEqual(whereabouts.put(self.technician, [unit], "bench 2"), 1)
        there = {stop.station: stop.count for stop in line()}
        self.assertEqual((to_settle().back, there[Station.BOOKS]), (1, 1))
        with self.assertRaises(Refused):
            selling.grade_unit(self.seller, unit)

    def test_who_had_it_may_have_had_it_running(self):
        with clock.at(clock.now() + timedelta(hours=1)):
            for charge in power.charges_of(self.unit):
                stops.discharge(self.technician, self.unit, charge.kind, "0.2", silent=True)
        with clock.at(clock.now() + timedelta(hours=2)):
            self.assertEqual(power.charged_words(self.unit), "")
            self.received()
            unit = self.again(self.unit)
            self.assertIn("Not discharged here yet", power.charged_words(unit))
            self.assertIsNone(power.last_power(unit))
            self.assertIsNone(power.temperature_of(unit).cold)
        with clock.at(clock.now() + timedelta(hours=15)):
            self.assertTrue(power.temperature_of(unit).cold)
            here_again.not_received(self.technician, self.back, "another one came")
            self.assertEqual(power.charged_words(self.again(self.unit)), "")

    def test_mended_tested_and_sent_to_its_buyer_again(self):
        back, before = self.received(), balance(Account.UNIT, self.unit.pk)
        job = workshop.open_job(self.technician, self.unit, MEND)
        self.assertEqual((self.again(self.unit).stage, self.again(self.unit).station), ("back", "workshop"))
        workshop.log_labour(self.technician, job, 30)
        with self.assertRaisesRegex(Refused, "It can’t go back"):
            here_again.went_back(self.technician, back, "")
        workshop.finish_job(self.technician, job, JobResult("", worked=True))
        self.hand().wait(days=4).test(self.again(self.unit))
        self.assertEqual(self.again(self.unit).next_step, "mend it, or settle the return")
        took = balance(Account.UNIT, self.unit.pk) - before
        self.assertGreater(took, 0)
        with self.assertRaisesRegex(Refused, "It is here: take it back, or say first"):
            returns.settle(self.owner, back, returns.Settlement(cost=D(7)))
        here_again.went_back(self.technician, back, "Skerry Post, MW77")
        self.assertEqual(self.again(self.unit).stage, "closed")
        self.assertEqual(list(whereabouts.standing_at("returns")), [])
        with self.assertRaisesRegex(Refused, "nothing is booked|no work is done"):
            workshop.open_job(self.technician, self.unit, MEND)
        with self.assertRaisesRegex(Refused, "went back to its buyer"):
            returns.settle(self.owner, back, returns.Settlement(take_back=True))
        returns.settle(self.owner, back, returns.Settlement(cost=D(7)))
        back.refresh_from_db()
        self.assertEqual((back.mending, back.warranty, back.taken_back), (took, True, False))
        self.assertTrue(self.again(self.sale).stands)
        # No postage was lost: it was fetched.
        self.assertEqual(warranty.answered()[Grade(self.sale.grade)].cost, took + 7)
        self.assertEqual(returns.lessons().cost, took + 7)
        self.balanced()

    def test_what_was_sold_in_it_takes_nothing_along_and_what_is_fitted_now_its_cost(self):
        cheap = self.delivered(self.listed(), price="1").unit
        back = returns.ask(self.seller, self.again(cheap.sale), "fault", "")
        here_again.receive(self.technician, back)
        cheap = self.again(cheap)
        self.assertGreater(balance(Account.UNIT, cheap.pk), 0, "sold at a loss")
        found = parts.record_part(self.technician, Place(cheap), Described(PartKind.CHIP, "Sound chip"))
        fitted = parts.buy_part(self.owner, Described(PartKind.CHIP, "Sound chip"), D(6), "drawer 2")
        before = balance(Account.UNIT, cheap.pk)
        with self.assertRaisesRegex(Refused, "its buyer’s: nothing is taken out of it for another"):
            parts.move_part(self.technician, found, Place(self.assessed()))
        self.assertEqual(parts.move_part(self.technician, found, Place(drawer="bin")).cost, 0)
        parts.move_part(self.technician, fitted, Place(cheap))
        self.assertEqual(here_again.mending_of(self.again(back)), 6)
        self.assertEqual(parts.move_part(self.technician, self.again(fitted), Place(drawer="2")).cost, 6)
        self.assertEqual((balance(Account.UNIT, cheap.pk), here_again.mending_of(self.again(back))), (before, 0))
        self.balanced()

    def test_a_second_time(self):
        here_again.went_back(self.technician, self.received(), "fetched")
        returns.settle(self.owner, self.back, returns.Settlement())
        again = returns.ask(self.seller, self.again(self.sale), "fault", "no picture again")
        here_again.receive(self.technician, again)
        self.assertEqual(self.again(self.unit).stage, "back")
        returns.settle(self.owner, again, returns.Settlement(refund=D(150), take_back=True))
        self.assertEqual((self.again(self.unit).stage, self.again(self.sale).stands), ("received", False))
        self.balanced()

    def test_slips_are_taken_back(self):
        back = self.received()
        with self.assertRaisesRegex(Refused, "Nobody said that it went back"):
            here_again.still_here(self.technician, back, "a slip")
        here_again.went_back(self.technician, back, "fetched")
        with self.assertRaisesRegex(Refused, "already"):
            here_again.went_back(self.technician, back, "fetched")
        here_again.still_here(self.technician, back, "not fetched")
        self.assertEqual(self.again(self.unit).stage, "back")
        here_again.not_received(self.technician, back, "another one came")
        self.assertEqual(self.again(self.unit).stage, "closed")
        with self.assertRaisesRegex(Refused, "receive it first"):
            here_again.went_back(self.technician, back, "fetched")
        self.received()
        job = workshop.open_job(self.technician, self.unit, MEND)
        with self.assertRaisesRegex(Refused, "It is here"):
            here_again.not_received(self.technician, back, "another one came")
        workshop.log_labour(self.technician, job, 30)
        workshop.finish_job(self.technician, job, JobResult("", worked=True))
        with self.assertRaisesRegex(Refused, "Parts or work were booked"):
            here_again.not_received(self.technician, back, "another one came")
        with self.assertRaises(IntegrityError), transaction.atomic():
            Return.objects.filter(pk=back.pk).update(received_at=None, went_back_at=clock.now())

    def test_through_the_page(self):
        self.client.force_login(self.owner)
        there = self.at(self.back)
        self.assertContains(self.client.get(there), "or mend it and send it to its buyer again")
        self.client.post(reverse("dispatch:receive", args=[self.back.pk]))
        self.assertContains(self.client.get(there), "It is here, and its buyer’s")
        self.assertContains(self.client.get(reverse("dispatch:dispatch")), "Mend it, or settle it")
        self.assertContains(self.client.get(reverse("bench:unit", args=[self.unit.number])), "Start a run")
        settled = self.client.post(there, {"refund": "0"})
        self.assertContains(settled, "It is here: take it back, or say first")
        job = workshop.open_job(self.technician, self.again(self.unit), MEND)
        self.assertContains(self.client.get(there), "it can go back once that is finished")
        workshop.cancel_job(self.technician, job, "needless")
        went = reverse("dispatch:went-back", args=[self.back.pk])
        self.assertContains(self.client.post(went, {"went-by": "x" * 121}), "at most 120")
        self.client.post(went, {"went-by": "Skerry Post, MW77"})
        self.assertContains(self.client.get(there), "Skerry Post, MW77")
        self.client.post(reverse("dispatch:still-here", args=[self.back.pk]), {"why": "not yet"})
        self.client.post(went, {"went-by": "fetched"})
        self.client.post(there, {"refund": "0"})
        self.assertContains(self.client.get(there), "It went to its buyer again")
        self.assertContains(self.client.get(reverse("dispatch:returns")), "settled")
