"""What is in hand: jobs, what they wait for, and what failed at the bench and wants a decision."""

from core.flow.facts import FlowFacts
from core.flow.rules.words import lower
from core.flow.stage import NextKind, Stage, State, Station, UnitStatus
from core.flow.task import hands_on


def in_hand(facts: FlowFacts) -> UnitStatus | None:
    if facts.workshop.overdue:
        reason = f"a temporary fix is past its date: {lower(facts.workshop.overdue)}"
        return _to_decide(Stage.IN_WORKSHOP, reason, "decide: make it good, or set another date")
    if facts.workshop.decision:
        step = "go on, or stop" if facts.not_for_sale else "go on, sell as it is, or stop"
        return _to_decide(Stage.IN_WORKSHOP, facts.workshop.decision, f"decide: {step}")
    if facts.workshop.tasks:
        return _jobs(facts)
    if facts.selling.graded or facts.workshop.retest_after or facts.intake.sell_as_is or not facts.bench.failed:
        return None
    step = "repair it, or give it back as it is" if facts.not_for_sale else "repair, sell as it is, or part out"
    return _to_decide(Stage.ON_BENCH, f"failed: {lower(facts.bench.failed[0])}", f"decide: {step}")


def _jobs(facts: FlowFacts) -> UnitStatus:
    jobs, waits = facts.workshop.tasks, facts.workshop.waiting_for
    reason = f"{len(jobs)} {'job' if len(jobs) == 1 else 'jobs'} open"
    return UnitStatus(
        Stage.IN_WORKSHOP,
        Station.WORKSHOP,
        State.WAITING if waits else State.MOVING,
        f"{reason}; waiting for {waits}" if waits else reason,
        jobs[0].title,
        NextKind.WORKSHOP,
        hands_on(jobs),
    )


def _to_decide(stage: Stage, reason: str, step: str) -> UnitStatus:
    station = Station.BENCH if stage is Stage.ON_BENCH else Station.WORKSHOP
    return UnitStatus(stage, station, State.DECISION, reason, step, NextKind.WORKSHOP, 5)
