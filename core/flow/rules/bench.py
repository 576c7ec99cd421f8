"""What the newest run says, and where it goes from there."""

from core.flow.ahead import GIVE_BACK, GRADE, LIST
from core.flow.facts import FlowFacts
from core.flow.rules.words import lower
from core.flow.stage import NextKind, Stage, State, Station, UnitStatus
from core.flow.task import hands_on


def after_the_bench(facts: FlowFacts) -> UnitStatus:
    if facts.selling.graded:
        gaps = list(facts.selling.blocks)
        if gaps:
            return UnitStatus(
                Stage.GRADED,
                Station.SELLING,
                State.DECISION,
                lower(gaps[0]),
                "clear what blocks the listing",
                NextKind.LISTING,
                5 * len(gaps),
            )
        return UnitStatus(
            Stage.GRADED,
            Station.SELLING,
            State.MOVING,
            "nothing blocks the listing",
            "list it",
            NextKind.LISTING,
            LIST,
        )
    if facts.workshop.retest_after or facts.bench.mended:
        return UnitStatus(
            Stage.ON_BENCH,
            Station.BENCH,
            State.MOVING,
            f"not tested since: {facts.workshop.retest_after}"
            if facts.workshop.retest_after
            else facts.bench.mended[0],
            "run the test plan again",
            NextKind.BENCH,
            facts.bench.plan_minutes,
        )
    if not facts.bench.started:
        return UnitStatus(
            Stage.ASSESSED,
            Station.BENCH,
            State.MOVING,
            "not tested yet",
            "start the test plan",
            NextKind.BENCH,
            facts.bench.plan_minutes,
        )
    if not facts.bench.complete:
        return UnitStatus(
            Stage.ON_BENCH,
            Station.BENCH,
            State.MOVING,
            "test plan going on",
            facts.bench.tasks[0].title if facts.bench.tasks else "go on with the test plan",
            NextKind.BENCH,
            hands_on(facts.bench.tasks),
        )
    if facts.intake.custody:
        return UnitStatus(
            Stage.PROVEN,
            Station.SELLING,
            State.MOVING,
            "proven, and not ours to sell",
            "give it back to its owner",
            NextKind.WORKSHOP,
            GIVE_BACK,
        )
    return UnitStatus(
        Stage.PROVEN,
        Station.SELLING,
        State.MOVING,
        "test plan passed to its end",
        "grade it",
        NextKind.SELLING,
        GRADE,
    )
