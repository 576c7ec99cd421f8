"""Where the money is now: what is held, what of it will bring less than it cost, what lies unused."""

from datetime import timedelta
from decimal import Decimal

from django.urls import reverse

from core.books.statement import Place
from core.books.valuation import together
from core.money import ZERO
from stations.books import held, statements
from stations.common import clock
from stations.selling import services as selling
from stations.stock import services as stock
from stations.stock.models import StockItem
from stations.units.models import Unit
from tests.stations.base import ShopTest

D = Decimal


class MoneyInStock(ShopTest):
    def setUp(self):
        self.client.force_login(self.owner, backend="django.contrib.auth.backends.ModelBackend")

    def page(self):
        return self.client.get(reverse("books:stock"))

    def in_books(self) -> Decimal:
        """What stands in units, as a statement that closes today has it."""
        stood = statements.stood(clock.today() + timedelta(days=1)).held
        return stood.get(Place.OURS, ZERO) + stood.get(Place.ON_COMMISSION, ZERO)

    def test_an_empty_shop_has_no_unit_and_says_so(self):
        page = self.page()
        self.assertContains(page, "No unit is here that is ours to sell.")
        # The lot that was bought and not received, and a drawer.
        self.assertContains(page, "<b>€140.00")

    def test_it_stands_at_the_lower_of_what_it_cost_and_what_it_brings(self):
        dear, cheap = self.receive(2)
        Unit.objects.filter(pk=cheap.pk).update(path="scrap")
        rows = held.units_held()
        self.assertEqual([row.unit for row in rows], [cheap, dear])
        cost = rows[0].held.cost
        self.assertEqual((rows[0].held.brings, rows[0].held.too_much), (0, cost))
        self.assertEqual(rows[1].held.too_much, 0)
        self.assertEqual(together(row.held for row in rows).cost, self.in_books())
        page = self.page()
        self.assertContains(page, "1 unit costs more than it will bring")
        self.assertContains(page, f"the stock is {D(140) - cost}.")

    def test_what_nobody_knows_is_not_judged(self):
        self.receive()
        unknown = dict.fromkeys(("worth_low", "worth_likely", "worth_high"))
        type(self.line).objects.filter(pk=self.line.pk).update(**unknown)
        (row,) = held.units_held()
        self.assertEqual((row.held.brings, row.held.too_much), (None, 0))
        self.assertContains(self.page(), "nobody said")
        type(self.lot).objects.filter(pk=self.lot.pk).update(priced=False)
        (row,) = held.units_held()
        self.assertIsNone(row.held.cost)
        self.assertContains(self.page(), "not known")

    def test_what_is_sold_or_not_ours_is_not_held(self):
        unit = self.listed()
        (other,) = self.receive()
        Unit.objects.filter(pk=other.pk).update(holding="custody", owner_name="the school")
        self.assertEqual([row.unit for row in held.units_held()], [unit])
        selling.sell(self.seller, unit, D(150), "a reader", D(9))
        self.assertEqual(held.units_held(), [])

    def test_a_drawer_that_nobody_needed_for_long(self):
        self.assertEqual(held.idle_drawers()[1], 0)
        lens = StockItem.objects.create(name="Lens", drawer="B2")
        # Noon of that day: so many times 24 hours ago is another day where the clocks were changed since.
        with clock.at(clock.begin_of(clock.today() - timedelta(days=held.IDLE)) + timedelta(hours=12)):
            stock.buy_stock(self.owner, lens, 2, D("8.00"))
        drawers, sum_ = held.idle_drawers()
        self.assertEqual(([one.item for one in drawers], sum_), ([lens], D(8)))
        self.assertContains(self.page(), "lie in 1 drawer that nobody needed")
        # Filled again it is no longer unused.
        stock.buy_stock(self.owner, lens, 1, D("4.00"))
        self.assertEqual(held.idle_drawers()[1], 0)

    def test_it_asks_no_more_however_much_is_held(self):
        self.receive()
        self.page()
        with self.assertNumQueries(ASKED):
            self.page()
        self.receive(2)
        with self.assertNumQueries(ASKED):
            self.page()


# With what every page asks.
ASKED = 17
