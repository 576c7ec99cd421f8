from decimal import Decimal

from django.db import IntegrityError, connection, transaction
from django.test.utils import CaptureQueriesContext

from core.bench.plan import Outcome
from stations.bench import services as bench
from stations.bench.models import StepResult, TestRun
from stations.common.refusals import NotAllowed, Refused
from tests.hands import a_reading
from tests.stations.base import ShopTest


class Running(ShopTest):
    def start(self):
        unit = self.assessed()
        return unit, bench.start_run(self.technician, unit)

    def pass_until(self, run, code):
        for check in bench.plan_of(run):
            if check.code == code:
                return
            bench.record_result(self.technician, run, check.code, Outcome.PASS, a_reading(check))

    def test_not_before_intake_is_finished_and_one_at_a_time(self):
        (unit,) = self.receive()
        with self.assertRaisesRegex(Refused, "Don’t power it yet"):
            bench.start_run(self.technician, unit)
        unit = self.hand().assess(unit)
        bench.start_run(self.technician, unit)
        with self.assertRaisesRegex(Refused, "open already"):
            bench.start_run(self.technician, unit)

    def test_a_locked_step_is_refused_in_words(self):
        _, run = self.start()
        with self.assertRaisesRegex(Refused, "Locked until “Battery has not leaked” is passed"):
            bench.record_result(self.technician, run, "power-first", Outcome.PASS)

    def test_a_gate_is_waived_by_an_owner_with_a_reason_only(self):
        _, run = self.start()
        self.pass_until(run, "safe-tube")
        with self.assertRaises(NotAllowed):
            bench.record_result(self.technician, run, "safe-tube", Outcome.WAIVED, reason="no probe")
        with self.assertRaisesRegex(Refused, "Say why"):
            bench.record_result(self.owner, run, "safe-tube", Outcome.WAIVED)
        result = bench.record_result(self.owner, run, "safe-tube", Outcome.WAIVED, reason="done by a tube specialist")
        self.assertEqual(result.outcome, "waived")

    def test_readings_are_judged_with_their_uncertainty(self):
        _, run = self.start()
        self.pass_until(run, "supply-5v")
        for typed, field, words in (
            ("", "reading", "Type the reading"),
            ("five", "reading", "Type a number"),
            ("5 A", "reading", "read in V"),
            ("4.1", "reading", "outside the limits"),
            ("5.24", "reason", "Too close to call"),
            ("5060", "reading", "Did you read 5060 mV"),
        ):
            with self.subTest(typed), self.assertRaises(Refused) as caught:
                bench.record_result(self.technician, run, "supply-5v", Outcome.PASS, typed)
            self.assertEqual(caught.exception.field, field)
            self.assertIn(words, caught.exception.message)
        result = bench.record_result(self.technician, run, "supply-5v", Outcome.PASS, "5060 mV")
        self.assertEqual((result.reading, result.verdict), (Decimal("5.06"), "inside"))
        self.assertEqual(result.uncertainty, Decimal("0.0453"))

    def test_results_are_added_never_edited(self):
        _, run = self.start()
        bench.record_result(self.technician, run, "look-case", Outcome.FAIL, reason="loose plug")
        bench.record_result(self.technician, run, "look-case", Outcome.PASS)
        self.assertEqual(list(StepResult.objects.values_list("outcome", flat=True)), ["fail", "pass"])
        self.assertEqual(bench.steps_of(run)[0].state.value, "passed")

    def test_the_last_step_finishes_the_run_and_proves_the_unit(self):
        unit = self.assessed()
        self.hand().test(unit)
        self.assertIsNotNone(TestRun.objects.get().finished_at)
        self.assertEqual(self.again(unit).stage, "proven")

    def test_a_failed_safety_gate_is_a_hold(self):
        unit = self.assessed()
        self.hand().test(unit, fail={"safe-tube": "probe broken"}, end=False)
        self.assertEqual((self.again(unit).state, self.again(unit).station), ("hold", "bench"))

    def test_a_finished_run_takes_nothing_more(self):
        unit = self.assessed()
        run = self.hand().test(unit, fail={"fn-picture": "no picture"})
        with self.assertRaisesRegex(Refused, "finished"):
            bench.record_result(self.technician, run, "fn-picture", Outcome.PASS)
        self.assertEqual(self.again(unit).state, "stuck")

    def test_the_database_wants_a_reason_for_a_fail(self):
        _, run = self.start()
        result = bench.record_result(self.technician, run, "look-case", Outcome.FAIL, reason="burn mark")
        with self.assertRaises(IntegrityError), transaction.atomic():
            StepResult.objects.filter(pk=result.pk).update(reason="")

    def test_two_results_for_one_unit_cost_the_same_queries_as_the_first(self):
        """Recording a step near the end of a plan asks no more of the database than near its beginning."""
        _, run = self.start()
        with self.assertNumQueries(self.cost_of(run, "look-case")):
            bench.record_result(self.technician, run, "look-battery", Outcome.PASS)

    def cost_of(self, run, code) -> int:
        with CaptureQueriesContext(connection) as queries:
            bench.record_result(self.technician, run, code, Outcome.PASS)
        return len(queries)
