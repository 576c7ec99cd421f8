"""What can hurt somebody: read as it stands in the libraries, and judged as the bench judges it."""

from decimal import Decimal
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from core.bench.calculated_checks import CALCULATIONS
from core.bench.check_library import LIBRARY
from core.bench.checks import BenchFacts, CheckKind, Group, Limits, Plate, as_data, from_data, plate_limits
from core.bench.fault_library import BY_CODE, SYMPTOMS, symptoms_for
from core.bench.optional_checks import OPTIONAL
from core.bench.plan import Outcome, make_plan, plan_steps, refusal, time_refusal
from core.bench.verdict import HAND_METER, SCOPE, Verdict, judge, reversed_leads, typed_instrument
from core.machine.quantities import QuantityError, parse_reading
from core.machine.supply import Supply
from core.safety import Hazard, said

D = Decimal
SAFE = Limits(D(0), D(60), "V", D(0))
FIVE = Limits(D("4.75"), D("5.25"), "V", D(5))
CHECKS = {check.code: check for check in (*LIBRARY, *OPTIONAL)}


def text_of(check) -> str:
    return " ".join((check.title, check.instruction, check.why, *check.cautions))


class Readings(TestCase):
    def test_charge_is_judged_by_its_size_whichever_way_round_the_leads_are(self):
        self.assertEqual(judge(D(-325), D(2), SAFE).verdict, Verdict.OUTSIDE)
        self.assertEqual(judge(D(-3), D("0.1"), SAFE).verdict, Verdict.INSIDE)
        self.assertEqual(judge(D("-59.9"), D("0.5"), SAFE).verdict, Verdict.TOO_CLOSE)

    @given(st.decimals(0, 1000, places=2), st.decimals(0, 5, places=2))
    def test_a_sign_never_changes_what_is_safe(self, volts, doubt):
        self.assertEqual(judge(volts, doubt, SAFE), judge(-volts, doubt, SAFE))

    def test_ohms_below_nothing_are_refused_with_what_they_mean(self):
        for text, unit in (("-0.3", "Ω"), ("−0.3 Ω", "Ω"), ("-5 mΩ", "Ω"), ("-1n", "F")):
            with self.subTest(text), self.assertRaisesRegex(QuantityError, "charge is left"):
                parse_reading(text, unit)
        with self.assertRaisesRegex(ValueError, "Measure volts first"):
            CALCULATIONS[CheckKind.PART].act("4K7; -0.3")
        self.assertEqual(parse_reading("-5 V", "V"), -5)

    def test_reversed_leads_are_named(self):
        self.assertIn("leads are reversed", reversed_leads(D("-5.06"), FIVE))
        self.assertIn("leads are reversed", reversed_leads(D(12), Limits(D("-13.2"), D("-10.8"), "V", D(-12))))
        for value in ("5.06", "-3", "0"):
            self.assertEqual(reversed_leads(D(value), FIVE), "", value)
        self.assertEqual(reversed_leads(D(-325), SAFE), "")

    def test_ripple_is_read_with_a_scopes_doubt_and_not_a_hand_meters(self):
        self.assertIs(typed_instrument(CHECKS["supply-ripple"].needs), SCOPE)
        self.assertIs(typed_instrument(CHECKS["supply-5v"].needs), HAND_METER)
        self.assertLess(SCOPE.accuracy["V"].uncertainty(D("0.03")), HAND_METER.accuracy["V"].uncertainty(D("0.03")))
        self.assertEqual(judge(D("0.04"), SCOPE.accuracy["V"].uncertainty(D("0.04")), FIVE).verdict, Verdict.OUTSIDE)


class TheLibraries(TestCase):
    def test_every_hazard_has_one_wording_that_is_said_once(self):
        self.assertEqual(len({h.words for h in Hazard}), len(Hazard))
        self.assertEqual(len(said([Hazard.TUBE, Hazard.TUBE])), 1)
        for hazard in (Hazard.CHARGE, Hazard.LIVE, Hazard.TUBE, Hazard.STATIC, Hazard.DUST, Hazard.SWOLLEN_CELL):
            self.assertGreater(len(hazard.words), 60, hazard)

    def test_no_careless_practice_is_printed(self):
        texts = [text_of(c) for c in CHECKS.values()] + [a.words for s in SYMPTOMS for a in s.actions]
        for text in texts:
            for word in ("wet finger", "overnight,", "no screws at all", "Measure: nothing left"):
                self.assertNotIn(word, text)
        feed = next(a for a in BY_CODE["no-sound"].actions if a.code == "feed-input")
        self.assertIn("through a capacitor", feed.words)

    def test_a_tube_is_closed_by_a_silent_second_discharge_and_never_by_a_meter(self):
        words = text_of(CHECKS["safe-tube"])
        for wanted in ("second time stays silent", "before every reach", "hand meter on the anode", "goggles"):
            self.assertIn(wanted, words)
        self.assertIsNone(CHECKS["safe-tube"].limits)

    def test_every_supply_has_its_discharge_step_before_a_probe_goes_in(self):
        for supply in (Supply.LINEAR, Supply.SWITCHING, Supply.UNKNOWN):
            codes = [c.code for c in make_plan(BenchFacts(supply))]
            discharge = "safe-linear" if supply is Supply.LINEAR else "safe-supply"
            self.assertLess(codes.index(discharge), codes.index("cold-5v"))

    def test_static_and_charge_stand_where_bare_boards_are_touched(self):
        for code in ("look-case", "look-part", "cold-5v", "look-caps"):
            self.assertIn(Hazard.STATIC, CHECKS[code].hazards, code)
        for code in ("reseat", "strip", "swap-memory", "swap-rom"):
            action = next(a for s in SYMPTOMS for a in s.actions if a.code == code)
            self.assertIn(Hazard.STATIC, action.hazards, code)
        self.assertIn("strap off", Hazard.LIVE.words)
        self.assertIn("strap off", Hazard.TUBE.words)

    def test_lifting_a_leg_says_how(self):
        lift = next(a for a in BY_CODE["trips"].actions if a.code == "lift-filter")
        self.assertLessEqual({Hazard.CHARGE, Hazard.SOLDER, Hazard.LIVE}, set(lift.hazards))

    def test_work_under_power_says_so_on_every_action(self):
        for symptom in SYMPTOMS:
            for action in symptom.actions:
                live = any(w in action.words for w in ("scope", "while it runs", "running", "current limited"))
                if live and "alone" not in action.words:
                    self.assertIn(Hazard.LIVE, action.hazards, f"{symptom.code}: {action.code}")

    def test_in_a_machine_with_a_tube_every_reach_is_near_it(self):
        with_tube = {s.code: s for s in symptoms_for(BenchFacts(form_factor="all_in_one", picture_tube=True))}
        without = {s.code: s for s in symptoms_for(BenchFacts(form_factor="all_in_one", picture_tube=False))}
        for action in with_tube["unsteady"].actions:
            if Hazard.CHARGE in action.hazards or Hazard.LIVE in action.hazards:
                self.assertIn(Hazard.TUBE, action.hazards)
        self.assertFalse(any(Hazard.TUBE in a.hazards for a in without["unsteady"].actions))

    def test_heavy_and_swollen_and_dusty_stand_where_they_belong(self):
        codes = {c.code for c in make_plan(BenchFacts(form_factor="monitor", cell_found=True))}
        self.assertLessEqual({"look-heavy", "look-swollen-cell"}, codes)
        self.assertIn(Hazard.DUST, CHECKS["look-case"].hazards)
        self.assertIn(Hazard.SWOLLEN_CELL, CHECKS["look-battery"].hazards)
        self.assertNotIn("look-heavy", {c.code for c in make_plan(BenchFacts(form_factor="keyboard"))})

    def test_a_check_keeps_its_hazards_in_the_record_of_a_run(self):
        for check in CHECKS.values():
            again = from_data(as_data(check))
            self.assertEqual((again.cautions, again.known, again.plate), (check.cautions, check.known, check.plate))
        old = {k: v for k, v in as_data(CHECKS["safe-tube"]).items() if k not in {"hazards", "known", "plate"}}
        self.assertEqual(from_data(old).code, "safe-tube")


class TimeAndCharge(TestCase):
    def test_a_time_is_not_passed_before_it_ran(self):
        soak = CHECKS["soak"]
        self.assertIn("start its timer", time_refusal(soak, None))
        self.assertIn("1 of 240", time_refusal(soak, 239.9))
        self.assertEqual(time_refusal(soak, 240), "")
        self.assertEqual(time_refusal(CHECKS["fn-picture"], None), "")

    def test_hands_stay_out_while_charge_may_be_left(self):
        plan = make_plan(BenchFacts(Supply.SWITCHING, mains_known=True))
        done = {c.code: Outcome.PASS for c in plan}
        steps = plan_steps(plan, done)
        self.assertEqual(refusal(steps, "cold-5v", Outcome.PASS, "Not discharged."), "Not discharged.")
        self.assertEqual(refusal(steps, "fn-picture", Outcome.PASS, "Not discharged."), "")
        self.assertTrue(all(c.hands_in for c in plan if c.group is Group.COLD))

    def test_only_gates_and_times_are_waived(self):
        plan = make_plan(BenchFacts(Supply.SWITCHING, mains_known=True))
        steps = plan_steps(plan, {c.code: Outcome.PASS for c in plan})
        self.assertIn("Only a gate or a time", refusal(steps, "fn-picture", Outcome.WAIVED))
        for code in ("soak", "safe-supply"):
            self.assertEqual(refusal(steps, code, Outcome.WAIVED), "")

    @given(st.decimals(3, 48, places=1))
    def test_limits_follow_the_plate(self, volts):
        opened, loaded = plate_limits(Plate.OPEN, volts), plate_limits(Plate.LOADED, volts)
        self.assertTrue(opened.low <= volts <= opened.high and loaded.low <= volts <= loaded.high)
        self.assertGreater(opened.high, loaded.high)
        self.assertEqual(
            (plate_limits(Plate.OPEN, D(9)).low, plate_limits(Plate.OPEN, D(9)).high), (D("8.6"), D("13.0"))
        )
