"""The known-good shelf: what stands in, how far its word counts, and what it can show."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date, datetime

from django.db import transaction

from core.bench.suspects import UNVERIFIED, KnownGood
from stations.common import clock
from stations.common.locking import lock_row
from stations.common.refusals import Refused, within
from stations.common.registry import Registry
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.stock.models import KnownGood as Stocked

SHELF = HistoryEntry.Subject.CHECK

# What rested on a part since it was last good, when it is found bad: whoever used it withdraws that and names it.
rests: Registry[Callable[[Person, Stocked, datetime | None, str], list[str]]] = Registry(
    "what rests on a known-good part"
)


def all_with_trust() -> list[tuple[Stocked, KnownGood]]:
    """Every known-good part that is on the shelf, with how far its word counts today: one query."""
    return [(row, trust_of(row)) for row in Stocked.objects.filter(in_use=True)]


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
def shelve(person: Person, row: Stocked) -> Stocked:
    """Put a known-good part, fixture or test machine on the shelf."""
    require(person, "change the known-good shelf")
    row.save(force_insert=True)
    history.record(person, "stock.shelve", SHELF, 0, f"{row.name} put on the known-good shelf")
    return row


@dataclass(frozen=True)
class ShelfDetails:
    """What stands on the shelf, as it is typed: what it stands in for, where it lies, on which day it was last shown to
    be good, and of a screen whether it shows colour and which signals, with semicolons."""

    name: str
    kind: str
    stands_in: str
    place: str
    verified_on: date | None
    shows_colour: bool | None
    signals: str
    in_use: bool


@transaction.atomic
def change(person: Person, row: Stocked, said: ShelfDetails) -> None:
    """Put right what is said of it, or take it off the shelf for good. Tries that it answered stay as they are."""
    require(person, "change the known-good shelf")
    history.changed(person, "stock.change", SHELF, 0, f"Known-good {row.name}", row, vars(said))
    Stocked.objects.filter(pk=row.pk).update(**vars(said))


@transaction.atomic
def verify(person: Person, row: Stocked) -> None:
    """It was shown to be good today; its uses count anew."""
    require(person, "change the known-good shelf")
    Stocked.objects.filter(pk=row.pk).update(verified_on=clock.today(), uses=0, bad_since=None, bad_words="")
    history.record(person, "stock.verify", SHELF, 0, f"Known-good {row.name} shown to be good, after {row.uses} uses")


@transaction.atomic
def found_bad(person: Person, row: Stocked, words: str) -> list[str]:
    """A part that was thought good is not: whatever rested on it since it was last shown to be good is withdrawn.
    Answers what that was, in words."""
    require(person, "change the known-good shelf")
    if not words:
        raise Refused("Say what is wrong with it.", "words")
    row = lock_row(Stocked.objects.all(), row)
    Stocked.objects.filter(pk=row.pk).update(bad_since=clock.now(), bad_words=within(words, 120))
    since = clock.begin_of(row.verified_on) if row.verified_on else None
    why = f"{row.name} was found bad: {words}"
    history.record(person, "stock.found_bad", SHELF, 0, why)
    return [one for withdraw in rests.values() for one in withdraw(person, row, since, why)]
