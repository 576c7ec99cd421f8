"""What is in hand: jobs, what they wait for, and what failed at the bench and wants a decision."""

from core.flow.facts import FlowFacts
from core.flow.rules.words import lower
from core.flow.stage import NextKind, Stage, State, Station, UnitStatus
from core.flow.task import hands_on


def in_hand(facts: FlowFacts) -> UnitStatus | None:
    if facts.workshop.overdue:
        return UnitStatus(
            Stage.IN_WORKSHOP,
            Station.WORKSHOP,
            State.DECISION,
            f"a temporary fix is past its date: {lower(facts.workshop.overdue)}",
            "decide: make it good, or set another date",
            NextKind.WORKSHOP,
            5,
        )
    if facts.workshop.decision:
        return UnitStatus(
            Stage.IN_WORKSHOP,
            Station.WORKSHOP,
            State.DECISION,
            facts.workshop.decision,
            "decide: go on, sell as it is, or stop",
            NextKind.WORKSHOP,
            5,
        )
    if jobs := facts.workshop.tasks:
        count = len(jobs)
        reason = f"{count} {'job' if count == 1 else 'jobs'} open"
        if facts.workshop.waiting_for:
            return UnitStatus(
                Stage.IN_WORKSHOP,
                Station.WORKSHOP,
                State.WAITING,
                f"{reason}; waiting for {facts.workshop.waiting_for}",
                jobs[0].title,
                NextKind.WORKSHOP,
                hands_on(jobs),
            )
        return UnitStatus(
            Stage.IN_WORKSHOP,
            Station.WORKSHOP,
            State.MOVING,
            reason,
            jobs[0].title,
            NextKind.WORKSHOP,
            hands_on(jobs),
        )
    if facts.selling.graded and facts.intake.donor:
        return None
    if (
        facts.bench.failed
        and not facts.selling.graded
        and not facts.workshop.retest_after
        and not facts.intake.sell_as_is
    ):
        return UnitStatus(
            Stage.ON_BENCH,
            Station.BENCH,
            State.DECISION,
            f"failed: {lower(facts.bench.failed[0])}",
            "decide: repair it, or give it back as it is"
            if facts.intake.custody
            else "decide: repair, sell as it is, or part out",
            NextKind.WORKSHOP,
            5,
        )
    return None
