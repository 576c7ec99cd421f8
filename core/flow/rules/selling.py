"""What is on offer, and what was sold."""

from core.flow.facts import FlowFacts
from core.flow.rules.words import lower
from core.flow.stage import NextKind, Stage, State, Station, UnitStatus


def gone(facts: FlowFacts) -> UnitStatus | None:
    if facts.intake.returned:
        return UnitStatus(Stage.RETURNED, Station.BOOKS, State.SOLD, "given back to its owner", "", NextKind.NONE)
    if facts.intake.scrapped:
        return UnitStatus(Stage.SCRAPPED, Station.BOOKS, State.SOLD, "written off", "", NextKind.NONE)
    if facts.dispatch.coming_back:
        stage = Stage.CLOSED if facts.selling.closed else Stage.SENT
        words, step = f"a return waits: {lower(facts.dispatch.coming_back)}", "settle the return"
        return UnitStatus(stage, Station.BOOKS, State.DECISION, words, step, NextKind.SALE, 10)
    if facts.selling.closed:
        return UnitStatus(Stage.CLOSED, Station.BOOKS, State.SOLD, "sold, sent and settled", "", NextKind.NONE)
    if facts.selling.sent:
        return UnitStatus(
            Stage.SENT,
            Station.BOOKS,
            State.SOLD,
            "sent to the buyer",
            "close it when it has arrived",
            NextKind.SALE,
            2,
        )
    if facts.selling.sold:
        return _sold(facts)
    return None


def _sold(facts: FlowFacts) -> UnitStatus:
    """Sold and still here: paid first, then packed, then sent."""
    reason, step, minutes = "to be packed", "pack and send it", 15
    if facts.selling.owed:
        reason, step, minutes = "not paid yet", "take the payment", 2
    elif facts.dispatch.packed:
        reason, step, minutes = "packed", "send it", 5
    return UnitStatus(Stage.SOLD, Station.BOOKS, State.SOLD, reason, step, NextKind.SALE, minutes)


def on_offer(facts: FlowFacts) -> UnitStatus | None:
    if not facts.selling.listed:
        return None
    if facts.selling.blocks:
        return UnitStatus(
            Stage.LISTED,
            Station.SELLING,
            State.DECISION,
            f"listed, but {lower(facts.selling.blocks[0])}",
            "end the listing or put it right",
            NextKind.LISTING,
            5,
        )
    return UnitStatus(Stage.LISTED, Station.SELLING, State.MOVING, "on offer", "sell it", NextKind.SALE, 5)
