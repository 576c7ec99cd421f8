"""A thing that comes back: its reason beside what was said and shown when it was sold, and what follows from it."""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from enum import StrEnum

from core.money import ZERO


class Reason(StrEnum):
    """Why somebody wants to give it back."""

    FAULT = "fault"
    NOT_AS_SAID = "not_as_said"
    DAMAGED = "damaged"
    LOST = "lost"
    MISSING = "missing"
    MIND = "mind"

    @property
    def tells_of_the_price(self) -> bool:
        """What is paid back for it says what the thing is worth: a journey, a fault or something forgotten do not."""
        return self is Reason.NOT_AS_SAID

    @property
    def comes_back(self) -> bool:
        """Whether the thing is with its buyer, who may send it back."""
        return self is not Reason.LOST

    @property
    def may_be_mended(self) -> bool:
        """Whether mending it for its buyer does as well as paying back, where both agree."""
        return self is Reason.FAULT

    @property
    def label(self) -> str:
        return {
            "fault": "it does not work",
            "not_as_said": "not as described",
            "damaged": "damaged on the way",
            "lost": "it never arrived",
            "missing": "something was not in the parcel",
            "mind": "does not want it after all",
        }[self.value]


class What(StrEnum):
    """What kind of thing was told or shown when it was sold."""

    SAID = "said"
    PASSED = "passed"
    FIXED = "fixed"

    @property
    def label(self) -> str:
        return {"said": "said", "passed": "tested", "fixed": "repaired"}[self.value]


@dataclass(frozen=True)
class Told:
    """One thing that its buyer was told, a check that it passed, or a fix that was made: `kind` the disclosure’s, the
    check’s code or the case; `words` as they were."""

    what: What
    kind: str
    words: str


# Words that say nothing of what is meant.
_EMPTY = frozenset(
    {
        "and",
        "are",
        "but",
        "came",
        "can",
        "did",
        "does",
        "for",
        "from",
        "had",
        "has",
        "have",
        "its",
        "not",
        "off",
        "some",
    }
    | {"than", "that", "the", "then", "there", "this", "was", "were", "went", "what", "when", "which", "with", "you"}
)


def _words(text: str) -> set[str]:
    found = {word for word in re.findall(r"\w+", text.casefold()) if word not in _EMPTY and len(word) > 2}
    # “drives” and “drive”, “scratched” and “scratch” are the same thing.
    return {re.sub(r"(ing|ed|es|s)$", "", word) or word for word in found}


def near(complaint: str, told: Sequence[Told], most: int = 5) -> list[Told]:
    """What was told that shares words with a complaint, the most first: where to look, never a verdict."""
    wanted = _words(complaint)
    shared = [(len(wanted & _words(one.words)), one) for one in told]
    ranked = sorted((pair for pair in shared if pair[0]), key=lambda pair: -pair[0])
    return [one for _, one in ranked[:most]]


class Whose(StrEnum):
    """Who answers for it."""

    OURS = "ours"
    BUYERS = "buyers"
    CARRIERS = "carriers"
    RIGHT = "right"
    OPEN = "open"

    @property
    def label(self) -> str:
        return {
            "ours": "we answer for it",
            "buyers": "it was said",
            "carriers": "the carrier answers for it",
            "right": "within its days of withdrawal",
            "open": "not decided by the record",
        }[self.value]


@dataclass(frozen=True)
class Case:
    """A return as asked: `about` is what of that which was told it is about, None for nothing of it; `days` since it
    arrived (or was sold, where that is not known); `warranty` and `withdrawal` days given."""

    reason: Reason
    about: Told | None
    days: int
    warranty: int
    withdrawal: int
    paid: Decimal


@dataclass(frozen=True)
class Verdict:
    """Who answers for it and why; the refund that follows, and whether we pay the way back. `lesson`: what there is to
    learn, empty for nothing."""

    whose: Whose
    words: str
    refund: Decimal
    we_pay_back: bool
    lesson: str = ""


def judge(case: Case) -> Verdict:
    """What the record says of a return. Law and what was agreed go before, and differ by country."""
    withdraws = case.withdrawal > 0 and case.days <= case.withdrawal
    may = f" It may still be given back within {case.withdrawal} days." if withdraws else ""
    if case.reason is Reason.DAMAGED:
        return Verdict(
            Whose.CARRIERS,
            "Damaged on the way: the buyer is paid back, and the carrier is claimed from with the pictures.",
            case.paid,
            True,
            "How it was packed: look at the pictures of the packing.",
        )
    if case.reason is Reason.LOST:
        return Verdict(
            Whose.CARRIERS,
            "It never arrived: the carrier is asked to look for it, then to pay. Whether its buyer is paid back goes "
            "by who bears what is lost on the way: mostly we do, where the buyer is a consumer.",
            case.paid,
            False,
        )
    if case.reason is Reason.MIND:
        if withdraws:
            words = f"Day {case.days} of {case.withdrawal} in which it may be given back without a reason."
            return Verdict(Whose.RIGHT, words, case.paid, False)
        return Verdict(Whose.BUYERS, "The days for giving it back without a reason are over.", ZERO, False)
    if case.about and case.about.what is What.SAID:
        words = f"It was said: “{case.about.words}”{may}"
        return Verdict(Whose.BUYERS, words, case.paid if withdraws else ZERO, False)
    if case.reason is Reason.FAULT and case.about and case.days > case.warranty:
        words = (
            f"It worked when it was sold ({case.about.words}); the warranty of {case.warranty} days was over on day "
            f"{case.days}.{may}"
            if case.warranty
            else f"It worked when it was sold ({case.about.words}), and no warranty was given.{may}"
        )
        return Verdict(Whose.BUYERS, words, case.paid if withdraws else ZERO, False)
    if case.about and case.about.what is What.FIXED:
        return Verdict(
            Whose.OURS,
            f"A repair did not hold: {case.about.words}.",
            case.paid,
            True,
            "It counts as a start that failed against that repair.",
        )
    if case.about:
        return Verdict(
            Whose.OURS, f"It was shown to work ({case.about.words}) and does not: within its warranty.", case.paid, True
        )
    words = "Nothing was said of it when it was sold"
    if case.reason is Reason.FAULT and case.days > case.warranty:
        return Verdict(
            Whose.OPEN,
            f"{words}, and the warranty was over on day {case.days}. Whether it was so when it was sold is not known.",
            case.paid if withdraws else ZERO,
            False,
            "Which sentence would have told it?",
        )
    return Verdict(Whose.OURS, f"{words}: it should have been.", case.paid, True, "Which sentence would have told it?")
