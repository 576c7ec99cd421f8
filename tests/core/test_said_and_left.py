"""Data that may be left on a machine, what is known of it and how surely, clocks that were forgotten."""

import unittest
from datetime import UTC, datetime, time, timedelta

from hypothesis import given
from hypothesis import strategies as st

from core.intake.storage import Storage, may_hold_data
from core.workshop.knowledge import KnowledgeKind, Sure, why_incomplete
from core.workshop.labour import LONGEST_STRETCH, labour_cost, why_doubted

NOON = datetime(2026, 11, 4, 12, tzinfo=UTC)
MOMENTS = st.none() | st.integers(0, 400).map(lambda hours: NOON + timedelta(hours=hours))
STORAGES = st.builds(
    Storage,
    st.none() | st.booleans(),
    st.none() | st.integers(0, 3),
    st.booleans(),
    MOMENTS,
    MOMENTS,
)


class DataLeft(unittest.TestCase):
    def test_as_it_is(self):
        for storage, words in (
            (Storage(True, 1), "was not sanitised"),
            (Storage(None, 1), "nobody recorded"),
            (Storage(None, None), "nobody recorded"),
            (Storage(False, 2), ""),
            (Storage(None, 0), ""),
            # What is gone takes its data along, and what was ticked before with it.
            (Storage(True, 0), ""),
            (Storage(True, 1, missing=True), ""),
            (Storage(True, 1, cleared_at=NOON), ""),
        ):
            self.assertIn(words, may_hold_data(storage), storage)
            self.assertEqual(bool(may_hold_data(storage)), bool(words), storage)

    def test_what_was_fitted_after_has_to_be_sanitised_too(self):
        before, after = NOON - timedelta(days=1), NOON + timedelta(days=1)
        self.assertIn("from elsewhere", may_hold_data(Storage(False, 0, brought_in=after, cleared_at=NOON)))
        self.assertIn("from elsewhere", may_hold_data(Storage(False, 0, brought_in=after)))
        self.assertEqual(may_hold_data(Storage(True, 1, brought_in=before, cleared_at=NOON)), "")

    @given(STORAGES)
    def test_sanitising_now_leaves_nothing_and_fitting_more_is_always_told(self, storage):
        late = NOON + timedelta(days=100)
        cleared = Storage(storage.holds, storage.drives, storage.missing, storage.brought_in, late)
        self.assertEqual(may_hold_data(cleared), "")
        fitted = Storage(storage.holds, storage.drives, storage.missing, late + timedelta(days=1), storage.cleared_at)
        self.assertIn("from elsewhere", may_hold_data(fitted))

    @given(STORAGES)
    def test_unknown_is_never_taken_for_empty(self, storage):
        if storage.holds is None and storage.drives != 0 and not storage.missing and storage.cleared_at is None:
            self.assertTrue(may_hold_data(storage))


class Known(unittest.TestCase):
    def test_each_kind_wants_what_makes_it_worth_keeping(self):
        for kind, sure, whom, answer, has_file, field in (
            (KnowledgeKind.NOTE, Sure.GUESSED, "", "", False, ""),
            (KnowledgeKind.NOTE, Sure.OUTSIDER, "", "", False, "from_whom"),
            (KnowledgeKind.NOTE, Sure.OUTSIDER, "its designer", "", False, ""),
            (KnowledgeKind.QUESTION, Sure.GUESSED, "", "", False, "from_whom"),
            (KnowledgeKind.QUESTION, Sure.PRINTED, "its designer", "60 Hz", False, "sure"),
            (KnowledgeKind.QUESTION, Sure.OUTSIDER, "its designer", "60 Hz", False, ""),
            (KnowledgeKind.QUESTION, Sure.PRINTED, "its designer", "", False, ""),
            (KnowledgeKind.FIRMWARE, Sure.MEASURED, "", "", False, "file"),
            (KnowledgeKind.IMAGE, Sure.MEASURED, "", "", True, ""),
            (KnowledgeKind.PICTURE, Sure.PRINTED, "", "", False, "file"),
            (KnowledgeKind.DESIGN, Sure.PRINTED, "", "", True, ""),
        ):
            words, at = why_incomplete(kind, sure, whom, answer, has_file)
            self.assertEqual((at, bool(words)), (field, bool(field)), (kind, sure))

    def test_what_is_read_is_in_words(self):
        self.assertEqual(len({kind.label for kind in KnowledgeKind}), len(KnowledgeKind))
        self.assertFalse(any("_" in one.label for one in (*KnowledgeKind, *Sure)))


class Clocks(unittest.TestCase):
    def test_over_four_hours_past_closing_or_through_a_sign_out(self):
        ran = timedelta(minutes=LONGEST_STRETCH)
        self.assertEqual(why_doubted(NOON, NOON + ran, None, None), "")
        self.assertEqual(why_doubted(NOON, NOON + ran + timedelta(minutes=1), None, None), "ran 4 hours")
        five = NOON + timedelta(hours=3)
        self.assertEqual(why_doubted(NOON, five, time(14, 30), None), "ran past 14:30, when the shop closes")
        self.assertEqual(why_doubted(NOON, five, time(15, 1), None), "")
        self.assertEqual(why_doubted(NOON, five, time(11), None), "", "begun after closing: somebody works late")
        self.assertEqual(why_doubted(NOON, five, None, NOON - timedelta(minutes=1)), "")
        self.assertIn("signed out", why_doubted(NOON, five, None, NOON + timedelta(minutes=1)))

    @given(st.integers(0, 600), st.integers(0, 600))
    def test_the_longer_it_runs_the_less_it_is_believed(self, one, more):
        if why_doubted(NOON, NOON + timedelta(minutes=one), time(18), None):
            self.assertTrue(why_doubted(NOON, NOON + timedelta(minutes=one + more), time(18), None))

    @given(st.integers(0, 3000), st.decimals(0, 200, places=2))
    def test_minutes_cost_their_part_of_the_hour(self, minutes, rate):
        self.assertLessEqual(abs(labour_cost(minutes, rate) * 60 - rate * minutes), 60 * rate.scaleb(-2) + 1)
        self.assertEqual(labour_cost(60, rate), rate)
        with self.assertRaises(ValueError):
            labour_cost(-1, rate)
