"""What came with a machine, against what should have come."""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum


class Presence(StrEnum):
    UNSEEN = "unseen"
    PRESENT = "present"
    MISSING = "missing"
    WRONG = "wrong"
    NOT_ORIGINAL = "not_original"
    EXTRA = "extra"


# A part that is there and does its work counts, original or not; a wrong one does not.
_COUNTS = {Presence.PRESENT, Presence.NOT_ORIGINAL}


@dataclass(frozen=True)
class Content:
    """One thing that belongs with the machine. `weight` from 1 up says how much it matters."""

    name: str
    weight: int
    presence: Presence


@dataclass(frozen=True)
class Completeness:
    """`percent` 0 to 100, or None while something has not been looked for or nothing is expected."""

    percent: int | None
    missing: tuple[str, ...]
    not_original: tuple[str, ...]
    unseen: tuple[str, ...]


def completeness(contents: Sequence[Content]) -> Completeness:
    """Weight present divided by weight expected; extras are neither."""
    expected = [content for content in contents if content.presence is not Presence.EXTRA]
    unseen = tuple(c.name for c in expected if c.presence is Presence.UNSEEN)
    whole = sum(c.weight for c in expected)
    there = sum(c.weight for c in expected if c.presence in _COUNTS)
    return Completeness(
        percent=None if unseen or not whole else round(100 * there / whole),
        missing=tuple(c.name for c in expected if c.presence in {Presence.MISSING, Presence.WRONG}),
        not_original=tuple(c.name for c in expected if c.presence is Presence.NOT_ORIGINAL),
        unseen=unseen,
    )
