"""What an owner does about backups."""

from pathlib import Path

from django.db import transaction

from stations.backup import kept, lost
from stations.backup.work import EXPORT, MAKE
from stations.common import clock
from stations.common.refusals import Refused
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.queue.services import put


@transaction.atomic
def ask_for(person: Person) -> None:
    """A backup is made as soon as a worker is free; once, however often it is asked for."""
    require(person, "make a backup")
    put(MAKE, {}, person, once=MAKE)


@transaction.atomic
def ask_for_records(person: Person) -> None:
    """Every table for another program, written as soon as a worker is free; once, however often it is asked for."""
    require(person, "take a backup out")
    # Files are named by the second.
    put(EXPORT, {"asked_at": clock.now().replace(microsecond=0).isoformat()}, person, once=EXPORT)


def bring_back(person: Person) -> tuple[int, int]:
    """Files that rows tell of and that are lost are put back out of the backups that are here: how many, and how many
    no backup has."""
    require(person, "bring lost files back")
    before = lost.lost()
    left = lost.bring_back()
    count = len(before) - len(left)
    if not count:
        raise Refused("No backup that is here has them." if left else "Nothing is lost.")
    words = f"{count} lost {'file' if count == 1 else 'files'} brought back"
    history.record(person, "backup.bring_back", HistoryEntry.Subject.SHOP, 0, words, count=count)
    return count, len(left)


@transaction.atomic
def take_out(person: Person, name: str) -> Path:
    """Where a backup lies, for somebody who takes it elsewhere: it holds everything, so it is written down who did."""
    require(person, "take a backup out")
    path = kept.path_of(name)
    if path is None:
        raise Refused(f"{name} is not here any more.")
    history.record(person, "backup.take_out", HistoryEntry.Subject.PERSON, person.pk, f"Took out {name}", name=name)
    return path
