"""What was done, in words, beside the thing it was done to."""

from stations.common import clock
from stations.common.refusals import shortened
from stations.people.models import HistoryEntry, Person


def record(person: Person, subject: str, subject_id: int, words: str) -> HistoryEntry:
    """Leave an entry; `words` past 400 characters are left out, with a mark that they are."""
    return HistoryEntry.objects.create(
        when=clock.now(), who=person, subject=subject, subject_id=subject_id, words=shortened(words, 400)
    )


def of(subject: str, subject_id: int):
    """The story of one lot, unit or person, oldest first, with the people."""
    return HistoryEntry.objects.filter(subject=subject, subject_id=subject_id).select_related("who")
