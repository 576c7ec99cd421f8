"""What jobs add, and the set that leaves most."""

from dataclasses import dataclass, replace
from datetime import date
from decimal import Decimal as D
from itertools import combinations, product
from math import prod
from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from core.catalogue.assemblies import StripDown
from core.catalogue.recipes import JobKind
from core.intake.completeness import Content, Presence
from core.intake.condition import FindingKind, Mark
from core.machine.casing import Face
from core.selling.appraisal import UnitAppraisal
from core.selling.disclosure import said_after
from core.selling.grade import Grade, GradeEvidence, grade
from core.selling.market import Comparable, Market, Subject
from core.workshop.chances import Tries, chance, plan_passes
from core.workshop.due import due_again
from core.workshop.proposals import Proposal, best_set, opening_for, turned_out
from core.workshop.stripdown.openings import opening_sets
from core.workshop.stripdown.way_in import Costs, way_in
from core.workshop.worth import NOTHING, Changes, Priced
from tests.core.test_recipes import BY_CODE
from tests.core.test_stripdown import BOX, machines


@dataclass(frozen=True)
class Capped:
    """A market that pays for points, with a cap that only the last few findings lift together."""

    points: tuple[int, ...]
    last: int = 2

    def at(self, changes: Changes) -> Priced:
        got = sum(self.points[number] for number in changes.findings)
        capped = not set(range(len(self.points))[-self.last :]) <= changes.findings
        worth = D(100 + got + (0 if capped else 40))
        return Priced("C" if capped else "B", worth, worth, worth)


def finding(number: int, minutes: int = 10, chance: float = 1.0, parts: str = "0", place: str = "") -> Proposal:
    changes = Changes(findings=frozenset({number}))
    return Proposal(f"finding:{number}", f"F{number}", minutes, changes, D(parts), chance, place)


def expected(proposals, market, hourly) -> D:
    """By hand: over every way the jobs of a set may turn out."""
    value = 0.0
    for outcome in product((True, False), repeat=len(proposals)):
        likely = prod(p.chance if ok else 1 - p.chance for p, ok in zip(proposals, outcome, strict=True))
        done = frozenset().union(*(p.changes.findings for p, ok in zip(proposals, outcome, strict=True) if ok))
        value += likely * float(market.at(Changes(findings=done)).likely)
    cost = sum(p.parts for p in proposals) + D(sum(p.minutes for p in proposals)) * hourly / 60
    return D(value) - market.at(NOTHING).likely - cost


class WhatTheyAdd(TestCase):
    def test_the_sentence_of_the_design_adds_up(self):
        """Lifts C to B: +34 expected, 12 of parts, 25 min at 24 an hour: +12.00."""

        class Market:
            def at(self, changes):
                worth = D(134) if changes.any else D(100)
                return Priced("B" if changes.any else "C", worth, worth, worth)

        best = best_set([finding(0, 25, parts="12")], Market(), D(24))
        alone = best.proposals[0].alone
        self.assertEqual((alone.gain, alone.parts, alone.labour, alone.whole), (D(34), D(12), D(10), D("12.00")))
        self.assertEqual((best.now.grade, best.leads_to.grade), ("C", "B"))
        # Where half of a price is ours, half of it is gained, and the work costs what it did.
        shared = best_set([finding(0, 25, parts="12")], Market(), D(24), of_price=0.5)
        self.assertEqual((shared.proposals[0].alone.gain, shared.chosen), (D(17), ()))

    def test_two_that_pay_only_together(self):
        market = Capped((2, 3, 3))
        best = best_set([finding(n, 15) for n in range(3)], market, D(24))
        self.assertEqual(set(best.chosen), {"finding:1", "finding:2"})
        by_key = {one.proposal.key: one for one in best.proposals}
        self.assertEqual(by_key["finding:1"].only_with, ("F2",))
        self.assertFalse(by_key["finding:1"].alone.pays)
        self.assertEqual(by_key["finding:0"].only_with, ())
        self.assertEqual(best.set_adds.whole, D("34.00"))

    def test_nothing_pays_and_nothing_is_chosen(self):
        best = best_set([finding(0, 60)], Capped((1, 1, 1)), D(24))
        self.assertEqual((best.chosen, best.set_adds.whole), ((), 0))

    def test_what_nobody_priced_is_never_weighed(self):
        proposals = [
            finding(0, 1),
            Proposal("x", "X", 5, Changes(contents=frozenset({1})), None),
            Proposal("y", "Y", 5),
        ]
        best = best_set(proposals, Capped((50, 1, 1)), D(24))
        self.assertEqual([one.alone is None for one in best.proposals], [False, True, True])

        class NoMarket:
            def at(self, changes):
                return None

        self.assertEqual([one.alone for one in best_set(proposals, NoMarket(), D(24)).proposals], [None] * 3)

    @settings(deadline=None, max_examples=60)
    @given(st.data())
    def test_it_is_the_best_of_all_subsets(self, data):
        count = data.draw(st.integers(2, 6))
        market = Capped(tuple(data.draw(st.integers(0, 30)) for _ in range(count)))
        proposals = [
            finding(
                n,
                data.draw(st.integers(0, 60)),
                data.draw(st.sampled_from([0.25, 0.5, 1.0])),
                str(data.draw(st.integers(0, 9))),
            )
            for n in range(count)
        ]
        best = best_set(proposals, market, D(24))
        worths = [expected(some, market, D(24)) for size in range(count + 1) for some in combinations(proposals, size)]
        self.assertAlmostEqual(best.set_adds.whole, max(worths), delta=D("0.02"))
        chosen = [p for p in proposals if p.key in best.chosen]
        self.assertAlmostEqual(expected(chosen, market, D(24)), best.set_adds.whole, delta=D("0.02"))

    @settings(deadline=None, max_examples=8)
    @given(st.lists(st.integers(0, 30), min_size=14, max_size=18))
    def test_beyond_twelve_it_is_greedy_and_says_so(self, points):
        proposals = [finding(n, 20) for n in range(len(points))]
        best = best_set(proposals, Capped(tuple(points)), D(24))
        self.assertFalse(best.exact)
        # Every one that pays by itself is in, and the pair that only pays together is found.
        alone = {f"finding:{n}" for n, p in enumerate(points) if p > 8}
        self.assertLessEqual(alone, set(best.chosen))
        if points[-1] + points[-2] + 40 > 16:
            self.assertLessEqual({f"finding:{len(points) - 1}", f"finding:{len(points) - 2}"}, set(best.chosen))

    def test_beyond_twelve_what_pays_only_where_three_are_done_is_found_too(self):
        """Each takes 20 minutes, 8; the three lift it by 40, two of them by nothing."""
        best = best_set([finding(n, 20) for n in range(14)], Capped((*[0] * 13, 5), last=3), D(24))
        self.assertEqual(set(best.chosen), {"finding:11", "finding:12", "finding:13"})
        self.assertEqual((best.exact, best.set_adds.whole), (False, D(21)))

    @given(st.lists(st.floats(0, 1), min_size=1, max_size=5), st.data())
    def test_how_they_turn_out_by_brute_force(self, chances, data):
        count = len(chances)
        values = np.array(data.draw(st.lists(st.floats(-9, 9), min_size=2**count, max_size=2**count)))
        tried = turned_out(values, chances)
        for tried_bits in range(2**count):
            value = sum(
                values[got]
                * prod((chances[i] if got >> i & 1 else 1 - chances[i]) for i in range(count) if tried_bits >> i & 1)
                for got in range(2**count)
                if got & ~tried_bits == 0
            )
            self.assertAlmostEqual(tried[tried_bits], value, places=6)


class OpeningOnce(TestCase):
    def test_two_jobs_share_the_way_in(self):
        both = [finding(0, 5, place="shield"), finding(1, 5, place="memory")]
        opening = opening_for(both, BOX, Costs(D(24)))
        # By hand, from the design: the side alone 19, the shield with its lid 15, both together 26.
        self.assertEqual([opening(bits)[0] for bits in range(4)], [0, 15, 19, 26])
        best = best_set(both, Capped((30, 30)), D(24), opening)
        self.assertEqual((best.set_adds.opening, best.set_adds.minutes), (26, 36))

    def test_over_what_is_off_it_costs_only_what_is_left(self):
        opening = opening_for([finding(0, 5, place="memory")], BOX, Costs(D(24)), ["lid", "shield"])
        self.assertEqual(opening(1)[0], 4 + 5 + 1 + 1)
        self.assertEqual(opening_for([finding(0, 5, place="no such place")], BOX, Costs(D(24)))(1)[0], 0)

    @settings(deadline=None, max_examples=80)
    @given(machines(most=9), st.data())
    def test_every_set_costs_what_its_way_in_costs(self, strip: StripDown, data):
        names = sorted(strip.assemblies)
        places = data.draw(st.lists(st.sampled_from(names), min_size=1, max_size=4, unique=True))
        off = set()
        for name in strip.reachable()[: data.draw(st.integers(0, 3))]:
            if not strip[name].ways or any(way <= off for way in strip[name].ways):
                off.add(name)
        sets = opening_sets(strip, places, Costs(), off)
        for bits in range(1 << len(places)):
            wanted = [place for number, place in enumerate(places) if bits >> number & 1]
            self.assertEqual(sets.minutes[bits], way_in(strip, wanted, None, off).minutes, (bits, off))


class Chances(TestCase):
    def test_by_hand(self):
        """8 times the table's 0.60 and 10 of 10 that worked: (4.8 + 10) / 18; then 4 times that and 0 of 4."""
        self.assertAlmostEqual(chance(JobKind.REPAIR, Tries()), 0.60)
        self.assertAlmostEqual(chance(JobKind.REPAIR, Tries(10, 0)), 14.8 / 18)
        self.assertAlmostEqual(chance(JobKind.REPAIR, Tries(10, 4), Tries(0, 4)), 4 * (14.8 / 18) / 8)
        # Of a test plan that is run again, nine of ten, eight times; then three of four beside them.
        self.assertAlmostEqual(plan_passes(Tries()), 0.9)
        self.assertAlmostEqual(plan_passes(Tries(3, 1)), (7.2 + 3) / 12)

    @given(st.integers(0, 50), st.integers(0, 50), st.integers(0, 50), st.integers(0, 50))
    def test_it_stays_a_chance_and_success_never_lowers_it(self, worked, failed, own_worked, own_failed):
        kind = Tries(worked + own_worked, failed + own_failed)
        before = chance(JobKind.CLEAN, kind, Tries(own_worked, own_failed))
        after = chance(JobKind.CLEAN, Tries(kind.worked + 1, kind.failed), Tries(own_worked + 1, own_failed))
        self.assertTrue(0 < before <= after < 1)


class FallsDue(TestCase):
    GREASE = BY_CODE["grease-drive"]

    def test_by_date_and_by_hours_whichever_is_first(self):
        done = date(2023, 8, 31)
        self.assertIsNone(due_again(BY_CODE["clean-residue"], done, None, date(2030, 1, 1)))
        self.assertEqual(due_again(self.GREASE, done, None, date(2026, 8, 30)).on, date(2026, 8, 31))
        self.assertFalse(due_again(self.GREASE, done, 20, date(2026, 8, 30)).is_due)
        self.assertTrue(due_again(self.GREASE, done, 20, date(2026, 8, 31)).is_due)
        self.assertTrue(due_again(self.GREASE, done, 500, date(2024, 1, 1)).is_due)
        by_hours = replace(self.GREASE, due_months=None)
        self.assertIn("nobody counted them", due_again(by_hours, done, None, date(2026, 8, 30)).words)
        self.assertIn("20 of ", due_again(by_hours, done, 20, date(2026, 8, 30)).words)
        self.assertIn("nobody knows", due_again(self.GREASE, None, None, date(2026, 1, 1)).words)
        self.assertEqual(due_again(BY_CODE["clean-inside"], date(2020, 2, 29), None, done).on, date(2025, 2, 28))


class WhatSellingAnswers(TestCase):
    EVIDENCE = GradeEvidence(10, 9, 1, True, True, 91, 60, works_tried=5)
    CONTENTS = {1: Content("keyboard", 2, Presence.MISSING), 2: Content("mouse", 3, Presence.PRESENT)}
    FINDINGS = {
        7: Mark(FindingKind.SCRATCH, Face.TOP, 2, 0.1),
        8: Mark(FindingKind.RESIDUE, Face.FRONT, 3, 0.1),
    }
    SOLD = tuple(
        Comparable(D(100 + n), 30 * n, letter) for n, letter in enumerate((Grade.A, Grade.B, Grade.C, Grade.D))
    )

    def market(self, **more) -> UnitAppraisal:
        return UnitAppraisal(self.EVIDENCE, self.CONTENTS, self.FINDINGS, frozenset({"fn-x"}), self.SOLD, **more)

    def test_nothing_changed_is_the_grade_and_the_band_of_today(self):
        graded = grade(self.EVIDENCE)
        band = Market(self.SOLD).band(Subject(graded.grade, 60))
        self.assertEqual(
            self.market().at(NOTHING), Priced(graded.grade.label, band.low, band.likely, band.high, band.few)
        )

    def test_what_is_mended_is_unproven_until_the_plan_is_run(self):
        mend = Changes(passed=frozenset({"fn-x"}), worked=True)
        self.assertEqual(self.market().at(NOTHING).grade, "D")
        self.assertEqual(self.market().at(mend).grade, "C")
        self.assertEqual(self.market().at(mend | Changes(tested=True)).grade, "A")
        # The plan alone changes nothing of what is broken.
        self.assertEqual(self.market().at(Changes(tested=True)).grade, "D")

    def test_a_safety_check_that_failed_keeps_it_for_parts(self):
        self.assertEqual(self.market(unsafe=frozenset({"fn-x"})).at(NOTHING).grade, "for parts")
        self.assertEqual(self.market(stopped=True).at(Changes(tested=True)).grade, "for parts")
        mended = Changes(passed=frozenset({"fn-x"}), tested=True)
        self.assertNotEqual(self.market(unsafe=frozenset({"fn-x"})).at(mended).grade, "for parts")

    def test_a_fault_that_is_looked_for_is_not_proven_away(self):
        evidence = GradeEvidence(10, 10, 0, True, True, 91, 100, works_tried=5, not_proven=("fault: fails warm",))
        there = {2: self.CONTENTS[2]}
        market = UnitAppraisal(evidence, there, {}, frozenset(), self.SOLD, faults=frozenset({4}))
        self.assertEqual(market.at(Changes(tested=True)).grade, "D")
        self.assertEqual(market.at(Changes(faults=frozenset({4}))).grade, "D")
        self.assertEqual(market.at(Changes(faults=frozenset({4}), tested=True)).grade, "A")

    def test_what_nobody_went_through_stays_unknown(self):
        unseen = UnitAppraisal(
            GradeEvidence(10, 10, 0, True, True, None, None, works_tried=5),
            {1: Content("keyboard", 2, Presence.UNSEEN)},
            self.FINDINGS,
            frozenset(),
            self.SOLD,
        )
        after = unseen.with_changes(Changes(findings=frozenset({7, 8}), tested=True))
        self.assertEqual((after.cosmetics, after.completeness), (None, None))

    @given(st.sets(st.sampled_from([7, 8])), st.sets(st.sampled_from([1, 2])))
    def test_doing_more_never_makes_it_worth_less(self, findings, contents):
        less = self.market().at(NOTHING)
        more = self.market().at(Changes(findings=frozenset(findings), contents=frozenset(contents)))
        self.assertGreaterEqual("PEDCBA".find(more.grade[0]), "PEDCBA".find(less.grade[0]))

    def test_it_is_priced_as_it_would_be_sold_and_as_its_buyer_would_be_told(self):
        sold = tuple(
            Comparable(D(price), 10, Grade.A, channel=channel, said=frozenset(said))
            for price, channel, said in 6
            * [(100, "Quay", ["failed", "mains"]), (150, "Quay", ["mains"]), (90, "Board", ["mains", "defect"])]
        )
        told = frozenset({"failed", "mains", "defect"})
        whole = UnitAppraisal(
            self.EVIDENCE, self.CONTENTS, self.FINDINGS, frozenset({"fn-x"}), sold, channel="Quay", said=told
        )
        now, market = whole.at(NOTHING), Market(sold)
        self.assertEqual(now.likely, market.band(Subject(Grade.D, 60, None, "Quay", told)).likely)
        mended = Changes(passed=frozenset({"fn-x"}), tested=True)
        for changes, after in (
            (mended, told - {"failed"}),
            (mended | Changes(findings=frozenset({7})), told - {"failed"}),
            (mended | Changes(findings=frozenset({7, 8})), frozenset({"mains"})),
        ):
            then = whole.at(changes)
            subject = Subject(Grade(then.grade), 60, None, "Quay", after)
            self.assertEqual(then.likely, market.band(subject).likely, changes)
        stays = replace(whole, defects_stay=True).at(mended | Changes(findings=frozenset({7, 8})))
        self.assertNotEqual(stays.likely, then.likely)

    def test_what_a_buyer_is_told_goes_with_the_record(self):
        mended = replace(self.EVIDENCE, steps_passed=10, steps_failed=0)
        self.assertEqual(said_after(frozenset({"failed", "mains"}), self.EVIDENCE, mended), {"mains"})
        worked = replace(mended, worked_since=("worked on",))
        self.assertEqual(said_after(frozenset({"mains"}), mended, worked), {"mains", "not_proven"})

    def test_without_sales_it_says_nothing(self):
        self.assertIsNone(UnitAppraisal(self.EVIDENCE, {}, {}, frozenset(), ()).at(NOTHING))
