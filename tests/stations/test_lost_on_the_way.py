"""A parcel that never arrives: its buyer is paid back, the carrier is claimed from, and nobody waits for it."""

import io
import zipfile
from datetime import timedelta
from decimal import Decimal as D

from django.db import IntegrityError, transaction
from django.urls import reverse
from django.utils import timezone

from core.selling.taking_back import Reason, Whose
from stations.books.selectors import units_earnings
from stations.common import clock
from stations.common.refusals import Refused
from stations.dispatch import here_again, papers, parcels, returns, selectors, taken_back
from stations.dispatch.models import Parcel
from stations.dispatch.returns import Settlement
from stations.people.models import HistoryEntry
from stations.selling import services as selling
from stations.selling.models import Sale
from tests.stations.test_dispatch import DispatchTest


class Lost(DispatchTest):
    STANDS = "listed"

    def setUp(self):
        super().setUp()
        self.client.force_login(self.owner, backend="django.contrib.auth.backends.ModelBackend")

    def sent(self) -> tuple[Sale, Parcel]:
        sale, hand = self.sold(), self.hand()
        hand.pay(sale)
        parcel = hand.pack(sale)
        hand.send(parcel, "Marrow Parcel", "24")
        return self.again(sale), self.again(parcel)

    def page(self, sale: Sale):
        return self.client.get(reverse("dispatch:sale", args=[sale.pk]))

    def test_it_is_settled_and_nobody_waits_for_it(self):
        sale, _ = self.sent()
        self.assertContains(self.page(sale), "It never arrived?")
        Sale.objects.filter(pk=sale.pk).update(sent_at=sale.sent_at - timedelta(days=9))
        days = (clock.today() - clock.day_of(sale.sent_at)).days + 9
        asked = {"back-reason": "lost", "back-words": "where is it?"}
        self.client.post(reverse("dispatch:return", args=[sale.pk]), asked)
        back = sale.returns.get()
        verdict = returns.verdict_of(back)
        self.assertEqual((verdict.whose, verdict.refund, verdict.we_pay_back), (Whose.CARRIERS, D(150), False))
        there = reverse("dispatch:one-return", args=[back.pk])
        self.assertContains(self.client.get(there), "It never arrived: the carrier is asked")
        self.assertFalse(back.awaited_long)
        self.client.post(there, {"refund": "150"})
        sale = self.again(sale)
        self.assertEqual((self.again(sale.unit).stage, sale.stands, sale.costs), ("closed", True, 0))
        self.assertFalse(selectors.late(sale))
        self.assertContains(self.page(sale), "It never arrived; closed")
        self.assertContains(self.page(sale), "no warranty runs")
        self.assertContains(self.client.get(there), "Nobody has it.")
        self.assertContains(self.client.get(there), f"day {days} after it was sent")
        self.balanced()

    def test_nobody_asked_for_it_after_all(self):
        sale, _ = self.sent()
        back = returns.ask(self.owner, sale, Reason.MIND, "too large")
        self.assertIn("return", self.again(sale.unit).stage_reason)
        there = reverse("dispatch:not-asked", args=[back.pk])
        self.assertContains(self.client.post(there, {"why": " "}, follow=True), "Say why")
        self.assertRedirects(self.client.post(there, {"why": "she keeps it"}), reverse("dispatch:sale", args=[sale.pk]))
        self.assertEqual((sale.returns.count(), self.again(sale.unit).stage), (0, "sent"))
        back = returns.ask(self.owner, sale, Reason.MIND, "too large")
        here_again.receive(self.owner, back)
        with self.assertRaisesMessage(Refused, "It came back"):
            returns.not_asked(self.owner, self.again(back), "she keeps it")

    def test_its_buyer_is_called_otherwise(self):
        sale, _ = self.sent()
        there = reverse("dispatch:name-buyer", args=[sale.pk])
        shown = self.page(sale).context["buyer_form"]
        self.assertContains(self.client.post(there, {"buyer": " ", "seen": shown._mark}), "Who bought it?")
        self.client.post(there, {"buyer": "A. Rider", "seen": shown._mark})
        self.assertEqual(self.again(sale).buyer, "A. Rider")
        self.assertFalse(HistoryEntry.objects.filter(words__contains="Rider").exists())
        self.assertContains(self.client.post(there, {"buyer": "B", "seen": shown._mark}), "Somebody else saved this")
        Sale.objects.filter(pk=sale.pk).update(wiped_at=timezone.now(), buyer="")
        with self.assertRaisesMessage(Refused, "were wiped"):
            selling.name_buyer(self.owner, self.again(sale), "A. Rider")
        self.assertNotContains(self.page(sale), "called otherwise")

    def test_the_carrier_is_claimed_from(self):
        sale, parcel = self.sent()
        told = {"lost": "on", "damage": "", "claimed": "174"}
        self.client.post(reverse("dispatch:broken", args=[parcel.pk]), told)
        parcel = self.again(parcel)
        self.assertTrue(parcel.lost)
        with zipfile.ZipFile(io.BytesIO(papers.claim(parcel))) as file:
            self.assertTrue(file.namelist())
        page = self.client.get(reverse("dispatch:parcel", args=[parcel.pk]))
        self.assertContains(page, "It never arrived. ")
        with self.assertRaisesMessage(Refused, "It is said to be lost on the way"):
            parcels.arrived(self.owner, parcel)
        parcels.claim_paid(self.owner, parcel, D(174))
        back = returns.ask(self.owner, sale, Reason.LOST, "")
        returns.settle(self.owner, back, Settlement(refund=D(150)))
        # Paid back whole, it brought what the carrier paid.
        self.assertEqual(units_earnings([sale.unit])[sale.unit_id].sale, D("174.00"))
        self.balanced()

    def test_it_is_found(self):
        sale, parcel = self.sent()
        parcels.broken(self.owner, parcel, "", D(50), lost=True)
        taken_back.not_broken(self.owner, self.again(parcel), "it lay at the neighbour’s")
        parcels.arrived(self.owner, self.again(parcel))
        self.assertEqual((self.again(parcel).lost, self.again(sale.unit).stage), (False, "closed"))
        with self.assertRaisesMessage(Refused, "It is said to have arrived"):
            parcels.broken(self.owner, self.again(parcel), "", None, lost=True)
        with self.assertRaisesMessage(Refused, "It is said to have arrived"):
            returns.ask(self.owner, self.again(sale), Reason.LOST, "")
        with self.assertRaises(IntegrityError), transaction.atomic():
            Parcel.objects.filter(pk=parcel.pk).update(lost=True)

    def test_it_comes_back_to_us(self):
        sale, _ = self.sent()
        back = returns.ask(self.owner, sale, Reason.LOST, "")
        here_again.receive(self.owner, back)
        returns.settle(self.owner, self.again(back), Settlement(refund=D(150), take_back=True))
        self.assertEqual((self.again(sale).stands, self.again(sale.unit).stage), (False, "received"))
        self.balanced()
