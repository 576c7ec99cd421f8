"""A backup every night, and when an owner asks for one: made outside of requests."""

from contextlib import suppress
from datetime import timedelta
from typing import Any

from django.conf import settings
from django.utils import timezone

from stations.backup import kept
from stations.backup.making import BeingMade, make
from stations.common import clock
from stations.people.models import Person
from stations.queue.services import kinds, put, recurring

MAKE = "make a backup"
# Hours of the shop's night, in which it is made once a day; where the machine sleeps then, later.
NIGHT = range(1, 5)
AT_NIGHT, IN_ANY_CASE = timedelta(hours=12), timedelta(hours=30)


@kinds.add(MAKE)
def _make(about: dict[str, Any]) -> None:
    # One that takes longer than a lease is claimed by another worker too.
    with suppress(BeingMade):
        make()
        kept.let_go()


@recurring.add("backup")
def _nightly() -> None:
    age = kept.age()
    wanted = AT_NIGHT if timezone.localtime(clock.now()).hour in NIGHT else IN_ANY_CASE
    if settings.BACKUPS_KEPT and (age is None or age > wanted) and Person.objects.exists():
        put(MAKE, {}, once=MAKE)
