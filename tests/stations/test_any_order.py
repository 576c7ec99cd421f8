"""Whatever people do, in whatever order: the books add up, the stages agree, and no gate is passed by a detour.

Steps are drawn at random; one that is refused is refused in words and changes nothing.
"""

from datetime import timedelta
from decimal import Decimal
from io import StringIO

from django.core.management import call_command
from django.db import transaction
from django.db.models import Sum
from django.utils import timezone
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from hypothesis.extra.django import TestCase

from core.bench.plan import OPENS, Outcome
from core.buying.share import Basis
from core.machine.approach import Approach
from stations.bench import fault_view, faults, fixes, timers
from stations.bench import services as bench
from stations.bench.fixes import sureness_of
from stations.bench.models import StepResult, TestRun
from stations.books.selectors import complaints
from stations.buying.not_come import say_not_come
from stations.buying.sharing import share_lot
from stations.common import clock
from stations.common.refusals import Refused
from stations.intake import services as intake
from stations.intake import settling
from stations.ledger.models import LedgerEntry
from stations.selling import services as selling
from stations.stock import services as stock
from stations.stock.models import StockItem
from stations.units.models import Unit
from stations.workshop import issuing
from stations.workshop import services as workshop
from stations.workshop.models import Job, PartIssue
from stations.workshop.new_job import NewJob
from stations.workshop.services import JobResult
from stations.workshop.taking_apart import SalvagedPart, take_apart
from tests.hands import Hand
from tests.stations.base import AtWork, fill_shop

D = Decimal
CALM = settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.too_slow])
NUMBERS = st.integers(0, 10**6)


class Shop(AtWork, TestCase):
    """The small shop, made once; every example begins from it."""

    @classmethod
    def setUpTestData(cls):
        fill_shop(cls)

    def try_to(self, act) -> None:
        """Do it, or be refused in words."""
        try:
            with transaction.atomic():
                act()
        except Refused as refusal:
            self.assertRegex(refusal.message, r"^\S.*\S$")


class AnyOrderOfWork(Shop):
    days = 0

    def hand(self) -> Hand:
        return Hand(self.owner, clock.now())

    def step(self, name: str, pick: int) -> None:
        """One step of the work, on whatever unit, part or job the number picks; each on a day of its own."""
        self.days += 1
        with clock.at(timezone.now() + timedelta(days=self.days)):
            self.one_step(name, pick)

    def one_step(self, name: str, pick: int) -> None:
        units = list(Unit.objects.order_by("pk"))
        if name == "receive":
            self.try_to(lambda: intake.receive(self.owner, self.line, 1 + pick % 2, self.model, "shelf"))
        elif name == "share":
            basis = list(Basis)[pick % len(Basis)]
            self.try_to(lambda: share_lot(self.owner, self.lot, basis))
        elif name == "missing":
            line = (self.line, self.other_line)[pick % 2]
            self.try_to(lambda: say_not_come(self.owner, self.again(line), pick % 4, "never sent"))
        elif name == "buy parts":
            self.try_to(lambda: stock.buy_stock(self.owner, self.part, 1 + pick % 5, D(pick % 1000) / 100))
        elif units:
            self.on_a_unit(name, units[pick % len(units)], pick)

    def on_a_unit(self, name: str, unit: Unit, pick: int) -> None:
        approach = (Approach.PERIOD, Approach.DONOR)[pick % 2]
        acts = {
            "assess": lambda: self.hand().assess(unit, approach),
            "finding": lambda: self.hand().find(unit, "front", "crack", 1 + pick % 3, "a crack"),
            "job": lambda: workshop.open_job(self.owner, unit, NewJob(title="Belt", kind="repair", estimate_minutes=5)),
            "write off": lambda: settling.write_off(self.owner, unit, "crushed"),
            "park": lambda: settling.park(self.owner, unit, "waiting"),
            "take apart": lambda: take_apart(
                self.owner,
                unit,
                (
                    SalvagedPart("Board", "untested", "B", 1, D(1 + pick % 40)),
                    SalvagedPart("Lead", "tested", "B", 2, D(3)),
                ),
            ),
            "sell": lambda: selling.sell(self.owner, unit, D(20 + pick % 200), "A. Ruhl", D(9)),
            "prove": lambda: self.hand().test(unit),
            "clear": lambda: settling.record_sanitisation(self.owner, unit, "clear", "read back"),
            "offer": lambda: self.hand().offer(unit, "150", pictures=1),
        }
        if name in acts:
            self.try_to(acts[name])
        else:
            self.on_a_job(name, Job.objects.filter(unit=unit).order_by("pk").last(), pick)

    def on_a_job(self, name: str, job: Job | None, pick: int) -> None:
        if job is None:
            return
        item = StockItem.objects.order_by("pk")[pick % StockItem.objects.count()]
        issue = job.issues.filter(returned_at__isnull=True).first()
        acts = {
            "issue": lambda: issuing.issue_part(self.owner, job, item, 1 + pick % 2),
            "labour": lambda: workshop.log_labour(self.owner, job, 1 + pick % 90),
            "finish": lambda: workshop.finish_job(self.owner, job, JobResult("done")),
        }
        if name == "put back" and issue:
            self.try_to(lambda: issuing.return_part(self.owner, issue))
        elif name in acts:
            self.try_to(acts[name])

    STEPS = (
        *("receive", "receive", "assess", "assess", "job", "issue", "labour", "put back", "finish"),
        *(
            "share",
            "missing",
            "buy parts",
            "take apart",
            "prove",
            "clear",
            "offer",
            "sell",
            "finding",
            "park",
            "write off",
        ),
    )

    @CALM
    @given(st.lists(st.tuples(st.sampled_from(STEPS), NUMBERS), max_size=40))
    def test_every_cent_stands_somewhere_and_every_stage_agrees(self, steps):
        for name, pick in steps:
            self.step(name, pick)
        self.assertEqual(complaints(), [])
        self.assertEqual(LedgerEntry.objects.aggregate(sum=Sum("amount"))["sum"], 0)
        self.assertEqual(StockItem.objects.filter(quantity__lt=0).count(), 0)
        out = StringIO()
        call_command("rebuild_stages", "--check", stdout=out)
        self.assertIn(" 0 differ", out.getvalue())

    def test_the_steps_lead_everywhere(self):
        """What is drawn at random above can do all of it: nothing is proved by steps that are all refused."""
        for pick in range(6):
            # What is sold or at work on is not written off, so one of them is before anything else is done.
            for name in self.STEPS if pick != 2 else ("receive", "write off", *self.STEPS):
                self.step(name, pick)
        kinds = set(LedgerEntry.objects.values_list("kind", flat=True))
        self.assertLessEqual({"purchase", "allocation", "part_issued", "labour", "sale"}, kinds)
        self.assertLessEqual({"write_off", "part_recovered"}, kinds)
        self.assertTrue(PartIssue.objects.filter(returned_at__isnull=False).exists())
        self.assertEqual(complaints(), [])


class AnyOrderAtTheBench(Shop):
    takes = 45

    @CALM
    @given(
        st.lists(
            st.tuples(NUMBERS, st.sampled_from(list(Outcome)), st.sampled_from(["", "5.0 V", "0.1", "60", "9e9"])),
            max_size=60,
        )
    )
    def test_nothing_is_recorded_behind_a_gate_that_is_shut(self, tries):
        unit = self.assessed()
        run = bench.start_run(self.technician, unit)
        checks = bench.plan_of(run)
        for pick, outcome, typed in tries:
            # Near the front of the plan more often than not, as people would; but anywhere.
            check = checks[min(pick % len(checks), (pick // 7) % len(checks))]
            who = self.owner if outcome is Outcome.WAIVED else self.technician
            self.try_to(lambda: bench.record_result(who, run, check.code, outcome, typed, "tried"))  # noqa: B023
        opened: set[str] = set()
        for result in StepResult.objects.filter(run=run).order_by("id"):
            place = next(i for i, c in enumerate(checks) if c.code == result.code)
            gates = {c.code for c in checks[:place] if c.gate}
            self.assertLessEqual(gates, opened, f"{result.code} was recorded before its gates were passed")
            if Outcome(result.outcome) in OPENS:
                opened.add(result.code)
            else:
                opened.discard(result.code)
        self.assertEqual(TestRun.objects.filter(open_for=unit).count(), int(self.again(run).finished_at is None))

    @CALM
    @given(st.lists(st.tuples(st.booleans(), st.booleans(), st.booleans()), max_size=40))
    def test_more_clean_starts_never_make_us_less_sure_and_a_failed_one_undoes_a_fix(self, starts):
        unit = self.assessed()
        self.hand().test(unit)
        case = faults.open_case(self.technician, unit, "random")
        faults.close_case(self.technician, case, "memory", "", "two chips replaced")
        fixed, bound = self.again(case).closed_at, 1.0
        for number, (passed, cold, closed) in enumerate(starts, 1):
            with clock.at(fixed + timedelta(hours=13 * number)):
                words = "" if passed else "froze"
                bench.note_start(self.technician, unit, passed, closed, words, warm=not cold)
            trials = fixes.trials_of(unit)
            ((_, standing),) = fixes.fixes_of(unit, trials)
            failed = any(not ok for ok, _, _ in starts[:number])
            self.assertEqual(standing.fix.value == "failed", failed)
            self.assertEqual(
                standing.fix.value == "confirmed",
                not failed and any(c for _, c, _ in starts[:number]) and any(x for _, _, x in starts[:number]),
            )
            now = sureness_of(unit).could_be
            if passed:
                self.assertLessEqual(now, bound + 1e-9)
            bound = now

    @CALM
    @given(st.lists(st.tuples(st.booleans(), NUMBERS), max_size=25))
    def test_chances_of_a_fault_always_add_up_whatever_is_answered(self, answers):
        unit = self.assessed()
        case = faults.open_case(self.technician, unit, "no-picture")
        for said, pick in answers:
            view = fault_view.look_at(self.again(case))
            if not view.offered:
                break
            action = view.offered[pick % len(view.offered)].next.action
            faults.record_try(self.technician, case, action.code, said, f"setting {pick}")
            now = self.again(case).now
            self.assertAlmostEqual(sum(now), 1, places=6)
            self.assertTrue(all(0 <= p <= 1 for p in now))

    def test_timers_go_on_while_other_units_are_worked_on(self):
        for unit in self.receive(3):
            unit = Hand(self.owner, timezone.now() - timedelta(days=2)).assess(unit)
            timers.start(self.owner, self.hand().test(unit, stop_at="soak"), "soak")
        self.assertEqual(timers.running().count(), 3)
