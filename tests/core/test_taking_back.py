import itertools
import unittest
from datetime import date
from decimal import Decimal

from hypothesis import given
from hypothesis import strategies as st

from core.books.tax import PeriodLength, Turnover, global_accounting, period_of, periods
from core.selling.grade import Grade
from core.selling.receipt import Line, number_words, tax_line, total_of
from core.selling.taking_back import Case, Reason, Told, What, Whose, judge, near
from core.selling.warranty import THOUGHT_BESIDE, Answered, Term, cost_of_a_sale

D = Decimal
SAID = Told(What.SAID, "defect", "What is wrong with it: the space bar sticks.")
PASSED = Told(What.PASSED, "", "cassette socket reads and writes")
FIXED = Told(What.FIXED, "12", "dead")


def case(reason: Reason, about: Told | None = None, days: int = 20, **more) -> Case:
    terms = {"warranty": 90, "withdrawal": 14, "paid": D("68.00"), **more}
    return Case(reason, about, days, **terms)


class Judging(unittest.TestCase):
    def test_what_was_said_is_the_buyers(self):
        found = judge(case(Reason.FAULT, SAID))
        self.assertEqual((found.whose, found.refund), (Whose.BUYERS, 0))
        self.assertIn("space bar sticks", found.words)

    def test_within_the_days_of_withdrawal_even_that_goes_back(self):
        self.assertEqual(judge(case(Reason.NOT_AS_SAID, SAID, days=14)).refund, D("68.00"))
        self.assertEqual(judge(case(Reason.NOT_AS_SAID, SAID, days=15)).refund, 0)

    def test_what_was_not_said_is_ours_and_teaches(self):
        found = judge(case(Reason.FAULT))
        self.assertEqual((found.whose, found.refund, found.we_pay_back), (Whose.OURS, D("68.00"), True))
        self.assertIn("Which sentence", found.lesson)

    def test_after_the_warranty_nobody_knows_whether_it_was_so(self):
        self.assertEqual(judge(case(Reason.FAULT, days=91)).whose, Whose.OPEN)
        self.assertEqual(judge(case(Reason.FAULT, PASSED, days=91)).whose, Whose.BUYERS)
        self.assertEqual(judge(case(Reason.FAULT, PASSED, days=90)).whose, Whose.OURS)

    def test_without_a_warranty_it_says_so(self):
        self.assertIn("no warranty was given", judge(case(Reason.FAULT, PASSED, warranty=0)).words)

    def test_a_repair_that_did_not_hold_counts_against_it(self):
        found = judge(case(Reason.FAULT, FIXED))
        self.assertEqual(found.whose, Whose.OURS)
        self.assertIn("start that failed", found.lesson)

    def test_damage_is_the_carriers_and_the_buyer_is_paid_back(self):
        lost = judge(case(Reason.LOST))
        self.assertEqual((lost.whose, lost.refund, lost.we_pay_back), (Whose.CARRIERS, case(Reason.LOST).paid, False))
        self.assertEqual([one for one in Reason if not one.comes_back], [Reason.LOST])
        found = judge(case(Reason.DAMAGED))
        self.assertEqual((found.whose, found.refund), (Whose.CARRIERS, D("68.00")))

    def test_a_change_of_mind_has_its_days(self):
        within = judge(case(Reason.MIND, days=14))
        self.assertEqual((within.refund, within.whose), (D("68.00"), Whose.RIGHT))
        self.assertEqual(judge(case(Reason.MIND, days=15)).refund, 0)
        self.assertEqual(judge(case(Reason.MIND, days=1, withdrawal=0)).refund, 0)

    @given(
        st.sampled_from(Reason),
        st.sampled_from([None, SAID, PASSED, FIXED]),
        st.integers(0, 400),
        st.integers(0, 200),
        st.integers(0, 30),
    )
    def test_never_more_than_was_paid_and_later_never_more(self, reason, about, days, warranty, withdrawal):
        terms = {"warranty": warranty, "withdrawal": withdrawal}
        now, later = judge(case(reason, about, days, **terms)), judge(case(reason, about, days + 1, **terms))
        self.assertLessEqual(now.refund, D("68.00"))
        self.assertLessEqual(later.refund, now.refund)
        self.assertTrue(now.words)


class WhereToLook(unittest.TestCase):
    def test_what_shares_words_comes_first(self):
        told = [PASSED, SAID, Told(What.SAID, "mains", "Mains: 230 V.")]
        self.assertEqual(near("The space bar is sticking", told), [SAID])
        self.assertEqual(near("the cassette sockets do not read", told), [PASSED])

    def test_small_words_are_no_sign(self):
        self.assertEqual(near("it is not what was with the thing", [SAID, PASSED]), [])


class Warranty(unittest.TestCase):
    def test_its_last_day_is_in_it(self):
        term = Term(date(2026, 3, 1), 90)
        self.assertEqual(term.ends, date(2026, 5, 30))
        self.assertEqual((term.left_on(date(2026, 5, 29)), term.left_on(date(2027, 1, 1))), (1, 0))
        self.assertEqual(Term(date(2026, 3, 1), 0).left_on(date(2026, 3, 1)), 0)

    def test_what_it_cost_is_drawn_to_that_of_all(self):
        answered = {Grade.A: Answered(80, D(40)), Grade.D: Answered(20, D(160))}
        # Over all 200 / 100 = 2 a sale; D: (160 + 2 x 20) / 40 = 5.
        self.assertEqual(cost_of_a_sale(answered, Grade.D), D("5.00"))
        self.assertEqual(cost_of_a_sale(answered, Grade.E), D("2.00"))
        self.assertEqual(cost_of_a_sale({}, Grade.A), 0)

    @given(st.dictionaries(st.sampled_from(Grade), st.tuples(st.integers(1, 500), st.integers(0, 5000)), min_size=1))
    def test_it_lies_between_its_own_and_that_of_all(self, figures):
        answered = {grade: Answered(n, D(cost)) for grade, (n, cost) in figures.items()}
        overall = sum(one.cost for one in answered.values()) / sum(one.sales for one in answered.values())
        for grade, one in answered.items():
            low, high = sorted((one.cost / one.sales, overall))
            self.assertTrue(low - D("0.01") <= cost_of_a_sale(answered, grade) <= high + D("0.01"))
        self.assertGreater(THOUGHT_BESIDE, 0)


class Receipts(unittest.TestCase):
    def test_numbers_and_sums(self):
        self.assertEqual(number_words(2026, 7), "2026-0007")
        self.assertEqual(total_of([Line("a", D("10.00")), Line("b", D("-2.50"))]), D("7.50"))

    def test_tax_is_shown_under_the_standard_scheme_only(self):
        shown = tax_line("standard", D(20), D("120.00"), D("20.00"))
        self.assertEqual((shown.net, shown.tax), (D("100.00"), D("20.00")))
        for scheme in ("margin", "global", "none", ""):
            self.assertIsNone(tax_line(scheme, D(20), D("120.00"), D("20.00")))


class Periods(unittest.TestCase):
    def test_of_the_calendar(self):
        self.assertEqual(period_of(date(2026, 12, 31), PeriodLength.QUARTER).words, "2026, quarter 4")
        self.assertEqual(period_of(date(2026, 12, 31), PeriodLength.MONTH).after, date(2027, 1, 1))
        self.assertEqual(period_of(date(2024, 2, 29), PeriodLength.YEAR).words, "2024")

    @given(
        st.dates(date(2000, 1, 1), date(2050, 1, 1)),
        st.integers(0, 800),
        st.sampled_from(PeriodLength),
        st.lists(st.dates(date(2000, 1, 1), date(2052, 1, 1)), max_size=4),
    )
    def test_a_day_on_which_one_ends_leaves_no_day_out_and_none_twice(self, first, days, length, cuts):
        last = date.fromordinal(first.toordinal() + days)
        whole, found = periods(first, last, length), periods(first, last, length, cuts)
        self.assertEqual((found[0].first, found[-1].after), (whole[0].first, whole[-1].after))
        self.assertTrue(all(one.after == other.first for one, other in itertools.pairwise(found)))
        inside = {cut for cut in cuts if whole[0].first < cut < whole[-1].after}
        self.assertEqual({one.first for one in found}, {one.first for one in whole} | inside)
        self.assertEqual(len({one.words for one in found}), len(found))

    @given(st.dates(date(2000, 1, 1), date(2050, 1, 1)), st.integers(0, 2000), st.sampled_from(PeriodLength))
    def test_they_follow_each_other_without_a_gap(self, first, days, length):
        last = date.fromordinal(first.toordinal() + days)
        found = periods(first, last, length)
        self.assertTrue(found[0].first <= first < found[0].after)
        self.assertTrue(found[-1].first <= last < found[-1].after)
        for one, following in itertools.pairwise(found):
            self.assertEqual(one.after, following.first)

    @given(
        st.lists(st.tuples(st.integers(-(10**6), 10**7), st.integers(-(10**6), 10**7)), min_size=1, max_size=12),
        st.integers(0, 3000),
    )
    def test_what_is_taxed_in_all_is_the_margin_and_what_is_carried_on(self, cents, percent):
        rate = D(percent) / 100
        found = global_accounting([Turnover(D(s) / 100, D(p) / 100) for s, p in cents], rate)
        taxed = sum(max(D(0), one.margin) for one in found)
        margin = sum((D(s) - D(p)) / 100 for s, p in cents)
        self.assertEqual(taxed + found[-1].carried_out, margin)
        for one in found:
            self.assertTrue(one.tax >= 0 >= one.carried_out)
            self.assertTrue(one.carried_out == 0 or one.tax == 0)
            # By substitution: net and tax are what was taken in.
            if one.tax:
                self.assertAlmostEqual((one.margin - one.tax) * rate / 100, one.tax, delta=D("0.02"))
