"""A program that asks from many sides at once gets no more than it may, and two tokens for one thing are never made."""

from datetime import timedelta

from stations.common import clock
from stations.people import tokens
from stations.people.models import ReadToken
from stations.people.tokens import NewToken
from tests.stations.base import AtOnce


class ManyAtOnce(AtOnce):
    def test_together_they_get_what_one_would(self):
        tokens.new_token(self.owner, NewToken("our web page", None))
        row = ReadToken.objects.get()
        moment = clock.now() + timedelta(hours=1)

        def ask() -> int:
            with clock.at(moment):
                return sum(tokens.must_wait(row) is None for _ in range(30))

        self.assertEqual(sum(self.together(*[ask] * 4)), tokens.AT_ONCE)

    def test_one_of_two_for_the_same_is_made(self):
        def make() -> str:
            tokens.new_token(self.owner, NewToken("accounts", 90))
            return "made"

        ends = self.together(make, make)
        self.assertIn("made", ends)
        self.assertIn("There is one for that already. End it, or say what this one is for.", ends)

    def test_no_more_than_the_most_are_made(self):
        for number in range(tokens.MOST - 1):
            tokens.new_token(self.owner, NewToken(f"program {number}", None))
        acts = [lambda name=name: tokens.new_token(self.owner, NewToken(name, None)) and "made" for name in "ab"]
        self.assertEqual(self.together(*acts).count("made"), 1)
        self.assertEqual(ReadToken.objects.count(), tokens.MOST)
