"""Paths weighed: consistent with their own tables, and moved the way the facts point."""

from dataclasses import replace
from functools import partial
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from core.buying.odds import OUTCOMES, STARTING, LineOutcome
from core.intake.triage import (
    SIGNS,
    Effort,
    Path,
    Prices,
    TriageFacts,
    as_it_stands,
    fetches,
    seen_odds,
    shown_odds,
    triage,
    unfinished,
)


def less(fee: float, postage: float, price: float) -> float:
    """What a sale leaves after a share of the price and what sending takes."""
    return price * (1 - fee) - postage


ODDS = st.lists(st.integers(1, 30), min_size=4, max_size=4).map(lambda w: tuple(x / sum(w) for x in w))
FACTS = st.builds(
    TriageFacts,
    ODDS,
    st.builds(Prices, st.floats(1, 500), st.floats(1, 300), st.floats(1, 100), st.floats(-0.3, 0.3)),
    st.integers(0, 100),
    st.integers(0, 100),
    st.floats(0, 80),
    st.floats(0, 40),
    st.builds(partial, st.just(less), st.floats(0, 0.2), st.floats(0, 20)),
    st.integers(0, 6),
    ours=st.booleans(),
)
SOUND = TriageFacts((0.5, 0.3, 0.15, 0.05), Prices(200, 100, 40), labour_rate=20, left=partial(less, 0.1, 0))


class Paths(TestCase):
    @given(FACTS, st.floats(0, 0.45), st.floats(0, 0.45))
    def test_the_more_hangs_on_all_being_there_the_less_an_incomplete_one_fetches(self, facts, hangs, more):
        one, other = (replace(facts, prices=replace(facts.prices, hangs=share)) for share in (hangs, hangs + more))
        self.assertLessEqual(as_it_stands(other), as_it_stands(one) + 1e-9)

    @given(FACTS)
    def test_the_order_the_mean_and_the_lead_hold(self, facts):
        found = triage(facts)
        self.assertEqual({way.path for way in found.ways}, {*facts.paths, Path.HOLD})
        worths = [way.worth for way in found.ways]
        self.assertEqual(worths, sorted(worths, reverse=True))
        for way in found.ways:
            self.assertAlmostEqual(
                way.worth, sum(p * w for p, w in zip(facts.odds, way.by_outcome, strict=True)), places=6
            )
        self.assertGreaterEqual(found.matters, 0)
        self.assertGreaterEqual(found.lead, -1e-9)

    @given(FACTS)
    def test_the_fact_that_is_named_does_change_the_decision(self, facts):
        found = triage(facts)
        if found.turn is None:
            return
        known = replace(facts, odds=tuple(float(o is found.turn.outcome) for o in OUTCOMES))
        there = triage(known)
        self.assertGreater(there.best.worth, next(w for w in there.ways if w.path is found.best.path).worth)

    @given(FACTS, st.sampled_from(OUTCOMES))
    def test_what_is_known_for_certain_leaves_nothing_to_find_out(self, facts, outcome):
        known = replace(facts, odds=tuple(float(o is outcome) for o in OUTCOMES))
        found = triage(known)
        self.assertAlmostEqual(found.matters, 0, places=6)
        self.assertTrue(found.turn is None or found.turn.gain < 0.5)

    def test_the_usual_judgements(self):
        dear = replace(SOUND, odds=(1.0, 0.0, 0.0, 0.0))
        self.assertIn(triage(dear).best.path, {Path.TEST, Path.REFURBISH})
        wreck = replace(SOUND, odds=(0.0, 0.0, 0.0, 1.0), prices=Prices(20, 2, 1))
        self.assertIn(triage(wreck).best.path, {Path.SCRAP, Path.HOLD, Path.SELL})
        spoilt = replace(dear, completeness=60, cosmetics=50)
        self.assertEqual(triage(spoilt).best.path, Path.REFURBISH)
        self.assertNotEqual(triage(replace(spoilt, missing_cost=150)).best.path, Path.REFURBISH)
        rising = replace(SOUND, prices=Prices(200, 100, 40, a_year=0.5))
        self.assertEqual(triage(rising, Effort(a_month=0.1)).best.path, Path.HOLD)

    def test_one_known_dead_is_never_sold_at_the_price_of_an_untested_one(self):
        prices = Prices(200, 100, 40)
        for outcome, most in ((LineOutcome.PARTS, 40), (LineOutcome.WORTHLESS, 12)):
            known = replace(SOUND, odds=tuple(float(o is outcome) for o in OUTCOMES), prices=prices, completeness=100)
            self.assertAlmostEqual(as_it_stands(known), most)
        works = replace(SOUND, odds=(1.0, 0.0, 0.0, 0.0), prices=prices, completeness=100, cosmetics=100)
        self.assertAlmostEqual(as_it_stands(works), 100)

    def test_what_is_usually_sold_untested_fetches_the_untested_price(self):
        usual = replace(SOUND, odds=STARTING["untested"], completeness=100, cosmetics=100)
        self.assertAlmostEqual(as_it_stands(usual), 100)

    @given(FACTS, st.integers(0, 2), st.floats(0.01, 0.99))
    def test_known_worse_is_never_priced_better(self, facts, place, part):
        """A part of the odds moved to the next worse outcome, among odds that leave as much open."""
        prices = replace(facts.prices, working=3 * (facts.prices.untested + facts.prices.parts))
        sure = [0.0] * 4
        sure[place] = 1.0
        worse = [0.0] * 4
        worse[place + 1] = 1.0
        better, worse_one = (replace(facts, odds=tuple(odds), prices=prices) for odds in (sure, worse))
        self.assertGreaterEqual(as_it_stands(better) + 1e-9, as_it_stands(worse_one))
        mixed = [0.0] * 4
        mixed[place], mixed[place + 1] = part, 1 - part
        turned = [0.0] * 4
        turned[place], turned[place + 1] = max(part, 1 - part), min(part, 1 - part)
        good = replace(facts, odds=tuple(turned), prices=prices)
        bad = replace(
            facts, odds=(*turned[:place], turned[place + 1], turned[place], *turned[place + 2 :]), prices=prices
        )
        self.assertGreaterEqual(as_it_stands(good) + 1e-9, as_it_stands(bad))

    def test_parts_that_nobody_estimated_are_no_gift(self):
        spoilt = replace(SOUND, completeness=60, missing_cost=0.0)
        open_parts = replace(spoilt, missing_unpriced=3)
        one, other = triage(spoilt), triage(open_parts)
        mine, theirs = (next(w for w in t.ways if w.path is Path.REFURBISH).worth for t in (one, other))
        self.assertGreater(mine, theirs)
        self.assertIn("3 missing parts have no estimate, 12 each taken", open_parts.seen_words)
        self.assertNotIn("estimate", spoilt.seen_words)

    def test_what_is_not_ours_is_neither_taken_for_parts_nor_scrapped(self):
        wanted = replace(SOUND, prices=replace(SOUND.prices, parts=SOUND.prices.working))
        found = triage(replace(wanted, ours=False))
        self.assertEqual({way.path for way in found.ways}, {*Path} - {Path.PART_OUT, Path.SCRAP})
        self.assertEqual({way.path for way in triage(wanted).ways}, {*Path})
        self.assertIn(Path.PART_OUT, {triage(wanted).best.path, triage(wanted).turn.path})
        self.assertNotIn(found.turn and found.turn.path, {Path.PART_OUT, Path.SCRAP})

    def test_what_was_decided_of_one_that_nobody_finishes(self):
        for path, donor, becomes, price in (
            ("", False, None, None),
            ("refurbish", False, None, None),
            ("sell", False, Path.SELL, 100),
            ("part_out", False, Path.PART_OUT, 40),
            ("refurbish", True, Path.PART_OUT, 40),
            ("sell", True, Path.PART_OUT, 40),
            ("scrap", True, Path.SCRAP, 0),
        ):
            self.assertEqual(unfinished(path, donor), becomes)
            if becomes:
                self.assertEqual(fetches(becomes, SOUND.prices), price)

    def test_odds_must_be_odds(self):
        with self.assertRaises(ValueError):
            triage(replace(SOUND, odds=(0.5, 0.5, 0.5, 0.0)))


class Signs(TestCase):
    @given(ODDS, st.dictionaries(st.sampled_from([*SIGNS, "scratch"]), st.integers(0, 4), max_size=4))
    def test_odds_stay_odds_and_bad_signs_never_make_it_likelier_to_work(self, odds, signs):
        after = seen_odds(odds, signs)
        self.assertAlmostEqual(sum(after), 1)
        works = OUTCOMES.index(LineOutcome.WORKS)
        self.assertLessEqual(after[works], odds[works] + 1e-9)

    def test_shown_to_work_or_not_to(self):
        odds = (0.6, 0.2, 0.15, 0.05)
        self.assertEqual(shown_odds(odds, None), odds)
        self.assertEqual(shown_odds(odds, True), (1.0, 0.0, 0.0, 0.0))
        for found, wanted in zip(shown_odds(odds, False), (0, 0.5, 0.375, 0.125), strict=True):
            self.assertAlmostEqual(found, wanted)
        # What was taken for sure to work is broken: to be repaired, as most of them.
        self.assertEqual(shown_odds((1.0, 0.0, 0.0, 0.0), False), (0.0, 1.0, 0.0, 0.0))
