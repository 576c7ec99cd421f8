"""What was done, in words, beside the thing it was done to."""

from decimal import Decimal

from stations.common import clock
from stations.common.refusals import shortened
from stations.people.models import HistoryEntry, Person

# What data may hold: it has to come back from JSON as it went in.
Plain = str | int | bool | None | Decimal | list[str]


def record(person: Person, action: str, subject: str, subject_id: int, words: str, **data: Plain) -> HistoryEntry:
    """Leave an entry: what was done (`room.function`), to what, in words, and the figures and keys it was done with.

    `words` past 400 characters are left out, with a mark that they are; they may be worded anew later from `action`
    and `data`.
    """
    return HistoryEntry.objects.create(
        when=clock.now(),
        who=person,
        action=action,
        subject=subject,
        subject_id=subject_id,
        words=shortened(words, 400),
        data={name: str(value) if isinstance(value, Decimal) else value for name, value in data.items()},
    )


def of(subject: str, subject_id: int):
    """The story of one lot, unit or person, oldest first, with the people."""
    return HistoryEntry.objects.filter(subject=subject, subject_id=subject_id).select_related("who")
