"""Two people want the last piece at the same moment: one has it, the other is told who.

RACES=1000 in the environment runs as many as the attack does.
"""

import os
from decimal import Decimal

from core.stock.parts import PartKind
from stations.books.selectors import complaints
from stations.people.screens import once
from stations.stock import services as stock
from stations.stock.models import StockItem
from stations.stock.services import Sort
from stations.units import parts
from stations.units.models import Part
from stations.units.parts import Described, Place
from stations.workshop import issuing
from stations.workshop import services as workshop
from stations.workshop.models import PartIssue, Reservation
from stations.workshop.new_job import NewJob
from tests.stations.base import AtOnce

RACES = int(os.environ.get("RACES", "12"))
JOB = NewJob(title="Belt", kind="repair", estimate_minutes=5)


class TheLastPiece(AtOnce):
    def setUp(self):
        super().setUp()
        units = [self.assessed(), self.assessed()]
        self.units = units
        self.jobs = [workshop.open_job(self.owner, unit, JOB) for unit in units]

    def item(self) -> StockItem:
        return StockItem.objects.get(name="Last")

    def race(self, *acts) -> list:
        """Each as a page would do it: again after a deadlock. One of them is done."""
        ends = self.together(*[lambda act=act: once(self.owner, "", lambda: act() and "/done/") for act in acts])
        self.assertEqual(ends.count("/done/"), 1, ends)
        return [end for end in ends if end != "/done/"]

    def test_issued_held_and_counted_away(self):
        for turn in range(RACES):
            stock.stock_part(self.owner, Sort("Last"), 1, Decimal("1.00"), another=True)
            if turn % 3 == 0:
                acts = [lambda job=job: issuing.issue_part(self.owner, job, self.item(), 1) for job in self.jobs]
            elif turn % 3 == 1:
                acts = [
                    lambda: issuing.reserve(self.owner, self.jobs[0], self.item(), Decimal(1)),
                    lambda: issuing.issue_part(self.owner, self.jobs[1], self.item(), 1),
                ]
            else:
                part = Described(PartKind.OTHER, "Last", keeps_data=False)
                acts = [
                    lambda part=part: parts.single_out(self.owner, self.item(), part),
                    lambda: issuing.issue_part(self.owner, self.jobs[0], self.item(), 1),
                ]
            (words,) = self.race(*acts)
            self.assertRegex(words, "Only 0")
            item = self.item()
            self.assertGreaterEqual(item.quantity, item.reserved)
            for held in Reservation.objects.all():
                issuing.issue_part(self.owner, held.job, item, 1)
            self.assertEqual(self.item().quantity, 0)
        self.assertEqual(PartIssue.objects.count() + Part.objects.count(), RACES)
        self.assertEqual(complaints(), [])

    def test_a_part_goes_into_one_machine(self):
        part = parts.buy_part(self.owner, Described(PartKind.CHIP, "Chip"), Decimal("2.00"), "F1")
        for _ in range(RACES):
            ends = self.together(
                *[
                    lambda unit=unit: once(
                        self.owner, "", lambda: str(parts.move_part(self.owner, part, Place(unit)).pk) and "/done/"
                    )
                    for unit in self.units
                ]
            )
            # One after the other is no harm: it went on from there. It is never in both.
            self.assertIn("/done/", ends)
            now = Part.objects.get()
            self.assertIn(now.unit, self.units)
            self.assertEqual(complaints(), [])
            parts.move_part(self.owner, now, Place(drawer="F1"))
