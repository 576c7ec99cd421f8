"""What its buyer sent back: taken back, or mended for its buyer."""

from dataclasses import replace

from core.flow.facts import FlowFacts
from core.flow.rules.bench import being_tested
from core.flow.rules.words import lower
from core.flow.rules.workshop import in_hand
from core.flow.stage import NextKind, Stage, State, Station, UnitStatus


def here_again(facts: FlowFacts) -> UnitStatus | None:
    """Work that was begun goes on as at any other; before and after it the return says what is next."""
    if not facts.dispatch.here_again:
        return None
    if found := _at_work(facts):
        return replace(found, stage=Stage.BACK)
    words = f"back from its buyer: {lower(facts.dispatch.coming_back)}"
    return UnitStatus(
        Stage.BACK, Station.BOOKS, State.DECISION, words, "mend it, or settle the return", NextKind.SALE, 10
    )


def _at_work(facts: FlowFacts) -> UnitStatus | None:
    if facts.workshop.tasks:
        return in_hand(facts)
    return being_tested(facts) if facts.bench.running else None
