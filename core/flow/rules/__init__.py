"""Where a unit stands: a pure function of what has been recorded about it, in rules a station."""

from dataclasses import replace

from core.flow.ahead import minutes_ahead
from core.flow.facts import FlowFacts
from core.flow.rules import bench, intake, returns, selling, workshop
from core.flow.stage import NextKind, Stage, State, Station, UnitStatus
from core.flow.task import hands_on

# The first that holds decides; later facts outrank earlier ones.
RULES = (
    returns.here_again,
    selling.gone,
    selling.on_offer,
    intake.parked,
    intake.at_intake,
    intake.donor,
    workshop.in_hand,
    intake.as_it_stands,
    bench.after_the_bench,
)


def unit_status(facts: FlowFacts) -> UnitStatus:
    """Work out where the unit stands. The first rule that holds decides; later facts outrank earlier ones.

    A safety hold outranks all of them while the unit is in the house: whatever else it is, parked, kept for parts,
    waiting, on offer, sold and not yet packed, it is first of all not safe.
    """
    found = _held(next(stands for rule in RULES if (stands := rule(facts))), facts)
    found = replace(found, again_on=facts.workshop.again_on)
    if not _to_do(found):
        return found
    ahead = minutes_ahead(found, facts)
    return replace(found, minutes_ahead=ahead, pull=_worth_to_us(facts) / (found.minutes + ahead))


def _to_do(found: UnitStatus) -> bool:
    """Whether something is to be done at it in the house: not at what waits, is on offer or was done."""
    at_work = found.station is not Station.BOOKS and found.state in {State.DECISION, State.MOVING}
    for_sale = found.stage is Stage.LISTED and found.state is State.MOVING
    return bool(found.minutes) and not for_sale and (at_work or found.state is State.HOLD)


def _worth_to_us(facts: FlowFacts) -> float:
    """What it is to bring us, 0 where nobody said what that is."""
    worth = facts.intake.worth if facts.selling.asking is None else facts.selling.asking
    return float((worth or 0) * (facts.intake.our_share or 0))


def _held(found: UnitStatus, facts: FlowFacts) -> UnitStatus:
    if facts.hold and not found.stage.left:
        if facts.workshop.tasks:
            step, kind = facts.workshop.tasks[0].title, NextKind.WORKSHOP
        else:
            step, kind = "make it safe, then go on", facts.hold.kind
        return replace(
            found,
            state=State.HOLD,
            reason=facts.hold.words if found.stage in _PLAIN else f"{facts.hold.words}; {found.stage.label}",
            next_step=step,
            next_kind=kind,
            minutes=max(12, hands_on(facts.workshop.tasks)),
        )
    return found


# Stages that a hold says nothing new about.
_PLAIN = {Stage.RECEIVED, Stage.ASSESSED, Stage.ON_BENCH, Stage.IN_WORKSHOP}
