"""Who sells parts: called right, asked what a parcel costs, and put together where one was typed in two ways."""

from datetime import timedelta
from decimal import Decimal

from django.db import connection
from django.test.utils import CaptureQueriesContext

from stations.common import clock
from stations.common.refusals import NotAllowed
from stations.people.models import HistoryEntry
from stations.stock import orders, sellers
from stations.stock.models import PartOffer, PartSeller
from stations.stock.orders import Ordered, Terms
from stations.stock.services import Sort
from tests.stations.test_through_the_pages import Through

D = Decimal


class Sellers(Through):
    def scene(self) -> None:
        super().scene()
        self.order = orders.order_parts(self.owner, "Pel surplus", Terms(), [Ordered(Sort("Belt"), "1", D(1))])
        self.seller = self.order.seller

    def typed(self, **changes):
        said = {"name": self.seller.name, "postage": "", "free_from": ""} | changes
        return self.post("stock:seller", [self.seller.pk], **said)

    def offer(self, seller: PartSeller, each: int, days_ago: int) -> PartOffer:
        seen = {"seen_at": clock.now() - timedelta(days=days_ago), "seen_by": self.owner}
        return PartOffer.objects.create(want="mouse", seller=seller, each=each, **seen)

    def test_name_and_postage_are_put_right(self):
        self.assertContains(self.client.get(f"/workshop/orders/O-{self.order.number}/"), f"/sellers/{self.seller.pk}/")
        self.done(self.typed(name="Pell surplus", postage="4,90", free_from="50"))
        row = self.again(self.seller)
        self.assertEqual((row.name, row.postage, row.free_from), ("Pell surplus", D("4.90"), D(50)))
        told, said = HistoryEntry.objects.filter(action="stock.change_seller").order_by("pk")
        self.assertIn("nothing → 4.90", told.words)
        self.assertEqual((said.subject_id, said.words), (self.order.pk, "Seller: Pell surplus, was Pel surplus"))
        self.assertContains(self.client.get("/workshop/sellers/"), "4.90")

    def test_what_can_not_be_is_said_at_its_field(self):
        self.says(self.typed(name=""), "What are they called?")
        self.says(self.typed(free_from="50"), "Say what a parcel costs", "50")
        self.says(self.typed(postage="-1"), "below 0")
        with self.assertRaises(NotAllowed):
            sellers.change_seller(self.viewer, self.seller, sellers.SellerDetails("x", None, None))

    def test_one_typed_in_two_ways_is_one(self):
        other = PartSeller.objects.create(name="Pell surplus", postage=D(5))
        self.says(self.typed(name="Pell surplus"), "There is a Pell surplus already")
        newer, older = self.offer(self.seller, 3, 1), self.offer(other, 4, 9)
        self.done(self.typed(name="Pell surplus", postage="5", together="on"))
        self.assertEqual(list(PartSeller.objects.all()), [other])
        self.assertEqual((self.again(self.order).seller, PartOffer.objects.get()), (other, newer))
        self.assertFalse(PartOffer.objects.filter(pk=older.pk).exists())
        self.assertEqual(self.again(other).postage, D(5))

    def test_the_newer_of_two_offers_counts(self):
        other = PartSeller.objects.create(name="Pell surplus")
        self.offer(self.seller, 3, 9)
        newer = self.offer(other, 4, 1)
        self.done(self.typed(name="Pell surplus", together="on"))
        self.assertEqual(PartOffer.objects.get(), newer)

    def test_somebody_else_was_faster(self):
        page = self.client.get(f"/workshop/sellers/{self.seller.pk}/")
        seen = page.context["form"]._mark
        self.done(self.typed(postage="3"))
        self.says(self.typed(name="Pell", seen=seen), "Somebody else saved this")

    def test_queries_do_not_grow(self):
        def asked() -> int:
            with CaptureQueriesContext(connection) as queries:
                self.client.get("/workshop/sellers/")
            return len(queries)

        before = asked()
        for number in range(8):
            orders.order_parts(self.owner, f"Seller {number}", Terms())
        self.assertEqual(asked(), before)
