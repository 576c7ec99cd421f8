"""What is held for somebody until a moment."""

from datetime import datetime
from decimal import Decimal

from stations.common import clock
from stations.people.models import Person
from stations.selling.models import Reserved
from stations.units.models import Unit


def reserved(unit: Unit, now: datetime | None = None) -> Reserved | None:
    """The reservation that holds; one whose time has run out holds nothing, whether or not somebody ended it."""
    return Reserved.objects.filter(open_for=unit, until__gt=now or clock.now()).first()


def hold(person: Person, unit: Unit, buyer: str, until: datetime, price: Decimal | None = None) -> Reserved:
    """Hold it; what ran out before ends now. The caller holds the unit and found that nobody else has it."""
    now = clock.now()
    Reserved.objects.filter(open_for=unit).update(open_for=None, ended_at=now, ended_words="its time ran out")
    return Reserved.objects.create(
        unit=unit, open_for=unit, buyer=buyer, price=price, until=until, made_at=now, made_by=person
    )


def end_reservation(held: Reserved, words: str) -> None:
    Reserved.objects.filter(pk=held.pk).update(open_for=None, ended_at=clock.now(), ended_words=words)
