"""A double press does the thing once; two people at once lose nothing."""

import threading
from decimal import Decimal

from django.db import connection
from django.test import TransactionTestCase

from stations.buying import services as buying
from stations.people.editing import once
from stations.people.models import WriteKey
from stations.people.refusals import Refused
from stations.workshop import services as workshop
from stations.workshop.models import PartIssue, StockItem
from tests.stations.base import ShopTest, fill_shop, line_data, lot_data


class Pressing(ShopTest):
    def test_twice_does_it_once_and_leads_to_the_same_page(self):
        done = []
        for _ in range(2):
            self.assertEqual(once(self.owner, "k1", lambda: done.append(1) or "/there/"), "/there/")
        self.assertEqual(done, [1])

    def test_a_refusal_leaves_the_key_free(self):
        def refuse():
            raise Refused("no")

        with self.assertRaises(Refused):
            once(self.owner, "k2", refuse)
        self.assertFalse(WriteKey.objects.filter(key="k2").exists())
        self.assertEqual(once(self.owner, "k2", lambda: "/there/"), "/there/")

    def test_another_person_cannot_ride_on_a_key(self):
        once(self.owner, "k3", lambda: "/there/")
        with self.assertRaises(Refused):
            once(self.viewer, "k3", lambda: "/elsewhere/")


class TwoAtOnce(TransactionTestCase):
    """Real transactions on two connections."""

    def setUp(self):
        fill_shop(self)
        (unit,) = ShopTest.receive(self)
        unit = ShopTest.hand(self).assess(unit)
        self.job = workshop.open_job(self.owner, unit, {"title": "Belt", "kind": "repair", "estimate_minutes": 5})

    def _fixture_teardown(self):
        with connection.cursor() as cursor:
            cursor.execute("SET @wendopolis_ledger_unlocked = 1")
        super()._fixture_teardown()
        with connection.cursor() as cursor:
            cursor.execute("SET @wendopolis_ledger_unlocked = NULL")

    def together(self, act, keys):
        """Run `act` under each key at the same moment; answers what each led to or was refused with."""
        barrier, ends = threading.Barrier(len(keys)), []

        def run(key):
            try:
                barrier.wait(5)
                ends.append(once(self.owner, key, act))
            except Refused as refusal:
                ends.append(refusal.message)
            finally:
                connection.close()

        threads = [threading.Thread(target=run, args=[key]) for key in keys]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join(20)
        return ends

    def issue(self, count):
        workshop.issue_part(self.owner, self.job, StockItem.objects.get(pk=self.part.pk), count)
        return "/done/"

    def test_the_last_parts_go_into_one_job(self):
        ends = self.together(lambda: self.issue(2), ["a", "b"])
        self.assertEqual(sorted(end[:4] for end in ends), ["/don", "Only"])
        self.assertEqual(StockItem.objects.get(pk=self.part.pk).quantity, 1)

    def test_two_buyers_get_two_lot_numbers(self):
        def record():
            return buying.record_lot(self.owner, lot_data(), [line_data()]).code

        self.assertEqual(sorted(self.together(record, ["a", "b", "c"])), ["L-002", "L-003", "L-004"])

    def test_a_double_click_issues_once(self):
        self.assertEqual(self.together(lambda: self.issue(1), ["same", "same"]), ["/done/", "/done/"])
        self.assertEqual(PartIssue.objects.count(), 1)
        self.assertEqual(PartIssue.objects.get().cost, Decimal("3.33"))
