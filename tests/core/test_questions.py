import itertools
import math
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from core.buying.odds import OUTCOMES, STARTING
from core.buying.questions import ASKS, BY_CODE, Answer, Ask, LinePosterior, line_posterior

ODDS = st.lists(st.floats(0.001, 1), min_size=len(OUTCOMES), max_size=len(OUTCOMES)).map(
    lambda raw: tuple(p / sum(raw) for p in raw)
)


def posterior(odds, answer: Answer) -> tuple[float, ...]:
    """Odds of a single piece after one answer."""
    return line_posterior(odds, 0.0, [[answer]]).pieces[0]


class Asking(TestCase):
    @given(ODDS, st.sampled_from(ASKS))
    def test_over_all_answers_the_odds_are_on_average_what_they_were(self, odds, ask):
        """The law of total probability: to ask moves nothing before the answer is known."""
        back = [0.0] * len(odds)
        for answer in ask.answers:
            likely = sum(p * c for p, c in zip(odds, answer.chances, strict=True))
            for place, p in enumerate(posterior(odds, answer)):
                back[place] += likely * p
        for was, now in zip(odds, back, strict=True):
            self.assertAlmostEqual(was, now, places=9)

    @given(ODDS, st.sampled_from(ASKS))
    def test_odds_after_an_answer_add_up(self, odds, ask):
        for answer in ask.answers:
            self.assertAlmostEqual(sum(posterior(odds, answer)), 1, places=9)

    @given(ODDS)
    def test_one_looked_through_is_known(self, odds):
        for place, answer in enumerate(BY_CODE["through"].answers):
            self.assertAlmostEqual(posterior(odds, answer)[place], 1, places=9)

    @given(ODDS)
    def test_one_that_comes_on_is_likelier_to_work_and_a_leak_likelier_not(self, odds):
        self.assertGreaterEqual(posterior(odds, BY_CODE["power"].answer("comes_on"))[0], odds[0] - 1e-9)
        self.assertLessEqual(posterior(odds, BY_CODE["leak"].answer("leaked"))[0], odds[0] + 1e-9)

    def test_an_answer_that_could_not_be_moves_nothing(self):
        odds = (1.0, 0.0, 0.0, 0.0)
        self.assertEqual(posterior(odds, BY_CODE["through"].answers[3]), odds)

    def test_a_question_whose_answers_do_not_add_up_is_none(self):
        with self.assertRaisesRegex(ValueError, "must sum to 1"):
            Ask("x", "half an answer?", 1, (Answer("a", "a", (0.5, 0.5, 0.5, 0.5)),))
        with self.assertRaises(KeyError):
            BY_CODE["power"].answer("glows")

    def test_what_can_hurt_is_said(self):
        self.assertIn("open", BY_CODE["power"].caution)
        self.assertIn("Gloves", BY_CODE["leak"].caution)


ANSWERS = st.sampled_from([answer for ask in ASKS for answer in ask.answers])
# Two answers about a piece that can’t both be are no evidence of anything.
CAN_BE = st.lists(ANSWERS, min_size=1, max_size=2).filter(
    lambda answers: any(math.prod(chances) for chances in zip(*(a.chances for a in answers), strict=True))
)
PIECES = st.lists(CAN_BE, min_size=1, max_size=5)
LINE_RHO = st.floats(0.02, 0.9)


def enumerated(odds, rho, pieces) -> tuple[list[float], list[list[float]], float]:
    """Rest, pieces and how alike two of the rest are, by every way in which the pieces may have turned out."""
    weight, places = (1 - rho) / rho, range(len(odds))
    whole, rest, pairs = 0.0, [0.0] * len(odds), [0.0] * len(odds)
    each = [[0.0] * len(odds) for _ in pieces]
    for way in itertools.product(places, repeat=len(pieces)):
        chance, drawn = 1.0, [0] * len(odds)
        for outcome, answers in zip(way, pieces, strict=True):
            chance *= (weight * odds[outcome] + drawn[outcome]) / (weight + sum(drawn))
            drawn[outcome] += 1
            for answer in answers:
                chance *= answer.chances[outcome]
        whole += chance
        balls = weight + len(pieces)
        for j in places:
            urn = weight * odds[j] + drawn[j]
            rest[j] += chance * urn / balls
            pairs[j] += chance * urn * (urn + 1) / balls / (balls + 1)
        for one, outcome in zip(each, way, strict=True):
            one[outcome] += chance
    rest, pairs = [p / whole for p in rest], [p / whole for p in pairs]
    alike = sum(b - p * p for b, p in zip(pairs, rest, strict=True)) / sum(p * (1 - p) for p in rest)
    return rest, [[p / whole for p in one] for one in each], alike


class OneTellsOfTheOthers(TestCase):
    def close(self, one, other):
        for a, b in zip(one, other, strict=True):
            self.assertAlmostEqual(a, b, places=7)

    @settings(max_examples=80, deadline=None)
    @given(ODDS, LINE_RHO, PIECES)
    def test_it_is_what_enumerating_every_way_gives(self, odds, rho, pieces):
        after, (rest, each, alike) = line_posterior(odds, rho, pieces), enumerated(odds, rho, pieces)
        self.close(after.rest, rest)
        self.assertAlmostEqual(after.rho, alike, places=6)
        for mine, theirs in zip(after.pieces, each, strict=True):
            self.close(mine, theirs)

    @settings(max_examples=60, deadline=None)
    @given(ODDS, LINE_RHO, PIECES, st.randoms())
    def test_the_order_of_answers_is_nothing(self, odds, rho, pieces, dice):
        mixed = [dice.sample(answers, len(answers)) for answers in dice.sample(pieces, len(pieces))]
        one, other = line_posterior(odds, rho, pieces), line_posterior(odds, rho, mixed)
        self.close(one.rest, other.rest)
        self.assertAlmostEqual(one.rho, other.rho, places=6)

    def test_ten_that_work_and_five_that_come_on(self):
        odds, through = STARTING["untested"], BY_CODE["through"].answer("works")
        ten = line_posterior(odds, 0.15, [[through]] * 10)
        # 0.15 is worth 17 / 3 pieces: (0.38 × 17 / 3 + 10) ÷ (17 / 3 + 10); and 0.15 ÷ (1 + 10 × 0.15).
        self.assertAlmostEqual(ten.rest[0], 0.77574, places=5)
        self.assertAlmostEqual(ten.rho, 0.06, places=6)
        five = line_posterior(odds, 0.15, [[BY_CODE["power"].answer("comes_on")]] * 5)
        self.assertAlmostEqual(five.rest[0], 0.581, places=3)

    @given(ODDS, st.sampled_from(range(4)), LINE_RHO, st.integers(1, 6))
    def test_certain_answers_shrink_rho_one_by_one(self, odds, place, rho, times):
        after = line_posterior(odds, rho, [[BY_CODE["through"].answers[place]]] * times)
        for _ in range(times):
            rho /= 1 + rho
        self.assertAlmostEqual(after.rho, rho, places=6)

    @given(ODDS, PIECES)
    def test_pieces_that_have_nothing_to_do_with_each_other_tell_nothing(self, odds, pieces):
        after = line_posterior(odds, 0, pieces)
        self.assertEqual((after.rest, after.rho), (odds, 0))

    def test_without_an_answer_nothing_moves(self):
        odds = STARTING["dead"]
        self.assertEqual(line_posterior(odds, 0.3, []), LinePosterior(odds, 0.3, ()))
