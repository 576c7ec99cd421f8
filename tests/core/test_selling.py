from dataclasses import replace
from decimal import Decimal
from itertools import pairwise
from unittest import TestCase

from hypothesis import assume, example, given
from hypothesis import strategies as st

from core.intake.completeness import Content, Presence, completeness
from core.selling.grade import LADDER, Grade, GradeEvidence, Lifting, grade, lifted, outdated
from core.selling.listing import BlockKind, ListingFacts, blocks
from core.selling.market import Comparable, Market, Subject
from core.selling.price import SellingTerms, fee_on, fees_kept, floor_price, tax_within
from tests.core.listings import write_listing

D = Decimal
PERFECT = GradeEvidence(14, 14, 0, run_complete=True, soaked=True, cosmetics=96, completeness=100, works_tried=8)
EVIDENCE = st.builds(
    GradeEvidence,
    steps_total=st.just(10),
    steps_passed=st.integers(0, 10),
    steps_failed=st.integers(0, 3),
    run_complete=st.booleans(),
    soaked=st.booleans(),
    cosmetics=st.none() | st.integers(0, 100),
    works_tried=st.integers(0, 6),
    not_proven=st.sampled_from([(), ("a start failed",)]),
    times_waived=st.sampled_from([(), ("soak",)]),
    completeness=st.none() | st.integers(0, 100),
    not_original=st.integers(0, 4),
    temporary_fixes=st.integers(0, 2),
    unconfirmed_fixes=st.integers(0, 1),
    safety_waived=st.booleans(),
    safety_failed=st.booleans(),
)
MONEY = st.decimals(0, 5000, places=2)
SALES = st.lists(
    st.builds(
        Comparable,
        price=st.decimals(20, 500, places=2),
        age_days=st.integers(0, 700),
        grade=st.sampled_from(Grade),
        completeness=st.integers(40, 100),
        said=st.none() | st.frozensets(st.sampled_from(["defect", "battery"])),
    ),
    min_size=1,
    max_size=12,
)


class Grades(TestCase):
    def test_all_proved_is_an_a(self):
        result = grade(PERFECT)
        self.assertEqual((result.grade, result.caps), (Grade.A, ()))

    def test_each_cap_and_what_lifts_it(self):
        for change, expected in (
            ({"soaked": False}, Grade.B),
            ({"temporary_fixes": 1}, Grade.C),
            ({"unconfirmed_fixes": 1}, Grade.C),
            ({"steps_failed": 1, "steps_passed": 13}, Grade.D),
            ({"safety_waived": True}, Grade.PARTS),
            ({"safety_failed": True}, Grade.PARTS),
            ({"run_complete": False}, Grade.C),
            ({"donor": True}, Grade.PARTS),
            ({"not_proven": ("a start failed since",)}, Grade.D),
            ({"times_waived": ("soak",)}, Grade.C),
            ({"cosmetics": None}, Grade.C),
            ({"completeness": None}, Grade.C),
        ):
            result = grade(replace(PERFECT, **change))
            self.assertEqual(result.grade, expected, change)
            self.assertTrue(all(cap.reason and cap.lifting for cap in result.caps))

    def test_what_nobody_went_through_is_no_score(self):
        bare = grade(GradeEvidence(0, 0, 0, False, False, None, None))
        self.assertEqual(bare.unknown, ("function", "cosmetics", "completeness", "originality"))
        begun = grade(GradeEvidence(12, 0, 0, False, False, 90, 100))
        self.assertEqual((begun.scores["function"], begun.scores["originality"]), (None, 100))
        # A failed step is known; that its parts are original is not, while nobody went through them.
        failed = grade(replace(PERFECT, steps_failed=1, steps_passed=0, completeness=None))
        self.assertEqual((failed.scores["function"], failed.unknown), (0, ("completeness", "originality")))

    @given(EVIDENCE)
    def test_the_unknown_never_lifts_a_grade(self, evidence):
        """Whatever is found when it is gone through, it was graded no better before."""
        unknown = grade(replace(evidence, completeness=None, cosmetics=None))
        known = grade(replace(evidence, completeness=evidence.completeness or 0, cosmetics=evidence.cosmetics or 0))
        self.assertLessEqual(unknown.total, known.total)

    def test_a_grade_holds_while_the_record_gives_it(self):
        self.assertEqual(outdated(PERFECT, replace(PERFECT, cosmetics=95, not_original=1)), "")
        for now, words in (
            ({"completeness": 40}, "completeness: 40 %, was 100 %; it would be B now"),
            ({"completeness": None}, "completeness: not gone through, was 100 %; it would be C now"),
            ({"temporary_fixes": 1}, "temporary fixes open: 1, was 0; it would be C now"),
            ({"worked_since": ("part exchanged since: belt",)}, "part exchanged since: belt; it would be C now"),
            ({"donor": True}, "it would be for parts now"),
        ):
            self.assertEqual(outdated(PERFECT, replace(PERFECT, **now)), words)
        # What is better than it was said to be misleads nobody.
        self.assertEqual(outdated(replace(PERFECT, temporary_fixes=1), PERFECT), "")

    @given(EVIDENCE, EVIDENCE)
    def test_a_grade_is_outdated_where_and_only_where_the_record_gives_less(self, one, other):
        before, after = grade(one).grade, grade(other).grade
        if {before, after} <= set(LADDER):
            self.assertEqual(outdated(one, other) == "", LADDER.index(after) <= LADDER.index(before))
        else:
            self.assertEqual(outdated(one, other) == "", before is after)

    def test_nothing_tested_is_its_own_grade(self):
        self.assertEqual(grade(GradeEvidence(0, 0, 0, False, False, 90, 100)).grade, Grade.UNTESTED)

    @given(EVIDENCE)
    def test_never_better_than_its_weakest_proof(self, evidence):
        result = grade(evidence)
        self.assertEqual(result, grade(evidence))
        if result.grade is Grade.UNTESTED:
            self.assertEqual(evidence.works_tried, 0)
            return
        for cap in result.caps:
            self.assertGreaterEqual(LADDER.index(result.grade), LADDER.index(cap.grade))

    @given(EVIDENCE)
    @example(replace(PERFECT, steps_total=10, steps_passed=8, steps_failed=3, run_complete=False, soaked=False))
    def test_lifting_never_lowers_it_and_takes_its_own_caps_away(self, evidence):
        result = grade(evidence)
        for lifting in {cap.lifting for cap in result.caps}:
            after = lifted(evidence, {lifting})
            if lifting in {Lifting.COUNT, Lifting.LOOK}:
                # What will be found nobody knows.
                self.assertIsNone(after)
                continue
            self.assertNotIn(lifting, {cap.lifting for cap in grade(after).caps})
            if Grade.UNTESTED not in {result.grade, grade(after).grade}:
                self.assertLessEqual(LADDER.index(grade(after).grade), LADDER.index(result.grade))

    def test_what_is_left_of_a_run_soaks_it_and_counts_as_passed(self):
        """9 of 14 passed: function 64, the total 85, a B by its scores; finished it is the A that the plan proves."""
        begun = replace(PERFECT, steps_passed=9, run_complete=False, soaked=False)
        self.assertEqual({cap.lifting for cap in grade(begun).caps}, {Lifting.FINISH})
        self.assertEqual((grade(begun).grade, grade(begun).before_caps), (Grade.C, Grade.B))
        self.assertEqual(grade(lifted(begun, {Lifting.FINISH})).grade, Grade.A)

    def test_what_is_left_of_a_run_shows_nothing_of_what_was_cut_short(self):
        begun = replace(PERFECT, run_complete=False, times_waived=("burn in",), unconfirmed_fixes=1)
        after = lifted(begun, {Lifting.FINISH})
        self.assertEqual((after.times_waived, after.unconfirmed_fixes), (("burn in",), 1))
        again = lifted(begun, {Lifting.RETEST})
        self.assertEqual((again.times_waived, again.unconfirmed_fixes), ((), 0))

    @given(
        EVIDENCE,
        st.lists(st.tuples(st.integers(1, 20), st.sampled_from(["present", "missing", "not_original"])), max_size=9),
        st.integers(1, 20),
    )
    @example(replace(PERFECT, cosmetics=60), [(18, "present"), (1, "not_original")], 1)
    def test_a_copy_is_never_worse_than_a_gap(self, evidence, others, weight):
        def graded(last):
            presences = [*others, (weight, last)]
            there = completeness([Content(f"{n}", of, Presence(is_)) for n, (of, is_) in enumerate(presences)])
            return grade(
                replace(
                    evidence,
                    completeness=there.percent,
                    not_original=len(there.not_original),
                    copies=there.copies,
                )
            )

        gap, copy, own = (graded(last) for last in ("missing", "not_original", "present"))
        self.assertTrue(gap.total <= copy.total <= own.total)
        if gap.grade in LADDER:
            places = [LADDER.index(one.grade) for one in (own, copy, gap)]
            self.assertEqual(places, sorted(places))

    def test_what_a_copy_takes(self):
        """15 where it is much of the whole, of little as much as that adds: 1 of 40 is 2 %, and 2 x 0.2 / 0.15 is 2."""
        much = completeness([Content("case", 30, Presence.PRESENT), Content("keyboard", 10, Presence.NOT_ORIGINAL)])
        little = completeness([Content("case", 39, Presence.PRESENT), Content("badge", 1, Presence.NOT_ORIGINAL)])
        for there, left in ((much, 85), (little, 98)):
            evidence = replace(PERFECT, not_original=1, copies=there.copies)
            self.assertEqual(grade(evidence).scores["originality"], left)
        # Of a grade that was given before, it is not known what they were.
        self.assertEqual(grade(replace(PERFECT, not_original=1)).scores["originality"], 85)

    @given(EVIDENCE)
    def test_one_more_pass_never_lowers_it(self, evidence):
        assume(evidence.steps_passed < 10 and grade(evidence).grade is not Grade.UNTESTED)
        better = grade(replace(evidence, steps_passed=evidence.steps_passed + 1))
        self.assertLessEqual(LADDER.index(better.grade), LADDER.index(grade(evidence).grade))


class Prices(TestCase):
    def test_the_same_sales_ask_more_for_a_better_grade(self):
        sales = [Comparable(D(100 + i), 10 * i, Grade.B) for i in range(8)]
        a, b, c = (Market(sales).band(Subject(g, 100)) for g in (Grade.A, Grade.B, Grade.C))
        self.assertTrue(a.likely > b.likely > c.likely)
        self.assertTrue(b.low <= b.likely <= b.high)

    @given(SALES)
    @example([Comparable(D(60), 5, Grade.A), *[Comparable(D(120), 5, Grade.B)] * 6])
    @example([Comparable(D(100), 5, Grade.B, 60), *[Comparable(D(60), 5, Grade.B)] * 6])
    def test_what_is_better_never_fetches_less(self, sales):
        market = Market(sales)

        def likely(grade=Grade.B, complete=100, said=frozenset()):
            return market.band(Subject(grade, complete, said=said)).likely

        pairs = [(likely(better), likely(worse)) for better, worse in pairwise(LADDER)]
        pairs += pairwise([likely(), likely(Grade.UNTESTED), likely(Grade.PARTS)])
        pairs += [(likely(), likely(complete=60)), (likely(), likely(said=frozenset({"defect"})))]
        for better, worse in pairs:
            # The same to the last place may be rounded to either cent.
            self.assertLessEqual(worse - better, D("0.01"))

    def test_old_sales_weigh_less_and_unlike_ones_tell_less(self):
        sales = [
            Comparable(D(100), 0, Grade.B),
            Comparable(D(100), 365, Grade.B),
            Comparable(D(100), 0, Grade.B, own=True),
        ]
        new, old, own = (one.weight for one in Market(sales).brought(Subject(Grade.B, 100)))
        self.assertAlmostEqual(old, new / 2)
        self.assertAlmostEqual(own, new * 1.5)
        alike, unlike = (Market([Comparable(D(100), 5, g)] * 6).band(Subject(Grade.B, 100)) for g in (Grade.B, Grade.D))
        self.assertGreater(alike.effective, unlike.effective)

    def test_few_are_called_few_and_none_is_none(self):
        self.assertTrue(Market([Comparable(D(100), 5, Grade.B)] * 2).band(Subject(Grade.B, 100)).few)
        self.assertFalse(Market([Comparable(D(100), 5, Grade.B)] * 6).band(Subject(Grade.B, 100)).few)


class Floors(TestCase):
    @given(
        MONEY,
        MONEY,
        st.decimals(0, 30, places=2),
        st.decimals(0, 5, places=2),
        st.decimals(0, 40, places=2),
        st.sampled_from(["none", "standard", "margin"]),
        st.decimals(0, 27, places=2),
    )
    def test_selling_at_the_floor_covers_and_two_cents_less_does_not(
        self, cover, purchase, fee, fixed, post, scheme, tax
    ):
        terms = SellingTerms(fee, fixed, post, scheme, tax)
        price = floor_price(cover, purchase, terms)

        def left(p):
            """What stays of a price, before the cent rounding of fee and tax."""
            taxed = {"none": D(0), "standard": p, "margin": max(D(0), p - purchase)}[scheme]
            return p - p * fee / 100 - fixed - post - taxed * tax / (100 + tax)

        self.assertGreaterEqual(left(price), cover - D("1e-12"))
        if price >= D("0.02"):
            self.assertLess(left(price - D("0.02")), cover)

    def test_fee_and_tax_that_take_it_all_are_said(self):
        with self.assertRaises(ValueError):
            floor_price(D(1), D(0), SellingTerms(D(90), tax_scheme="standard", tax_percent=D(25)))

    def test_a_loss_bears_no_margin_tax(self):
        terms = SellingTerms(D(10), tax_scheme="margin", tax_percent=D(20))
        self.assertEqual(tax_within(D(80), D(100), terms), 0)
        self.assertEqual(fee_on(D(80), terms), D(8))

    def test_what_a_channel_kept_beside_its_terms(self):
        terms = SellingTerms(D(10), D("0.50"))
        self.assertIsNone(fees_kept([(D(100), D(12))] * 2, terms))
        found = fees_kept([(D(100), D(12)), (D(50), D(6)), (D(50), D(7))], terms)
        # 25 of 200, and 20 and three times 0.50.
        self.assertEqual((found.sales, found.kept, found.by_terms, found.more), (3, D("12.5"), D("10.8"), True))
        self.assertFalse(fees_kept([(D(100), D("10.50"))] * 3, terms).more)


class Listings(TestCase):
    READY = ListingFacts(
        title="Halden M2", grade=Grade.B, proven=True, photo_count=3, photos_wanted=3, asking=D(99), floor=D(80)
    )

    def kinds(self, **change):
        return [block.kind for block in blocks(replace(self.READY, **change))]

    def test_nothing_blocks_what_is_ready(self):
        self.assertEqual(self.kinds(), [])

    def test_each_block_is_named(self):
        for change, kind in (
            ({"custody": True}, BlockKind.CUSTODY),
            ({"proven": False}, BlockKind.STAGE),
            ({"grade": None}, BlockKind.GRADE),
            ({"asking": None}, BlockKind.PRICE),
            ({"asking": D(70)}, BlockKind.PRICE),
            ({"photo_count": 1}, BlockKind.PHOTOS),
            ({"may_hold_data": "its storage was not sanitised"}, BlockKind.DATA),
            ({"stale": "a start failed on 12 Mar"}, BlockKind.GRADE),
            ({"safety_hold": "leak"}, BlockKind.SAFETY),
            ({"temporary_fixes": ["bridge"]}, BlockKind.TEMPORARY),
        ):
            self.assertEqual(self.kinds(**change), [kind], change)

    def test_a_reason_allows_a_price_under_the_floor(self):
        self.assertEqual(self.kinds(asking=D(70), below_floor_reason="clearing out"), [])

    def test_for_parts_may_hold_a_temporary_fix(self):
        self.assertEqual(self.kinds(grade=Grade.PARTS, temporary_fixes=["bridge"], proven=False), [])

    def test_nothing_on_hold_is_listed_not_even_for_parts(self):
        self.assertEqual(self.kinds(grade=Grade.PARTS, safety_hold="leak"), [BlockKind.SAFETY])

    def test_as_it_stands_may_be_offered_unproven_and_says_so(self):
        self.assertEqual(self.kinds(proven=False, as_it_stands=True), [])
        title, text = write_listing(replace(self.READY, proven=False, as_it_stands=True, failed=["picture"]))
        self.assertIn("as it stands", title)
        self.assertNotIn("tested", title)
        self.assertIn("Sold as it stands", text)

    def test_says_only_what_was_recorded(self):
        title, text = write_listing(
            replace(self.READY, passed=["picture"], missing=["mouse"], findings=["crack on the front, 3 cm"])
        )
        self.assertEqual(title, "Halden M2, tested")
        for words in ("picture", "mouse", "crack on the front"):
            self.assertIn(words, text)
        for word in ("Work done", "Failed when tested", "Not original"):
            self.assertNotIn(word, text)

    def test_untested_is_not_called_tested(self):
        title, text = write_listing(replace(self.READY, grade=Grade.UNTESTED, proven=False))
        self.assertIn("untested", title)
        self.assertIn("Not tested", text)

    @given(st.integers(10, 120))
    def test_the_title_fits_its_channel(self, longest):
        title, _ = write_listing(replace(self.READY, title="A" * 70, year_text="1986–1990"), longest)
        self.assertLessEqual(len(title), longest)
