"""Suspects, evidence and the next best action; how sure; fixes; markings and sums: by example and by property."""

import itertools
import math
from datetime import datetime, timedelta
from decimal import Decimal
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from core.bench import codebook
from core.bench.assurance import (
    Condition,
    Fix,
    Trial,
    clean_runs_needed,
    depends_on,
    failure_bounds,
    fix_status,
    how_sure,
    refuted,
)
from core.bench.check_library import LIBRARY
from core.bench.checks import BenchFacts, as_data, from_data
from core.bench.comparison import compare, read_time
from core.bench.conditions import ConditionError, holds
from core.bench.electrics import Cell, contact_ohms, discharge_seconds, load_line, make_up
from core.bench.fault_library import LOADS, SHORT, SYMPTOMS, off_load
from core.bench.markings import MarkingError, Suspicion, nearest_preferred, read_bands, read_capacitor, screen
from core.bench.suspects import Action, KnownGood, Suspect, after, entropy, halving, next_actions, priors, verdict
from core.machine.supply import Battery, Supply
from core.safety import Hazard

D = Decimal
SYMPTOM = st.sampled_from(SYMPTOMS[:-1])


class TheLibrary(TestCase):
    def test_is_as_large_as_wanted_and_every_action_tells_something(self):
        self.assertGreaterEqual(len(SYMPTOMS), 12)
        for symptom in SYMPTOMS:
            codes = {s.code for s in symptom.suspects}
            self.assertGreaterEqual(len(codes), 6, symptom.code)
            self.assertEqual(len(codes), len(symptom.suspects))
            for action in symptom.actions:
                self.assertTrue(codes & set(action.shows), f"{symptom.code}: {action.code}")
            now = priors(symptom.suspects)
            self.assertTrue(all(n.bits > 0.001 for n in next_actions(symptom.suspects, now, symptom.actions, most=99)))

    def test_live_and_tube_work_carries_its_caution(self):
        for symptom in SYMPTOMS:
            for action in symptom.actions:
                if "scope" in action.words or "running" in action.words or "presets" in action.words:
                    self.assertIn(Hazard.LIVE, action.hazards, action.code)
                self.assertEqual(len(action.cautions), len(action.hazards) + bool(action.caution))

    def test_codes_raise_suspects_that_are_there(self):
        known = {s.code for symptom in SYMPTOMS for s in symptom.suspects}
        for family in codebook.FAMILIES:
            for meaning in family.meanings:
                self.assertLessEqual(set(meaning.raises), known, meaning.words)
        self.assertEqual(codebook.look_up("numeric", "201").words, "memory")
        self.assertEqual(codebook.look_up("numeric", "1780").words, "fixed disk or its controller")
        self.assertIsNone(codebook.look_up("numeric", "9999"))
        self.assertNotEqual(codebook.look_up("count", "3").raises, codebook.look_up("numeric", "3xx").raises)


class Evidence(TestCase):
    @given(SYMPTOM, st.lists(st.tuples(st.integers(0, 9), st.booleans(), st.floats(0, 1)), max_size=12))
    def test_chances_sum_to_one_whatever_is_answered(self, symptom, answers):
        now = priors(symptom.suspects, {"leak": 1, "rework": 2}, {symptom.suspects[0].code: 3})
        for place, yes, trust in answers:
            now = after(symptom.suspects, now, symptom.actions[place % len(symptom.actions)], yes, trust)
            self.assertAlmostEqual(sum(now), 1)
            self.assertTrue(all(0 <= p <= 1 for p in now))

    @given(SYMPTOM, st.integers(0, 9))
    def test_on_average_an_answer_takes_doubt_away(self, symptom, place):
        now, action = priors(symptom.suspects), symptom.actions[place % len(symptom.actions)]
        found = next(n for n in next_actions(symptom.suspects, now, symptom.actions, most=99) if n.action is action)
        left = sum(
            share * entropy(after(symptom.suspects, now, action, yes))
            for share, yes in ((found.likely, True), (1 - found.likely, False))
        )
        self.assertAlmostEqual(entropy(now) - left, found.bits, places=6)

    def test_an_untrusted_stand_in_says_less(self):
        two = (Suspect("a", "a", 1), Suspect("b", "b", 1))
        swap = Action("swap", "swap", "works", "same", 5, {"a": 0.95})
        moved = [after(two, (0.5, 0.5), swap, True, trust)[0] for trust in (1.0, 0.5, 0.0)]
        self.assertTrue(moved[0] > moved[1] > moved[2])
        self.assertAlmostEqual(moved[2], 0.5)
        self.assertTrue(KnownGood(10, 2).trust > KnownGood(400, 2).trust > KnownGood(None, 0).trust)

    def test_what_can_not_be_replaced_is_risked_last(self):
        two = (Suspect("a", "a", 1), Suspect("b", "b", 1))
        rough = Action("rough", "heat it", "yes", "no", 5, {"a": 0.95}, risk=0.2)
        gentle = Action("gentle", "look", "yes", "no", 12, {"a": 0.9})
        first = [next_actions(two, (0.5, 0.5), (rough, gentle), irreplaceable=i)[0].action.code for i in (0.0, 3.0)]
        self.assertEqual(first, ["rough", "gentle"])

    def test_the_shops_own_faults_correct_the_library(self):
        symptom = SYMPTOMS[0]
        code = symptom.suspects[-1].code
        before, learned = priors(symptom.suspects), priors(symptom.suspects, closed={code: 40})
        self.assertGreater(learned[-1], before[-1] * 3)

    def test_when_to_stop(self):
        symptom = SYMPTOMS[0]
        sure = (0.93, *[0.07 / 7] * 7)
        self.assertEqual(verdict(symptom.suspects, sure, ()).found, symptom.suspects[0].code)
        now = priors(symptom.suspects)
        ranked = next_actions(symptom.suspects, now, symptom.actions)
        said = verdict(symptom.suspects, now, ranked)
        self.assertEqual((said.stop, said.mend, said.minutes), ("", "", ranked[0].to_the_end))
        alone = next_actions(symptom.suspects, now, ())
        self.assertIn("tells the rest apart", verdict(symptom.suspects, now, alone).stop)

    def test_actions_are_never_certain(self):
        for wrong in ({"shows": {"a": 1.0}}, {"otherwise": 0.0}, {"minutes": 0}, {"risk": 2}):
            with self.assertRaises(ValueError):
                Action(**{"code": "a", "words": "", "yes": "", "no": "", "minutes": 1, "shows": {"a": 0.5}} | wrong)


class Shorts(TestCase):
    @given(st.sampled_from(LOADS))
    def test_halving_finds_any_load_among_eight_in_about_three_tries(self, bad):
        now, tries = (1 / len(LOADS),) * len(LOADS), 0
        while max(now) < 0.8:
            half = halving({load: p for load, p in zip(LOADS, now, strict=True) if p > 0.01})
            now = after(SHORT.suspects, now, off_load(half), bad in half)
            tries += 1
        self.assertEqual(LOADS[now.index(max(now))], bad)
        self.assertLessEqual(tries, 4)

    @given(st.dictionaries(st.text("abcdefgh", min_size=1, max_size=2), st.floats(0.01, 1), min_size=2, max_size=9))
    def test_neither_half_is_empty_and_a_likely_one_goes_alone(self, now):
        half = halving(now)
        self.assertTrue(0 < len(half) < len(now))
        top = max(now, key=lambda load: now[load])
        if now[top] > sum(now.values()) / 2:
            self.assertEqual(half, (top,))


class HowSure(TestCase):
    @given(st.integers(0, 60), st.integers(0, 60))
    def test_more_clean_runs_never_raise_the_bound(self, runs, more):
        self.assertLessEqual(failure_bounds(runs + more, 0)[1], failure_bounds(runs, 0)[1])

    @given(st.lists(st.booleans(), max_size=40))
    def test_one_more_clean_start_never_wants_more_of_them(self, outcomes):
        before, after_one = how_sure(outcomes), how_sure([*outcomes, True])
        self.assertLessEqual(after_one.more, before.more)
        self.assertLessEqual(after_one.could_be, before.could_be)
        self.assertTrue(0 < clean_runs_needed(0.9) <= how_sure([*outcomes, False]).more)

    def test_in_words(self):
        self.assertIn("3 of 3 starts clean: failure rate up to 63 in 100", how_sure([True] * 3).words)
        self.assertEqual(how_sure([True] * 3).more, 26)
        self.assertEqual(how_sure([]).words, "Nothing is known: not started once.")
        for wrong in ((3, 4), (3, -1)):
            with self.assertRaises(ValueError):
                failure_bounds(*wrong)


class Fixes(TestCase):
    FIXED = datetime(2026, 3, 1, 18)

    def trial(self, hours, passed=True, *conditions):
        return Trial(self.FIXED + timedelta(hours=hours), frozenset(conditions), passed)

    def test_confirmed_only_from_cold_on_another_day_and_closed_up(self):
        cold, closed = Condition.COLD, Condition.CLOSED
        for trials, fix in (
            ((), Fix.PROVISIONAL),
            ((self.trial(1),), Fix.PROVISIONAL),
            ((self.trial(2, True, cold),), Fix.PROVISIONAL),
            ((self.trial(14, True, cold),), Fix.PROVISIONAL),
            ((self.trial(14, True, cold), self.trial(15, True, closed)), Fix.CONFIRMED),
            ((self.trial(14, True, cold, closed),), Fix.CONFIRMED),
            ((self.trial(14, True, cold, closed), self.trial(20, False)), Fix.FAILED),
            ((self.trial(-5, False),), Fix.PROVISIONAL),
        ):
            self.assertEqual(fix_status(self.FIXED, trials).fix, fix, trials)

    def test_a_cause_is_refuted_by_what_failed_before_it_was_confirmed(self):
        failed, held = (self.trial(20, False),), (self.trial(14, True, Condition.COLD, Condition.CLOSED),)
        for trials, again, wrong in (
            ((), None, False),
            (held, None, False),
            (failed, None, True),
            (failed, False, False),
            (failed, True, True),
            ((), True, True),
            (held, True, False),
        ):
            self.assertEqual(refuted(self.FIXED, trials, again), wrong, (trials, again))

    @given(st.integers(1, 6), st.integers(1, 6), st.booleans())
    def test_the_chance_of_a_false_alarm_is_that_of_counting(self, a, b, passes):
        """Every way in which runs may come out at the rate that was seen, counted one by one."""
        trials = [self.trial(n, passes, Condition.COLD) for n in range(a)]
        trials += [self.trial(50 + n, not passes) for n in range(b)]
        rate = (b if passes else a) / (a + b)
        chance = 0.0
        for ways in itertools.product((True, False), repeat=a + b):
            if len({*ways[:a]}) == len({*ways[a:]}) == 1 and ways[0] != ways[-1]:
                chance += math.prod(1 - rate if one else rate for one in ways)
        self.assertIn(f"looks so {max(1, round(chance * 100))} times in 100", depends_on(trials))

    def test_what_it_hangs_on(self):
        cold, closed = Condition.COLD, Condition.CLOSED
        warm_fails = [
            self.trial(1, True, cold),
            self.trial(2, False),
            self.trial(20, True, cold),
            self.trial(21, False),
        ]
        self.assertIn("Perhaps it depends on temperature: passes cold, fails warm", depends_on(warm_fails))
        more = [*warm_fails, self.trial(30, True, cold), self.trial(31, False)]
        # Two times a half to the sixth.
        self.assertIn("Depends on temperature: passes cold, fails warm (a fault that comes", depends_on(more))
        self.assertIn("3 times in 100", depends_on(more))
        self.assertEqual(depends_on([*more, self.trial(40, True)]), "")
        once = depends_on([self.trial(1), self.trial(2, False, closed)])
        self.assertIn("Perhaps it depends on the case: fails closed up, passes open", once)
        self.assertIn("50 times in 100. Start it 3 times each way", once)
        self.assertEqual(depends_on([self.trial(1, True, cold), self.trial(2, True)]), "")
        self.assertEqual(depends_on([]), "")


class MarkingsAndSums(TestCase):
    def test_what_is_no_marking_is_refused(self):
        for bands in (["red"], ["gold", "red", "red"], ["red", "red", "red", "black"], ["pink"] * 4):
            with self.subTest(bands), self.assertRaises(MarkingError):
                read_bands(bands)
        for code in ("", "abc", "1099", "104X", "00"):
            with self.subTest(code), self.assertRaises(MarkingError):
                read_capacitor(code)

    @given(st.decimals("0.001", 10**7, places=3))
    def test_a_preferred_value_is_within_half_a_step(self, value):
        # The widest step of each series, halved by ratio: 1.2 to 1.5, 1.3 to 1.5, 1.33 to 1.37 (IEC 60063).
        for number, step in ((12, 1.1181), (24, 1.0742), (96, 1.0150)):
            ratio = float(nearest_preferred(value, number) / value)
            self.assertTrue(1 / step <= ratio <= step, ratio)

    def test_in_circuit_only_screens(self):
        cap = read_capacitor("104")
        self.assertEqual(screen(cap, D("400e-9")), Suspicion.MEASURE_OUT)
        self.assertEqual(screen(cap, D("400e-9"), D("250e-9")), Suspicion.BAD)
        self.assertEqual(screen(cap, D("400e-9"), D("103e-9")), Suspicion.GOOD)
        with self.assertRaises(ValueError):
            screen(cap)

    def test_batteries(self):
        self.assertEqual(
            (make_up(Cell.NIMH, 3, 3.6, True).volts, make_up(Cell.NIMH, 3, 3.6, True).refused), (3 * 1.2, "")
        )
        self.assertIn("burst", make_up(Cell.LITHIUM, 1, 3.0, True).refused)
        self.assertIn("wants", make_up(Cell.ALKALINE, 2, 4.5, False).refused)
        self.assertIn("goes flat", make_up(Cell.NICD, 3, 3.6, False).remark)

    @given(st.floats(1e-9, 1e-2), st.floats(61, 1000), st.floats(1, 1e7))
    def test_it_takes_longer_from_higher_and_no_time_from_below(self, farads, volts, ohms):
        self.assertGreater(discharge_seconds(farads, volts * 2, ohms), discharge_seconds(farads, volts, ohms))
        self.assertEqual(discharge_seconds(farads, 59, ohms), 0)

    def test_sums_that_can_not_be(self):
        for act in (
            lambda: discharge_seconds(0, 1, 1),
            lambda: contact_ohms(1, 0),
            lambda: load_line([(1, 5), (1, 4)]),
            lambda: load_line([(-1, 5), (1, 4)]),
            lambda: make_up(Cell.NICD, 0, 1, False),
            lambda: compare([], [1]),
            lambda: compare([1], [0]),
        ):
            with self.assertRaises(ValueError):
                act()

    def test_no_difference_is_called_none(self):
        self.assertEqual(compare([1.01, 1.02, 1.01], [1.02, 1.01, 1.02], scores=True).verdict, "no real difference")
        self.assertEqual(compare([15.2, 15.0, 15.4], [10.1, 10.0, 9.8], by_hand=True).verdict, "faster")
        self.assertEqual(compare([1.2], [1.0], by_hand=True).verdict, "no real difference")
        self.assertEqual(compare([100, 101], [50, 51], scores=True).verdict, "slower")

    def test_one_run_a_side_is_never_said_flatly(self):
        for sides in (([60.0], [30.0]), ([60.0, 61.0], [30.0, 31.0]), ([60.0], [60.0] * 9)):
            found = compare(*sides)
            self.assertEqual((found.said, found.is_faster), ("too few runs to tell", False))
            self.assertIn("Take 3 runs on each side", found.words)
            self.assertNotIn("differ among themselves", found.words)
        self.assertEqual(compare([60.0, 61, 60], [30.0, 31, 30]).said, "faster")

    def test_scores_are_never_told_as_time(self):
        for scored in ([150.0, 151, 152], [50.0, 51, 50], [150.0]):
            found = compare([100.0, 101, 102], scored, scores=True)
            self.assertNotRegex(found.words + found.said, r"time,|less time|more time|faster|slower")
            self.assertIn("an index", found.words)
        self.assertEqual(compare([100.0, 101, 102], [150.0, 151, 152], scores=True).said, "higher")

    def test_times_as_people_write_them(self):
        for word, seconds in (("1:03", 63), ("0:07.5", 7.5), ("1:02:03", 3723), ("12:59,25", 779.25)):
            self.assertEqual(read_time(word), seconds)
        for word in ("63", "1:60", "1:2:3:4", ":30", "1:", "a:10", "1:61:10", "-1:03", "1:٣"):
            self.assertIsNone(read_time(word), word)


class Conditions(TestCase):
    FACTS = BenchFacts(Supply.LINEAR, Battery.NONE, picture_tube=False, drives=2).named

    def test_parts_are_read_and_all_must_hold(self):
        for condition, wanted in (
            ("", True),
            ("supply=linear|switching & drives", True),
            ("supply!=linear", False),
            ("!tube & battery=none", True),
            ("tube", False),
        ):
            self.assertEqual(holds(condition, self.FACTS), wanted, condition)
        for condition in ("colour=red", "supply==linear", "drives & (x)", "supply=linear or tube"):
            with self.subTest(condition), self.assertRaises(ConditionError):
                holds(condition, self.FACTS)
        with self.assertRaisesRegex(ConditionError, "supply is one of"):
            holds("supply=steam", self.FACTS, {"supply": frozenset(Supply)})

    def test_every_check_comes_back_from_its_record(self):
        for check in LIBRARY:
            again = from_data(as_data(check))
            self.assertEqual(
                (again.code, again.limits, again.does, again.gate), (check.code, check.limits, check.does, check.gate)
            )
