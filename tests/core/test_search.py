"""What to do next about a fault, against every way in which it may be looked for."""

from dataclasses import dataclass
from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from core.bench.fault_library import LOADS, SHORT, SYMPTOMS, off_load
from core.bench.search import ways
from core.bench.suspects import halving, mending, next_actions, priors, splits, verdict

CHANCE = st.floats(0.02, 0.98)


@dataclass(frozen=True)
class Small:
    odds: tuple[float, ...]
    repairs: tuple[float, ...]
    shows: tuple[tuple[float, ...], ...]
    minutes: tuple[float, ...]

    def best(self) -> float:
        """The least that can be expected, every way weighed by plain recursion."""

        def least(weights, left, mended):
            whole = sum(weights)
            if whole < 1e-12:
                return 0.0
            found = []
            for i, repair in enumerate(self.repairs):
                if i not in mended:
                    others = [0.0 if n == i else w for n, w in enumerate(weights)]
                    found.append(repair * whole + least(others, left, mended | {i}))
            for test in left:
                yes = [w * s for w, s in zip(weights, self.shows[test], strict=True)]
                no = [w - y for w, y in zip(weights, yes, strict=True)]
                rest = left - {test}
                found.append(self.minutes[test] * whole + least(yes, rest, mended) + least(no, rest, mended))
            return min(found)

        return least(list(self.odds), frozenset(range(len(self.minutes))), frozenset())


@st.composite
def small(draw) -> Small:
    count, tests = draw(st.integers(2, 4)), draw(st.integers(0, 3))
    weights = draw(st.lists(st.integers(1, 20), min_size=count, max_size=count))
    return Small(
        tuple(w / sum(weights) for w in weights),
        tuple(draw(st.lists(st.floats(5, 120), min_size=count, max_size=count))),
        tuple(tuple(draw(st.lists(CHANCE, min_size=count, max_size=count))) for _ in range(tests)),
        tuple(draw(st.lists(st.floats(1, 30), min_size=tests, max_size=tests))),
    )


def found(one: Small):
    shows = np.array(one.shows).reshape(len(one.minutes), len(one.odds))
    return ways(one.odds, one.repairs, shows, one.minutes)


class Least(TestCase):
    @settings(max_examples=40, deadline=None)
    @given(small())
    def test_what_is_said_is_never_under_the_best_and_hardly_over_it(self, one):
        best, said = one.best(), found(one)[0].minutes
        self.assertGreaterEqual(said, best * (1 - 1e-9))
        self.assertLessEqual(said, best * 1.03)

    @given(small())
    @settings(deadline=None)
    def test_the_first_way_is_the_least_and_every_test_has_its_own(self, one):
        made = found(one)
        self.assertEqual([w.minutes for w in made], sorted(w.minutes for w in made))
        self.assertEqual(sorted(w.test for w in made if w.test is not None), list(range(len(one.minutes))))
        self.assertEqual(sum(w.suspect is not None for w in made), 1)

    def test_repairs_alone_go_by_chance_over_minutes_worked_by_hand(self):
        # .5 at 100 min, .3 at 20, .2 at 40: 20 first (.015), then the 40 and the 100, both .005 a minute.
        one = Small((0.5, 0.3, 0.2), (100.0, 20.0, 40.0), (), ())
        (way,) = found(one)
        self.assertEqual(way.suspect, 1)
        self.assertAlmostEqual(way.minutes, 20 + 0.7 * 100 + 0.2 * 40)

    def test_a_test_is_made_while_it_pays_and_not_after(self):
        sharp = ((0.98, 0.02),)
        for repair, tests_first in ((5.0, False), (90.0, True)):
            first = found(Small((0.5, 0.5), (repair, repair), sharp, (8.0,)))[0]
            self.assertEqual(first.test is not None, tests_first)
        # Once one is all but sure, mending it is all there is to do.
        self.assertIsNone(found(Small((0.97, 0.03), (45.0, 45.0), sharp, (8.0,)))[0].test)

    @given(small(), st.floats(1.1, 3))
    @settings(deadline=None, max_examples=30)
    def test_dearer_repairs_never_take_less(self, one, times):
        dearer = Small(one.odds, tuple(times * r for r in one.repairs), one.shows, one.minutes)
        self.assertGreaterEqual(found(dearer)[0].minutes, found(one)[0].minutes * (1 - 0.03))

    def test_what_cannot_be_is_refused(self):
        for odds, repairs, shows, minutes in (
            ((1.0,), (0.0,), np.empty((0, 1)), ()),
            ((1.0,), (5.0,), np.ones((1, 1)), (0.0,)),
            ((0.0,), (5.0,), np.empty((0, 1)), ()),
            ((-1.0, 2.0), (5.0, 5.0), np.empty((0, 2)), ()),
        ):
            with self.assertRaises(ValueError):
                ways(odds, repairs, shows, minutes)


class InTheLibrary(TestCase):
    def test_every_symptom_offers_mending_among_what_to_do(self):
        for symptom in SYMPTOMS[:-1]:
            now = priors(symptom.suspects)
            ranked = next_actions(symptom.suspects, now, symptom.actions, most=99)
            self.assertEqual(sum(bool(one.action.mends) for one in ranked), 1, symptom.code)
            self.assertGreater(verdict(symptom.suspects, now, ranked).minutes, 0)

    def test_mending_says_what_it_is_worth_and_how_to_be_safe(self):
        suspect = SYMPTOMS[0].suspects[1]
        action = mending(suspect)
        self.assertEqual((action.mends, action.minutes), (suspect.code, suspect.repair))
        self.assertTrue(any("discharged" in words.lower() for words in action.cautions))

    def test_what_was_mended_is_not_mended_again(self):
        symptom = SYMPTOMS[0]
        now, codes = priors(symptom.suspects), [s.code for s in symptom.suspects]
        for count in range(len(codes) + 1):
            ranked = next_actions(symptom.suspects, now, symptom.actions[:3], mended=codes[:count], most=99)
            again = {one.action.mends for one in ranked} & set(codes[:count])
            self.assertFalse(again, count)
        self.assertEqual(next_actions(symptom.suspects, now, (), mended=codes), ())

    def test_eight_equal_loads_are_halved_first(self):
        now = dict.fromkeys(LOADS, 1 / 8)
        actions = [off_load(loads) for loads in splits(now)]
        first = next_actions(SHORT.suspects, list(now.values()), actions)[0]
        self.assertEqual(len(first.action.changes), 4)
        # Four of eight, two of each four; and each by itself, which is what halves a pair.
        self.assertEqual(len(splits(now)), 3 + 8)

    @given(st.lists(st.floats(0.01, 1), min_size=2, max_size=9))
    def test_the_split_is_the_best_of_all(self, chances):
        now = {str(n): p for n, p in enumerate(chances)}
        whole = sum(chances)
        mine = abs(sum(now[load] for load in halving(now)) - whole / 2)
        best = min(
            abs(sum(p for n, p in enumerate(chances) if pick >> n & 1) - whole / 2)
            for pick in range(1, 2 ** len(chances) - 1)
        )
        self.assertLess(mine - best, 1e-6 * whole)
