"""The known-good shelf: what stands in, how far its word counts, and what it can show."""

from django.db import transaction

from core.bench.suspects import UNVERIFIED, KnownGood
from stations.common import clock
from stations.people.models import Person
from stations.people.permissions import require
from stations.stock.models import KnownGood as Stocked


def all_with_trust() -> list[tuple[Stocked, KnownGood]]:
    """Every known-good part with how far its word counts today: one query."""
    return [(row, trust_of(row)) for row in Stocked.objects.all()]


def trust_of(row: Stocked) -> KnownGood:
    return KnownGood((clock.today() - row.verified_on).days if row.verified_on else None, row.uses)


def for_needs(shelf: list[tuple[Stocked, KnownGood]], needs: str) -> tuple[tuple[Stocked, KnownGood], ...]:
    """What stands in for `needs`; nothing for an action that needs nothing."""
    return tuple((row, good) for row, good in shelf if needs and row.stands_in == needs)


def best_trust(shelf: list[tuple[Stocked, KnownGood]], needs: str) -> float:
    return max((good.trust for row, good in shelf if row.stands_in == needs), default=UNVERIFIED)


def can_show(row: Stocked, symptom: str, wants: set[str]) -> bool:
    """Whether a part on the shelf can show this fault at all: a green screen shows no wrong colour.

    `wants` are the signals read off the unit; what a screen shows is only held against it when it is recorded.
    """
    if row.bad_since:
        return False
    if row.stands_in != "screen":
        return True
    if symptom == "colours" and row.shows_colour is False:
        return False
    signals = {name.strip() for name in row.signals.split(";") if name.strip()}
    return not wants or not signals or bool(wants & signals)


@transaction.atomic
def shelve(person: Person, data: dict) -> Stocked:
    """Put a known-good part, fixture or test machine on the shelf."""
    require(person, "change the known-good shelf")
    return Stocked.objects.create(**data)


@transaction.atomic
def verify(person: Person, row: Stocked) -> None:
    """It was shown to be good today; its uses count anew."""
    require(person, "change the known-good shelf")
    Stocked.objects.filter(pk=row.pk).update(verified_on=clock.today(), uses=0, bad_since=None, bad_words="")
