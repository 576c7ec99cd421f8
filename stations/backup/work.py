"""A backup every night, and when an owner asks for one; the records for another program when asked for: made outside of
requests."""

from contextlib import suppress
from datetime import datetime, timedelta
from typing import Any

from django.conf import settings
from django.urls import reverse
from django.utils import timezone

from stations.backup import kept, lost
from stations.backup.export import export
from stations.backup.making import BeingMade, make
from stations.common import clock
from stations.people import stopped
from stations.people.models import Person
from stations.people.permissions import may
from stations.people.stopped import Stopped
from stations.queue.services import kinds, put, recurring

MAKE, EXPORT = "make a backup", "write the records out"
# Hours of the shop's night, in which it is made once a day; where the machine sleeps then, later.
NIGHT = range(1, 5)
AT_NIGHT, IN_ANY_CASE = timedelta(hours=12), timedelta(hours=30)


@kinds.add(MAKE)
def _make(about: dict[str, Any]) -> None:
    # One that takes longer than a lease is claimed by another worker too.
    with suppress(BeingMade):
        make()
        # Until then the older ones may be all that have what is lost.
        if not lost.look():
            kept.let_go()


@kinds.add(EXPORT)
def _export(about: dict[str, Any]) -> None:
    asked = datetime.fromisoformat(about["asked_at"])
    # By another worker, while this one waited for it to end.
    if not any(one.made_at >= asked for one in kept.records()):
        export()
    kept.let_records_go()


@recurring.add("records")
def _let_records_go() -> None:
    kept.let_records_go()


@recurring.add("backup")
def _nightly() -> None:
    age = kept.age()
    wanted = AT_NIGHT if timezone.localtime(clock.now()).hour in NIGHT else IN_ANY_CASE
    if settings.BACKUPS_KEPT and (age is None or age > wanted) and Person.objects.exists():
        put(MAKE, {}, once=MAKE)


@stopped.kinds.add("backups")
def _none_for_days(person: Person) -> list[Stopped]:
    if not may(person, "make a backup") or not kept.is_old():
        return []
    words = "No backup was made for days: when this machine dies, what is newer is gone."
    return [Stopped(words, reverse("backup:backups"), "Make one")]


@stopped.kinds.add("files")
def _lost(person: Person) -> list[Stopped]:
    if not may(person, "bring lost files back") or not (count := lost.last_seen()):
        return []
    words = "1 picture, sound or other file is" if count == 1 else f"{count} pictures, sounds or other files are"
    return [Stopped(f"{words} not on the disk any more.", reverse("backup:backups"), "Bring back what a backup has")]


@stopped.kinds.add("room")
def _no_room(person: Person) -> list[Stopped]:
    """Pictures and backups may lie on two disks."""
    if not may(person, "make a backup"):
        return []
    return [
        Stopped(f"Only {free >> 20:,} MB are free at {folder}: make room, or pictures and backups fail.")
        for folder, free in kept.short_of_room()
    ]
