"""What came with a unit and what is missing of it."""

from decimal import Decimal

from django.db import transaction

from stations.common.locking import lock_row
from stations.common.refusals import Refused
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.units.models import Content

UNIT = HistoryEntry.Subject.UNIT


@transaction.atomic
def estimate(person: Person, content: Content, amount: Decimal, was: Decimal | None = None) -> None:
    """What a missing thing would cost; `was`: what stood there when that was said, None where that can't be told."""
    require(person, "change the wanted list")
    if amount < 0:
        raise Refused("This may not be below 0.", "estimate")
    content = lock_row(Content.objects.all(), content)
    if was is not None and content.estimate not in {was, amount}:
        raise Refused(f"Somebody put {content.estimate} on the {content.name} meanwhile; not changed.", "estimate")
    Content.objects.filter(pk=content.pk).update(estimate=amount)
    words = f"{content.name}, missing: would cost {amount}, before {content.estimate}"
    history.record(person, "units.estimate", UNIT, content.unit_id, words)


@transaction.atomic
def do_without(person: Person, content: Content) -> None:
    """The unit goes without it: it is wanted no more."""
    _decide(person, content, True)
    history.record(person, "units.do_without", UNIT, content.unit_id, f"Does without: {content.name}")


@transaction.atomic
def want_after_all(person: Person, content: Content) -> None:
    """The unit does not go without it after all."""
    _decide(person, content, False)
    history.record(person, "units.want_after_all", UNIT, content.unit_id, f"Wanted after all: {content.name}")


def _decide(person: Person, content: Content, without: bool) -> None:
    require(person, "change the wanted list")
    Content.objects.filter(pk=content.pk).update(done_without=without)
    words = f"{content.name}, missing: {'done without' if without else 'wanted again'}"
    history.record(person, "units.decide", UNIT, content.unit_id, words)
