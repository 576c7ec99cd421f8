"""A unit that was out of the house, with its buyer or its owner, and is ours to work on again."""

from datetime import datetime

from django.db.models import F

from core.intake.completeness import Presence
from stations.people.models import Person
from stations.units import whereabouts
from stations.units.models import Unit


def receive_anew(person: Person, unit: Unit, came_back_at: datetime) -> None:
    """Nothing that was seen of it before its journey is taken for so now: it is put somewhere, looked over, gone
    through, tested, photographed and graded again; its history stays. Storage in it may hold the data of whoever had
    it, so it is sanitised again too."""
    whereabouts.nowhere_yet(person, unit)
    unit.contents.filter(presence__in=[Presence.PRESENT, Presence.EXTRA]).update(presence=Presence.UNSEEN)
    Unit.objects.filter(pk=unit.pk).update(
        came_back_at=came_back_at,
        assessed_at=None,
        looked_over_at=None,
        data_cleared_at=None,
        version=F("version") + 1,
    )
