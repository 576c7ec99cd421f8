"""Two people do the same thing at the same moment, at every station: it is done once, and the other is told."""

from decimal import Decimal
from unittest.mock import patch

from django.db import OperationalError, transaction
from django.test import Client

from core.bench.plan import Outcome
from core.buying.share import Basis
from simulators.bank import entry, statement
from stations.bench import faults, notes, timers
from stations.bench import services as bench
from stations.bench.models import FaultCase, StepTimer, TestRun
from stations.books.selectors import complaints
from stations.buying import manifests, plans
from stations.buying import services as buying
from stations.buying.models import Lot, SourceKind, TurnedOut
from stations.buying.sharing import share_lot
from stations.catalogue.models import MachineModel
from stations.common import clock
from stations.common.keys import new_key
from stations.dispatch import bank
from stations.dispatch.models import BankLine
from stations.intake import services as intake
from stations.intake import settling
from stations.ledger.models import Account
from stations.ledger.selectors import balance
from stations.people.screens import once
from stations.selling import services as selling
from stations.selling.models import Channel, Payment, Sale
from stations.stock.models import StockItem
from stations.units import findings
from stations.units.models import Finding, Unit
from stations.workshop import services as workshop
from stations.workshop import settings
from stations.workshop.models import LabourEntry
from stations.workshop.new_job import NewJob
from stations.workshop.taking_apart import SalvagedPart, take_apart
from tests.hands import a_reading
from tests.stations.base import AtOnce, line_data, lot_data
from tests.stations.test_manifests import COLUMNS, GOOD
from tests.stations.test_plans import LINE, TERMS

D = Decimal


class AtTheSameMoment(AtOnce):
    def one_of(self, ends, says: str) -> None:
        """Exactly one of them was refused, in these words."""
        refused = [end for end in ends if isinstance(end, str)]
        self.assertEqual(len(refused), len(ends) - 1, ends)
        for words in refused:
            self.assertIn(says, words)

    # Buying

    def test_a_plan_becomes_one_lot(self):
        plan = plans.plan_bid(self.owner, TERMS)
        plans.add_line(self.owner, plan, LINE)
        self.one_of(self.together(*[lambda: plans.buy(self.owner, plan, D(300), SourceKind.PRIVATE)] * 2), "is bought")
        self.assertEqual(Lot.objects.count(), 2)
        self.assertEqual(complaints(), [])

    def test_a_plan_is_looked_at_while_lines_are_added(self):
        """The page reads the lines more than once; what is added in between is on the next look."""
        plan = plans.plan_bid(self.owner, TERMS)
        plans.add_line(self.owner, plan, LINE)

        def look():
            client = Client()
            client.force_login(self.owner, backend="django.contrib.auth.backends.ModelBackend")
            return [client.get(f"/buying/plans/P-{plan.number}/").status_code for _ in range(4)]

        def add():
            return [plans.add_line(self.owner, plan, LINE).position for _ in range(4)]

        ends = self.together(look, add, look, add)
        self.assertEqual([end for end in ends if end[0] == 200], [[200] * 4] * 2)
        self.assertEqual(sorted(plan.lines.values_list("position", flat=True)), list(range(1, 10)))

    def test_a_lot_shared_twice_still_adds_up(self):
        self.together(
            lambda: share_lot(self.owner, self.lot, Basis.COUNT), lambda: share_lot(self.owner, self.lot, Basis.WEIGHT)
        )
        self.assertEqual(complaints(), [])
        carried = balance(Account.LINE, self.line.pk) + balance(Account.LINE, self.other_line.pk)
        self.assertEqual(carried, D("130.00"))

    def test_a_manifest_is_taken_in_once(self):
        bare = buying.record_lot(self.owner, lot_data(), [line_data()])
        manifest = manifests.upload(self.owner, bare, "list.csv", GOOD)

        def take_in():
            manifests.import_manifest(self.owner, manifest, COLUMNS, finish_cost=D(0))

        self.one_of(self.together(*[take_in] * 2), "already")
        self.assertEqual(bare.lines.count(), 3)

    # Intake

    def test_no_more_is_received_than_was_bought_and_no_number_twice(self):
        ends = self.together(*[lambda: intake.receive(self.owner, self.line, 2, self.model, "shelf")] * 2)
        self.assertEqual(sorted(type(end) for end in ends if isinstance(end, str)), [str])
        numbers = list(Unit.objects.values_list("number", flat=True))
        self.assertEqual((len(numbers), len(set(numbers))), (2, 2))
        self.assertEqual(complaints(), [])

    def test_findings_of_two_people_both_stay(self):
        (unit,) = self.receive()
        seen = findings.Observation("front", "scratch", 0.5, 0.5, severity=2)
        self.together(*[lambda: findings.add_finding(self.technician, unit, seen)] * 3)
        self.assertEqual(Finding.objects.filter(unit=unit).count(), 3)

    def test_a_unit_is_written_off_once(self):
        (unit,) = self.receive()
        self.together(*[lambda: settling.write_off(self.owner, unit, "crushed")] * 2)
        self.assertEqual(self.again(unit).stage, "scrapped")
        self.assertEqual(balance(Account.UNIT, unit.pk), 0)
        self.assertEqual(complaints(), [])

    # Bench

    def test_one_run_is_opened(self):
        unit = self.assessed()
        ends = self.together(lambda: bench.start_run(self.owner, unit), lambda: bench.start_run(self.technician, unit))
        self.one_of(ends, "open already")
        self.assertEqual(TestRun.objects.filter(open_for=unit).count(), 1)

    def test_only_who_holds_the_run_records(self):
        run = bench.start_run(self.technician, self.assessed())
        code = run.plan[0]
        ends = self.together(
            lambda: bench.record_result(self.technician, run, code, Outcome.PASS),
            lambda: bench.record_result(self.owner, run, code, Outcome.FAIL, reason="rust"),
        )
        self.one_of(ends, "Take it over")
        self.assertEqual(run.results.get().who, self.technician)

    def test_a_run_ends_once(self):
        run = bench.start_run(self.technician, self.assessed())
        self.one_of(
            [end or object() for end in self.together(*[lambda: bench.end_run(self.technician, run)] * 2)], "finished"
        )

    def test_one_timer_and_one_fault(self):
        unit = self.assessed()
        run = self.hand().test(unit, stop_at="soak")
        self.together(*[lambda: timers.start(self.owner, run, "soak")] * 2)
        self.assertEqual(StepTimer.objects.filter(stopped_at=None).count(), 1)
        ends = self.together(*[lambda: faults.open_case(self.technician, unit, "dead")] * 2)
        self.one_of(ends, "already")
        self.assertEqual(FaultCase.objects.count(), 1)

    # Workshop and selling

    def test_a_donor_is_taken_apart_once(self):
        unit = self.assessed("donor")
        parts = (SalvagedPart("Display board", "untested", "B2", 1, D(30)),)
        self.one_of(self.together(*[lambda: take_apart(self.technician, unit, parts)] * 2), "taken apart")
        self.assertEqual(StockItem.objects.get(name="Display board").quantity, 1)
        self.assertEqual(TurnedOut.objects.count(), 1)
        self.assertEqual(complaints(), [])

    def test_a_unit_is_sold_once(self):
        unit = self.listed()
        ends = self.together(
            lambda: selling.sell(self.owner, unit, D(150), "A. Ruhl", D(9)),
            lambda: selling.sell(self.seller, unit, D(150), "B. Sund", D(9)),
        )
        self.assertEqual(len([end for end in ends if isinstance(end, str)]), 1, ends)
        self.assertEqual(Sale.objects.count(), 1)
        self.assertEqual(complaints(), [])

    def test_a_sum_at_the_bank_is_booked_once_and_a_statement_taken_in_once(self):
        first, second = self.listed(), self.listed()
        sales = [selling.sell(self.seller, unit, D(150), "Ines Falk", D(9)) for unit in (first, second)]
        day = clock.today().isoformat()
        data = statement(entry("150", day, "A"), moved="150")

        def take_in():
            return once(self.seller, new_key(), lambda: str(bank.take_in(self.seller, "one.xml", data).new))

        self.assertEqual(sorted(self.together(take_in, take_in)), ["0", "1"])
        line = BankLine.objects.get()
        ends = self.together(*[lambda sale=sale: bank.book(self.seller, line, [sale]) for sale in sales])
        self.one_of(ends, "All of it is booked")
        self.assertEqual(Payment.objects.count(), 1)
        self.assertEqual(complaints(), [])

    def test_sold_ended_and_written_off_at_once_is_one_of_them(self):
        unit = self.listed()
        self.together(
            lambda: once(self.owner, "a", lambda: str(selling.sell(self.owner, unit, D(150), "A. Ruhl", D(9)))),
            lambda: once(self.owner, "b", lambda: str(selling.end_listing(self.owner, unit, ""))),
            lambda: once(self.owner, "c", lambda: str(settling.write_off(self.owner, unit, "crushed"))),
        )
        unit = self.again(unit)
        self.assertEqual(Sale.objects.count(), int(unit.stage == "sold"))
        self.assertNotEqual((unit.stage, unit.scrapped_at is None), ("sold", False))
        self.assertEqual(complaints(), [])

    def test_one_clock_a_person(self):
        unit = self.assessed()
        jobs = [workshop.open_job(self.owner, unit, NewJob(title=t, kind="repair")) for t in ("Belt", "Feet")]
        ends = self.together(
            *[lambda job=job: once(self.owner, "", lambda: str(workshop.start_clock(self.owner, job))) for job in jobs]
        )
        # Whoever was second stopped the first, and booked it: one runs.
        self.assertEqual(LabourEntry.objects.filter(running_for=self.owner).count(), 1, ends)
        self.assertEqual(LabourEntry.objects.exclude(ended_at=None).count(), 1, ends)
        self.assertEqual(complaints(), [])

    def test_a_new_channel_and_a_new_model_of_one_name(self):
        terms = {"name": "Fair", "fee_percent": 0, "fee_fixed": 0}
        for act in (
            lambda: selling.add_channel(self.owner, Channel(**terms)),
            lambda: MachineModel.objects.create(maker="Halden", name="M9", form_factor="desktop"),
        ):
            ends = self.together(*[lambda act=act: once(self.owner, "", lambda: act() and "/made/")] * 3)
            self.assertEqual(ends.count("/made/"), 1, ends)
            self.assertEqual(len([end for end in ends if "same name or number" in end]), 2, ends)

    # The way every write ends

    def test_steps_and_notes_on_two_units_by_one_person_stand_in_nobodys_way(self):
        units = self.receive(2)
        runs = [bench.start_run(self.owner, self.hand().assess(unit)) for unit in units]
        for check in bench.plan_of(runs[0])[:9]:
            reading = a_reading(check)

            def step(run, code=check.code, typed=reading):
                return once(
                    self.owner, "", lambda: bench.record_result(self.owner, run, code, Outcome.PASS, typed).code
                )

            def note(run, code=check.code):
                return once(self.owner, "", lambda: notes.add(self.owner, run, code, "hums").words)

            ends = self.together(
                *[lambda run=run: step(run) for run in runs], *[lambda run=run: note(run) for run in runs]
            )
            self.assertEqual(sorted(ends), sorted([check.code] * 2 + ["hums"] * 2))

    def test_what_was_undone_by_a_deadlock_is_done_again_whole_and_once(self):
        turns = []

        def act():
            turns.append(1)
            item = StockItem.objects.create(name=f"Fuse {len(turns)}")
            if len(turns) < 3:
                raise OperationalError(1213, "Deadlock found when trying to get lock")
            return item.name

        self.assertEqual(once(self.owner, "k1", act, again=lambda: turns.append(0) or turns.pop()), "Fuse 3")
        self.assertEqual(
            list(StockItem.objects.filter(name__startswith="Fuse").values_list("name", flat=True)), ["Fuse 3"]
        )
        self.assertEqual(once(self.owner, "k1", act), "Fuse 3")
        for code in (2002, 1213):
            with self.assertRaises(OperationalError), transaction.atomic():
                once(self.owner, "", lambda code=code: _break(code))
        with self.assertRaises(OperationalError):
            once(self.owner, "", lambda: _break(2002))

    def test_a_form_is_whole_for_the_second_go(self):
        """What the first go took out of what was typed is there again when a deadlock undid it."""
        unit, kept, turns = self.assessed(), settings.record_setting, []

        def in_the_way(*given):
            turns.append(given)
            if len(turns) == 1:
                _break(1213)
            kept(*given)

        self.client.force_login(self.owner, backend="django.contrib.auth.backends.ModelBackend")
        typed = {"name": "J3", "kind": "link", "was": "3: 1-2", "set_to": "3: 2-3", "means": "bank 3", "version": 1}
        with patch.object(settings, "record_setting", in_the_way):
            answer = self.client.post(f"/workshop/W-{unit.number}/settings/", typed | {"write_key": ""})
        self.assertEqual((answer.status_code, len(turns)), (302, 2))
        self.assertEqual((unit.settings.get().name, unit.settings.get().means), ("J3", "bank 3"))


def _break(code: int) -> str:
    raise OperationalError(code, "it broke")
