from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from core.buying.odds import OUTCOMES
from core.buying.questions import ASKS, BY_CODE, Answer, Ask, learned, posterior

ODDS = st.lists(st.floats(0.001, 1), min_size=len(OUTCOMES), max_size=len(OUTCOMES)).map(
    lambda raw: tuple(p / sum(raw) for p in raw)
)


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


class OneTellsOfTheOthers(TestCase):
    @given(ODDS, ODDS, st.floats(0.01, 0.99))
    def test_the_others_move_towards_the_piece_by_rho(self, odds, piece, rho):
        moved = learned(odds, piece, rho)
        self.assertAlmostEqual(sum(moved), 1, places=9)
        for was, seen, now in zip(odds, piece, moved, strict=True):
            self.assertAlmostEqual(now, (1 - rho) * was + rho * seen, places=9)

    @given(ODDS, ODDS)
    def test_pieces_that_have_nothing_to_do_with_each_other_tell_nothing(self, odds, piece):
        self.assertEqual(learned(odds, piece, 0), odds)
