"""What kinds of lots pay, out of what was sold and written off."""

from datetime import timedelta
from decimal import Decimal

from django.urls import reverse

from core.buying.share import Basis
from stations.books.what_pays import By, Per, gone, kinds
from stations.buying import services as buying
from stations.buying.sharing import share_lot
from stations.common import clock
from stations.intake import services as intake
from stations.intake import settling
from stations.ledger.models import Account, EntryKind
from stations.ledger.services import Leg, post
from stations.units.models import Unit
from stations.workshop import services as workshop
from stations.workshop.new_job import NewJob
from tests.stations.base import ShopTest, line_data, lot_data

D = Decimal


class WhatPays(ShopTest):
    def setUp(self):
        self.client.force_login(self.owner, backend="django.contrib.auth.backends.ModelBackend")

    def sold(self, source: str, price: int, cost: int = 100, minutes: int = 0, model=None) -> Unit:
        """One of a lot of its own, sold for that: straight in the book, as it is told from there."""
        data = lot_data(title=source, source_kind=source, price=D(cost), premium_percent=D(0), freight=D(0))
        lot = buying.record_lot(self.owner, data, [line_data()])
        share_lot(self.owner, lot, Basis.VALUE)
        (unit,) = intake.receive(self.owner, lot.lines.get(), 1, model or self.model, "shelf")
        if minutes:
            Unit.objects.filter(pk=unit.pk).update(stage="proven", assessed_at=clock.now(), approach="period")
            job = workshop.open_job(self.owner, self.again(unit), NewJob("Clean it", "clean", 30))
            workshop.log_labour(self.owner, job, minutes)
        legs = [
            Leg(Account.UNIT, unit.pk, EntryKind.SALE, D(-price), lot.pk),
            Leg(Account.CASH, 0, EntryKind.SALE, D(price)),
        ]
        post(self.owner, f"sale of {unit.tag}", legs)
        Unit.objects.filter(pk=unit.pk).update(stage="closed")
        return unit

    def by(self, by: By = By.SOURCE, per: Per = Per.EURO):
        return {kind.name: kind for kind in kinds(by, per)}

    def page(self, **asked):
        return self.client.get(reverse("books:what-pays"), asked)

    def test_before_anything_is_sold_it_says_so(self):
        self.receive()
        self.assertContains(self.page(), "Nothing of ours was sold or written off yet")

    def test_one_lot_of_each_kind_tells_nothing(self):
        self.sold("shop", 150)
        self.sold("private", 90)
        found = self.by()
        self.assertEqual([(one.pays.was, one.pays.likely) for one in found.values()], [(0.5, None), (-0.1, None)])
        self.assertContains(self.page(), "We can’t tell yet")

    def test_what_pays_time_and_again_is_said_to_pay_and_what_loses_to_lose(self):
        for price in (150, 155, 148):
            self.sold("shop", price)
        for price in (60, 55, 64):
            self.sold("private", price)
        found = self.by()
        self.assertEqual([(name, one.pays.sure) for name, one in found.items()], [("shop", 1), ("private sale", -1)])
        self.assertEqual((found["shop"].put, found["shop"].earned, found["shop"].units), (D(300), D(153), 3))
        page = self.page()
        self.assertContains(page, "<b>This pays:</b> shop")
        self.assertContains(page, "<b>This loses money:</b> private sale")

    def test_what_was_written_off_counts_and_what_nobody_knows_the_cost_of_does_not(self):
        self.sold("shop", 150)
        (unit,) = self.receive()
        settling.write_off(self.owner, unit, "crushed")
        (one,) = [one for one in gone() if one.unit == unit]
        self.assertGreater(one.cost, 0)
        self.assertEqual(one.earned, -one.cost)
        type(self.lot).objects.filter(pk=self.lot.pk).update(priced=False)
        self.assertEqual(len(gone()), 1)

    def test_an_hour_is_of_what_has_minutes_and_before_our_labour(self):
        self.sold("shop", 150, minutes=30)
        self.sold("shop", 300)
        (one,) = kinds(By.SOURCE, Per.HOUR)
        self.assertEqual((one.put, one.earned, one.units, one.pays.lots), (D("0.5"), D(50), 2, 1))
        self.assertEqual(one.pays.was, 100)
        self.assertContains(self.page(per="hour"), "of units with minutes on record")

    def test_every_way_of_telling_kinds_apart(self):
        unit = self.sold("shop", 150)
        self.sold("private", 150)
        bought = clock.today() - timedelta(days=1)
        type(unit.lot).objects.update(bought_on=bought.replace(month=2, day=3))
        for by, names in (
            (By.SUPPLIER, {"Pell Head school"}),
            (By.CLAIM, {"not tested"}),
            (By.KIND, {"machine"}),
            (By.MODEL, {"Halden M2"}),
            (By.SIZE, {"one piece"}),
            (By.SEASON, {"January to March"}),
            (By.SOURCE, {"shop", "private sale"}),
        ):
            self.assertEqual(set(self.by(by)), names, by)
            self.assertContains(self.page(by=by.value), by.words)
        # What can’t be asked is said at its field, and what it is told by then is the usual.
        page = self.page(by="colour")
        self.assertIn("by", page.context["form"].errors)
        self.assertContains(page, "Not as asked.")

    def test_it_asks_no_more_however_much_was_sold(self):
        self.sold("shop", 150)
        self.page()
        with self.assertNumQueries(ASKED):
            self.page(by="size")
        self.sold("private", 150)
        with self.assertNumQueries(ASKED):
            self.page(by="size")


# With what every page asks.
ASKED = 10
