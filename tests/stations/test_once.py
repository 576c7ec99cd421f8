"""A double press does the thing once; two people at once lose nothing."""

from decimal import Decimal

from stations.buying import services as buying
from stations.people.editing import once
from stations.people.models import WriteKey
from stations.people.refusals import Refused
from stations.workshop import services as workshop
from stations.workshop.models import PartIssue, StockItem
from tests.stations.base import AtOnce, ShopTest, line_data, lot_data


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


class TwoAtOnce(AtOnce):
    def setUp(self):
        super().setUp()
        (unit,) = ShopTest.receive(self)
        unit = ShopTest.hand(self).assess(unit)
        self.job = workshop.open_job(self.owner, unit, {"title": "Belt", "kind": "repair", "estimate_minutes": 5})

    def pressed(self, act, keys):
        """Press `act` under each key at the same moment."""
        return self.together(*(lambda key=key: once(self.owner, key, act) for key in keys))

    def issue(self, count):
        workshop.issue_part(self.owner, self.job, StockItem.objects.get(pk=self.part.pk), count)
        return "/done/"

    def test_the_last_parts_go_into_one_job(self):
        ends = self.pressed(lambda: self.issue(2), ["a", "b"])
        self.assertEqual(sorted(end[:4] for end in ends), ["/don", "Only"])
        self.assertEqual(StockItem.objects.get(pk=self.part.pk).quantity, 1)

    def test_two_buyers_get_two_lot_numbers(self):
        def record():
            return buying.record_lot(self.owner, lot_data(), [line_data()]).code

        self.assertEqual(sorted(self.pressed(record, ["a", "b", "c"])), ["L-002", "L-003", "L-004"])

    def test_a_double_click_issues_once(self):
        self.assertEqual(self.pressed(lambda: self.issue(1), ["same", "same"]), ["/done/", "/done/"])
        self.assertEqual(PartIssue.objects.count(), 1)
        self.assertEqual(PartIssue.objects.get().cost, Decimal("3.33"))
