"""Parts of an order that do not come with its parcel: they come later, were never charged, or are paid and gone."""

from datetime import timedelta
from decimal import Decimal

from django.utils import timezone

from core.stock.parcel import Rest
from stations.common import clock
from stations.common.refusals import Refused
from stations.ledger.models import Account
from stations.ledger.selectors import balance
from stations.stock import orders, taken_back
from stations.stock.models import PartOrder, StockItem
from stations.stock.orders import Ordered, Terms
from stations.stock.services import Sort
from tests.stations.test_stock import Stock

D = Decimal


class TheRest(Stock):
    def scene(self) -> None:
        super().scene()
        wanted = [Ordered(Sort("Fuse"), "10", D(2), "F1"), Ordered(Sort("Foot"), "4", D(1))]
        self.order = orders.order_parts(self.owner, "Pell", Terms(postage=D(6), currency="EUR"), wanted)
        self.fuse, self.foot = self.order.lines.order_by("id")

    def cost(self, name: str) -> Decimal:
        return balance(Account.STOCK, StockItem.objects.get(name=name).pk)

    def test_it_comes_in_another_parcel(self):
        here = f"/workshop/orders/O-{self.order.number}/"
        sent = {f"came-{self.fuse.pk}": "7", f"came-{self.foot.pk}": "", "rest": ""}
        self.says(self.post("stock:take-in", [self.order.number], **sent), "say what becomes of the rest")
        self.assertTrue(self.again(self.order).is_open)
        self.done(self.post("stock:take-in", [self.order.number], **sent | {"rest": "later"}))
        rest = PartOrder.objects.latest("number")
        # 14 and 4 in goods carry 6 of postage: it was for all of it, and is paid once.
        self.assertEqual((self.cost("Fuse"), self.cost("Foot")), (D("18.67"), D("5.33")))
        self.assertEqual(
            (rest.rest_of, rest.postage, rest.seller, rest.is_open), (self.order, 0, self.order.seller, True)
        )
        line = rest.lines.get()
        self.assertEqual((line.item.name, line.quantity, line.each, line.want), ("Fuse", 3, D(2), "F1"))
        self.assertEqual(orders.on_the_way([line.item]), {line.item_id: 3})
        self.assertContains(self.client.get(here), rest.code)
        self.assertContains(self.client.get(f"/workshop/orders/O-{rest.number}/"), f'the rest of <a href="{here}"')
        orders.take_in(self.owner, rest, {})
        self.assertEqual((self.cost("Fuse"), StockItem.objects.get(name="Fuse").quantity), (D("24.67"), 10))
        self.balanced()

    def test_it_is_late_from_when_the_first_came(self):
        PartOrder.objects.filter(pk=self.order.pk).update(ordered_on=clock.today() - timedelta(days=60))
        orders.take_in(self.owner, self.order, {self.fuse.pk: "7"}, rest=Rest.LATER)
        rest = self.order.rests.get()
        self.assertFalse(rest.awaited_long)
        with clock.at(timezone.now() + timedelta(days=60)):
            self.assertTrue(rest.awaited_long)

    def test_it_was_not_charged(self):
        orders.take_in(self.owner, self.order, {self.fuse.pk: "7"}, rest=Rest.UNPAID)
        self.assertEqual(self.again(self.order).landed, D(24))
        self.assertFalse(self.order.rests.exists())
        page = self.client.get(f"/workshop/orders/O-{self.order.number}/")
        self.assertContains(page, "The rest was not charged, or is paid back.")

    def test_it_was_paid_and_does_not_come(self):
        orders.take_in(self.owner, self.order, {self.foot.pk: "0"}, rest=Rest.PAID)
        self.assertEqual((self.cost("Fuse"), self.again(self.order).landed), (D(30), D(30)))
        self.balanced()

    def test_where_all_came_there_is_no_rest(self):
        orders.take_in(self.owner, self.order, {self.fuse.pk: "12"}, rest=Rest.LATER)
        self.assertEqual((self.again(self.order).rest, PartOrder.objects.count()), ("", 1))
        self.assertEqual(self.again(self.order).landed, D(34))

    def test_taken_back_it_is_all_in_one_again(self):
        orders.take_in(self.owner, self.order, {self.fuse.pk: "7"}, rest=Rest.LATER)
        rest = self.order.rests.get()
        orders.take_in(self.owner, rest, {})
        with self.assertRaisesRegex(Refused, f"The rest of it came with {rest.code}"):
            taken_back.not_come(self.owner, self.order, "the wrong one")
        taken_back.not_come(self.owner, self.again(rest), "the wrong one")
        taken_back.not_come(self.owner, self.again(self.order), "the wrong one")
        self.assertIn("it is all in that again", self.again(rest).called_off)
        self.assertEqual(orders.on_the_way([self.fuse.item]), {self.fuse.item_id: 10})
        orders.take_in(self.owner, self.again(self.order), {self.fuse.pk: "1"}, rest=Rest.LATER)
        self.assertEqual(self.order.rests.filter(called_off="").get().lines.get().quantity, 9)
        self.balanced()
