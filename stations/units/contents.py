"""What came with a unit and what is missing of it."""

from django.db import transaction

from stations.common.refusals import Refused
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.units.models import Content

UNIT = HistoryEntry.Subject.UNIT


@transaction.atomic
def estimate(person: Person, content: Content, amount, done_without: bool) -> None:
    """What a missing thing would cost, or that the unit does without it."""
    require(person, "change the wanted list")
    if amount < 0:
        raise Refused("This may not be below 0.", "estimate")
    Content.objects.filter(pk=content.pk).update(estimate=amount, done_without=done_without)
