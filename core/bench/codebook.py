"""Start-up codes and beeps by firmware family: the same beep means different things in different ones, so ask."""

from collections.abc import Mapping
from dataclasses import dataclass


@dataclass(frozen=True)
class Meaning:
    """What a code says, and how much likelier it makes suspects of the fault library."""

    code: str
    words: str
    raises: Mapping[str, float]


@dataclass(frozen=True)
class Family:
    """Codes of one kind of firmware. A code ending in "xx" stands for every code that begins so."""

    code: str
    words: str
    meanings: tuple[Meaning, ...]


# Numeric power-on codes of PC-class machines: from memory. Beeps: usual patterns, common practice, no source.
FAMILIES: tuple[Family, ...] = (
    Family(
        "numeric",
        "figures on the screen, PC class",
        (
            Meaning("1xx", "main board", {"logic": 6.0, "corrosion": 2.0}),
            Meaning("2xx", "memory", {"memory": 10.0, "contact": 2.0}),
            Meaning("3xx", "keyboard", {"keyboard": 10.0, "lead": 3.0, "nokeyboard": 10.0}),
            Meaning("6xx", "diskette drive or its controller", {"drive": 6.0, "lead": 4.0, "controller": 4.0}),
            Meaning("17xx", "fixed disk or its controller", {"drive": 8.0, "controller": 5.0, "jumper": 2.0}),
        ),
    ),
    Family(
        "count",
        "beeps that are counted",
        (
            Meaning("1", "one short: all is well, if it goes on", {}),
            Meaning("2", "two short: parity or memory", {"memory": 6.0}),
            Meaning("3", "three short: first 64 KiB", {"memory": 10.0, "contact": 2.0}),
            Meaning("6", "six short: keyboard gate", {"keyboard": 8.0, "nokeyboard": 4.0}),
            Meaning("8", "eight short: display memory", {"video": 10.0, "contact": 2.0}),
            Meaning("9", "nine short: firmware sum", {"rom": 10.0}),
        ),
    ),
    Family(
        "long-short",
        "long and short beeps, written as l and s",
        (
            Meaning("lss", "one long, two short: video", {"video": 10.0, "contact": 2.0}),
            Meaning("lsss", "one long, three short: keyboard or video, by maker", {"keyboard": 3.0, "video": 3.0}),
            Meaning("ll", "long without end: memory or PSU", {"memory": 5.0}),
            Meaning("sss", "short without end: PSU or board", {"logic": 4.0}),
        ),
    ),
    Family(
        "chimes",
        "tones that rise or fall after the chime",
        (
            Meaning("rise", "rising tones: memory", {"memory": 8.0, "contact": 2.0}),
            Meaning("fall", "falling tones: board or card", {"logic": 5.0, "card": 4.0}),
        ),
    ),
)
BY_CODE: Mapping[str, Family] = {family.code: family for family in FAMILIES}


def look_up(family: str, code: str) -> Meaning | None:
    """What a code means in this family; None when the book does not say. KeyError for a family that is not there."""
    said = code.strip().lower()
    for meaning in BY_CODE[family].meanings:
        pattern = meaning.code
        if pattern == said or (pattern.endswith("xx") and len(said) == len(pattern) and said.startswith(pattern[:-2])):
            return meaning
    return None
