"""Where a unit stands: a pure function of what has been recorded about it."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum


class Station(StrEnum):
    BUYING = "buying"
    INTAKE = "intake"
    BENCH = "bench"
    WORKSHOP = "workshop"
    SELLING = "selling"
    BOOKS = "books"

    @property
    def label(self) -> str:
        return self.value.capitalize()


class Stage(StrEnum):
    RECEIVED = "received"
    ASSESSED = "assessed"
    ON_BENCH = "on_bench"
    IN_WORKSHOP = "in_workshop"
    PROVEN = "proven"
    GRADED = "graded"
    LISTED = "listed"
    SOLD = "sold"
    SENT = "sent"
    CLOSED = "closed"
    PARKED = "parked"
    DONOR = "donor"
    SCRAPPED = "scrapped"
    RETURNED = "returned"

    @property
    def label(self) -> str:
        return {
            "on_bench": "on the bench",
            "in_workshop": "in the workshop",
            "returned": "returned to owner",
        }.get(self.value, self.value)


class State(StrEnum):
    """How the unit stands on its rail."""

    MOVING = "move"
    WAITING = "wait"
    DECISION = "stuck"
    HOLD = "hold"
    SOLD = "sold"

    @property
    def label(self) -> str:
        return {
            "move": "moving",
            "wait": "waiting",
            "stuck": "needs a decision",
            "hold": "safety hold",
            "sold": "done",
        }[self.value]


class NextKind(StrEnum):
    """What the next step is, and so which page it is done on."""

    INTAKE = "intake"
    BENCH = "bench"
    WORKSHOP = "workshop"
    SELLING = "selling"
    LISTING = "listing"
    SALE = "sale"
    BOOKS = "books"
    NONE = "none"


@dataclass(frozen=True)
class FlowFacts:
    """Everything the stage rests on, each fact recorded at one station. Texts are words to show, empty for no."""

    intake_gaps: Sequence[str] = ()
    assessed: bool = False
    custody: bool = False
    donor: bool = False
    parked: str = ""
    scrapped: bool = False
    returned: bool = False
    run_started: bool = False
    run_complete: bool = False
    run_next: str = ""
    run_minutes: int = 0
    failed: Sequence[str] = ()
    not_proven: Sequence[str] = ()
    safety_hold: str = ""
    hold_kind: NextKind = NextKind.BENCH
    sell_as_is: bool = False
    retest_after: str = ""
    open_jobs: Sequence[str] = ()
    waiting_for: str = ""
    decision: str = ""
    job_minutes: int = 0
    graded: bool = False
    listing_blocks: Sequence[str] = ()
    listed: bool = False
    sold: bool = False
    sent: bool = False
    closed: bool = False


@dataclass(frozen=True)
class Standing:
    """Stage, station and state, with the reason and the next step in words and in hands-on minutes."""

    stage: Stage
    station: Station
    state: State
    reason: str
    next_step: str
    next_kind: NextKind
    minutes: int = 0


def standing(facts: FlowFacts) -> Standing:
    """Work out where the unit stands. The first rule that holds decides; later facts outrank earlier ones.

    A safety hold outranks all of them while the unit is in the house: whatever else it is, parked, kept for parts,
    waiting, on offer, sold and not yet packed, it is first of all not safe.
    """
    found = next(
        stands
        for rule in (_gone, _on_offer, _parked, _at_intake, _donor, _in_hand, _as_it_stands, _after_the_bench)
        if (stands := rule(facts))
    )
    here = found.stage not in {Stage.RETURNED, Stage.SCRAPPED, Stage.CLOSED, Stage.SENT}
    if facts.safety_hold and here:
        if facts.open_jobs:
            step, kind = facts.open_jobs[0], NextKind.WORKSHOP
        else:
            step, kind = "make it safe, then go on", facts.hold_kind
        return replace(
            found,
            state=State.HOLD,
            reason=facts.safety_hold if found.stage in _PLAIN else f"{facts.safety_hold}; {found.stage.label}",
            next_step=step,
            next_kind=kind,
            minutes=max(12, facts.job_minutes),
        )
    return found


# Stages that a hold says nothing new about.
_PLAIN = {Stage.RECEIVED, Stage.ASSESSED, Stage.ON_BENCH, Stage.IN_WORKSHOP}


def _gone(facts: FlowFacts) -> Standing | None:
    if facts.returned:
        return Standing(Stage.RETURNED, Station.BOOKS, State.SOLD, "given back to its owner", "", NextKind.NONE)
    if facts.scrapped:
        return Standing(Stage.SCRAPPED, Station.BOOKS, State.SOLD, "written off", "", NextKind.NONE)
    if facts.closed:
        return Standing(Stage.CLOSED, Station.BOOKS, State.SOLD, "sold, sent and settled", "", NextKind.NONE)
    if facts.sent:
        return Standing(
            Stage.SENT,
            Station.BOOKS,
            State.SOLD,
            "sent to the buyer",
            "close it when it has arrived",
            NextKind.SALE,
            2,
        )
    if facts.sold:
        return Standing(Stage.SOLD, Station.BOOKS, State.SOLD, "sold", "pack and send it", NextKind.SALE, 15)
    return None


def _on_offer(facts: FlowFacts) -> Standing | None:
    if not facts.listed:
        return None
    if facts.listing_blocks:
        return Standing(
            Stage.LISTED,
            Station.SELLING,
            State.DECISION,
            f"listed, but {_lower(facts.listing_blocks[0])}",
            "end the listing or put it right",
            NextKind.LISTING,
            5,
        )
    return Standing(Stage.LISTED, Station.SELLING, State.MOVING, "on offer", "sell it", NextKind.SALE, 5)


def _at_intake(facts: FlowFacts) -> Standing | None:
    if facts.assessed:
        return None
    gaps = len(facts.intake_gaps)
    reason = f"still to record: {', '.join(facts.intake_gaps)}" if gaps else "all recorded"
    next_step = f"record {facts.intake_gaps[0]}" if gaps else "finish intake"
    return Standing(Stage.RECEIVED, Station.INTAKE, State.MOVING, reason, next_step, NextKind.INTAKE, 3 + 2 * gaps)


def _parked(facts: FlowFacts) -> Standing | None:
    if facts.parked:
        return Standing(
            Stage.PARKED,
            Station.WORKSHOP,
            State.WAITING,
            f"parked: {facts.parked}",
            "take it up again or let it go",
            NextKind.WORKSHOP,
            2,
        )
    return None


def _donor(facts: FlowFacts) -> Standing | None:
    if facts.donor and not facts.graded:
        return Standing(
            Stage.DONOR,
            Station.WORKSHOP,
            State.WAITING,
            "kept for parts",
            "take parts, or grade and sell it for parts",
            NextKind.WORKSHOP,
            20,
        )
    return None


def _in_hand(facts: FlowFacts) -> Standing | None:
    if facts.decision:
        return Standing(
            Stage.IN_WORKSHOP,
            Station.WORKSHOP,
            State.DECISION,
            facts.decision,
            "decide: go on, sell as it is, or stop",
            NextKind.WORKSHOP,
            5,
        )
    if facts.open_jobs:
        count = len(facts.open_jobs)
        reason = f"{count} {'job' if count == 1 else 'jobs'} open"
        if facts.waiting_for:
            return Standing(
                Stage.IN_WORKSHOP,
                Station.WORKSHOP,
                State.WAITING,
                f"{reason}; waiting for {facts.waiting_for}",
                facts.open_jobs[0],
                NextKind.WORKSHOP,
                facts.job_minutes,
            )
        return Standing(
            Stage.IN_WORKSHOP,
            Station.WORKSHOP,
            State.MOVING,
            reason,
            facts.open_jobs[0],
            NextKind.WORKSHOP,
            facts.job_minutes,
        )
    if facts.graded and facts.donor:
        return None
    if facts.failed and not facts.graded and not facts.retest_after and not facts.sell_as_is:
        return Standing(
            Stage.ON_BENCH,
            Station.BENCH,
            State.DECISION,
            f"failed: {_lower(facts.failed[0])}",
            "decide: repair, sell as it is, or part out",
            NextKind.WORKSHOP,
            5,
        )
    return None


def _as_it_stands(facts: FlowFacts) -> Standing | None:
    """Decided to be sold as it stands: it goes to selling, whatever was or was not tested."""
    if not facts.sell_as_is or facts.graded or facts.custody:
        return None
    return Standing(
        Stage.ASSESSED,
        Station.SELLING,
        State.MOVING,
        "to be sold as it stands",
        "grade it by what is known",
        NextKind.SELLING,
        5,
    )


def _after_the_bench(facts: FlowFacts) -> Standing:
    if facts.graded:
        gaps = list(facts.listing_blocks)
        if gaps:
            return Standing(
                Stage.GRADED,
                Station.SELLING,
                State.DECISION,
                _lower(gaps[0]),
                "clear what blocks the listing",
                NextKind.LISTING,
                5 * len(gaps),
            )
        return Standing(
            Stage.GRADED,
            Station.SELLING,
            State.MOVING,
            "nothing blocks the listing",
            "list it",
            NextKind.LISTING,
            5,
        )
    if facts.retest_after:
        return Standing(
            Stage.ON_BENCH,
            Station.BENCH,
            State.MOVING,
            f"not tested since: {facts.retest_after}",
            "run the test plan again",
            NextKind.BENCH,
            30,
        )
    if not facts.run_started:
        return Standing(
            Stage.ASSESSED,
            Station.BENCH,
            State.MOVING,
            "not tested yet",
            "start the test plan",
            NextKind.BENCH,
            30,
        )
    if not facts.run_complete:
        return Standing(
            Stage.ON_BENCH,
            Station.BENCH,
            State.MOVING,
            "test plan going on",
            facts.run_next or "go on with the test plan",
            NextKind.BENCH,
            facts.run_minutes,
        )
    if facts.custody:
        return Standing(
            Stage.PROVEN,
            Station.SELLING,
            State.MOVING,
            "proven, and not ours to sell",
            "give it back to its owner",
            NextKind.WORKSHOP,
            10,
        )
    return Standing(
        Stage.PROVEN,
        Station.SELLING,
        State.MOVING,
        "test plan passed to its end",
        "grade it",
        NextKind.SELLING,
        5,
    )


def _lower(words: str) -> str:
    return words[:1].lower() + words[1:]
