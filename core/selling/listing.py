"""What stands in the way of a listing, and a listing that says what is known and nothing else."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from decimal import Decimal
from enum import StrEnum

from core.selling.disclosure import DEFAULTS, Disclosure, DisclosureKind
from core.selling.grade import Grade


class BlockKind(StrEnum):
    """What blocks, and so where the button beside it leads."""

    CUSTODY = "custody"
    STAGE = "stage"
    GRADE = "grade"
    COST = "cost"
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

    `cost_unknown` says why nobody knows what it cost. `said_title` and `said_text` are the words of the listing as they
    stand; `gaps`: something is missing, was not gone through, or is on record both ways.
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
    cost_unknown: str = ""
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
    stopped: Sequence[str] = ()
    originals_kept: Sequence[str] = ()
    earlier_work: Sequence[str] = ()
    adapter: Sequence[str] = ()
    signal: Sequence[str] = ()
    battery: Sequence[str] = ()
    data: Sequence[str] = ()
    # Words chosen for what must be said, by kind and fact.
    wordings: Mapping[tuple[str, str], str] = field(default_factory=dict)


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
    if facts.cost_unknown:
        block(BlockKind.COST, f"What it cost is not known: {facts.cost_unknown}", "Settle it")
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


# What a listing tells beside what must be said, in this order; an owner may word each anew. Places in braces are
# filled in; a sentence whose {things} are none is left out.
NARRATIVE: Mapping[str, str] = {
    "what": "{title}{years}.{grade}",
    "tested": "Tested{on}, passed: {things}.",
    "work": "Work done: {things}.",
    "installed": "Installed: {things}.",
    "box": "In the box: {things}.",
    "originals": "Original parts that go with it: {things}.",
    "caution": "Old electronics: have mains equipment checked by a competent person before use,"
    " under your local rules.",
}
_PLACES = {name: frozenset(re.findall(r"{(\w+)}", words)) for name, words in NARRATIVE.items()}
_PLACES |= {kind.value: frozenset(re.findall(r"{(\w+)}", words)) for kind, words in DEFAULTS.items()}
STANDARD: Mapping[str, str] = {**NARRATIVE, **{kind.value: words for kind, words in DEFAULTS.items()}}
LONGEST_SENTENCE = 300


def check_sentence(code: str, words: str) -> str:
    """What is wrong with an owner’s sentence, in words; empty when it can be used. Every place of the standard one has
    to be in it, so that no fact is lost, and no other."""
    there = re.findall(r"{(\w*)}", words)
    if len(words) > LONGEST_SENTENCE:
        return f"{LONGEST_SENTENCE} characters at most: this is {len(words)}."
    if len(words.strip()) < 3:
        return "Write a sentence, or take the standard one back."
    if lost := sorted(_PLACES[code] - set(there)):
        return f"{{{lost[0]}}} has to be in it: it is where the facts go."
    if more := sorted(set(there) - _PLACES[code]):
        return f"{{{more[0]}}} is filled by nothing here."
    if words.count("{") != len(there) or words.count("}") != len(there):
        return "A brace stands alone."
    return ""


def narrative(facts: ListingFacts, sentences: Mapping[str, str] = STANDARD) -> dict[str, str]:
    """What a listing tells beside what must be said, sentence by sentence, by their codes."""
    things = {
        "tested": facts.passed,
        "work": facts.work_done,
        "installed": facts.installed,
        "box": facts.in_the_box,
        "originals": facts.originals,
    }
    filled = {
        "title": facts.title,
        "years": f", {facts.year_text}" if facts.year_text else "",
        "grade": f" Grade {facts.grade.label}." if facts.grade else "",
        "on": f" {facts.tested_on}" if facts.tested_on else "",
    }
    found = {}
    for code, standard in NARRATIVE.items():
        if code in things and not things[code]:
            continue
        words = sentences.get(code) or standard
        for place, text in {**filled, "things": "; ".join(things.get(code, ()))}.items():
            words = words.replace(f"{{{place}}}", text)
        found[code] = words
    return found


def disclosures(facts: ListingFacts) -> tuple[Disclosure, ...]:
    """All that must be said of a unit, from its record."""
    kind = DisclosureKind
    found = [] if facts.passed else [Disclosure(kind.UNTESTED)]
    if facts.as_it_stands:
        found.append(Disclosure(kind.AS_IT_STANDS))
    if facts.completeness is None and not facts.missing:
        found.append(Disclosure(kind.NOT_COUNTED))
    mains = f"{facts.mains}{'; supply: ' + facts.supply if facts.supply else ''}"
    for which, things in (
        (kind.NOT_PROVEN, facts.not_proven),
        (kind.FAILED, facts.failed),
        (kind.SKIPPED, facts.skipped),
        (kind.TIME_WAIVED, facts.waived_times),
        (kind.STOPPED, facts.stopped),
        (kind.UNCONFIRMED, facts.unconfirmed),
        (kind.TEMPORARY, facts.temporary_fixes),
        (kind.WORKAROUND, facts.workarounds),
        (kind.FINISH, facts.finish),
        (kind.NOT_ORIGINAL, facts.not_original),
        (kind.ORIGINAL_KEPT, facts.originals_kept),
        (kind.AGAINST_APPROACH, facts.against_approach),
        (kind.EARLIER_WORK, facts.earlier_work),
        (kind.DEFECT, facts.findings),
        (kind.MISSING, facts.missing),
        (kind.MAINS, [mains] if facts.mains else []),
        (kind.ADAPTER, facts.adapter),
        (kind.SIGNAL, facts.signal),
        (kind.BATTERY, facts.battery),
        (kind.DATA, facts.data),
    ):
        found += [Disclosure(which, thing) for thing in dict.fromkeys(things)]
    return tuple(found)


def write_title(facts: ListingFacts, longest: int) -> str:
    """By order of worth to who looks: what it is, whether it works, how old, whether it is complete."""
    words = [facts.title]
    if facts.grade in _SOLD_AS_IS and facts.grade is not None:
        words.append("for parts or repair" if facts.grade is Grade.PARTS else "untested")
    elif facts.proven and facts.passed:
        words.append("tested")
    elif facts.as_it_stands:
        words.append("as it stands")
    if facts.year_text:
        words.append(facts.year_text)
    if facts.completeness == 100 and not facts.gaps:
        words.append("complete")
    title = words[0][:longest]
    for word in words[1:]:
        if len(f"{title}, {word}") <= longest:
            title = f"{title}, {word}"
    return title
