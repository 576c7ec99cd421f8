"""What can not be done with a parcel: in words at its field, with nothing posted, nothing closed and nothing sent."""

from django.urls import reverse

from core.selling.packing import Moment
from stations.common.refusals import NotAllowed, Refused
from stations.dispatch import parcels, refunds
from stations.dispatch.models import BoxSize, Carrier, Parcel, ParcelItem, ParcelPhoto
from stations.ledger.models import LedgerEntry
from stations.selling import payments
from stations.units.models import Unit
from tests.hands import a_picture
from tests.stations.base import D
from tests.stations.test_dispatch import DispatchTest

# It takes what has a lithium cell in it.
CARRIER = "Marrow Parcel"


class Refusing(DispatchTest):
    STANDS = "listed"

    def scene(self) -> None:
        super().scene()
        self.sale = self.sold()

    def refuses(self, words: str, act, *args, field: str = "", **named) -> None:
        before = self.written()
        with self.assertRaisesMessage(Refused, words) as caught:
            act(self.seller, *args, **named)
        self.assertEqual((caught.exception.field or "", self.written()), (field, before))

    def written(self) -> tuple:
        """What a refusal must leave as it was."""
        moments = Parcel.objects.order_by("pk").values_list(
            "closed_at", "sent_at", "arrived_at", "claimed", "paid_back"
        )
        return (*moments, LedgerEntry.objects.count(), ParcelPhoto.objects.count(), ParcelItem.objects.count())

    def packed(self) -> Parcel:
        return self.hand(self.seller).pack(self.sale)

    def sent(self) -> Parcel:
        payments.take_payment(self.seller, self.sale, D(150))
        parcel = self.packed()
        self.hand(self.seller).send(parcel, CARRIER)
        return self.again(parcel)


class Packing(Refusing):
    def test_of_a_sale_that_ended_or_was_sent(self):
        refunds.call_off(self.seller, self.sale, "he never answered")
        self.refuses("ended: called off: he never answered", parcels.begin, self.again(self.sale))
        self.refuses("There is nothing to hand over", parcels.hand_over, self.again(self.sale))

    def test_begun_twice_it_is_one_and_sent_it_is_not_begun_again(self):
        parcel = self.sent()
        self.assertEqual(parcels.begin(self.seller, self.sale), parcel)
        ParcelItem.objects.all().delete()
        self.refuses("was sent already", parcels.begin, self.again(self.sale))

    def test_pictures_say_what_they_show_and_of_a_closed_parcel_there_are_none_more(self):
        parcel = parcels.begin(self.seller, self.sale)
        self.refuses("Say what the picture shows.", parcels.add_pictures, parcel, "asleep", [a_picture("a.png")])
        huge = a_picture("huge.png")
        huge.size = 26 * 1024 * 1024
        said = parcels.add_pictures(self.seller, parcel, Moment.BEFORE, [huge, a_picture("b.png", 60)])
        self.assertEqual(said, ["huge.png was not taken: larger than 25 MB"])
        self.assertEqual(ParcelPhoto.objects.count(), 1, "the other one was kept")
        packed = self.packed()
        self.refuses("can’t be seen any more", parcels.add_pictures, packed, Moment.BEFORE, [a_picture("c.png", 90)])
        # What arrived broken is photographed when it is closed long since.
        self.assertEqual(parcels.add_pictures(self.seller, packed, Moment.DAMAGE, [a_picture("d.png", 99)]), [])

    def test_a_closed_one_is_opened_before_it_is_changed(self):
        parcel = self.packed()
        found = parcels.Measured(1, 1, 1, 1, "home", "")
        self.refuses("Open it again first.", parcels.measure, parcel, parcel.version, found)
        self.refuses("Open it again first.", parcels.tick, parcel, "anything")
        box = BoxSize.objects.first()
        self.refuses("Open it again first.", parcels.close, parcel, box, None, 99_000)
        parcels.reopen(self.seller, parcel)
        self.refuses("It is open, or was sent.", parcels.reopen, self.again(parcel))
        self.assertIsNone(self.again(parcel).packed_g)
        self.assertFalse(self.again(parcel).photos.filter(moment=Moment.PACKED).exists(), "to be taken anew")

    def test_a_machine_that_may_not_be_sent_is_neither_closed_in_nor_handed_over(self):
        payments.take_payment(self.seller, self.sale, D(150))
        parcel = self.packed()
        parcels.reopen(self.seller, parcel)
        self.hand(self.owner).find(self.sale.unit, "front", "leak", 3, "the cell ran out")
        box = BoxSize.objects.last()
        self.refuses("may not be sent", parcels.close, self.again(parcel), box, None, 99_000)
        self.refuses("may not be sent", parcels.hand_over, self.sale)
        self.client.force_login(self.seller, backend="django.contrib.auth.backends.ModelBackend")
        page = self.client.get(reverse("dispatch:parcel", args=[parcel.pk]))
        self.assertContains(page, f"{self.sale.unit.tag} may not be sent.")


class Sending(Refusing):
    def test_open_or_for_less_than_nothing_or_twice(self):
        payments.take_payment(self.seller, self.sale, D(150))
        parcel = parcels.begin(self.seller, self.sale)
        carrier = Carrier.objects.get(name=CARRIER)
        self.refuses("Close the parcel first.", parcels.send, parcel, carrier, D("6.90"))
        parcel = self.packed()
        self.refuses("This may not be below 0.", parcels.send, parcel, carrier, D("-0.01"), field="price")
        self.refuses("60 characters at most", parcels.send, parcel, carrier, D(7), "x" * 61, field="tracking")
        self.hand(self.seller).send(parcel, CARRIER)
        self.refuses("It was sent already.", parcels.send, self.again(parcel), carrier, D("6.90"))
        self.refuses("There is nothing to hand over", parcels.hand_over, self.sale)
        self.balanced()

    def test_what_ended_while_it_was_packed_is_taken_out_first(self):
        parcel = self.packed()
        refunds.call_off(self.seller, self.sale, "changed his mind")
        parcel, carrier = self.again(parcel), Carrier.objects.get(name=CARRIER)
        self.refuses("Take it out of the parcel.", parcels.send, parcel, carrier, D(7), "", "never mind")
        self.balanced()

    def test_unpaid_with_a_reason_that_is_not_cut(self):
        parcel, carrier = self.packed(), Carrier.objects.get(name=CARRIER)
        self.refuses("150.00 is still open", parcels.send, parcel, carrier, D(7), field="unpaid")
        self.refuses("160 characters at most", parcels.send, parcel, carrier, D(7), "", "x" * 161, field="unpaid")
        parcels.send(self.seller, parcel, carrier, D(7), "", "a friend of the house")
        self.assertIsNotNone(self.again(self.sale).sent_at)


class Arriving(Refusing):
    def test_what_is_not_on_its_way_does_not_arrive(self):
        parcel = self.packed()
        self.refuses("It is not sent yet, or closed already.", parcels.arrived, parcel)
        self.refuses("It is not sent yet, or closed already.", parcels.close_sale, self.sale)
        payments.take_payment(self.seller, self.sale, D(150))
        self.hand(self.seller).send(parcel, CARRIER)
        parcels.close_sale(self.seller, self.again(self.sale))
        self.assertIsNotNone(self.again(parcel).arrived_at, "its parcel arrived with it")
        self.assertEqual(Unit.objects.get(pk=self.sale.unit_id).stage, "closed")
        self.refuses("It is not sent yet, or closed already.", parcels.arrived, self.again(parcel))

    def test_sent_before_parcels_were_kept_it_is_closed_by_itself(self):
        self.sent()
        ParcelItem.objects.all().delete()
        parcels.close_sale(self.seller, self.again(self.sale))
        self.assertIsNotNone(self.again(self.sale).closed_at)
        self.refuses("closed already", parcels.close_sale, self.again(self.sale))

    def test_a_claim_within_what_was_sold_and_paid_once(self):
        parcel = self.packed()
        self.refuses("No carrier had it.", parcels.broken, parcel, "the lid", D(10))
        self.refuses("Nothing was claimed for it.", parcels.claim_paid, parcel, D(1), field="paid_back")
        payments.take_payment(self.seller, self.sale, D(150))
        self.hand(self.seller).send(parcel, CARRIER)
        parcel = self.again(parcel)
        self.refuses("Say what was broken", parcels.broken, parcel, " ", D(10), field="damage")
        for claimed in ("0", "-1", "156.91"):
            # 150 for the thing and 6.90 for the way.
            self.refuses("From 0.01 to 156.90", parcels.broken, parcel, "the lid", D(claimed), field="claimed")
        parcels.broken(self.seller, parcel, "the lid", D("156.90"))
        for paid in ("-1", "156.91"):
            self.refuses("that was claimed", parcels.claim_paid, self.again(parcel), D(paid), field="paid_back")
        parcels.claim_paid(self.seller, self.again(parcel), D("100.01"))
        self.refuses("The carrier paid 100.01 already", parcels.claim_paid, self.again(parcel), D(1), field="paid_back")
        self.assertEqual(ParcelItem.objects.get().claim_part, D("100.01"))
        self.balanced()

    def test_by_hand_no_carrier_had_it(self):
        payments.take_payment(self.seller, self.sale, D(150))
        parcel = parcels.hand_over(self.seller, self.sale)
        self.refuses("No carrier had it.", parcels.broken, parcel, "the lid", D(10))

    def test_who_may(self):
        parcel, carrier = self.packed(), Carrier.objects.get(name=CARRIER)
        for act, args in (
            (parcels.begin, (self.sale,)),
            (parcels.add_pictures, (parcel, Moment.BEFORE, [])),
            (parcels.reopen, (parcel,)),
            (parcels.send, (parcel, carrier, D(7))),
            (parcels.hand_over, (self.sale,)),
            (parcels.arrived, (parcel,)),
            (parcels.broken, (parcel, "the lid", D(1))),
            (parcels.claim_paid, (parcel, D(1))),
        ):
            with self.subTest(act.__name__), self.assertRaises(NotAllowed):
                act(self.viewer, *args)
