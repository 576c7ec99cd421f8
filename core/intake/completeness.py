"""What came with a machine, against what should have come."""

import re
from collections.abc import Iterable, Mapping, Sequence
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
    """`percent` 0 to 100, or None while something has not been looked for or nothing is expected; `copies`: what each
    of the `not_original` is of the whole, in percent."""

    percent: int | None
    missing: tuple[str, ...]
    not_original: tuple[str, ...]
    unseen: tuple[str, ...]
    copies: tuple[int, ...] = ()


# What is looked for on a bare part when no model says more: (thing, weight). Common practice, no source.
USUAL_CONTENTS: Mapping[str, tuple[tuple[str, int], ...]] = {
    "board": (("all its chips", 4), ("connectors whole", 2)),
    "card": (("all its chips", 4), ("bracket", 1), ("edge contacts whole", 2)),
    "chip": (("all its pins", 4),),
    "drive": (("the drive, whole", 4), ("front", 1), ("rails or screws", 1)),
    "cabinet": (("cover", 3), ("front", 2), ("bay covers", 1), ("feet", 1), ("screws", 1)),
    "adapter": (("lead and plug", 4), ("mains lead or pins", 3)),
}


# What is in a name and does not say what it is, and what a plain ending does not make one of.
_NOT_WHAT = {"all", "its", "the", "and", "for", "with", "whole", "original", "set"}
_ONE_OF = {"feet": "foot", "batteries": "battery"}


def _things(words: str) -> set[str]:
    """What words are about, each thing in the singular."""
    found = (word for word in re.findall(r"[^\W\d_]+", words.casefold()) if len(word) > 2 and word not in _NOT_WHAT)
    return {
        _ONE_OF.get(word) or (word[:-1] if word.endswith("s") and not word.endswith("ss") else word) for word in found
    }


def there_and_gone(gone: Iterable[str], contents: Sequence[Content]) -> dict[str, str]:
    """What the contents say is there and words about something gone name as well, with those words.

    Told by all that the name of the content is about standing in the words: “two keycaps gone” and “all keycaps”, but
    not “power lead” and “television lead”. A likeness: it is asked about, and decides nothing but that nobody is told
    that it is there.
    """
    about = [(words, _things(words)) for words in gone]
    there = ((content.name, _things(content.name)) for content in contents if content.presence in _COUNTS)
    return {name: words for name, things in there if things for words, named in about if things <= named}


def completeness(contents: Sequence[Content]) -> Completeness:
    """Weight present divided by weight expected; extras are neither."""
    expected = [content for content in contents if content.presence is not Presence.EXTRA]
    unseen = tuple(c.name for c in expected if c.presence is Presence.UNSEEN)
    whole = sum(c.weight for c in expected)
    there = sum(c.weight for c in expected if c.presence in _COUNTS)
    copies = [content for content in expected if content.presence is Presence.NOT_ORIGINAL]
    return Completeness(
        # Down to the whole percent: 199 of 200 is not complete.
        percent=None if unseen or not whole else 100 * there // whole,
        missing=tuple(c.name for c in expected if c.presence in {Presence.MISSING, Presence.WRONG}),
        not_original=tuple(copy.name for copy in copies),
        unseen=unseen,
        copies=tuple(100 * copy.weight // whole for copy in copies),
    )
