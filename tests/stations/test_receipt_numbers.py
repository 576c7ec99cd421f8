"""A thousand races for receipt numbers: none is missing, none is given out twice, no sale has two."""

import random

from django.db import transaction

from stations.common.refusals import Refused
from stations.dispatch import receipts
from stations.dispatch.models import Receipt, ReceiptLine, ReceiptSeries, SaleTerms
from stations.people.screens import once
from stations.selling import services as selling
from stations.selling.models import Sale
from tests.stations.base import AtOnce, D
from tests.stations.test_sold_once import alike

RACES, AT_A_TIME, WORKERS = 1000, 100, 4


class _Changed(Exception):
    """Something went wrong after the number was taken."""


class Numbers(AtOnce):
    takes = 30

    def test_a_thousand_races(self):
        dice = random.Random(21)
        SaleTerms.objects.update_or_create(pk=1, defaults={"address": "Our workshop\nQuay 1"})
        type(self.model).objects.filter(pk=self.model.pk).update(photos_wanted=0, keeps_data=False)
        unit = self.assessed(supply="none", battery="none", drives=0, picture_tube=False)
        self.hand().do(selling.grade_unit, unit)
        self.hand().offer(self.again(unit), "150", pictures=0)
        units = alike(self.again(unit), RACES, [])
        first = selling.sell(self.seller, self.again(unit), D(150), "A. Reader", D(9))
        Sale.objects.bulk_create(
            Sale(
                **{f.attname: getattr(first, f.attname) for f in Sale._meta.concrete_fields}
                | {"id": None, "unit_id": one.pk, "open_for_id": one.pk, "posting_id": None, "comparable_id": None}
            )
            for one in units
        )
        sales = list(Sale.objects.exclude(pk=first.pk))
        self.second = self.broken = 0
        for begin in range(0, RACES, AT_A_TIME):
            some = sales[begin : begin + AT_A_TIME]
            # Every sale is asked for by two at the same time, and now and then it comes to nothing.
            lists = [some[worker // 2 :: WORKERS // 2] for worker in range(WORKERS)]
            seeds = [dice.random() for _ in lists]
            self.together(*(lambda w=each, s=seed: self.issue(w, s) for each, seed in zip(lists, seeds, strict=True)))
        numbers = sorted(Receipt.objects.values_list("number", flat=True))
        self.assertEqual(numbers, list(range(1, RACES + 1)))
        self.assertEqual(ReceiptLine.objects.values("first_for").distinct().count(), RACES)
        self.assertEqual(ReceiptSeries.objects.get().last, RACES)
        self.assertEqual(self.second, RACES, "of each pair one was refused")
        self.assertGreater(self.broken, RACES // 20)

    def issue(self, sales: list[Sale], seed: float) -> None:
        dice = random.Random(seed)
        for sale in sales:
            if dice.random() < 0.1:
                self.come_to_nothing(sale)
            try:
                once(self.seller, "", lambda s=sale: str(receipts.issue(self.seller, s).pk))
            except Refused:
                self.second += 1

    def come_to_nothing(self, sale: Sale) -> None:
        try:
            with transaction.atomic():
                receipts.issue(self.seller, sale)
                raise _Changed
        except (_Changed, Refused):
            self.broken += 1
