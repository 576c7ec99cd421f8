"""Whatever becomes of parts, in any order: no cost is made or lost, no drawer goes below 0, a part is in one place.

Steps are drawn at random; one that is refused is refused in words and changes nothing.
"""

from datetime import timedelta
from decimal import Decimal

from django.db.models import F, Sum
from django.utils import timezone
from hypothesis import given
from hypothesis import strategies as st

from core.buying.share import Basis
from core.stock.parcel import Rest
from core.stock.parts import Condition, PartKind
from stations.books.selectors import complaints
from stations.buying.sharing import share_lot
from stations.common import clock
from stations.intake import receiving
from stations.intake import services as intake
from stations.ledger.models import Account, EntryKind, LedgerEntry
from stations.stock import orders
from stations.stock import services as stock
from stations.stock.models import PartOrder, StockCount, StockItem
from stations.stock.orders import Ordered, Terms
from stations.stock.services import Sort
from stations.units import parts
from stations.units.models import DrawerReceipt, Part, PartMove, Unit
from stations.units.parts import Described, Place, Worths
from stations.workshop import issuing
from stations.workshop import services as workshop
from stations.workshop.models import Job, PartIssue, Reservation
from stations.workshop.new_job import NewJob
from stations.workshop.taking_apart import SalvagedPart, take_apart
from tests.stations.test_any_order import CALM, NUMBERS, Shop

D = Decimal


class AnyOrderOfParts(Shop):
    days = 0

    def one(self, rows, pick: int):
        """Whichever of the rows the number picks; None of none."""
        found = list(rows.order_by("pk"))
        return found[pick % len(found)] if found else None

    def step(self, name: str, pick: int) -> None:
        self.days += 1
        with clock.at(timezone.now() + timedelta(days=self.days)):
            act = getattr(self, name.replace(" ", "_"))
            self.try_to(lambda: act(pick))

    # What may be done; each does nothing where there is nothing to do it to.

    def unit(self, pick: int) -> None:
        (unit,) = intake.receive(self.owner, (self.line, self.other_line)[pick % 2], 1, self.model, "shelf")
        self.hand().assess(unit, ("period", "donor")[pick % 3 == 0])

    def un_receive(self, pick: int) -> None:
        (unit,) = intake.receive(self.owner, self.line, 1, self.model, "shelf")
        receiving.un_receive(self.owner, unit, "a mistake")

    def into_drawer(self, pick: int) -> None:
        receiving.receive_into_drawer(self.owner, self.line, 1, Sort("Belt"), str(1 + pick % 30))

    def take_back(self, pick: int) -> None:
        if row := self.one(DrawerReceipt.objects.all(), pick):
            receiving.take_back_receipt(self.owner, row, "a mistake")

    def share(self, pick: int) -> None:
        share_lot(self.owner, self.lot, list(Basis)[pick % 3])

    def buy(self, pick: int) -> None:
        stock.stock_part(self.owner, Sort(("Belt", "Fuse")[pick % 2]), str(1 + pick % 7), D(pick % 1000) / 100)

    def buy_one(self, pick: int) -> None:
        parts.buy_part(self.owner, Described(PartKind.DISK, "Disk", worth=D(9)), D(pick % 3000) / 100, "F")

    def parcel(self, pick: int) -> None:
        order = orders.order_parts(
            self.owner,
            "Quay",
            Terms(currency="SEK", rate=D("0.088"), postage=D(pick % 90), duty=D(pick % 5)),
            [Ordered(Sort("Belt"), str(1 + pick % 5), D(pick % 777) / 7), Ordered(Sort("Fuse"), "3", D(4))],
        )
        first = order.lines.first()
        rest = list(Rest)[pick % 3]
        orders.take_in(self.owner, order, {first.pk: str(pick % 3)} if first else {}, rest=rest)
        if rest is Rest.LATER and pick % 2 and (later := order.rests.first()):
            orders.take_in(self.owner, later, {})

    def count(self, pick: int) -> None:
        if item := self.one(StockItem.objects.all(), pick):
            stock.count(self.owner, item, D(pick % 9), "counted")

    def turned_out(self, pick: int) -> None:
        if item := self.one(StockItem.objects.all(), pick):
            stock.correct_condition(self.owner, item, D(1), list(Condition)[pick % 5], "looked at")

    def job(self, pick: int) -> None:
        if unit := self.one(Unit.objects.all(), pick):
            workshop.open_job(self.owner, unit, NewJob(title="Belt", kind="repair", estimate_minutes=5))

    def hold(self, pick: int) -> None:
        job, item = self.one(Job.objects.all(), pick), self.one(StockItem.objects.all(), pick // 7)
        if job and item:
            issuing.reserve(self.owner, job, item, D(1 + pick % 3))

    def let_go(self, pick: int) -> None:
        if row := self.one(Reservation.objects.all(), pick):
            issuing.let_go(self.owner, row)

    def issue(self, pick: int) -> None:
        job, item = self.one(Job.objects.all(), pick), self.one(StockItem.objects.all(), pick // 7)
        if job and item:
            issuing.issue_part(self.owner, job, item, 1 + pick % 2)

    def fit(self, pick: int) -> None:
        if row := self.one(PartIssue.objects.filter(part=None), pick):
            issuing.fit_issue(self.owner, row, PartKind.OTHER, "inside", "S" * (pick % 2))

    def put_back(self, pick: int) -> None:
        if row := self.one(PartIssue.objects.all(), pick):
            issuing.return_part(self.owner, row)

    def finish(self, pick: int) -> None:
        if job := self.one(Job.objects.filter(done_at=None), pick):
            workshop.finish_job(self.owner, job, workshop.JobResult("done"))

    def found(self, pick: int) -> None:
        if unit := self.one(Unit.objects.all(), pick):
            described = Described(list(PartKind)[pick % 11], "Thing", worth=D(5), keeps_data=bool(pick % 2))
            parts.record_part(self.owner, Place(unit), described)

    def single_out(self, pick: int) -> None:
        if item := self.one(StockItem.objects.all(), pick):
            parts.single_out(self.owner, item, Described(PartKind.OTHER, item.name, keeps_data=False))

    def move(self, pick: int) -> None:
        part, unit = self.one(Part.objects.all(), pick), self.one(Unit.objects.all(), pick // 11)
        if part:
            place = Place(unit, "slot") if pick % 3 else Place(drawer="F")
            parts.move_part(self.owner, part, place, "", Worths(D(1 + pick % 50), D(50)))

    def swap(self, pick: int) -> None:
        one, other = self.one(Part.objects.all(), pick), self.one(Part.objects.all(), pick // 5)
        if one and other:
            parts.swap_parts(self.owner, one, other, "", (Worths(D(3), D(50)), Worths(D(7), D(50))))

    def with_others(self, pick: int) -> None:
        if part := self.one(Part.objects.all(), pick):
            parts.put_with_others(self.owner, part, Sort(part.name, part.condition))

    def gone(self, pick: int) -> None:
        if part := self.one(Part.objects.all(), pick):
            parts.part_gone(self.owner, part, "dropped")

    def take_apart(self, pick: int) -> None:
        if unit := self.one(Unit.objects.filter(approach="donor"), pick):
            kept = (
                SalvagedPart("Belt", "tested", "B", 1, D(1 + pick % 40)),
                SalvagedPart("Lead", "tested", "B", 2, D(3)),
            )
            take_apart(self.owner, unit, kept)

    STEPS = (
        *("unit", "unit", "into drawer", "buy", "buy one", "parcel", "job", "job", "hold", "issue", "issue", "fit"),
        *("put back", "found", "found", "single out", "move", "move", "move", "swap", "swap", "count", "turned out"),
        *("with others", "let go", "finish", "gone", "share", "take back", "un receive", "take apart"),
    )

    def holds(self) -> None:
        self.assertEqual(complaints(), [])
        self.assertEqual(LedgerEntry.objects.aggregate(sum=Sum("amount"))["sum"], 0)
        self.assertFalse(StockItem.objects.filter(quantity__lt=F("reserved")).exists())
        # Whatever was paid for parts lies in drawers, in parts, in machines, or was written off; none of it elsewhere.
        for part in Part.objects.all():
            places = (part.unit_id is not None) + (part.gone_at is not None) + part.in_stock
            self.assertEqual(places, 1)
        held = dict(Reservation.objects.values_list("item").annotate(total=Sum("quantity")))
        for item in StockItem.objects.all():
            self.assertEqual(item.reserved, held.get(item.pk, 0))

    @CALM
    @given(st.lists(st.tuples(st.sampled_from(STEPS), NUMBERS), max_size=40))
    def test_no_cost_is_made_or_lost_and_every_part_is_in_one_place(self, steps):
        for name, pick in steps:
            self.step(name, pick)
        self.holds()

    def test_the_steps_lead_everywhere(self):
        """What is drawn at random above can do all of it: nothing is proved by steps that are all refused."""
        for pick in range(9):
            for place, name in enumerate(self.STEPS):
                self.step(name, pick * 29 + place * 7)
        kinds = set(PartMove.objects.values_list("kind", flat=True))
        self.assertLessEqual({"found", "bought", "singled", "moved", "joined", "gone", "fitted"}, kinds)
        self.assertTrue(PartMove.objects.filter(from_unit__isnull=False, to_unit__isnull=False, cost__gt=0).exists())
        self.assertTrue(PartOrder.objects.filter(arrived_at__isnull=False).exists())
        self.assertTrue(StockCount.objects.exclude(cost=0).exists())
        self.assertTrue(DrawerReceipt.objects.filter(undone_at__isnull=False).exists())
        self.assertTrue(PartIssue.objects.filter(returned_at__isnull=False).exists())
        written = LedgerEntry.objects.filter(account=Account.LOSS, kind=EntryKind.WRITE_OFF)
        self.assertTrue(written.exists())
        self.holds()
