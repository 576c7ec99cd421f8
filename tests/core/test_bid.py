import itertools
from dataclasses import replace
from decimal import Decimal
from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats

from core.buying.bid import forecast
from core.buying.calibration import EXACT, STATED, SoldLine, learn_spreads, learn_width
from core.buying.landed import Charge, ChargeKind
from core.buying.moments import moments
from core.buying.odds import STARTING, SeenLine, effective, learn, of_others
from core.buying.planned import BidLine, BidTerms, Case, PlannedTax, Targets, net_value
from core.buying.questions import ASKS
from core.selling.price import SellingTerms, left_of

D = Decimal
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


class EverythingThatIsTaken(TestCase):
    """Tax and postage in a plan, as in the price floor."""

    ONE = BidLine("one", 1, (Case(1.0, 100, 100, 100), Case(0.0), Case(0.0), Case(0.0)))
    SCHEMES = st.sampled_from(["none", "standard", "margin", "global"])

    def terms(self, scheme: str, **more) -> BidTerms:
        return BidTerms(lot_rho=0.0, calibration=EXACT, tax=PlannedTax(scheme, D(25)), **more)

    def test_a_hundred_sold_for_forty_bought_leaves_what_the_floor_leaves(self):
        for scheme, wanted in (("none", 48), ("standard", 28), ("margin", 36), ("global", 36)):
            at = forecast([self.ONE], self.terms(scheme, postage=12.0)).at(D(40))
            self.assertAlmostEqual(at.profit, wanted, delta=0.3, msg=scheme)
            sold = SellingTerms(D(0), D(0), D(12), "margin" if scheme == "global" else scheme, D(25))
            self.assertAlmostEqual(at.profit, float(left_of(D(100), D(40), sold) - 40), delta=0.3)
            self.assertAlmostEqual(at.tax, 60 - wanted - 12, delta=0.3)

    def test_what_sells_for_less_than_it_cost_is_set_against_nothing_but_over_a_period(self):
        lines = [self.ONE, replace(self.ONE, cases=(*(Case(0.0),) * 3, Case(1.0, 10, 10, 10)))]
        # 110 paid is shared 100 and 10; at 220 each carries twice what it sells for, and no tax is due.
        for scheme, tax in (("margin", 0.0), ("global", -22.0)):
            drawn = forecast(lines, self.terms(scheme))
            self.assertAlmostEqual(drawn.at(D(110)).tax, 0.0, delta=0.3)
            self.assertAlmostEqual(drawn.at(D(220)).tax, tax, delta=0.3)

    @given(lines(), SCHEMES, st.integers(0, 400))
    @settings(max_examples=25, deadline=None)
    def test_the_tax_of_a_line_in_each_draw_is_that_of_its_pieces(self, line, scheme, bid):
        terms = self.terms(scheme)
        drawn = forecast([line], terms, 200, seed=4)
        at = drawn.at(D(bid))
        prices = np.array([case.mean_price for case in line.cases])
        carried = bid / line.quantity
        each, whole = 0.2 * np.maximum(0, prices - carried), drawn.drawn[0]
        rough = {
            "none": 0.0,
            "standard": 0.2 * drawn.expected.sales,
            "margin": float((each @ whole.counts).mean()),
            "global": 0.2 * (drawn.expected.sales - bid),
        }[scheme]
        # On the margin: prices lie around their mean, and amounts between two steps are laid straight.
        slack = 0.01 if scheme != "margin" else 0.06 * drawn.expected.sales + 0.01
        self.assertAlmostEqual(at.tax, rough, delta=slack)

    @given(st.lists(lines(), min_size=1, max_size=3), SCHEMES)
    @settings(max_examples=20, deadline=None)
    def test_the_most_keeps_its_target_and_a_cent_more_does_not(self, some, scheme):
        drawn = forecast(some, BidTerms(0.1, 12.0, postage=6.0, tax=PlannedTax(scheme, D(25))), 1000, seed=6)
        targets = Targets(0.1, 0.3, 2.0)
        for limit in drawn.limits(targets):
            if limit.bid is None:
                continue
            keeps = {
                "margin": lambda at: at.profit >= targets.margin * drawn.expected.sales - 0.03,
                "loss": lambda at: at.loss <= targets.loss + 0.002,
                "hourly": lambda at: at.profit >= targets.hourly * drawn.hours - 0.03,
            }[limit.name]
            self.assertTrue(keeps(drawn.at(limit.bid)), limit)
            self.assertFalse(
                limit.name != "loss" and keeps(drawn.at(limit.bid + D("0.10"))),
                limit,
            )

    def test_nobody_sends_what_would_not_bring_its_postage(self):
        cheap = replace(self.ONE, cases=(Case(1.0, 5, 5, 5), *(Case(0.0),) * 3))
        self.assertEqual(forecast([cheap], self.terms("none", postage=12.0)).mean, 0)
        self.assertEqual(forecast([cheap], self.terms("none", postage=3.0, after=1.5)).mean, 0.5)
        # Nor what would bring its postage, and not what answering for it costs: a dearer one is worth no less.
        self.assertEqual(forecast([cheap], self.terms("none", postage=4.5, after=1.5)).mean, 0)


class HowPlansComeOut(TestCase):
    def test_nothing_seen_leaves_the_stated_figures(self):
        self.assertEqual(learn_spreads([]), STATED)
        self.assertEqual(learn_width(STATED, []), STATED)

    @given(st.floats(0.5, 2), st.floats(0.01, 0.5), st.integers(1, 6))
    def test_what_came_as_it_was_stated_leaves_the_mean_where_it_was(self, mean, spread, count):
        stated = replace(STATED, price=mean, line_price=spread, sale_price=0.0)
        # The spread between lines that are all alike is what is stated, thinned by them.
        between = spread * (4 / (3 + count)) ** 0.5
        found = learn_spreads([SoldLine((mean * np.exp(-(between**2) / 2),))] * count, stated)
        self.assertAlmostEqual(found.price, mean)
        self.assertLess(found.price_open, stated.price_open)

    def test_what_was_sold_moves_them(self):
        dice = np.random.default_rng(1)
        lines = [
            SoldLine(
                tuple(np.exp(off + 0.4 * dice.standard_normal(4))), tuple(2 * np.exp(0.9 * dice.standard_normal(4)))
            )
            for off in 0.5 * dice.standard_normal(400) - 0.3
        ]
        found = learn_spreads(lines)
        # Means of lognormals: exp(mu + s² / 2).
        self.assertAlmostEqual(found.price, float(np.exp(-0.3 + (0.25 + 0.16) / 2)), delta=0.06)
        self.assertAlmostEqual(found.minutes, 2 * float(np.exp(0.405)), delta=0.25)
        for got, wanted in (
            (found.line_price, 0.5),
            (found.sale_price, 0.4),
            (found.line_minutes, 0.0),
            (found.piece_minutes, 0.9),
        ):
            self.assertAlmostEqual(got, wanted, delta=0.11)
        self.assertEqual(found.lines, 400)

    @given(st.lists(st.lists(st.floats(0.05, 20), min_size=1, max_size=5).map(tuple), max_size=8))
    def test_any_figures_make_spreads(self, told):
        found = learn_spreads([SoldLine(prices, prices) for prices in told])
        for one in (found.line_price, found.sale_price, found.line_minutes, found.piece_minutes):
            self.assertGreaterEqual(one, 0)
        self.assertGreater(found.price, 0)

    def test_the_mean_is_weighed_by_what_is_known_of_it(self):
        """A normal mean with known spreads: precisions add up, and the mean is that of all, weighed by them."""
        stated = replace(STATED, line_price=0.3, sale_price=0.0, price_open=0.1)
        alike = [SoldLine((0.7,) * 5), SoldLine((0.7,))] * 2
        found = learn_spreads(alike, stated)
        # Lines that are all alike narrow the spread between lines: four lines’ worth are stated.
        between = 0.3 * (4 / 7) ** 0.5
        self.assertAlmostEqual(found.line_price, between)
        # Of logarithms: the middle of what is stated lies below its mean, and so has what was seen a higher mean.
        prior, told = 1 / 0.01, 4 / between**2
        middle = ((np.log(stated.price) - 0.005) * prior + (np.log(0.7) + between**2 / 2) * told) / (prior + told)
        self.assertAlmostEqual(found.price, np.exp(middle + 1 / (prior + told) / 2), places=6)
        self.assertAlmostEqual(found.price_open, (prior + told) ** -0.5, places=6)

    @given(st.lists(st.floats(0.3, 3), min_size=1, max_size=6).map(tuple), st.integers(1, 8))
    def test_the_more_is_sold_the_better_the_mean_is_known(self, prices, count):
        few, more = (learn_spreads([SoldLine((1.0, *prices))] * n) for n in (count, 4 * count))
        self.assertLess(more.price_open, few.price_open)
        self.assertLess(few.price_open, STATED.price_open)

    def test_all_lines_of_a_lot_share_how_far_the_mean_is_open(self):
        """Two lines of one sure piece each at 100, prices on the whole 20 in 100 off: they rise and fall together."""
        sure = BidLine("sure", 1, (Case(1.0, 100, 100, 100), *([Case(0.0)] * 3)), rho=0.0)
        terms = BidTerms(lot_rho=0.0, calibration=replace(EXACT, price_open=0.2))
        drawn = forecast([sure, sure], terms, 40_000, seed=5)
        self.assertAlmostEqual(np.corrcoef(drawn.worth)[0, 1], 1.0, places=5)
        mean, variance = moments([sure, sure], terms)
        self.assertAlmostEqual(mean, 200)
        self.assertAlmostEqual(variance, 200**2 * np.expm1(0.04))
        self.assertAlmostEqual(drawn.total.var() / variance, 1, delta=0.03)

    @given(lines(), st.integers(1, 5))
    @settings(max_examples=20, deadline=None)
    def test_a_line_in_pieces_is_the_line(self, line, pieces):
        """Errors of a line’s price and minutes are those of all that was split off it."""
        line = replace(line, quantity=6, rho=0.0)
        known = replace(EXACT, line_price=0.3, line_minutes=0.5, sale_price=0.1, price_open=0.1)
        terms = BidTerms(0.1, 20.0, lot_rho=0.0, calibration=known)
        parts = [replace(line, quantity=6 - pieces, kin=7), replace(line, quantity=pieces, kin=7)]
        (mean, variance), (same, as_wide) = moments([line], terms), moments(parts, terms)
        self.assertAlmostEqual(mean, same, places=6)
        self.assertAlmostEqual(variance, as_wide, delta=1e-9 * (1 + variance))
        _, apart = moments([replace(part, kin=kin) for kin, part in enumerate(parts)], terms)
        self.assertLessEqual(apart, as_wide + 1e-9)

    def test_pieces_of_a_line_are_drawn_off_by_the_same(self):
        sure = BidLine("sure", 1, (Case(1.0, 100, 100, 100, 0, 60), *([Case(0.0)] * 3)), rho=0.0, kin=1)
        known = replace(EXACT, line_price=0.2, line_minutes=0.4)
        other = replace(sure, kin=None)
        drawn = forecast([sure, sure, other], BidTerms(0.0, 20.0, lot_rho=0.0, calibration=known), 40_000, seed=5)
        correlations = np.corrcoef(drawn.worth)
        self.assertAlmostEqual(correlations[0, 1], 1.0, places=5)
        self.assertAlmostEqual(correlations[0, 2], 0.0, delta=0.02)
        self.assertAlmostEqual(drawn.total.var() / drawn.variance, 1, delta=0.03)

    def test_a_few_lines_move_them_part_of_the_way_and_a_freak_does_not_swing_them(self):
        three = learn_spreads([SoldLine((0.5,), (3.0,))] * 3)
        self.assertTrue(0.6 < three.price < 0.9 and 1.2 < three.minutes < 2.5)
        few = learn_spreads([SoldLine((0.8, 0.9), (1.5,))] * 3)
        # What lies at 1.5 by its logarithms, and spreads as stated, has a mean of 1.8.
        self.assertTrue(0.8 < few.price < STATED.price and STATED.minutes < few.minutes < 1.5 * np.exp(0.6**2 / 2))
        self.assertAlmostEqual(learn_width(STATED, [40.0]).width, (19 / 11) ** 0.5)
        self.assertAlmostEqual(learn_width(STATED, [2.0] * 90).width, 3.7**0.5)
        self.assertLess(learn_width(STATED, [0.1] * 50).width, 0.5)
        with self.assertRaises(ValueError):
            learn_spreads([SoldLine((0.0,))])

    @given(lines(), st.floats(0, 0.4), st.floats(0.5, 2))
    @settings(max_examples=20, deadline=None)
    def test_more_spread_leaves_what_is_expected_and_widens(self, line, spread, width):
        plain = BidTerms(0.1, 20.0, lot_rho=0.0, calibration=EXACT)
        known = replace(EXACT, line_price=spread, sale_price=spread, line_minutes=spread, width=width)
        mean, variance = moments([line], plain)
        again, wider = moments([line], replace(plain, calibration=known))
        self.assertAlmostEqual(mean, again, places=6)
        self.assertGreaterEqual(wider, variance * width**2 * (1 - 1e-9))
        one, other = (forecast([line], terms, 4000, seed=3) for terms in (plain, replace(plain, calibration=known)))
        self.assertAlmostEqual(other.total.mean(), one.total.mean(), delta=0.1 * (wider**0.5 + variance**0.5) + 1e-6)


class OddsThatLearn(TestCase):
    COUNTS = st.lists(st.integers(0, 200), min_size=4, max_size=4).map(tuple)

    @given(COUNTS)
    def test_odds_are_odds(self, counts):
        learned = learn(STARTING["untested"], [], [SeenLine(2, counts)], [SeenLine(1, counts)])
        self.assertAlmostEqual(sum(learned.odds), 1)
        self.assertTrue(0 <= learned.low <= learned.odds[0] <= learned.high <= 1)

    @given(COUNTS, st.integers(0, 3))
    def test_learning_moves_towards_the_evidence(self, counts, outcome):
        for circle in range(3):
            before: list[list[SeenLine]] = [[], [], []]
            before[circle] = [SeenLine(9 if circle < 2 else 1, counts)]
            after = [list(lines) for lines in before]
            # Five more of another line, all of them so.
            after[circle].append(SeenLine(7 if circle < 2 else 1, tuple(5 * (i == outcome) for i in range(4))))
            self.assertGreater(
                learn(STARTING["dead"], *after).odds[outcome], learn(STARTING["dead"], *before).odds[outcome]
            )

    def test_three_do_not_swing_it_and_many_lines_do(self):
        start = STARTING["untested"][0]
        self.assertLess(learn(STARTING["untested"], [], [], [SeenLine(1, (3, 0, 0, 0))]).odds[0] - start, 0.2)
        many = [SeenLine(1, (10, 0, 0, 0))] * 30
        self.assertGreater(learn(STARTING["untested"], [], [], many).odds[0], 0.9)

    def test_twenty_of_one_pallet_tell_less_than_twenty_lots(self):
        pallet = learn(STARTING["untested"], [], [], [SeenLine(1, (20, 0, 0, 0))])
        lots = learn(STARTING["untested"], [], [], [SeenLine(1, (1, 0, 0, 0))] * 20)
        self.assertLess(pallet.odds[0], lots.odds[0])
        self.assertGreater(pallet.high - pallet.low, lots.high - lots.low)
        # n ÷ (1 + (n - 1) ρ): 20 at 0.15 are 20 / 3.85.
        self.assertAlmostEqual(sum(effective([SeenLine(1, (12, 8, 0, 0))])), 20 / 3.85)

    def test_a_thousand_of_one_other_supplier_are_one_suppliers(self):
        # n (1 + S) ÷ (n + S) never passes 1 + S = 9.
        lines = [SeenLine(2, (1, 0, 0, 0))] * 1000
        self.assertAlmostEqual(sum(of_others(lines)), 1000 * 9 / 1008)
        self.assertAlmostEqual(sum(of_others([SeenLine(n, (1, 0, 0, 0)) for n in range(2, 12)])), 10)

    def test_another_suppliers_record_counts_less(self):
        twenty = (20, 0, 0, 0)
        ours = learn(STARTING["untested"], [], [], [SeenLine(1, twenty)]).odds[0]
        kin = learn(STARTING["untested"], [], [SeenLine(2, twenty)], []).odds[0]
        far = learn(STARTING["untested"], [SeenLine(2, twenty)], [], []).odds[0]
        self.assertTrue(min(ours, kin) > far > STARTING["untested"][0])

    @given(st.lists(st.tuples(st.integers(1, 4), COUNTS), max_size=6), st.randoms())
    def test_the_order_in_which_lines_were_seen_is_nothing(self, told, dice):
        lines = [SeenLine(of, counts) for of, counts in told]
        mixed = list(lines)
        dice.shuffle(mixed)
        for one, other in zip(
            learn(STARTING["dead"], lines, lines, lines).odds,
            learn(STARTING["dead"], mixed, mixed, mixed).odds,
            strict=True,
        ):
            self.assertAlmostEqual(one, other)

    @given(COUNTS, COUNTS)
    def test_what_is_known_of_the_circle_above_narrows(self, kin, own):
        """On average more evidence makes surer: at the same odds, the more that was seen above, the less is open."""
        start = STARTING["untested"]
        few = learn(start, [], [], [SeenLine(1, own)])
        like = [SeenLine(n, tuple(round(100 * share) for share in few.odds)) for n in range(2, 12)]
        much = learn(start, [], like, [SeenLine(1, own)])
        self.assertLessEqual(much.high - much.low, few.high - few.low + 0.02)


class WorthOfFindingOut(TestCase):
    """A line of any count against every way in which its first piece may turn out, weighed by hand."""

    ODDS = (0.38, 0.35, 0.22, 0.05)

    def line(self, count: int, rho: float = 0.15) -> BidLine:
        figures = ((100, 5, 60), (80, 15, 150), (20, 0, 25), (0, 2, 10))
        cases = (
            Case(p, price, price, price, cost, took) for p, (price, cost, took) in zip(self.ODDS, figures, strict=True)
        )
        return BidLine("line", count, tuple(cases), rho)

    def exact(self, line: BidLine, terms: BidTerms, ask, bid: float) -> float:
        values = [net_value(case, terms) for case in line.cases]
        weight, n = (1 - line.rho) / line.rho, line.quantity
        now = max(0.0, n * sum(p * v for p, v in zip(self.ODDS, values, strict=True)) - bid)
        heard = 0.0
        for answer in ask.answers:
            profit = 0.0
            for j, chance in enumerate(answer.chances):
                rest = [(weight * p + (k == j)) / (weight + 1) for k, p in enumerate(self.ODDS)]
                lot = values[j] + (n - 1) * sum(p * v for p, v in zip(rest, values, strict=True))
                profit += self.ODDS[j] * chance * (lot - bid)
            heard += max(0.0, profit)
        return heard - now

    def test_two_lines_that_share_one_fate_against_every_way(self):
        """The factor by a fine grid, both lines by every count, all worked here."""
        rho = 0.3
        lines = [self.line(3), self.line(2, 0.4)]
        terms = BidTerms(0.1, 24.0, lot_rho=rho, calibration=EXACT)
        drawn = forecast(lines, terms, draws=2000)
        values = np.array([net_value(case, terms) for case in lines[0].cases])
        bid = round(drawn.mean * 0.9)
        grid = np.linspace(-6, 6, 481)
        mass = stats.norm.pdf(grid) / stats.norm.pdf(grid).sum()
        edges = stats.norm.ppf(np.cumsum(self.ODDS)[:3])
        found = {(q.line, q.ask): q.worth for q in drawn.questions(Targets(), D(bid), most=99)}
        through = {0: np.zeros((4, 2)), 1: np.zeros((4, 2))}
        for z, share in zip(grid, mass, strict=True):
            odds = np.diff([0, *stats.norm.cdf((edges + rho**0.5 * z) / (1 - rho) ** 0.5), 1])
            for place, line in enumerate(lines):
                weight = (1 - line.rho) / line.rho
                other = lines[1 - place].quantity * (odds @ values)
                for turns in itertools.product(range(4), repeat=line.quantity):
                    chance, urn = share, weight * odds
                    for piece in turns:
                        chance *= urn[piece] / urn.sum()
                        urn = urn + np.eye(4)[piece]
                    through[place][turns[0]] += chance * np.array([1, values[list(turns)].sum() + other - bid])
        for place, told in through.items():
            now = max(0.0, drawn.mean - bid)
            self.assertAlmostEqual(told[:, 1].sum() + bid, drawn.mean, delta=0.01)
            wanted = np.maximum(0, told[:, 1]).sum() - now
            self.assertAlmostEqual(found[place, "through"], wanted, delta=0.01 * wanted)

    @given(st.integers(1, 120), st.floats(0.5, 1.5))
    @settings(max_examples=25, deadline=None)
    def test_it_is_exact_at_every_count(self, count, share):
        line, terms = self.line(count), BidTerms(0.1, 24.0, lot_rho=0.0)
        drawn = forecast([line], terms, draws=2000)
        bid = D(repr(round(max(1.0, drawn.mean) * share, 2)))
        found = {q.ask: q.worth for q in drawn.questions(Targets(), bid, most=9)}
        for ask in ASKS:
            wanted = self.exact(line, terms, ask, float(bid))
            self.assertAlmostEqual(found.get(ask.code, 0.0), max(0.0, wanted), delta=0.01 + 0.03 * abs(wanted))

    def test_the_first_piece_goes_with_the_counts(self):
        """Above the count that is drawn piece by piece too: what a lot is worth when its first piece works."""
        line, terms = self.line(40), BidTerms(0.1, 24.0, lot_rho=0.0, calibration=EXACT)
        values = [net_value(case, terms) for case in line.cases]
        drawn = forecast([line], terms, draws=60_000)
        for j in range(4):
            rest = [(1 - 0.15) * p + 0.15 * (k == j) for k, p in enumerate(self.ODDS)]
            wanted = values[j] + 39 * sum(p * v for p, v in zip(rest, values, strict=True))
            mine = float(drawn.total[drawn.drawn[0].first == j].mean())
            self.assertAlmostEqual(mine, wanted, delta=0.05 * abs(drawn.mean))

    def test_what_an_answer_leaves_is_reckoned_with_its_own_sales_and_hours(self):
        """Only the margin binds: the most is the mean less a share of sales, both after the answer."""
        line, terms = self.line(6), BidTerms(0.1, 24.0, lot_rho=0.0, calibration=EXACT)
        drawn = forecast([line], terms, draws=60_000)
        targets = Targets(margin=0.3, loss=1.0)
        (through,) = [q for q in drawn.questions(targets, D(60), most=9) if q.ask == "through"]
        values = [net_value(case, terms) for case in line.cases]
        prices = [case.mean_price for case in line.cases]
        most = []
        for j in range(4):
            rest = [0.85 * p + 0.15 * (k == j) for k, p in enumerate(self.ODDS)]

            def of(amounts, j=j, rest=rest):
                return amounts[j] + 5 * sum(p * a for p, a in zip(rest, amounts, strict=True))

            most.append(max(0.0, of(values) - 0.3 * of(prices)))
        now = float(drawn.most(targets).bid)
        # The mean of each answer is drawn; sales are exact.
        self.assertAlmostEqual(float(through.lifts), max(most) - now, delta=0.06 * max(most))
        self.assertAlmostEqual(float(through.lowers), min(most) - now, delta=0.06 * max(most))
