from dataclasses import replace
from decimal import Decimal
from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from core.buying.bid import BidLine, BidTerms, Case, Targets, forecast
from core.buying.landed import Charge, ChargeKind
from core.buying.odds import STARTING, learn

D = Decimal
NONE = (0, 0, 0, 0)
PRICES = st.lists(st.integers(0, 400), min_size=3, max_size=3).map(sorted)
ODDS = st.lists(st.integers(1, 20), min_size=4, max_size=4).map(lambda w: [x / sum(w) for x in w])


@st.composite
def lines(draw):
    odds = draw(ODDS)
    cases = []
    for share in odds:
        low, likely, high = draw(PRICES)
        cases.append(Case(share, low, likely, high, draw(st.integers(0, 60)), draw(st.integers(0, 240))))
    return BidLine("line", draw(st.integers(1, 30)), tuple(cases), draw(st.sampled_from([0.0, 0.15, 0.5])))


TERMS = st.builds(
    BidTerms,
    fee=st.floats(0, 0.2),
    labour_rate=st.floats(0, 40),
    lot_rho=st.sampled_from([0.0, 0.2]),
    charges=st.just((Charge(ChargeKind.PREMIUM, percent=D(18)), Charge(ChargeKind.FREIGHT, D(30)))),
)
SOUND = BidLine("sound", 4, (Case(0.9, 90, 100, 110), Case(0.1, 40, 50, 60), Case(0.0), Case(0.0)))
HOPELESS = BidLine("hopeless", 2, (Case(0.0), Case(0.0), Case(0.2, 1, 2, 3, 5, 30), Case(0.8, 0, 0, 0, 10)))
GAMBLE = BidLine("gamble", 1, (Case(0.5, 900, 1000, 1100), Case(0.0), Case(0.0), Case(0.5)))


class Bidding(TestCase):
    @settings(max_examples=25)
    @given(st.lists(lines(), min_size=1, max_size=4), TERMS, st.integers(0, 500), st.integers(1, 300))
    def test_profit_falls_and_the_chance_of_loss_rises_with_the_bid(self, some, terms, bid, more):
        drawn = forecast(some, terms, 2000, seed=2)
        low, high = drawn.at(D(bid)), drawn.at(D(bid + more))
        self.assertLess(high.profit, low.profit)
        self.assertGreaterEqual(high.loss, low.loss)
        self.assertLessEqual(low.low, low.high)

    @settings(max_examples=25)
    @given(st.lists(lines(), min_size=1, max_size=4), TERMS)
    def test_stricter_targets_never_allow_more(self, some, terms):
        drawn = forecast(some, terms, 2000, seed=2)
        easy, hard = drawn.most(Targets(0.1, 0.3)).bid, drawn.most(Targets(0.3, 0.1)).bid
        self.assertLessEqual(-1 if hard is None else hard, -1 if easy is None else easy)

    def test_the_same_seed_draws_the_same(self):
        one, two = (forecast([SOUND, GAMBLE], BidTerms(), seed=9).total for _ in range(2))
        self.assertTrue(np.array_equal(one, two))

    def test_the_binding_target_is_named(self):
        drawn = forecast([GAMBLE], BidTerms())
        self.assertEqual(drawn.most(Targets(margin=0.0, loss=0.1)).name, "loss")
        self.assertEqual(drawn.most(Targets(margin=0.9, loss=0.9)).name, "margin")
        slow = forecast([replace(SOUND, cases=(Case(0.9, 90, 100, 110, 0, 600), *SOUND.cases[1:]))], BidTerms())
        self.assertEqual(slow.most(Targets(margin=0.0, loss=0.5, hourly=9.0)).name, "hourly")

    def test_what_carries_the_lot_and_what_is_dead_weight(self):
        drawn = forecast([SOUND, HOPELESS], BidTerms(labour_rate=24))
        sound, hopeless = drawn.adds(Targets())
        self.assertGreater(sound, 250)
        self.assertLess(hopeless, 0)

    def test_a_lot_not_worth_its_freight_is_left(self):
        freight = Charge(ChargeKind.FREIGHT, D(900))
        self.assertIsNone(forecast([SOUND], BidTerms(charges=(freight,))).most(Targets()).bid)

    def test_the_question_worth_asking_is_the_one_that_may_change_our_mind(self):
        drawn = forecast([SOUND, GAMBLE], BidTerms())
        targets = Targets(margin=0.0, loss=0.2)
        found = drawn.questions(targets, D(700), most=99)
        rates = [q.rate for q in found]
        self.assertEqual(rates, sorted(rates, reverse=True))
        self.assertEqual(found[0].line, 1)
        through = {q.line: q for q in found if q.ask == "through"}
        self.assertGreater(through[1].worth, 50)
        self.assertGreater(through[1].lifts - through[1].lowers, through[0].lifts - through[0].lowers)
        self.assertLess(through[1].lowers, 0)
        # No look tells more than knowing for certain.
        self.assertTrue(all(q.worth <= through[q.line].worth + 1e-9 for q in found))
        left = drawn.questions(targets, D(700), {(1, "through")}, most=99)
        self.assertEqual(len(left), len(found) - 1)

    def test_what_cannot_be_is_refused(self):
        for wrong in (
            {"cases": (Case(0.5), Case(0.4), Case(0.0), Case(0.0))},
            {"rho": 1.0},
            {"quantity": 0},
            {"cases": (Case(1.0),)},
            {"cases": (Case(1.0, 9, 5, 9), Case(0.0), Case(0.0), Case(0.0))},
        ):
            with self.assertRaises(ValueError):
                replace(SOUND, **wrong)
        with self.assertRaises(ValueError):
            forecast([], BidTerms())


class OddsThatLearn(TestCase):
    COUNTS = st.lists(st.integers(0, 200), min_size=4, max_size=4).map(tuple)

    @given(COUNTS)
    def test_odds_are_odds(self, counts):
        learned = learn(STARTING["untested"], NONE, counts, counts)
        self.assertAlmostEqual(sum(learned.odds), 1)
        self.assertTrue(0 <= learned.low <= learned.odds[0] <= learned.high <= 1)

    @given(COUNTS, st.integers(0, 3))
    def test_learning_moves_towards_the_evidence(self, counts, outcome):
        more = tuple(n + 5 * (i == outcome) for i, n in enumerate(counts))
        for circle in range(3):
            before, after = [NONE] * 3, [NONE] * 3
            before[circle], after[circle] = counts, more
            self.assertGreater(
                learn(STARTING["dead"], *after).odds[outcome], learn(STARTING["dead"], *before).odds[outcome]
            )

    def test_three_do_not_swing_it_and_three_hundred_do(self):
        start = STARTING["untested"][0]
        self.assertLess(learn(STARTING["untested"], NONE, NONE, (3, 0, 0, 0)).odds[0] - start, 0.2)
        self.assertGreater(learn(STARTING["untested"], NONE, NONE, (300, 0, 0, 0)).odds[0], 0.95)

    def test_another_suppliers_record_counts_less(self):
        twenty = (20, 0, 0, 0)
        ours = learn(STARTING["untested"], NONE, NONE, twenty).odds[0]
        kin = learn(STARTING["untested"], NONE, twenty, NONE).odds[0]
        far = learn(STARTING["untested"], twenty, NONE, NONE).odds[0]
        self.assertTrue(min(ours, kin) > far > STARTING["untested"][0])
