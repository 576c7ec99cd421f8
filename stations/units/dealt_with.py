"""What on record shows that a hazard was dealt with: a picture, a job, a measurement since. A word is not enough.

Rooms further on add theirs.
"""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime

from stations.common.registry import Registry
from stations.units.models import Unit


@dataclass(frozen=True)
class Shown:
    """One thing on record, when and in words."""

    when: datetime
    words: str


Source = Callable[[Unit, datetime], list[Shown]]
kinds: Registry[Source] = Registry("what shows that a hazard was dealt with")


def since(unit: Unit, moment: datetime) -> list[Shown]:
    """Everything that may show it, newest first."""
    found = [shown for source in kinds.values() for shown in source(unit, moment)]
    return sorted(found, key=lambda shown: shown.when, reverse=True)
