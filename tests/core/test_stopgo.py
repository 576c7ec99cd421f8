"""Stop or go: odds that fall with minutes, where the answer turns, and what can be said of both."""

from unittest import TestCase

from hypothesis import example, given
from hypothesis import strategies as st
from scipy.integrate import quad

from core.workshop.stopgo import (
    HORIZON,
    STRETCH,
    Odds,
    Stakes,
    answer,
    best_stretch,
    go,
    going_on,
    limit,
    odds_of,
    per_minute,
    regret,
)

ODDS = st.builds(Odds, st.floats(0.02, 0.98), st.floats(1.5, 20.0), st.floats(10.0, 600.0))


@st.composite
def stakes(draw) -> Stakes:
    stop, gain = draw(st.floats(-20, 300)), draw(st.floats(-50, 400))
    wide = draw(st.floats(0, 80))
    return Stakes(stop, stop + gain, stop + gain - wide, stop + gain + wide, draw(st.floats(0.05, 2.0)))


class OddsOfWork(TestCase):
    @given(ODDS, st.floats(0, 300), st.floats(0, 300))
    def test_minutes_gone_are_evidence_whichever_way_they_are_counted(self, odds, first, then):
        at_once, in_turn = odds.after(first + then), odds.after(first).after(then)
        self.assertAlmostEqual(at_once.chance, in_turn.chance, 9)
        self.assertAlmostEqual(at_once.scale, in_turn.scale, 6)

    @given(ODDS, st.floats(1, 300))
    def test_the_odds_only_fall_while_nothing_comes(self, odds, minutes):
        later = odds.after(minutes)
        self.assertLess(later.chance, odds.chance)
        self.assertLess(later.shape / later.scale, odds.shape / odds.scale)
        # What is certain stays so, to the last place.
        self.assertEqual(Odds(1.0, odds.shape, odds.scale).after(minutes).chance, 1)

    def test_with_nothing_timed_the_mean_is_the_estimate_and_with_much_it_is_what_it_took(self):
        self.assertAlmostEqual(odds_of(0.6, 40).mean, 40)
        self.assertAlmostEqual(odds_of(0.6, 40, [80.0] * 300).mean, 80, delta=0.5)

    def test_what_is_no_odds_is_refused(self):
        for wrong in ((1.2, 4, 100), (0.5, 1, 100), (0.5, 4, 0)):
            with self.assertRaises(ValueError):
                Odds(*wrong)
        for wrong in ((0, []), (40, [0.0])):
            with self.assertRaises(ValueError):
                odds_of(0.5, *wrong)
        with self.assertRaises(ValueError):
            Odds(0.5, 4, 100).after(-1)
        with self.assertRaises(ValueError):
            Stakes(10, 5, 6, 7, 0.4)


class GoingOn(TestCase):
    @given(ODDS, stakes(), st.floats(1, 240))
    def test_the_closed_form_is_the_integral(self, odds, at_stake, minutes):
        p, a, b = odds.chance, odds.shape, odds.scale

        def net(u: float) -> float:
            density = p * a / b * (b / (b + u)) ** (a + 1)
            return density * (at_stake.done - at_stake.minute * u)

        found, _ = quad(net, 0, minutes)
        none = 1 - p + p * float(odds.none_by(minutes))
        self.assertAlmostEqual(
            going_on(odds, at_stake, minutes), found + none * (at_stake.stop - at_stake.minute * minutes), 5
        )

    @given(ODDS, stakes())
    def test_no_other_stretch_on_a_grid_leaves_more(self, odds, at_stake):
        best = going_on(odds, at_stake, best_stretch(odds, at_stake))
        grid = max(going_on(odds, at_stake, STRETCH + step / 2) for step in range(int(2 * (HORIZON - STRETCH)) + 1))
        self.assertGreaterEqual(best, grid - 1e-6)

    @example(Odds(0.5, 12.0, 10.0), Stakes(0.0, 133.0, 133.0, 133.0, 2.0))
    @given(ODDS, stakes())
    def test_the_answer_turns_once_where_both_meet(self, odds, at_stake):
        turns = limit(odds, at_stake)
        if turns is None:
            self.assertGreater(go(odds.after(HORIZON), at_stake), at_stake.stop)
        elif turns == 0:
            self.assertLessEqual(go(odds, at_stake), at_stake.stop)
        else:
            self.assertAlmostEqual(go(odds.after(turns), at_stake), at_stake.stop, delta=0.01)
            self.assertGreaterEqual(go(odds.after(turns / 2), at_stake), at_stake.stop)
            self.assertLessEqual(go(odds.after(turns + 5), at_stake), at_stake.stop + 1e-9)

    @given(ODDS, stakes())
    def test_regret_is_a_chance(self, odds, at_stake):
        minutes = best_stretch(odds, at_stake)
        self.assertTrue(0 <= regret(odds, at_stake, minutes) <= 1)
        self.assertEqual(regret(odds, at_stake, 0), 0)

    @given(ODDS, stakes(), st.floats(1, 100))
    def test_more_to_gain_never_shortens_the_time_there_is(self, odds, at_stake, more):
        richer = Stakes(at_stake.stop, at_stake.done + more, at_stake.low + more, at_stake.high + more, at_stake.minute)
        before, after = limit(odds, at_stake), limit(odds, richer)
        self.assertTrue(after is None or (before is not None and after >= before - 0.01))

    def test_what_was_spent_changes_nothing(self):
        """Sunk money is no argument of any of it; the minutes are, for what they say of the odds."""
        said = answer(odds_of(0.62, 40).after(30), Stakes(86, 190, 160, 230, 0.4))
        self.assertTrue(said.goes_on)
        self.assertGreater(said.lead, 0)
        self.assertEqual(len(said.points), 25)
        self.assertGreaterEqual(said.points[0].high, said.points[0].likely)

    def test_a_minute_costs_its_hour_and_its_place(self):
        self.assertAlmostEqual(per_minute(24.0), 0.4)
        self.assertAlmostEqual(per_minute(24.0, 4.8), 0.41)
