"""What must be said: facts of the record with consequences for a buyer. They can be worded anew, and not left out."""

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

from core.selling.grade import GradeEvidence


class DisclosureKind(StrEnum):
    """Why it must be said; in the order in which a buyer is told."""

    UNTESTED = "untested"
    AS_IT_STANDS = "as_it_stands"
    NOT_PROVEN = "not_proven"
    FAILED = "failed"
    SKIPPED = "skipped"
    TIME_WAIVED = "time_waived"
    STOPPED = "stopped"
    UNCONFIRMED = "unconfirmed"
    TEMPORARY = "temporary"
    WORKAROUND = "workaround"
    FINISH = "finish"
    NOT_ORIGINAL = "not_original"
    ORIGINAL_KEPT = "original_kept"
    AGAINST_APPROACH = "against_approach"
    EARLIER_WORK = "earlier_work"
    DEFECT = "defect"
    MISSING = "missing"
    NOT_COUNTED = "not_counted"
    MAINS = "mains"
    ADAPTER = "adapter"
    SIGNAL = "signal"
    BATTERY = "battery"
    DATA = "data"

    @property
    def label(self) -> str:
        """What it is about, for those who sell."""
        return _ABOUT[self]


_ABOUT = {
    DisclosureKind.UNTESTED: "not tested at all",
    DisclosureKind.AS_IT_STANDS: "sold as it stands",
    DisclosureKind.NOT_PROVEN: "not proven any more",
    DisclosureKind.FAILED: "a check that failed",
    DisclosureKind.SKIPPED: "a check that was not done",
    DisclosureKind.TIME_WAIVED: "a check that was cut short",
    DisclosureKind.STOPPED: "unplugged while it was tested",
    DisclosureKind.UNCONFIRMED: "a repair not shown to hold",
    DisclosureKind.TEMPORARY: "a temporary fix",
    DisclosureKind.WORKAROUND: "a workaround that stays",
    DisclosureKind.FINISH: "its finish",
    DisclosureKind.NOT_ORIGINAL: "a part that is not original",
    DisclosureKind.ORIGINAL_KEPT: "an original part that is kept back",
    DisclosureKind.AGAINST_APPROACH: "work against its approach",
    DisclosureKind.EARLIER_WORK: "work of others",
    DisclosureKind.DEFECT: "a defect",
    DisclosureKind.MISSING: "something missing",
    DisclosureKind.NOT_COUNTED: "completeness not gone through",
    DisclosureKind.MAINS: "mains",
    DisclosureKind.ADAPTER: "the adapter it needs",
    DisclosureKind.SIGNAL: "the signal of its picture",
    DisclosureKind.BATTERY: "its battery",
    DisclosureKind.DATA: "data that were on it",
}


# What speaks against a thing: nobody pays more for being told of it. All others say how it is, for better or worse.
SHORTCOMINGS = frozenset(DisclosureKind) - {
    DisclosureKind.FINISH,
    DisclosureKind.ORIGINAL_KEPT,
    DisclosureKind.MAINS,
    DisclosureKind.ADAPTER,
    DisclosureKind.SIGNAL,
    DisclosureKind.BATTERY,
    DisclosureKind.DATA,
}

# How each is told; {things} are the facts, with semicolons between. An owner may word them anew.
DEFAULTS: Mapping[DisclosureKind, str] = {
    DisclosureKind.UNTESTED: "Not tested: nothing is claimed about how it works.",
    DisclosureKind.AS_IT_STANDS: "Sold as it stands: it was not repaired, and not tested to the end.",
    DisclosureKind.NOT_PROVEN: "Not proven since: {things}.",
    DisclosureKind.FAILED: "Failed when tested: {things}.",
    DisclosureKind.SKIPPED: "Not tested: {things}.",
    DisclosureKind.TIME_WAIVED: "Not run for its whole time: {things}.",
    DisclosureKind.STOPPED: "Unplugged once while it was tested: {things}.",
    DisclosureKind.UNCONFIRMED: "Repaired, and not yet shown to hold: {things}.",
    DisclosureKind.TEMPORARY: "Temporary fixes in place: {things}.",
    DisclosureKind.WORKAROUND: "Workarounds that stay: {things}.",
    DisclosureKind.FINISH: "Finish: {things}.",
    DisclosureKind.NOT_ORIGINAL: "Not original: {things}.",
    DisclosureKind.ORIGINAL_KEPT: "Original parts that do not come with it: {things}.",
    DisclosureKind.AGAINST_APPROACH: "Done against its approach: {things}.",
    DisclosureKind.EARLIER_WORK: "Work of others found in it: {things}.",
    DisclosureKind.DEFECT: "What is wrong with it: {things}.",
    DisclosureKind.MISSING: "Missing: {things}.",
    DisclosureKind.NOT_COUNTED: "Whether it is complete was not gone through.",
    DisclosureKind.MAINS: "Mains: {things}.",
    DisclosureKind.ADAPTER: "It needs an adapter: {things}.",
    DisclosureKind.SIGNAL: "Its picture needs: {things}.",
    DisclosureKind.BATTERY: "Battery: {things}.",
    DisclosureKind.DATA: "Data: {things}.",
}


@dataclass(frozen=True)
class Disclosure:
    """One fact that must be said; `what` are its words as recorded, empty where the kind says all. A rewording holds
    for exactly these words: when the fact changes, it is told in the standard words again."""

    kind: DisclosureKind
    what: str = ""
    worded: str = ""


def with_wordings(raised: Iterable[Disclosure], wordings: Mapping[tuple[str, str], str]) -> tuple[Disclosure, ...]:
    """Each with the words chosen for it, by kind and fact; every one that was raised is still there."""
    return tuple(Disclosure(one.kind, one.what, wordings.get((one.kind.value, one.what), "")) for one in raised)


def told(raised: Sequence[Disclosure], sentences: Mapping[str, str] = {}) -> tuple[str, ...]:
    """As sentences, kind by kind: what was worded anew as it was worded, the rest in one sentence a kind.

    `sentences` are an owner’s own, by kind.
    """
    found = []
    for kind in DisclosureKind:
        of_kind = [one for one in raised if one.kind is kind]
        plain = [one.what for one in of_kind if not one.worded]
        if plain:
            template = sentences.get(kind.value) or DEFAULTS[kind]
            found.append(template.replace("{things}", "; ".join(filter(None, plain))))
        found += [one.worded for one in of_kind if one.worded]
    return tuple(found)


# What the evidence of a grade says of what a buyer is told.
_BY_EVIDENCE: Mapping[DisclosureKind, Callable[[GradeEvidence], bool]] = {
    DisclosureKind.UNTESTED: lambda of: not of.steps_passed,
    DisclosureKind.NOT_PROVEN: lambda of: bool(of.not_proven or of.worked_since),
    DisclosureKind.FAILED: lambda of: of.steps_failed > 0,
    DisclosureKind.SKIPPED: lambda of: of.steps_passed + of.steps_failed < of.steps_total,
    DisclosureKind.TIME_WAIVED: lambda of: bool(of.times_waived),
    DisclosureKind.UNCONFIRMED: lambda of: of.unconfirmed_fixes > 0,
    DisclosureKind.TEMPORARY: lambda of: of.temporary_fixes > 0,
    DisclosureKind.NOT_ORIGINAL: lambda of: of.not_original > 0,
    DisclosureKind.NOT_COUNTED: lambda of: of.completeness is None,
}


def said_after(said: frozenset[str], was: GradeEvidence, then: GradeEvidence) -> frozenset[str]:
    """Of which kinds a buyer is told something when the record has become another: what began to hold is told, what
    ceased to hold is not, and of all else as before."""
    begun = {kind for kind, holds in _BY_EVIDENCE.items() if holds(then) and not holds(was)}
    ended = {kind for kind, holds in _BY_EVIDENCE.items() if holds(was) and not holds(then)}
    return frozenset((said | begun) - ended)
