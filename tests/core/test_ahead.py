"""What is ahead of a unit until it can be bought: the same euro is worth more a minute the less is left to do."""

from dataclasses import replace
from decimal import Decimal

from django.test import SimpleTestCase
from hypothesis import given
from hypothesis import strategies as st

from core.flow.ahead import GIVE_BACK, GRADE, LIST
from core.flow.facts import BenchFlow, FlowFacts, Hold, IntakeFlow, SellingFlow, WorkshopFlow
from core.flow.rules import unit_status
from core.flow.stage import NextKind, Stage
from core.flow.task import Task

D = Decimal
PLAN = 90
UNTESTED = BenchFlow(plan_minutes=PLAN)
PROVEN = BenchFlow(started=True, complete=True, plan_minutes=PLAN)
HERE = IntakeFlow(assessed=True, worth=D(100))
JOB = WorkshopFlow(tasks=(Task(1, "job", "New belt", 30),))


def facts(**of) -> FlowFacts:
    return FlowFacts(**{"intake": HERE, "bench": UNTESTED, "workshop": WorkshopFlow(), "selling": SellingFlow()} | of)


class Ahead(SimpleTestCase):
    def stands(self, stage: Stage, minutes: int, ahead: int, **of) -> None:
        found = unit_status(facts(**of))
        self.assertEqual((found.stage, found.minutes, found.minutes_ahead), (stage, minutes, ahead))

    def test_from_intake_to_the_listing(self):
        at_intake = IntakeFlow(gaps=("its looks",), worth=D(100))
        self.stands(Stage.RECEIVED, 5, PLAN + GRADE + LIST, intake=at_intake)
        self.stands(Stage.ASSESSED, PLAN, GRADE + LIST)
        self.stands(Stage.PROVEN, GRADE, LIST, bench=PROVEN)
        self.stands(Stage.GRADED, LIST, 0, bench=PROVEN, selling=SellingFlow(graded=True))
        self.stands(Stage.GRADED, 5, LIST, bench=PROVEN, selling=SellingFlow(graded=True, blocks=("no price",)))

    def test_after_a_job_the_plan_only_where_it_is_not_proven(self):
        self.stands(Stage.IN_WORKSHOP, 30, PLAN + GRADE + LIST, workshop=JOB)
        self.stands(Stage.IN_WORKSHOP, 30, GRADE + LIST, workshop=JOB, bench=PROVEN)
        again = replace(JOB, retest_after="New belt")
        self.stands(Stage.IN_WORKSHOP, 30, PLAN + GRADE + LIST, workshop=again, bench=PROVEN)
        self.stands(Stage.IN_WORKSHOP, 30, LIST, workshop=JOB, bench=PROVEN, selling=SellingFlow(graded=True))

    def test_what_failed_or_is_held_is_tested_again(self):
        failed = replace(UNTESTED, started=True, failed=("+5 V under load",))
        self.stands(Stage.ON_BENCH, 5, PLAN + GRADE + LIST, bench=failed)
        held = replace(HERE, hold=Hold("leak", NextKind.INTAKE))
        self.stands(Stage.ASSESSED, 12, PLAN + GRADE + LIST, intake=held)
        going_on = replace(UNTESTED, started=True, tasks=(Task(1, "step:x", "Look inside", 40),))
        self.stands(Stage.ON_BENCH, 40, GRADE + LIST, bench=going_on)

    def test_what_is_not_tested_or_not_sold_has_no_such_steps(self):
        self.stands(Stage.ASSESSED, GRADE, LIST, intake=replace(HERE, sell_as_is=True))
        self.stands(Stage.RECEIVED, 3, GRADE + LIST, intake=replace(HERE, assessed=False, sell_as_is=True))
        self.stands(Stage.ASSESSED, PLAN, GIVE_BACK, intake=replace(HERE, custody=True))
        self.stands(Stage.PROVEN, GIVE_BACK, 0, intake=replace(HERE, custody=True), bench=PROVEN)
        for gone in ({"donor": True}, {"parked": "no screen"}, {"scrapped": True}):
            with self.subTest(**gone):
                self.assertEqual(unit_status(facts(intake=replace(HERE, **gone))).minutes_ahead, 0)

    def test_of_what_is_somebody_elses_only_our_part_comes_in(self):
        def pull(share):
            return unit_status(facts(intake=replace(HERE, our_share=share))).pull

        self.assertEqual(pull(D(1)), 100 / (PLAN + GRADE + LIST))
        self.assertAlmostEqual(pull(D("0.25")), pull(D(1)) / 4)
        self.assertEqual((pull(D(0)), pull(None)), (0, 0))

    @given(st.integers(1, 400), st.integers(1, 10_000))
    def test_of_two_alike_the_one_further_on_pulls_more(self, plan, worth):
        """Otherwise a shop begins at everything and ends nothing."""
        here = replace(HERE, worth=D(worth))
        untested, proven = replace(UNTESTED, plan_minutes=plan), replace(PROVEN, plan_minutes=plan)
        pulls = [
            unit_status(one).pull
            for one in (
                facts(intake=replace(here, assessed=False, gaps=("its looks",)), bench=untested),
                facts(intake=here, bench=untested),
                facts(intake=here, bench=proven),
                facts(intake=here, bench=proven, selling=SellingFlow(graded=True)),
            )
        ]
        self.assertEqual(pulls, sorted(pulls))
        self.assertLess(pulls[0], pulls[1])
