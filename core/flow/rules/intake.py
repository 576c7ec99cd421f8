"""What intake has recorded, and what was decided there."""

from core.flow.ahead import GRADE
from core.flow.facts import FlowFacts
from core.flow.stage import NextKind, Stage, State, Station, UnitStatus


def at_intake(facts: FlowFacts) -> UnitStatus | None:
    if facts.intake.assessed:
        return None
    gaps = len(facts.intake.gaps)
    reason = f"still to record: {', '.join(facts.intake.gaps)}" if gaps else "all recorded"
    next_step = f"record {facts.intake.gaps[0]}" if gaps else "finish intake"
    return UnitStatus(Stage.RECEIVED, Station.INTAKE, State.MOVING, reason, next_step, NextKind.INTAKE, 3 + 2 * gaps)


def parked(facts: FlowFacts) -> UnitStatus | None:
    if facts.intake.parked:
        return UnitStatus(
            Stage.PARKED,
            Station.WORKSHOP,
            State.WAITING,
            f"parked: {facts.intake.parked}",
            "take it up again or let it go",
            NextKind.WORKSHOP,
            2,
        )
    return None


def donor(facts: FlowFacts) -> UnitStatus | None:
    if facts.intake.donor and not facts.selling.graded:
        return UnitStatus(
            Stage.DONOR,
            Station.WORKSHOP,
            State.WAITING,
            "kept for parts",
            "take parts, or grade and sell it for parts",
            NextKind.WORKSHOP,
            20,
        )
    return None


def as_it_stands(facts: FlowFacts) -> UnitStatus | None:
    """Decided to be sold as it stands: it goes to selling, whatever was or was not tested."""
    if not facts.intake.sell_as_is or facts.selling.graded or facts.intake.custody:
        return None
    return UnitStatus(
        Stage.ASSESSED,
        Station.SELLING,
        State.MOVING,
        "to be sold as it stands",
        "grade it by what is known",
        NextKind.SELLING,
        GRADE,
    )
