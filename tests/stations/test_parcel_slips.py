"""What was said of a parcel by a slip is taken back: the books go along, and what rests on it stays."""

from decimal import Decimal

from django.urls import reverse
from django.utils import timezone

from core.selling.packing import Moment
from stations.common.refusals import NotAllowed, Refused
from stations.dispatch import parcels, returns, selectors, taken_back
from stations.dispatch.models import Parcel
from stations.ledger.models import Account
from stations.ledger.selectors import balance, by_kind
from stations.people.models import HistoryEntry
from stations.selling.models import Sale
from stations.units import picture_files
from tests.hands import a_picture
from tests.stations.test_dispatch import DispatchTest

D = Decimal


class SaidByASlip(DispatchTest):
    STANDS = "listed"

    def press(self, name: str, parcel: Parcel, why: str = "the one beside it"):
        self.client.force_login(self.owner, backend="django.contrib.auth.backends.ModelBackend")
        return self.client.post(reverse(f"dispatch:{name}", args=[parcel.pk]), {"why": why}, follow=True)

    def sent(self) -> tuple[Sale, Parcel]:
        sale = self.sold()
        hand = self.hand()
        hand.pay(sale)
        parcel = hand.pack(sale)
        hand.send(parcel, "Marrow Parcel", "11.90")
        return self.again(sale), self.again(parcel)

    def test_it_was_not_sent_and_can_be_sent_again(self):
        sale, parcel = self.sent()
        spent = by_kind(Account.UNIT, [sale.unit_id])[sale.unit_id]["postage"]
        self.assertEqual(spent, D("11.90"))
        page = self.press("not-sent", parcel)
        self.assertContains(page, "Parcel closed")
        sale, parcel = self.again(sale), self.again(parcel)
        self.assertEqual((sale.sent_at, parcel.sent_at, parcel.carrier, parcel.price), (None, None, None, None))
        self.assertEqual(by_kind(Account.UNIT, [sale.unit_id])[sale.unit_id]["postage"], sale.postage)
        self.assertEqual(self.again(sale.unit).next_step, "send it")
        self.assertIn("the one beside it", HistoryEntry.objects.get(action="dispatch.not_sent").words)
        self.balanced()
        self.hand().send(parcel, "Marrow Parcel", "12.90")
        self.assertEqual(by_kind(Account.UNIT, [sale.unit_id])[sale.unit_id]["postage"], D("12.90"))
        self.balanced()
        self.assertContains(self.press("not-sent", parcel, " "), "Say why")

    def test_it_did_not_arrive_and_is_on_its_way_still(self):
        sale, parcel = self.sent()
        self.assertContains(self.press("not-arrived", parcel), "Nobody said that it arrived")
        parcels.arrived(self.owner, parcel)
        self.assertEqual(self.again(sale.unit).stage, "closed")
        self.press("not-arrived", parcel)
        self.assertEqual((self.again(sale).closed_at, self.again(parcel).arrived_at), (None, None))
        self.assertEqual(self.again(sale.unit).stage, "sent")
        parcels.arrived(self.owner, self.again(parcel))
        Sale.objects.filter(pk=sale.pk).update(wiped_at=timezone.now(), buyer="")
        self.assertContains(self.press("not-arrived", parcel), "were wiped since")

    def test_handed_over_in_person_was_not_so(self):
        sale = self.sold()
        self.hand().hand_over(sale.unit)
        parcel = Parcel.objects.get()
        self.press("not-sent", parcel)
        self.assertEqual((self.again(sale).sent_at, self.again(sale).closed_at), (None, None))
        self.hand().do(parcels.hand_over, self.again(sale))
        self.assertEqual(self.again(sale.unit).stage, "closed")
        self.balanced()

    def test_a_wrong_picture_while_it_is_open(self):
        sale = self.sold()
        self.hand().pay(sale)
        parcel = parcels.begin(self.owner, sale)
        parcels.add_pictures(self.owner, parcel, Moment.BEFORE, [a_picture("cat.png"), a_picture("front.png", 90)])
        there = reverse("dispatch:parcel", args=[parcel.pk])
        self.client.force_login(self.owner, backend="django.contrib.auth.backends.ModelBackend")
        photo = parcel.photos.get(original_name="cat.png")
        again = reverse("dispatch:drop-picture", args=[photo.pk])
        self.assertContains(self.client.get(there), again)
        with self.captureOnCommitCallbacks(execute=True):
            self.client.post(again)
        self.assertEqual([one.original_name for one in parcel.photos.all()], ["front.png"])
        self.assertFalse(picture_files.path_of(photo.sha256).exists())
        Parcel.objects.filter(pk=parcel.pk).update(closed_at=timezone.now())
        self.assertNotContains(self.client.get(there), "Drop<")
        with self.assertRaisesRegex(Refused, "can’t be seen any more"):
            parcels.drop_picture(self.owner, parcel.photos.get())

    def test_what_came_back_rests_on_it(self):
        sale, parcel = self.sent()
        returns.ask(self.owner, sale, "mind", "")
        self.assertContains(self.press("not-sent", parcel), "that rests on it")
        self.assertIsNotNone(self.again(parcel).sent_at)

    def test_it_was_not_broken_and_the_carrier_did_not_pay(self):
        sale, parcel = self.sent()
        self.assertContains(self.press("not-broken", parcel), "Nobody said that it is broken or lost")
        self.assertContains(self.press("claim-not-paid", parcel), "Nobody said that the carrier paid")
        before = balance(Account.UNIT, sale.unit_id)
        parcels.broken(self.owner, parcel, "the corner", D(120))
        parcels.claim_paid(self.owner, self.again(parcel), D(100))
        self.assertContains(self.press("not-broken", parcel), "The carrier paid 100.00")
        self.press("claim-not-paid", parcel)
        self.assertEqual(balance(Account.UNIT, sale.unit_id), before)
        parcels.claim_paid(self.owner, self.again(parcel), D(90))
        self.press("claim-not-paid", parcel)
        self.assertContains(self.press("not-sent", parcel), "Take that back first")
        self.press("not-broken", parcel)
        self.assertEqual((self.again(parcel).damage, self.again(parcel).claimed), ("", None))
        self.assertEqual(selectors.claims().count(), 0)
        self.balanced()
        with self.assertRaises(NotAllowed):
            taken_back.not_sent(self.viewer, parcel, "no")
