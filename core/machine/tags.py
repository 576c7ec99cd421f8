"""Tags: how a unit is named on its label, with a check character that catches a mistyped one."""

import re
from dataclasses import dataclass

from stdnum.iso7064 import mod_37_36

_TAG = re.compile(r"^W[-\s]?(\d{1,9})(?:[-\s]([0-9A-Z]))?$")
_BARE = re.compile(r"^\d{1,9}$")


class TagError(ValueError):
    """The text looks like a tag, but its check character does not belong to its number."""


@dataclass(frozen=True)
class Tag:
    """A unit's tag: `number` from 1 up."""

    number: int

    def __post_init__(self) -> None:
        if self.number < 1:
            raise ValueError("Tag numbers begin at 1.")

    @property
    def short(self) -> str:
        """Without check character, for drawings: W-0147."""
        return f"W-{self.number:04d}"

    @property
    def check(self) -> str:
        """ISO/IEC 7064 MOD 37,36 check character over W and the padded number: 0 to 9 or A to Z."""
        return str(mod_37_36.calc_check_digit(f"W{self.number:04d}"))

    def __str__(self) -> str:
        return f"{self.short}-{self.check}"


def parse_tag(text: str) -> Tag | None:
    """The tag meant by `text`, or None when it is something else (a serial, a word).

    Accepts W-0147-X, W0147-X, W-0147 and 147, in any case. Raises TagError when a check character is
    given and wrong.
    """
    cleaned = text.strip().upper()
    if _BARE.match(cleaned):
        return Tag(int(cleaned)) if int(cleaned) else None
    match = _TAG.match(cleaned)
    if not match or int(match[1]) == 0:
        return None
    tag = Tag(int(match[1]))
    too_many_noughts = len(match[1]) > 4 and match[1].startswith("0")
    if match[2] and (match[2] != tag.check or too_many_noughts):
        raise TagError(f"{cleaned} has the wrong check character. Read the label again.")
    return tag
