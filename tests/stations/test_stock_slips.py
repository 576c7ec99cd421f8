"""What was said of a drawer, a parcel of parts or a single part by a slip is taken back, and the books go along."""

from decimal import Decimal

from django.urls import reverse

from core.stock.parcel import Rest
from core.stock.parts import PartKind
from stations.books.selectors import complaints
from stations.common.refusals import NotAllowed, Refused
from stations.ledger.models import Account
from stations.ledger.selectors import balance
from stations.people.models import HistoryEntry
from stations.stock import orders, stock_file, taken_back
from stations.stock import services as stock
from stations.stock.models import StockCount, StockItem, StockPurchase
from stations.stock.orders import Ordered, Terms
from stations.stock.services import Sort
from stations.units import part_slips, parts
from stations.units.models import Part
from tests.stations.test_through_the_pages import Through

D = Decimal


class OfADrawer(Through):
    def there(self) -> tuple[Decimal, Decimal]:
        return StockItem.objects.get(pk=self.part.pk).quantity, balance(Account.STOCK, self.part.pk)

    def item(self) -> StockItem:
        return StockItem.objects.get(pk=self.part.pk)

    def test_what_was_bought_at_a_wrong_price(self):
        stock.buy_stock(self.owner, self.part, 2, D("100.00"))
        self.assertEqual(self.there(), (5, D("110.00")))
        row = StockPurchase.objects.latest("pk")
        self.assertContains(self.client.get(f"/workshop/stock/{self.part.pk}/"), "2 Belt for 100.00")
        page = self.post("stock:not-bought", [row.pk], follow=True)
        self.assertContains(page, "Say why")
        self.done(self.post("stock:not-bought", [row.pk], why="10, not 100"))
        self.assertEqual(self.there(), (3, D("10.00")))
        self.assertIn("10, not 100", HistoryEntry.objects.get(action="stock.not_bought").words)
        self.balanced()
        self.assertContains(
            self.post("stock:not-bought", [row.pk], follow=True, why="twice"), "Something else was done"
        )
        with self.assertRaises(NotAllowed):
            taken_back.not_bought(self.viewer, row, "no")

    def test_what_went_on_since_keeps_it(self):
        stock.buy_stock(self.owner, self.part, 2, D("100.00"))
        row = StockPurchase.objects.latest("pk")
        stock.count(self.owner, self.item(), D(4), "one was broken")
        self.assertIsNone(taken_back.last_purchase(self.item()))
        with self.assertRaisesRegex(Refused, "4 are there. Count it instead"):
            taken_back.not_bought(self.owner, row, "typed wrong")

    def test_what_cost_nothing(self):
        stock.buy_stock(self.owner, self.part, 2, D(0))
        row = StockPurchase.objects.latest("pk")
        self.assertIsNone(row.posting)
        taken_back.not_bought(self.owner, row, "never came")
        self.assertEqual(self.there(), (3, D("10.00")))

    def test_a_wrong_count_loses_nothing(self):
        """Counted again, what is found would have cost nothing."""
        self.done(self.post("stock:count", [self.part.pk], counted="1", reason="looked into the wrong drawer"))
        self.assertEqual(self.there(), (1, D("3.33")))
        row = StockCount.objects.get()
        self.assertContains(self.client.get(f"/workshop/stock/{self.part.pk}/"), "The last count was wrong")
        self.done(self.post("stock:not-counted", [row.pk], why="drawer A2"))
        self.assertEqual(self.there(), (3, D("10.00")))
        self.assertContains(self.client.get(f"/workshop/stock/{self.part.pk}/"), "taken back")
        self.balanced()
        with self.assertRaisesRegex(Refused, "Count it again instead"):
            taken_back.not_counted(self.owner, self.again(row), "twice")
        stock.count(self.owner, self.item(), D(3), "")
        self.assertIsNone(taken_back.last_count(self.item()), "nothing was changed by it")

    def test_what_is_held_is_let_go_first(self):
        stock.count(self.owner, self.item(), D(6), "found more")
        StockItem.objects.filter(pk=self.part.pk).update(reserved=5)
        with self.assertRaisesRegex(Refused, "5 of it are held"):
            taken_back.not_counted(self.owner, StockCount.objects.get(), "counted twice")

    def test_one_after_another_the_newest_first(self):
        before = self.there()
        for amount in (2, 3):
            stock.buy_stock(self.owner, self.item(), amount, D(8))
        bought = list(StockPurchase.objects.order_by("-pk")[:2])[::-1]
        with self.assertRaisesRegex(Refused, "Something else was done with it since"):
            taken_back.not_bought(self.owner, bought[0], "too early")
        for purchase in reversed(bought):
            taken_back.not_bought(self.owner, purchase, "that was O-7")
        self.assertEqual(self.there(), before)
        self.balanced()

    def test_a_parcel_that_did_not_come(self):
        order = orders.order_parts(
            self.owner,
            "Pell",
            Terms(postage=D(5)),
            [Ordered(Sort("Belt", drawer="A1"), "4", D(2)), Ordered(Sort("Foot"), "2", D(1))],
        )
        lines = {line.item.name: line.pk for line in order.lines.all()}
        orders.take_in(self.owner, order, {lines["Foot"]: "0"}, rest=Rest.UNPAID)
        self.assertEqual(self.there(), (7, D("23.00")))
        self.assertContains(self.client.get(f"/workshop/orders/O-{order.number}/"), "It did not come")
        self.done(self.post("stock:not-come", [order.number], why="that was O-7"))
        self.assertEqual(self.there(), (3, D("10.00")))
        self.assertTrue(self.again(order).is_open)
        self.assertEqual([line.came for line in order.lines.all()], [None, None])
        self.balanced()
        with self.assertRaisesRegex(Refused, "Nobody said that it came"):
            taken_back.not_come(self.owner, order, "twice")
        orders.take_in(self.owner, self.again(order), {})
        self.balanced()
        stock.buy_stock(self.owner, self.item(), 1, D(1))
        with self.assertRaisesRegex(Refused, "Something else was done with Belt"):
            taken_back.not_come(self.owner, self.again(order), "too late")
        self.assertEqual(StockItem.objects.get(name="Foot").quantity, 2, "all of it or none")

    def test_an_order_that_was_called_off_comes_after_all(self):
        order = orders.order_parts(self.owner, "Pell", Terms(), [Ordered(Sort("Belt"), "1", Decimal(1))])
        with self.assertRaisesMessage(Refused, "is not called off"):
            orders.comes_after_all(self.owner, order)
        self.done(self.post("stock:call-off", [order.number], why="sold to somebody else"))
        with self.assertRaisesMessage(Refused, "was called off"):
            orders.take_in(self.owner, order, {})
        self.assertContains(self.client.get(reverse("stock:order", args=[order.number])), "It comes after all")
        self.done(self.post("stock:comes-after-all", [order.number]))
        orders.take_in(self.owner, order, {})
        self.balanced()

    def test_stock_from_a_file_is_bought_too(self):
        stock_file.take_in(self.owner, "name,quantity,paid\nFuse,10,2.50\n")
        row = StockPurchase.objects.get(item__name="Fuse")
        taken_back.not_bought(self.owner, row, "wrong file")
        self.assertEqual(StockItem.objects.get(name="Fuse").quantity, 0)
        self.balanced()


class OfASinglePart(Through):
    def bought(self) -> Part:
        return parts.buy_part(self.owner, parts.Described(PartKind.DRIVE, "3.5-inch drive"), D("30.00"), "C1")

    def test_it_is_there_after_all(self):
        part = self.bought()
        page = f"/workshop/P-{part.number}/"
        self.assertNotContains(self.client.get(page), "It is there after all")
        self.done(self.post("workshop:part-gone", [part.number], reason="lost"))
        self.assertEqual((balance(Account.PART, part.pk), balance(Account.LOSS, 0)), (D(0), D("30.00")))
        self.assertContains(self.client.get(page), "It is there after all")
        self.done(self.post("workshop:part-not-gone", [part.number], why="behind the bench"))
        self.assertEqual((balance(Account.PART, part.pk), balance(Account.LOSS, 0)), (D("30.00"), D(0)))
        self.assertTrue(self.again(part).in_stock)
        self.assertEqual([f"{one.what}: {one.words}" for one in complaints()], [])
        with self.assertRaisesRegex(Refused, "Nobody said that it is gone"):
            part_slips.not_gone(self.owner, part, "twice")

    def test_what_went_otherwise_stays_gone(self):
        part = self.bought()
        parts.put_with_others(self.owner, part, Sort("3.5-inch drive"))
        with self.assertRaisesRegex(Refused, "in with"):
            part_slips.not_gone(self.owner, part, "no")

    def test_it_was_not_bought_so(self):
        part = self.bought()
        self.assertContains(self.client.get(f"/workshop/P-{part.number}/"), "It was not bought so")
        self.assertContains(self.post("workshop:part-not-bought", [part.number], follow=True), "Say why")
        self.done(self.post("workshop:part-not-bought", [part.number], why="3, not 30"))
        self.assertEqual((balance(Account.PART, part.pk), balance(Account.CASH, 0)), (D(0), self.cash))
        self.assertIn("not bought after all: 3, not 30", self.again(part).gone_words)
        self.assertEqual([f"{one.what}: {one.words}" for one in complaints()], [])
        (unit,) = self.receive()
        other = self.bought()
        parts.move_part(self.owner, other, parts.Place(unit, "bay 1"))
        with self.assertRaisesRegex(Refused, "Something else was done"):
            part_slips.not_bought(self.owner, other, "too late")

    def scene(self) -> None:
        super().scene()
        self.cash = balance(Account.CASH, 0)
