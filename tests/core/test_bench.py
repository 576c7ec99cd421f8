from decimal import Decimal
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from core.bench.check_library import LIBRARY
from core.bench.checks import BenchFacts, Group, Limits
from core.bench.plan import OPENS, Outcome, StepState, complete, make_plan, plan_steps, refusal
from core.bench.rails import for_rails
from core.bench.verdict import Accuracy, Verdict, judge, suspicious_scale
from core.machine.supply import Battery, Supply

D = Decimal
FACTS = st.builds(
    BenchFacts,
    supply=st.sampled_from(Supply),
    battery=st.sampled_from(Battery),
    picture_tube=st.booleans(),
    drives=st.integers(0, 4),
    keyboard=st.booleans(),
    rework_found=st.booleans(),
)
FIVE_VOLTS = Limits(D("4.75"), D("5.25"), "V", D("5.00"))


def codes(**facts) -> set[str]:
    return {check.code for check in make_plan(BenchFacts(**{"supply": Supply.SWITCHING, **facts}))}


class ThePlan(TestCase):
    def test_is_made_for_the_machine(self):
        self.assertIn("safe-tube", codes(picture_tube=True))
        self.assertNotIn("safe-tube", codes(picture_tube=False))
        self.assertIn("look-battery", codes(battery=Battery.NICD))
        self.assertIn("look-battery", codes(battery=Battery.BOTH))
        self.assertNotIn("look-battery", codes(battery=Battery.NONE))
        self.assertIn("fn-drives", codes(drives=1))
        self.assertNotIn("fn-drives", codes(drives=0))
        self.assertIn("fn-keyboard", codes(keyboard=True))
        self.assertNotIn("fn-keyboard", codes(keyboard=False))
        self.assertIn("safe-adapter", codes(supply=Supply.EXTERNAL_AC))
        self.assertNotIn("safe-earth", codes(supply=Supply.EXTERNAL_AC))
        self.assertIn("safe-supply", codes(supply=Supply.SWITCHING))
        self.assertNotIn("safe-supply", codes(supply=Supply.LINEAR))
        self.assertIn("safe-linear", codes(supply=Supply.LINEAR))

    @given(FACTS)
    def test_making_safe_comes_before_first_power(self, facts):
        order = [check.code for check in make_plan(facts)]
        for check in make_plan(facts):
            if check.safety:
                self.assertLess(order.index(check.code), order.index("power-first"), check.code)

    def test_codes_are_unique(self):
        self.assertEqual(len({check.code for check in LIBRARY}), len(LIBRARY))

    def test_every_hazard_step_carries_its_caution(self):
        self.assertTrue(all(check.cautions for check in LIBRARY if check.safety))


class Gates(TestCase):
    @given(FACTS, st.data())
    def test_no_order_of_calls_passes_a_gate(self, facts, data):
        """Whatever is tried in whatever order, nothing is recorded behind a gate that has not opened."""
        plan, latest = make_plan(facts), {}
        for _ in range(data.draw(st.integers(0, 60))):
            check = data.draw(st.sampled_from(plan))
            outcome = data.draw(st.sampled_from(Outcome))
            if refusal(plan_steps(plan, latest), check.code, outcome):
                continue
            before = plan[: plan.index(check)]
            self.assertTrue(all(latest.get(gate.code) in OPENS for gate in before if gate.gate))
            latest[check.code] = outcome

    @given(FACTS)
    def test_one_step_is_now_until_all_are_settled(self, facts):
        plan, latest = make_plan(facts), {}
        for check in plan:
            steps = plan_steps(plan, latest)
            self.assertEqual([r.check for r in steps if r.state is StepState.NOW], [check])
            self.assertFalse(complete(steps))
            latest[check.code] = Outcome.PASS
        self.assertTrue(complete(plan_steps(plan, latest)))

    def test_a_gate_failed_again_locks_what_was_passed_behind_it(self):
        plan = make_plan(BenchFacts(Supply.SWITCHING))
        latest = {check.code: Outcome.PASS for check in plan} | {"safe-earth": Outcome.FAIL}
        by_code = {step.check.code: step for step in plan_steps(plan, latest)}
        self.assertEqual(by_code["power-first"].state, StepState.LOCKED)
        self.assertIn("earth", by_code["power-first"].locked_by)

    def test_a_gate_is_not_skipped(self):
        steps = plan_steps(make_plan(BenchFacts(Supply.NONE, Battery.NONE)), {"look-case": Outcome.PASS})
        self.assertIn("can’t be skipped", refusal(steps, "cold-5v", Outcome.SKIP))
        self.assertEqual(refusal(steps, "cold-5v", Outcome.WAIVED), "")
        self.assertIn("not on the plan", refusal(steps, "safe-tube", Outcome.PASS))


class Verdicts(TestCase):
    def test_the_whole_interval_decides(self):
        for value, uncertainty, verdict in (
            ("5.06", "0.03", Verdict.INSIDE),
            ("5.24", "0.03", Verdict.TOO_CLOSE),
            ("5.25", "0", Verdict.INSIDE),
            ("5.27", "0.03", Verdict.TOO_CLOSE),
            ("5.29", "0.03", Verdict.OUTSIDE),
            ("4.70", "0.03", Verdict.OUTSIDE),
        ):
            self.assertEqual(judge(D(value), D(uncertainty), FIVE_VOLTS).verdict, verdict, value)

    def test_nought_is_no_lower_limit(self):
        earth = Limits(D(0), D("0.5"), "Ω")
        self.assertEqual(judge(D("0.01"), D("0.05"), earth).verdict, Verdict.INSIDE)
        self.assertEqual(judge(D("0.9"), D("0.05"), earth).verdict, Verdict.OUTSIDE)

    @given(st.decimals(0, 10, places=3), st.decimals(0, 1, places=3), st.decimals(0, 1, places=3))
    def test_less_doubt_never_turns_a_pass_into_a_fail(self, value, doubt, more):
        wide, narrow = judge(value, doubt + more, FIVE_VOLTS).verdict, judge(value, doubt, FIVE_VOLTS).verdict
        if wide is not Verdict.TOO_CLOSE:
            self.assertEqual(narrow, wide)

    def test_an_instrument_states_its_doubt(self):
        self.assertEqual(Accuracy(D("0.5"), 2, D("0.01")).uncertainty(D("5.00")), D("0.045"))

    def test_a_reading_a_thousand_times_off_is_asked_about(self):
        self.assertIn("5060 mV?", suspicious_scale(D(5060), FIVE_VOLTS))
        self.assertIn("0.00506 kV?", suspicious_scale(D("0.00506"), FIVE_VOLTS))
        self.assertEqual(suspicious_scale(D("3.9"), FIVE_VOLTS), "")


class RailsOfTheMachine(TestCase):
    PLAN = make_plan(BenchFacts(Supply.SWITCHING, Battery.NONE))

    def test_nothing_recorded_changes_nothing(self):
        self.assertEqual(for_rails(self.PLAN, None), self.PLAN)

    def test_a_rail_it_does_not_have_is_not_measured_and_another_is(self):
        plan = for_rails(self.PLAN, {D(5): D(8), D(15): None, D(-12): D("0.3")})
        codes = [check.code for check in plan]
        self.assertNotIn("supply-12v", codes)
        self.assertIn("supply-minus12", codes)
        own = next(check for check in plan if check.code == "rail+15")
        self.assertEqual((own.limits.low, own.limits.high), (D("14.25"), D("15.75")))
        self.assertIn("8 A", next(check for check in plan if check.code == "supply-5v").instruction)
        groups = list(Group)
        self.assertEqual([check.group for check in plan], sorted((c.group for c in plan), key=groups.index))

    def test_something_is_always_a_gate_before_power(self):
        plan = for_rails(self.PLAN, {D(15): D(2)})
        first = next(check for check in plan if check.code == "rail+15")
        self.assertTrue(first.gate and first.safety)
