"""What is still ahead of a unit after its next step, until it can be bought or is back with its owner."""

from core.flow.facts import FlowFacts
from core.flow.stage import NextKind, Stage, State, UnitStatus

# Hands-on minutes of the last steps (common practice, no source).
GRADE, LIST, GIVE_BACK = 5, 5, 10

_TO_GRADE = {Stage.RECEIVED, Stage.IN_WORKSHOP, Stage.ASSESSED, Stage.ON_BENCH}
# The next step of these is to grade it, or what is left before it is listed.
_TO_LIST = _TO_GRADE | {Stage.PROVEN, Stage.GRADED}


def minutes_ahead(found: UnitStatus, facts: FlowFacts) -> int:
    """Hands-on minutes that usually follow the next step: the whole plan where it was never tested to its end or has to
    be tested again, then grading and listing. 0 where nothing leads to a sale; of what may turn up nobody knows."""
    if facts.intake.donor or facts.intake.parked or found.stage not in _TO_LIST:
        return 0
    minutes = facts.bench.plan_minutes if _to_test(found, facts) else 0
    if facts.intake.custody:
        return minutes + (GIVE_BACK if found.stage in _TO_GRADE else 0)
    if facts.selling.graded:
        return minutes + (LIST if facts.selling.blocks or found.stage is Stage.IN_WORKSHOP else 0)
    grades_now = found.stage is Stage.PROVEN or (found.stage is Stage.ASSESSED and facts.intake.sell_as_is)
    return minutes + (0 if grades_now else GRADE) + LIST


def _to_test(found: UnitStatus, facts: FlowFacts) -> bool:
    """Whether the plan is run some day, and not as the next step."""
    proven = facts.bench.complete and not facts.bench.mended and not facts.workshop.retest_after
    tested_now = found.next_kind is NextKind.BENCH and found.state is State.MOVING
    return not (proven or tested_now or facts.intake.sell_as_is or facts.selling.graded)
