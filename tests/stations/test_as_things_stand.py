"""What would be refused as things stand is not offered, and the page says why."""

from dataclasses import replace
from decimal import Decimal

from django.urls import reverse

from stations.bench import services as bench
from stations.buying import plans
from stations.buying.models import SourceKind
from tests.stations.test_every_address import offers
from tests.stations.test_plans import LINE, TERMS
from tests.stations.test_strip_by_the_page import Opened
from tests.stations.test_through_the_pages import Through


class Shut(Through):
    def offered(self, page: str, *at, says: str = "") -> set[str]:
        answer = self.client.get(reverse(page, args=at))
        self.assertContains(answer, says)
        return set(offers(answer.content))

    def test_a_plan_that_is_settled(self):
        plan = plans.plan_bid(self.owner, TERMS)
        line = plans.add_line(self.owner, plan, replace(LINE, quantity=1))
        pages = ("buying:plan-terms", plan.number), ("buying:plan-line", plan.number, line.pk)
        for page, *at in pages:
            self.assertEqual(self.offered(page, *at), {"itself"})
        plans.buy(self.owner, self.again(plan), Decimal(20), SourceKind.PRIVATE)
        for page, *at in pages:
            self.assertEqual(self.offered(page, *at, says="it does not change any more"), set())

    def test_a_run_in_other_hands(self):
        unit = self.assessed()
        bench.start_run(self.technician, unit)
        there = self.offered("bench:unit", unit.number, says="Tom has this run in hand. Take it over first.")
        self.assertIn(reverse("bench:take-over", args=[unit.number]), there)
        self.assertNotIn("itself", there)
        refused = self.post("bench:unit", [unit.number], code="look-case", outcome="pass")
        self.assertContains(refused, "has this run in hand", count=1, status_code=422)
        self.done(self.post("bench:take-over", [unit.number]))
        self.assertIn("itself", self.offered("bench:unit", unit.number))

    def test_a_start_before_its_first_power(self):
        unit = self.assessed()
        start = reverse("bench:note-start", args=[unit.number])
        self.hand().test(unit, stop_at="look-battery")
        bench.end_run(self.owner, unit.runs.get())
        self.assertNotIn(start, self.offered("bench:unit", unit.number, says="It never passed first power"))
        self.hand().test(unit)
        self.assertIn(start, self.offered("bench:unit", unit.number))


class InATray(Opened):
    def test_what_is_off_is_in_it(self):
        page = reverse("workshop:strip-edit", args=[self.unit.number])
        self.assertNotContains(self.client.get(page), "off, in a tray")
        self.press_until("Supply")
        answer = self.client.get(page)
        self.assertContains(answer, "off, in a tray", count=1)
        self.assertNotContains(answer, 'name="remove" value="Lid"')
        self.assertContains(answer, 'name="remove" value="Supply"')
