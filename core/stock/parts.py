"""Parts that are told apart: what kinds there are, where they sit, whether they may hold data."""

from datetime import datetime
from enum import StrEnum


class PartKind(StrEnum):
    BOARD = "board"
    CARD = "card"
    CHIP = "chip"
    MODULE = "module"
    DISK = "disk"
    DRIVE = "drive"
    SUPPLY = "supply"
    KEYBOARD = "keyboard"
    SCREEN = "screen"
    CABLE = "cable"
    OTHER = "other"

    @property
    def label(self) -> str:
        return {
            "module": "memory module",
            "disk": "disk: keeps data in itself",
            "drive": "drive for what is put in",
            "other": "something else",
        }.get(self.value, self.value)

    @property
    def keeps_data(self) -> bool | None:
        """Whether one keeps somebody's data in itself; None where that is to be looked at: a board or a card may."""
        if self is PartKind.DISK:
            return True
        return None if self in {PartKind.BOARD, PartKind.CARD, PartKind.OTHER} else False


class Condition(StrEnum):
    NEW = "new"
    OLD_STOCK = "old_stock"
    TESTED = "tested"
    UNTESTED = "untested"
    FAULTY = "faulty"

    @property
    def label(self) -> str:
        return {
            "new": "new",
            "old_stock": "new old stock",
            "tested": "used, tested",
            "untested": "used, not tested",
            "faulty": "faulty",
        }[self.value]

    @property
    def used(self) -> bool:
        return self not in {Condition.NEW, Condition.OLD_STOCK}

    @property
    def rank(self) -> int:
        """How far one trusts it, the best first. Common practice, no source: what was shown to work here goes before
        what is new and was never run, that before what nobody tried."""
        return [Condition.TESTED, Condition.NEW, Condition.OLD_STOCK, Condition.UNTESTED, Condition.FAULTY].index(self)


def data_words(keeps: bool | None, kind: PartKind, sanitised_at: datetime | None) -> str:
    """Why somebody's data may be in a part, in words; empty when they are not. Sanitised means cleared, and checked
    (NIST SP 800-88 Rev. 1); destruction leaves no part."""
    known = kind.keeps_data if keeps is None else keeps
    if known is False or sanitised_at is not None:
        return ""
    return "it keeps data and was not sanitised" if known else "nobody said whether it keeps data"
