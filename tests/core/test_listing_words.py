"""The words of a listing: what they may claim, an owner’s own sentences, and what buyers pay for."""

import unittest
from dataclasses import replace
from datetime import datetime, timedelta
from decimal import Decimal as D

from hypothesis import given
from hypothesis import strategies as st

from core.catalogue.recipes import JobKind
from core.selling.grade import Grade
from core.selling.listing import LONGEST_SENTENCE, STANDARD, BlockKind, ListingFacts, blocks, check_sentence, outlived
from core.selling.pictures import from_before
from core.workshop.upgrades.buyers import SHIPPED, BuyerError, read_effects, write_effects

READY = ListingFacts(title="Halden M2", grade=Grade.B, proven=True, photo_count=3, photos_wanted=3, asking=D(99))


class Claims(unittest.TestCase):
    def test_words_that_outlived_the_record(self):
        for change, claimed in (
            ({"said_title": "Halden M2, tested"}, ""),
            ({"said_title": "Halden M2, Tested", "proven": False}, "tested"),
            ({"said_title": "Halden M2, untested", "proven": False}, ""),
            ({"said_title": "Halden M2, complete", "gaps": ("mouse",)}, "complete"),
            ({"said_title": "Halden M2, completely rusted", "gaps": ("mouse",)}, ""),
            ({"said_text": "Halden M2. Grade B."}, ""),
            ({"said_text": "Halden M2. Grade A."}, "Grade A"),
            ({"said_text": "Halden M2. Grade for parts."}, "Grade for parts"),
        ):
            facts = replace(READY, **change)
            self.assertEqual(outlived(facts), claimed, change)
            if claimed:
                self.assertIn(BlockKind.WORDS, [one.kind for one in blocks(facts)])


class OwnSentences(unittest.TestCase):
    def test_every_standard_sentence_can_be_used(self):
        for code, words in STANDARD.items():
            self.assertEqual(check_sentence(code, words), "", code)

    def test_no_fact_is_lost_and_none_is_made_up(self):
        for words, problem in (
            ("Gone through: {things}.", "{on} has to be in it"),
            ("Gone through{on}: {things}, {price}.", "{price} is filled by nothing"),
            ("Gone through{on}: {things}. {", "A brace stands alone"),
            ("Gone through{on}: {things}. {}", "filled by nothing"),
            ("", "Write a sentence"),
            ("x" * (LONGEST_SENTENCE + 1), "characters at most"),
            ("Gone through{on}: {things}.", ""),
        ):
            said = check_sentence("tested", words)
            self.assertIn(problem, said)
            self.assertEqual(bool(said), bool(problem), words)

    @given(st.sampled_from(sorted(STANDARD)), st.text(st.characters(exclude_characters="{}"), max_size=40))
    def test_words_around_the_places_are_free(self, code, more):
        self.assertEqual(check_sentence(code, STANDARD[code] + more), "")


class WhatBuyersPayFor(unittest.TestCase):
    def test_each_shipped_table_reads_as_it_is_written(self):
        for buyer in SHIPPED.values():
            self.assertEqual(read_effects(write_effects(buyer.effects)), buyer.effects)

    def test_percent_or_money_more_or_less(self):
        sound, network, disk = read_effects("sound: +12 %\nnetwork: −20\n\ndisk 40 MB: 7,5")
        self.assertEqual([one.at(D(200)) for one in (sound, network, disk)], [D("24.00"), D(-20), D("7.5")])
        self.assertEqual((sound.percent, sound.money, network.percent), (D(12), None, None))

    def test_what_can_not_be_read_is_told_with_its_line(self):
        for typed, words, line in (
            ("", "looks for nothing", 0),
            ("sound", "a feature, a colon", 1),
            ("sound: +12 %\nsound: +3 %", "stands there twice", 2),
            ("sound: much", "percent or an amount", 1),
            ("\nsound: -101 %", "from -100", 2),
            ("sound: 99999999", "at most", 1),
        ):
            with self.subTest(typed), self.assertRaises(BuyerError) as caught:
                read_effects(typed)
            self.assertIn(words, str(caught.exception))
            self.assertEqual(caught.exception.line or 0, line)

    @given(st.decimals(-100, 100, places=1), st.decimals(1, 5000, places=2))
    def test_a_share_grows_with_the_price_and_money_does_not(self, percent, price):
        share, money = read_effects(f"sound: {percent:+f} %\nnetwork: {percent:+f}")
        self.assertLessEqual(abs(share.at(price) - price * percent / 100), D("0.005"))
        self.assertEqual(money.at(price), percent)


class FromBefore(unittest.TestCase):
    def test_what_was_done_since_a_picture_was_taken(self):
        taken = datetime(2026, 3, 1)
        earlier, later = taken - timedelta(days=1), taken + timedelta(days=1)
        work = [(JobKind.CLEAN, earlier), (JobKind.WHITEN, later), (JobKind.REPAIR, later), (JobKind.WHITEN, later)]
        self.assertEqual(from_before(taken, work, None), "whitened")
        self.assertEqual(from_before(taken, work, later), "whitened, sent to a buyer and came back")
        self.assertEqual(from_before(taken, work[:1], earlier), "")
