from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from core.intake.completeness import Content, Presence, completeness, there_and_gone
from core.intake.condition import MOST_PER_FACE, FindingKind, Mark, cosmetic_score
from core.machine.casing import Face, FormFactor, face_label, faces_of, lay_out

MARKS = st.lists(
    st.builds(Mark, st.sampled_from(FindingKind), st.sampled_from(Face), st.integers(1, 4), st.floats(0, 1)),
    max_size=30,
)


class CompletenessOf(TestCase):
    def test_weighs_what_is_there(self):
        found = completeness(
            [
                Content("keyboard", 4, Presence.PRESENT),
                Content("mouse", 2, Presence.MISSING),
                Content("cover", 1, Presence.NOT_ORIGINAL),
                Content("lead", 1, Presence.WRONG),
                Content("manual", 3, Presence.EXTRA),
            ]
        )
        self.assertEqual(found.percent, 62)
        self.assertEqual((found.missing, found.not_original), (("mouse", "lead"), ("cover",)))

    def test_no_figure_while_something_was_not_looked_for(self):
        found = completeness([Content("keyboard", 4, Presence.PRESENT), Content("mouse", 2, Presence.UNSEEN)])
        self.assertEqual((found.percent, found.unseen), (None, ("mouse",)))

    def test_nothing_expected_has_no_figure(self):
        self.assertIsNone(completeness([]).percent)

    def test_what_is_there_and_gone_as_well_by_what_the_words_are_about(self):
        for name, words in (
            ("all keycaps", "two keycaps gone"),
            ("all keycaps", "Keycap F7"),
            ("feet", "one foot"),
            ("television lead", "the lead for the television"),
            ("bracket", "its bracket, bent and broken off"),
        ):
            for presence, told in (
                (Presence.PRESENT, {name: words}),
                (Presence.NOT_ORIGINAL, {name: words}),
                (Presence.MISSING, {}),
                (Presence.UNSEEN, {}),
            ):
                with self.subTest(name, presence=presence):
                    self.assertEqual(there_and_gone([words], [Content(name, 1, presence)]), told)
        for name, words in (
            ("television lead", "power lead"),
            ("edge contacts whole", "edge chipped"),
            ("adapter", ""),
            ("the set", "the whole set"),
            ("glass", "gla"),
        ):
            with self.subTest(name):
                self.assertEqual(there_and_gone([words], [Content(name, 1, Presence.PRESENT)]), {})

    @given(st.lists(st.text(max_size=20), max_size=4), st.lists(st.text(max_size=20), max_size=4))
    def test_only_what_is_ticked_is_asked_about_and_with_words_that_were_said(self, gone, names):
        there = [Content(name, 1, Presence.PRESENT) for name in names]
        found = there_and_gone(gone, there)
        self.assertLessEqual(set(found), set(names))
        self.assertLessEqual(set(found.values()), set(gone))
        self.assertEqual(there_and_gone(gone, []), {})


class CaseUnfolded(TestCase):
    @given(st.integers(10, 900), st.integers(10, 900), st.integers(10, 900))
    def test_every_face_of_every_shape_stands_on_the_drawing_and_none_over_another(self, width, height, depth):
        for form in FormFactor:
            for narrow in (False, True):
                casing = lay_out(form, width, height, depth, narrow)
                self.assertEqual({panel.face for panel in casing.panels}, set(faces_of(form)))
                self.check(casing)

    def check(self, casing):
        for panel in casing.panels:
            self.assertGreaterEqual(min(panel.x, panel.y, panel.width, panel.height), 0)
            self.assertLessEqual(panel.x + panel.width, casing.width + 1e-6)
            self.assertLessEqual(panel.y + panel.height, casing.height + 1e-6)
        for one in casing.panels:
            for other in casing.panels:
                if one.face != other.face:
                    apart = (
                        one.x + one.width <= other.x
                        or other.x + other.width <= one.x
                        or one.y + one.height <= other.y
                        or other.y + other.height <= one.y
                    )
                    self.assertTrue(apart, f"{one.face} over {other.face}")

    def test_a_box_without_a_size_is_refused(self):
        with self.assertRaises(ValueError):
            lay_out(FormFactor.TOWER, 0, 10, 10)

    def test_a_board_has_two_sides_and_a_bracket(self):
        labels = [face_label(face, FormFactor.BOARD) for face in faces_of(FormFactor.BOARD)]
        self.assertEqual(labels, ["component side", "solder side", "bracket"])
        self.assertIsNone(lay_out(FormFactor.BOARD, 300, 20, 100).panel(Face.FRONT))


class Cosmetics(TestCase):
    @given(MARKS)
    def test_between_nothing_and_a_hundred_and_the_terms_explain_it(self, marks):
        score = cosmetic_score(marks)
        self.assertTrue(0 <= score.score <= 100)
        self.assertEqual(len(score.terms), len(marks))
        self.assertTrue(all(points <= MOST_PER_FACE for points in score.by_face.values()))
        self.assertEqual(score.score, max(0, round(100 - sum(score.by_face.values()))))

    @given(
        MARKS, st.builds(Mark, st.sampled_from(FindingKind), st.sampled_from(Face), st.integers(1, 4), st.floats(0, 1))
    )
    def test_another_finding_never_makes_it_prettier(self, marks, more):
        self.assertLessEqual(cosmetic_score([*marks, more]).score, cosmetic_score(marks).score)

    def test_the_front_counts_more_than_the_underside(self):
        front, under = (
            cosmetic_score([Mark(FindingKind.CRACK, f, 3, 0.1)]).score for f in (Face.FRONT, Face.UNDERSIDE)
        )
        self.assertLess(front, under)
