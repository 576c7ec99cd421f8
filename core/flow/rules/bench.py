"""What the newest run says, and where it goes from there."""

from core.flow.ahead import GIVE_BACK, GRADE, LIST
from core.flow.facts import FlowFacts
from core.flow.rules.words import lower
from core.flow.stage import NextKind, Stage, State, Station, UnitStatus
from core.flow.task import hands_on


def after_the_bench(facts: FlowFacts) -> UnitStatus:
    if facts.selling.graded:
        return _graded(facts)
    if since := facts.workshop.retest_after or facts.bench.mended:
        reason = f"not tested since: {since}" if facts.workshop.retest_after else facts.bench.mended[0]
        return _to_test(Stage.ON_BENCH, reason, "run the test plan again", facts.bench.plan_minutes)
    if not facts.bench.started:
        return _to_test(Stage.ASSESSED, "not tested yet", "start the test plan", facts.bench.plan_minutes)
    if not facts.bench.complete:
        return being_tested(facts)
    if facts.intake.custody:
        return _proven("proven, and not ours to sell", "give it back to its owner", NextKind.WORKSHOP, GIVE_BACK)
    return _proven("test plan passed to its end", "grade it", NextKind.SELLING, GRADE)


def being_tested(facts: FlowFacts) -> UnitStatus:
    step = facts.bench.tasks[0].title if facts.bench.tasks else "go on with the test plan"
    return _to_test(Stage.ON_BENCH, "test plan going on", step, hands_on(facts.bench.tasks))


def _graded(facts: FlowFacts) -> UnitStatus:
    if gaps := facts.selling.blocks:
        state, reason, step, minutes = State.DECISION, lower(gaps[0]), "clear what blocks the listing", 5 * len(gaps)
    else:
        state, reason, step, minutes = State.MOVING, "nothing blocks the listing", "list it", LIST
    return UnitStatus(Stage.GRADED, Station.SELLING, state, reason, step, NextKind.LISTING, minutes)


def _proven(reason: str, step: str, kind: NextKind, minutes: int) -> UnitStatus:
    return UnitStatus(Stage.PROVEN, Station.SELLING, State.MOVING, reason, step, kind, minutes)


def _to_test(stage: Stage, reason: str, step: str, minutes: int) -> UnitStatus:
    return UnitStatus(stage, Station.BENCH, State.MOVING, reason, step, NextKind.BENCH, minutes)
