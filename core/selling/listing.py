"""What stands in the way of a listing, and a listing that says what is known and nothing else."""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from enum import StrEnum

from core.selling.grade import Grade


class BlockKind(StrEnum):
    """What blocks, and so where the button beside it leads."""

    CUSTODY = "custody"
    STAGE = "stage"
    GRADE = "grade"
    PRICE = "price"
    PHOTOS = "photos"
    DATA = "data"
    SAFETY = "safety"
    TEMPORARY = "temporary"
    WORDS = "words"


@dataclass(frozen=True)
class Block:
    kind: BlockKind
    words: str
    verb: str


@dataclass(frozen=True)
class ListingFacts:
    """What is known of a unit that may be offered. Words are as recorded; lists in the order recorded.

    `said_title` and `said_text` are the words of the listing as they stand; `gaps`: something is missing, or was not
    gone through.
    """

    title: str
    grade: Grade | None
    proven: bool
    custody: bool = False
    may_hold_data: str = ""
    not_proven: Sequence[str] = ()
    as_it_stands: bool = False
    stale: str = ""
    safety_hold: str = ""
    temporary_fixes: Sequence[str] = ()
    photo_count: int = 0
    photos_wanted: int = 0
    asking: Decimal | None = None
    floor: Decimal | None = None
    below_floor_reason: str = ""
    said_title: str = ""
    said_text: str = ""
    gaps: bool = False
    year_text: str = ""
    tested_on: str = ""
    passed: Sequence[str] = ()
    failed: Sequence[str] = ()
    skipped: Sequence[str] = ()
    work_done: Sequence[str] = ()
    finish: Sequence[str] = ()
    installed: Sequence[str] = ()
    workarounds: Sequence[str] = ()
    originals: Sequence[str] = ()
    against_approach: Sequence[str] = ()
    findings: Sequence[str] = ()
    unconfirmed: Sequence[str] = ()
    waived_times: Sequence[str] = ()
    completeness: int | None = None
    missing: Sequence[str] = ()
    not_original: Sequence[str] = ()
    in_the_box: Sequence[str] = ()
    mains: str = ""
    supply: str = ""


_SOLD_AS_IS = {Grade.PARTS, Grade.UNTESTED}


def blocks(facts: ListingFacts) -> tuple[Block, ...]:
    """Everything that forbids listing this unit now; empty when it may be listed."""
    found: list[Block] = []

    def block(kind: BlockKind, words: str, verb: str) -> None:
        found.append(Block(kind, words, verb))

    if facts.custody:
        block(BlockKind.CUSTODY, "In custody: it belongs to somebody else", "See owner")
    if not facts.proven and facts.grade not in _SOLD_AS_IS and not facts.as_it_stands:
        since = f": {facts.not_proven[0]}" if facts.not_proven else ": the test plan is not passed to its end"
        block(BlockKind.STAGE, f"Not proven{since}", "Test it")
    if facts.grade is None:
        block(BlockKind.GRADE, "No grade set", "Grade it")
    elif facts.stale:
        block(BlockKind.GRADE, f"The grade is older than what happened since: {facts.stale}", "Grade it again")
    if facts.asking is None:
        block(BlockKind.PRICE, "No price set", "Price it")
    elif facts.floor is not None and facts.asking < facts.floor and not facts.below_floor_reason:
        block(BlockKind.PRICE, f"Asking {facts.asking} is under the floor of {facts.floor}", "Price it")
    if facts.photo_count < facts.photos_wanted:
        short = facts.photos_wanted - facts.photo_count
        block(BlockKind.PHOTOS, f"{short} {'photo' if short == 1 else 'photos'} missing", "Add")
    if facts.may_hold_data:
        block(BlockKind.DATA, f"May hold somebody’s data: {facts.may_hold_data}", "Settle it")
    if facts.safety_hold:
        block(BlockKind.SAFETY, f"Safety hold: {facts.safety_hold}", "See bench")
    if facts.temporary_fixes and facts.grade is not Grade.PARTS:
        block(BlockKind.TEMPORARY, f"Temporary fix still open: {facts.temporary_fixes[0]}", "Close it")
    if claimed := outlived(facts):
        block(BlockKind.WORDS, f"The words say “{claimed}”, the record does not", "Write them anew")
    return tuple(found)


def outlived(facts: ListingFacts) -> str:
    """What the words of the listing claim and the record does not, or no longer; empty when they agree.

    Looked for are the claims that the listing itself makes: tested, complete, and the grade.
    """
    for claim, holds in (("tested", facts.proven), ("complete", not facts.gaps)):
        if not holds and re.search(rf"\b{claim}\b", facts.said_title, re.IGNORECASE):
            return claim
    graded = re.search(r"\bGrade (A|B|C|D|E|for parts|untested)\.", facts.said_text)
    if graded and facts.grade and graded[1] != facts.grade.label:
        return f"Grade {graded[1]}"
    return ""


def write_listing(facts: ListingFacts, title_length: int = 80) -> tuple[str, str]:
    """Title (at most `title_length` characters) and text, from recorded facts only; nothing is invented."""
    return _title(facts, title_length), "\n\n".join(part for part in _paragraphs(facts) if part)


def _title(facts: ListingFacts, longest: int) -> str:
    words = [facts.title]
    if facts.grade in _SOLD_AS_IS and facts.grade is not None:
        words.append("for parts or repair" if facts.grade is Grade.PARTS else "untested")
    elif facts.proven and facts.passed:
        words.append("tested")
    elif facts.as_it_stands:
        words.append("as it stands")
    if facts.year_text:
        words.append(facts.year_text)
    if facts.completeness == 100:
        words.append("complete")
    title = words[0][:longest]
    for word in words[1:]:
        if len(f"{title}, {word}") <= longest:
            title = f"{title}, {word}"
    return title


def _sentence(lead: str, things: Sequence[str]) -> str:
    return f"{lead}: {'; '.join(things)}." if things else ""


def _paragraphs(facts: ListingFacts) -> list[str]:
    grade = f"Grade {facts.grade.label}." if facts.grade else ""
    what = f"{facts.title}{', ' + facts.year_text if facts.year_text else ''}. {grade}".strip()
    if facts.passed:
        tested = _sentence(f"Tested {facts.tested_on}, passed".replace(" ,", ","), facts.passed)
    else:
        tested = "Not tested: nothing is claimed about how it works."
    needs = []
    if facts.mains:
        needs.append(f"Mains: {facts.mains}{'; supply: ' + facts.supply if facts.supply else ''}.")
    if facts.completeness is None and not facts.missing:
        needs.append("Whether it is complete was not gone through.")
    return [
        what,
        tested,
        "Sold as it stands: it was not repaired, and not tested to the end." if facts.as_it_stands else "",
        _sentence("Not proven since", facts.not_proven),
        _sentence("Failed when tested", facts.failed),
        _sentence("Not tested", facts.skipped),
        _sentence("Not run for its whole time", facts.waived_times),
        _sentence("Repaired, and not yet shown to hold", facts.unconfirmed),
        _sentence("Work done", facts.work_done),
        _sentence("Installed", facts.installed),
        _sentence("Finish", facts.finish),
        _sentence("Not original", facts.not_original),
        _sentence("What is wrong with it", facts.findings),
        _sentence("Missing", facts.missing),
        _sentence("Temporary fixes in place", facts.temporary_fixes),
        _sentence("Workarounds that stay", facts.workarounds),
        _sentence("Done against its approach", facts.against_approach),
        _sentence("In the box", facts.in_the_box),
        _sentence("Original parts that go with it", facts.originals),
        " ".join(needs),
        "Old electronics: have mains equipment checked by a competent person before use, under your local rules.",
    ]
