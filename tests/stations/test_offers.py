"""Offers for what is wanted, and the cheapest way to get it, through the services and the page."""

from decimal import Decimal as D

from stations.common.refusals import NotAllowed, Refused
from stations.stock.models import PartOffer, PartSeller
from stations.units import offers
from tests.stations.test_through_the_pages import Through

MOUSE, KEYS = "Halden M2: mouse", "Halden M2: keyboard"


class Offers(Through):
    def scene(self) -> None:
        super().scene()
        self.assessed(missing=("mouse", "keyboard"))
        self.assessed(missing=("mouse",))

    OFFER = {"want": MOUSE, "seller": "Quay", "each": "4.00", "postage": "5.00"}

    def offer(self, **changes):
        return self.post("units:cheapest-way", [], **self.OFFER | changes)

    def test_one_parcel_is_cheaper_than_two(self):
        self.assertEqual({name: len(there) for name, there in offers.wants().items()}, {MOUSE: 2, KEYS: 1})
        self.done(self.offer())
        self.done(self.offer(want=KEYS, each="12.00"))
        self.done(self.offer(want=KEYS, seller="Mill", each="9.00", postage="6.00"))
        best = offers.best_way()
        # By hand: 2 × 4 + 12 + 5 = 25.00 from one, 13 + 15 = 28.00 from two, and one by one 13 + 15.
        self.assertEqual((best.basket.total, best.basket.one_by_one), (D("25.00"), D("28.00")))
        self.assertEqual([parcel.seller.name for parcel in best.parcels], ["Quay"])
        self.assertContains(self.client.get("/intake/wanted/cheapest/"), "25.00 delivered")

    def test_a_budget_and_a_latest_day(self):
        self.done(self.offer(days="3"))
        self.done(self.offer(want=KEYS, each="12.00"))
        page = self.client.get("/intake/wanted/cheapest/?budget=14&days=")
        self.assertContains(page, "1 × Halden M2: keyboard can’t be had within that")
        page = self.client.get("/intake/wanted/cheapest/?budget=&days=2")
        self.assertContains(page, "2 × Halden M2: mouse can’t be had within that")
        self.assertContains(self.client.get("/intake/wanted/cheapest/?budget=-4&days=x"), "may not be below 0")

    def test_postage_nobody_knows_is_not_taken_for_nothing(self):
        self.done(self.offer(postage=""))
        self.assertIsNone(offers.best_way())
        self.done(self.offer(seller="Mill", each="90.00", postage="1.00"))
        best = offers.best_way()
        self.assertEqual([seller.name for seller in best.unasked], ["Quay"])
        self.assertEqual(best.basket.total, D("181.00"))

    def test_a_new_price_takes_the_place_of_the_old_and_what_is_gone_is_forgotten(self):
        self.done(self.offer())
        self.done(self.offer(each="3.50", postage=""))
        row = PartOffer.objects.get()
        self.assertEqual((row.each, PartSeller.objects.get().postage), (D("3.50"), D("5.00")))
        self.done(self.post("units:forget-offer", [row.pk]))
        self.assertFalse(PartOffer.objects.exists())

    def test_bad_input_is_said_at_its_field_and_kept(self):
        self.says(self.offer(each="-1"), "may not be below 0", "Quay")
        self.says(self.offer(seller=""), "Say who offers it")
        self.says(self.offer(postage="", free_from="20"), "Say what a parcel costs", "20")
        self.says(self.offer(want="a dream"), "a dream")
        with self.assertRaisesRegex(Refused, "not wanted any more"):
            offers.note_offer(self.owner, offers.Quote("a dream", "x", D(1)))
        with self.assertRaises(NotAllowed):
            offers.note_offer(self.viewer, offers.Quote("a dream", "x", D(1)))

    def test_queries_do_not_grow_with_offers(self):
        self.done(self.offer())
        with self.assertNumQueries(3):
            offers.best_way()
        for number in range(5):
            self.done(self.offer(seller=f"Seller {number}"))
        with self.assertNumQueries(3):
            offers.best_way()
