"""What on record shows that a hazard was dealt with: a picture, a job, a measurement since. A word is not enough.

Stations further on add their kinds by registering a source.
"""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime

from stations.intake.models import Unit


@dataclass(frozen=True)
class Shown:
    """One thing on record, when and in words."""

    when: datetime
    words: str


Source = Callable[[Unit, datetime], list[Shown]]
_sources: list[Source] = []


def register(source: Source) -> Source:
    if source not in _sources:
        _sources.append(source)
    return source


def since(unit: Unit, moment: datetime) -> list[Shown]:
    """Everything that may show it, newest first."""
    found = [shown for source in _sources for shown in source(unit, moment)]
    return sorted(found, key=lambda shown: shown.when, reverse=True)


@register
def pictures_since(unit: Unit, moment: datetime) -> list[Shown]:
    rows = unit.photos.filter(added_at__gt=moment).order_by("-id")[:5]
    return [Shown(photo.added_at, f"picture: {photo.original_name}") for photo in rows]
