from dataclasses import replace
from decimal import Decimal
from itertools import pairwise
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from core.books.earnings import INCOME, STEPS, earnings
from core.flow.facts import BenchFlow, DispatchFlow, FlowFacts, Hold, IntakeFlow, SellingFlow, WorkshopFlow
from core.flow.next_up import Candidate, next_up
from core.flow.rules import unit_status
from core.flow.stage import NextKind, Stage, State, Station
from core.flow.task import LONGEST_PIECE, Task, bundled, doable, hands_on, one_after_another

D = Decimal
WORDS = st.sampled_from(["", "something"])
LISTS = st.sampled_from([(), ("one",), ("one", "two")])
FIX = Task(1, "job:1", "fix it", 20)
TASKS = st.sampled_from([(), (FIX,), (FIX, Task(1, "job:2", "clean it", 10))])
HOLDS = st.sampled_from([None, Hold("leak", NextKind.INTAKE), Hold("tube", NextKind.BENCH)])
FACTS = st.builds(
    FlowFacts,
    st.builds(
        IntakeFlow,
        gaps=LISTS,
        assessed=st.booleans(),
        custody=st.booleans(),
        donor=st.booleans(),
        parked=WORDS,
        scrapped=st.booleans(),
        returned=st.booleans(),
        sell_as_is=st.booleans(),
        hold=HOLDS,
    ),
    st.builds(
        BenchFlow,
        started=st.booleans(),
        complete=st.booleans(),
        tasks=TASKS,
        plan_minutes=st.integers(0, 240),
        failed=LISTS,
        not_proven=LISTS,
        mended=LISTS,
        hold=HOLDS,
    ),
    st.builds(WorkshopFlow, tasks=TASKS, waiting_for=WORDS, decision=WORDS, retest_after=WORDS, not_proven=LISTS),
    st.builds(
        SellingFlow,
        graded=st.booleans(),
        blocks=LISTS,
        listed=st.booleans(),
        sold=st.booleans(),
        sent=st.booleans(),
        closed=st.booleans(),
    ),
)
ASSESSED = IntakeFlow(assessed=True)


class Standings(TestCase):
    @given(FACTS)
    def test_every_record_has_a_stage_with_a_reason_and_a_next_step(self, facts):
        stands = unit_status(facts)
        self.assertTrue(stands.reason)
        self.assertTrue(stands.next_step or stands.stage in {Stage.CLOSED, Stage.SCRAPPED, Stage.RETURNED})
        self.assertEqual(stands, unit_status(facts))

    @given(FACTS)
    def test_what_left_the_shop_never_comes_back_by_itself(self, facts):
        if facts.selling.sold or facts.intake.scrapped or facts.intake.returned:
            self.assertEqual(unit_status(facts).station, Station.BOOKS)

    def test_along_the_line(self):
        started, complete = BenchFlow(started=True), BenchFlow(started=True, complete=True)
        failed = BenchFlow(started=True, failed=["Picture"])
        unsafe = BenchFlow(started=True, hold=Hold("tube", NextKind.BENCH))
        fixing = WorkshopFlow([FIX])
        waiting = WorkshopFlow([FIX], waiting_for="a part")
        fixed = WorkshopFlow(retest_after="fix it")
        blocked = SellingFlow(graded=True, blocks=["no price"])
        for facts, stage, state in (
            (FlowFacts(IntakeFlow(gaps=["approach"])), Stage.RECEIVED, State.MOVING),
            (FlowFacts(IntakeFlow(hold=Hold("leak", NextKind.INTAKE))), Stage.RECEIVED, State.HOLD),
            (FlowFacts(ASSESSED), Stage.ASSESSED, State.MOVING),
            (FlowFacts(ASSESSED, started), Stage.ON_BENCH, State.MOVING),
            (FlowFacts(ASSESSED, failed), Stage.ON_BENCH, State.DECISION),
            (FlowFacts(ASSESSED, unsafe), Stage.ON_BENCH, State.HOLD),
            (FlowFacts(ASSESSED, failed, fixing), Stage.IN_WORKSHOP, State.MOVING),
            (FlowFacts(ASSESSED, started, waiting), Stage.IN_WORKSHOP, State.WAITING),
            (FlowFacts(ASSESSED, failed, fixed), Stage.ON_BENCH, State.MOVING),
            (FlowFacts(ASSESSED, complete), Stage.PROVEN, State.MOVING),
            (FlowFacts(ASSESSED, complete, selling=blocked), Stage.GRADED, State.DECISION),
            (FlowFacts(ASSESSED, complete, selling=SellingFlow(graded=True)), Stage.GRADED, State.MOVING),
            (FlowFacts(ASSESSED, started, selling=SellingFlow(listed=True)), Stage.LISTED, State.MOVING),
            (FlowFacts(ASSESSED, started, selling=SellingFlow(sold=True)), Stage.SOLD, State.SOLD),
        ):
            stands = unit_status(facts)
            self.assertEqual((stands.stage, stands.state), (stage, state), facts)

    @given(FACTS)
    def test_a_safety_hold_outranks_whatever_could_hide_it(self, facts):
        stands = unit_status(facts)
        gone = stands.stage in {Stage.SCRAPPED, Stage.RETURNED, Stage.CLOSED, Stage.SENT}
        if facts.hold and not gone:
            self.assertEqual(stands.state, State.HOLD)
            self.assertIn(facts.hold.words, stands.reason)
            self.assertGreater(stands.minutes, 0)
        else:
            self.assertIsNot(stands.state, State.HOLD)

    @given(FACTS, st.booleans())
    def test_what_a_buyer_sent_back_is_here_and_nothing_of_ours(self, facts, tested):
        bench = replace(facts.bench, running=tested, started=True)
        sold = replace(facts.selling, sold=True, sent=True)
        stands = unit_status(replace(facts, bench=bench, selling=sold, dispatch=DispatchFlow(False, "dead", True)))
        self.assertEqual(stands.stage, Stage.BACK)
        self.assertNotIn(stands.next_kind, {NextKind.SELLING, NextKind.LISTING})
        at_work = stands.next_kind in {NextKind.BENCH, NextKind.WORKSHOP, NextKind.INTAKE}
        self.assertEqual(at_work, bool(facts.workshop.tasks or tested or facts.hold))
        self.assertEqual((stands.stage.gone, stands.stage.left, stands.stage.closed_to_work), (True, False, False))

    def test_sold_as_it_stands_leads_to_selling(self):
        decided = IntakeFlow(assessed=True, sell_as_is=True)
        for known in (BenchFlow(), BenchFlow(started=True), BenchFlow(started=True, failed=["Picture"])):
            stands = unit_status(FlowFacts(decided, known))
            self.assertEqual((stands.station, stands.state), (Station.SELLING, State.MOVING), known)

    def test_a_fix_is_not_trusted_until_tested(self):
        complete = BenchFlow(started=True, complete=True)
        stands = unit_status(FlowFacts(ASSESSED, complete, WorkshopFlow(retest_after="solder joint")))
        self.assertEqual((stands.stage, stands.next_step), (Stage.ON_BENCH, "run the test plan again"))
        mended = BenchFlow(
            started=True, complete=True, plan_minutes=41, mended=["mended since the last test: no sound"]
        )
        stands = unit_status(FlowFacts(ASSESSED, mended))
        self.assertEqual((stands.stage, stands.next_step), (Stage.ON_BENCH, "run the test plan again"))
        self.assertEqual((stands.reason, stands.minutes), (mended.mended[0], 41))

    def test_a_first_run_takes_what_its_plan_takes(self):
        self.assertEqual(unit_status(FlowFacts(ASSESSED, BenchFlow(plan_minutes=56))).minutes, 56)


class Tasks(TestCase):
    TASKS = st.lists(st.builds(Task, st.just(1), WORDS, st.just("do it"), st.integers(0, 240)), max_size=8).map(
        lambda tasks: [replace(task, code=str(n)) for n, task in enumerate(tasks)]
    )

    @given(TASKS)
    def test_one_after_another_is_done_in_that_order_and_to_the_end(self, tasks):
        left, done = one_after_another(tasks), []
        while left:
            (first,) = doable(left)
            done.append(first.code)
            left = left[1:]
        self.assertEqual(done, [task.code for task in tasks])

    @given(TASKS)
    def test_what_needs_nothing_can_all_be_begun(self, tasks):
        self.assertEqual(list(doable(tasks)), tasks)
        self.assertEqual(hands_on(tasks), sum(task.minutes for task in tasks))


class Bundles(TestCase):
    STEPS = st.lists(
        st.builds(
            Task,
            st.just(1),
            st.integers(0, 9999).map(lambda n: f"step:{n}"),
            st.just("do it"),
            st.integers(1, 200),
            st.sampled_from([0, 0, 0, 30, 240]),
            place=st.sampled_from(["", "bench"]),
        ),
        max_size=12,
        unique_by=lambda task: task.code,
    )

    @given(STEPS)
    def test_nothing_is_lost_and_nothing_is_longer_than_a_piece(self, steps):
        found = bundled(steps)
        self.assertEqual(hands_on(found), hands_on(steps))
        self.assertEqual(sum(task.alone_minutes for task in found), sum(task.alone_minutes for task in steps))
        self.assertTrue(all(task.minutes <= LONGEST_PIECE for task in found))
        self.assertEqual(len({task.code for task in found}), len(found))
        for before, after in pairwise(found):
            self.assertEqual(after.needs, (before.code,))

    def test_what_is_done_in_one_go_is_one_and_what_waits_begins_another(self):
        look, soak, read = Task(1, "a", "Look", 5), Task(1, "b", "Soak", 4, 240), Task(1, "c", "Read", 3)
        together, after = bundled([look, soak, read])
        self.assertEqual((together.title, together.minutes, together.alone_minutes), ("Look and 1 more", 9, 240))
        self.assertEqual(after.title, "Read")
        pieces = bundled([Task(1, "d", "Rebuild", 130)])
        self.assertEqual([piece.minutes for piece in pieces], [44, 43, 43])
        self.assertEqual([piece.code for piece in pieces], ["d/1", "d/2", "d"])
        self.assertEqual(pieces[0].title, "Rebuild, part 1 of 3")


def candidate(unit, state, unlocks, minutes, waited_days):
    return Candidate(Task(unit, "next", "do it", minutes, unlocks=unlocks), state, waited_days)


class NextUp(TestCase):
    def test_safety_first_then_euro_a_minute(self):
        ranked = next_up(
            [
                candidate(1, State.MOVING, D(100), 10, 0),
                candidate(2, State.MOVING, D(100), 5, 0),
                candidate(3, State.HOLD, D(10), 60, 3),
                candidate(4, State.WAITING, D(999), 1, 0),
                candidate(5, State.SOLD, D(999), 1, 0),
            ],
            currency="€",
        )
        self.assertEqual([r.candidate.task.unit for r in ranked], [3, 2, 1])
        self.assertEqual(ranked[1].why, "€20 per hands-on minute")

    def test_what_runs_alone_and_ends_today_goes_first(self):
        soak = Candidate(Task(3, "soak", "soak", 5, 240, unlocks=D(1)), State.MOVING, 0)
        rich = candidate(2, State.MOVING, D(500), 5, 0)
        held = candidate(4, State.HOLD, D(1), 60, 0)
        order = [r.candidate.task.unit for r in next_up([rich, soak, held], minutes_left=300)]
        self.assertEqual(order, [4, 3, 2])
        self.assertEqual([r.candidate.task.unit for r in next_up([rich, soak], minutes_left=200)], [2, 3])
        self.assertIn("runs 240 min alone", next_up([soak], minutes_left=300)[0].why)

    def test_the_pull_is_of_everything_that_is_to_be_done(self):
        quick = replace(candidate(1, State.MOVING, D(100), 2, 0), hands=100)
        self.assertEqual(next_up([quick], currency="€")[0].why, "€1.0 per hands-on minute, 100 min in all")

    def test_what_is_never_sold_brings_nothing(self):
        lent = candidate(1, State.MOVING, D(0), 5, 90)
        self.assertEqual(next_up([lent], currency="€")[0].why, "nothing comes in by it")

    def test_what_nobody_put_a_worth_to_is_done_last_and_says_so(self):
        unsaid, poor = candidate(1, State.MOVING, None, 5, 90), candidate(2, State.MOVING, D(1), 60, 0)
        ranked = next_up([unsaid, poor, candidate(3, State.HOLD, None, 5, 0)], currency="€")
        self.assertEqual([r.candidate.task.unit for r in ranked], [3, 2, 1])
        self.assertEqual(ranked[2].why, "nobody said what it is worth")

    def test_waiting_breaks_a_near_tie(self):
        ranked = next_up([candidate(1, State.MOVING, D(100), 10, 0), candidate(2, State.MOVING, D(99), 10, 30)])
        self.assertEqual(ranked[0].candidate.task.unit, 2)


class Earned(TestCase):
    KINDS = [kind for _, kinds in STEPS for kind in kinds] + list(INCOME)

    @given(st.dictionaries(st.sampled_from(KINDS), st.integers(-(10**7), 10**7).map(lambda c: D(c) / 100)))
    def test_the_margin_is_what_the_ledger_says(self, sums):
        money = earnings(sums)
        self.assertEqual(money.margin, -sum(sums.values(), D(0)))
        self.assertEqual(sum((bar.amount for bar in money.bars), D(0)), money.cost)
        self.assertEqual(money.before_labour, money.margin + sums.get("labour", D(0)))

    def test_a_kind_without_a_bar_is_not_lost_silently(self):
        with self.assertRaises(ValueError):
            earnings({"gift": D(1)})
