"""Whom a known weakness concerns: by the name of the part, by serial and by revision."""

import re
from dataclasses import dataclass

from core.machine.names import as_seen


@dataclass(frozen=True)
class Concerns:
    """What a weakness is narrowed down to; empty for all."""

    part_words: str = ""
    serial_from: str = ""
    serial_to: str = ""
    revision: str = ""

    def concerns(self, name: str = "", serial: str = "", revision: str = "") -> bool | None:
        """Whether it concerns a thing of that name (of a machine: none), serial and revision; None where what would
        tell is not known of it."""
        if bool(self.part_words) != bool(name) or as_seen(self.part_words) not in as_seen(name):
            return False
        known: list[bool | None] = []
        if self.revision:
            known.append(as_seen(self.revision) == as_seen(revision) if revision else None)
        if self.serial_from or self.serial_to:
            known.append(self._in_range(serial) if serial else None)
        if False in known:
            return False
        return None if None in known else True

    def _in_range(self, serial: str) -> bool:
        at = serial_order(serial)
        return (not self.serial_from or serial_order(self.serial_from) <= at) and (
            not self.serial_to or at <= serial_order(self.serial_to)
        )


def serial_order(serial: str) -> tuple[tuple[int, int, str], ...]:
    """Serials in the order in which they were given out: figures count as numbers, letters by themselves."""
    parts = re.findall(r"\d{1,18}|[^\W\d_]+", serial.upper())
    return tuple((1, int(part), "") if part.isdigit() else (0, 0, part) for part in parts)
