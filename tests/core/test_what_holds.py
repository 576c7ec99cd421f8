"""When it last had power, what still is proven, and what is known before the first try: by example and property."""

from datetime import UTC, datetime, timedelta
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from core.bench.check_library import LIBRARY
from core.bench.fault_library import BY_CODE, SYMPTOMS
from core.bench.known import FAILED, PASSED, SLOWER, from_earlier, from_steps
from core.bench.optional_checks import OPTIONAL
from core.bench.power import Charge, charged, temperature
from core.bench.proof import Since, proof
from core.bench.suspects import COMES_AND_GOES, POINTS, UNVERIFIED, KnownGood, Suspect, by_itself, pointed, priors

NOON = datetime(2026, 5, 4, 12, tzinfo=UTC)
HOURS = st.floats(0, 500, allow_nan=False).map(lambda hours: timedelta(hours=hours))


class LastPower(TestCase):
    @given(HOURS, HOURS)
    def test_cold_is_twelve_hours_off_and_what_is_not_known_stays_so(self, off, here):
        self.assertEqual(temperature(NOON - off, NOON - here, NOON).cold, off >= timedelta(hours=12))
        never = temperature(None, NOON - here, NOON).cold
        self.assertEqual(never, True if here >= timedelta(hours=12) else None)

    @given(st.none() | HOURS, st.none() | HOURS, st.none() | HOURS)
    def test_hands_go_in_only_when_each_was_discharged_since_the_last_power(self, supply, tube, power):
        at = [None if ago is None else NOON - ago for ago in (supply, tube, power)]
        said = charged((Charge("supply", at[0]), Charge("tube", at[1])), at[2])
        for what, done in (("PSU", at[0]), ("CRT", at[1])):
            self.assertEqual(what in said, done is None or (at[2] is not None and done <= at[2]))
        self.assertEqual(charged((), at[2]), "")


class Proven(TestCase):
    def test_what_came_before_the_plan_was_passed_is_answered_by_it(self):
        early, late = Since(NOON - timedelta(hours=1), "early"), Since(NOON + timedelta(hours=1), "late")
        for kind, before, after in (
            ("failed_starts", (), ("late",)),
            ("work", (), ("late",)),
            ("open_faults", ("early",), ("late",)),
            ("failed_fixes", ("early",), ("late",)),
        ):
            with self.subTest(kind):
                self.assertEqual(proof(NOON, **{kind: [early]}).against, before)
                self.assertEqual(proof(NOON, **{kind: [late]}).against, after)
                self.assertFalse(proof(None, **{kind: [late]}).proven)
        self.assertTrue(proof(NOON).proven)
        self.assertFalse(proof(None).proven)

    @given(st.lists(st.tuples(HOURS, st.sampled_from("abc")), max_size=6))
    def test_said_once_each_in_the_order_of_time(self, happened):
        found = proof(NOON, open_faults=[Since(NOON - ago, words) for ago, words in happened])
        self.assertEqual(set(found.against), {words for _, words in happened})
        self.assertEqual(len(found.against), len(set(found.against)))
        self.assertEqual(found.proven, not happened)


class KnownBefore(TestCase):
    def test_every_step_and_suspect_named_is_there(self):
        codes = {check.code for check in (*LIBRARY, *OPTIONAL)}
        suspects = {suspect.code for symptom in SYMPTOMS for suspect in symptom.suspects}
        for table in (PASSED, FAILED):
            self.assertLessEqual(set(table), codes)
            self.assertLessEqual({code for says in table.values() for code in says}, suspects)
        self.assertLessEqual(set(SLOWER) | COMES_AND_GOES, suspects)

    def test_passing_never_makes_likelier_and_failing_never_less_likely(self):
        self.assertTrue(all(0 < factor < 1 for says in PASSED.values() for factor in says.values()))
        self.assertTrue(all(factor > 1 for says in (*FAILED.values(), SLOWER) for factor in says.values()))

    def test_a_supply_that_passed_leaves_no_short_at_thirty_percent(self):
        dead = BY_CODE["dead"].suspects
        passed = from_steps([("supply-5v", "+5 V, PSU alone", "pass"), ("cold-5v", "+5 V to ground", "pass")])
        now = dict(zip((s.code for s in dead), priors(dead, evidence=[k.says for k in passed]), strict=True))
        self.assertLess(now["short"], 0.05)
        self.assertLess(now["fuse"] + now["mainslead"], 0.05)
        self.assertEqual([k.words for k in passed], ["+5 V, PSU alone: passed", "+5 V to ground: passed"])

    def test_skipped_waived_and_unknown_steps_say_nothing(self):
        self.assertEqual(
            from_steps([("supply-5v", "x", "skip"), ("supply-5v", "x", "waived"), ("nix", "x", "pass")]), ()
        )

    def test_the_same_again_is_likelier_when_the_fix_never_held(self):
        sure, unsure = from_earlier([("fuse", "a fuse", True), ("fuse", "a fuse", False), ("", "who knows", False)])
        self.assertGreater(unsure.says["fuse"], sure.says["fuse"])
        self.assertGreater(sure.says["fuse"], 1)

    @given(st.permutations([PASSED["supply-5v"], FAILED["look-case"], PASSED["run-5v"]]))
    def test_the_order_in_which_it_came_to_be_known_does_not_matter(self, evidence):
        suspects = BY_CODE["dead"].suspects
        first = priors(suspects, evidence=[PASSED["supply-5v"], FAILED["look-case"], PASSED["run-5v"]])
        for a, b in zip(first, priors(suspects, evidence=evidence), strict=True):
            self.assertAlmostEqual(a, b)


THREE = [Suspect("joint", "a joint", 1), Suspect("fuse", "a fuse", 2), Suspect("own-3", "a mouse", 3)]


class OwnTries(TestCase):
    def test_bayes_by_hand(self):
        """Prior 1:2:3; strongly for the second: 1×.1 : 2×.9 : 3×.1, so 1.8 of 2.2."""
        self.assertAlmostEqual(pointed(THREE, (1 / 6, 2 / 6, 3 / 6), "fuse", "strong")[1], 1.8 / 2.2)
        self.assertAlmostEqual(pointed(THREE, (1 / 6, 2 / 6, 3 / 6), "fuse", "strong", away=True)[1], 0.2 / 3.8)

    @given(st.permutations([("joint", "strong", False), ("fuse", "weak", True), ("own-3", "weak", False)]))
    def test_any_order_gives_the_same_and_adds_up_to_one(self, tries):
        now = (0.2, 0.3, 0.5)
        for at, how, away in tries:
            now = pointed(THREE, now, at, how, away)
        self.assertAlmostEqual(sum(now), 1)
        straight = (0.2 * 0.9 * 0.7 * 0.3, 0.3 * 0.1 * 0.3 * 0.3, 0.5 * 0.1 * 0.7 * 0.7)
        for found, wanted in zip(now, straight, strict=True):
            self.assertAlmostEqual(found, wanted / sum(straight))

    def test_what_went_away_by_itself_points_at_what_comes_and_goes(self):
        joint, fuse, _ = by_itself(THREE, (0.2, 0.3, 0.5))
        self.assertAlmostEqual(joint / fuse, 2 * 0.2 / 0.3)

    def test_how_strongly_is_one_of_two(self):
        self.assertEqual(set(POINTS), {"strong", "weak"})
        with self.assertRaises(KeyError):
            pointed(THREE, (0.2, 0.3, 0.5), "fuse", "rather")

    @given(st.integers(0, 4000), st.integers(0, 500))
    def test_a_part_once_verified_is_trusted_less_as_days_and_uses_pass(self, days, uses):
        trust = KnownGood(days, uses).trust
        self.assertTrue(0 <= trust < 1)
        self.assertLessEqual(KnownGood(days + 30, uses).trust, trust)
        self.assertLessEqual(KnownGood(days, uses + 1).trust, trust)
        self.assertEqual(KnownGood(None, uses).trust, UNVERIFIED)
        self.assertLess(UNVERIFIED, KnownGood(0, 0).trust)


class Separating(TestCase):
    def test_what_changes_several_things_is_followed_by_what_is_there_and_tells_them_apart(self):
        several = 0
        for symptom in SYMPTOMS:
            codes = {action.code: action for action in symptom.actions}
            for action in symptom.actions:
                if len(action.changes) > 1 and action.code != "strip":
                    several += 1
                for then in action.then:
                    if then in codes:
                        self.assertLessEqual(len(codes[then].changes), 1, (symptom.code, then))
                if action.changes and action.then:
                    self.assertTrue(set(action.then) & set(codes), (symptom.code, action.code))
        self.assertGreater(several, 3)

    def test_suspects_outside_the_machine_are_there(self):
        everybody = {suspect.code for symptom in SYMPTOMS for suspect in symptom.suspects}
        self.assertLessEqual(
            {"screen", "cable", "standard", "adapter", "converter", "outside", "near", "lead"}, everybody
        )
        for code in ("trips-once", "no-system", "own-dark", "stuck", "installing"):
            self.assertIn(code, BY_CODE)
