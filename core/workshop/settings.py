"""How a machine is set: links, switch banks, firmware, terminators; as found and as set to."""

import re
from dataclasses import dataclass
from decimal import Decimal
from enum import StrEnum


class SettingKind(StrEnum):
    """What carries a setting, and so how its state is typed."""

    LINK = "link"
    BANK = "bank"
    FIRMWARE = "firmware"
    TERMINATOR = "terminator"
    OTHER = "other"

    @property
    def label(self) -> str:
        return {
            "link": "link on pins",
            "bank": "bank of switches",
            "firmware": "firmware version",
            "terminator": "terminator",
            "other": "something else",
        }[self.value]


@dataclass(frozen=True)
class Link:
    """So many pins in a row, with these neighbours joined (counted from 1)."""

    pins: int
    closed: tuple[int, ...]  # the lower pin of each pair


@dataclass(frozen=True)
class Bank:
    """Switches in their order; True is on."""

    on: tuple[bool, ...]


class Judged(StrEnum):
    """By what two settings are told apart."""

    NUMBER = "number"
    EYE = "eye"
    EAR = "ear"


def better(first: Decimal, second: Decimal, more_is_better: bool) -> str:
    """Which of two measured settings is better: "first", "second", or "neither" where both measure the same."""
    if first == second:
        return "neither"
    return "first" if (first > second) is more_is_better else "second"


def read_state(kind: SettingKind, text: str) -> Link | Bank | str:
    """A state as typed; words where nothing is drawn. ValueError says how it is typed."""
    text = text.strip()
    if not text:
        raise ValueError("Say how it is set.")
    if kind is SettingKind.BANK:
        if not re.fullmatch("[01]{1,16}", text):
            raise ValueError("1 for on and 0 for off, at most 16: 10110000.")
        return Bank(tuple(letter == "1" for letter in text))
    if kind is SettingKind.LINK:
        return _link(text)
    return text


def _link(text: str) -> Link:
    match = re.fullmatch(r"(\d{1,2})\s*:\s*(.*)", text)
    if not match or not 2 <= int(match[1]) <= 40:
        raise ValueError("How many pins, 2 to 40, then which are joined: 3: 1-2.")
    pins, closed = int(match[1]), []
    for pair in filter(None, re.split(r"[,\s]+", match[2])):
        ends = re.fullmatch(r"(\d{1,2})-(\d{1,2})", pair)
        if not ends or int(ends[2]) != int(ends[1]) + 1 or not 1 <= int(ends[1]) < pins:
            raise ValueError(f"“{pair}”: two neighbours of {pins} pins, such as 1-2.")
        closed.append(int(ends[1]))
    if any(second - first == 1 for first, second in zip(sorted(closed), sorted(closed)[1:], strict=False)):
        raise ValueError("A pin carries one link only.")
    if len(set(closed)) < len(closed):
        raise ValueError("The same pins twice.")
    return Link(pins, tuple(sorted(closed)))
