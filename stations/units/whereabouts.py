"""Where a unit stands: said where it is put down, one by one as their labels are scanned, or a whole shelf at once."""

from collections.abc import Sequence

from django.db import transaction
from django.db.models import Count, F

from core.flow.stage import LEFT
from core.machine.tags import TagError, parse_tag
from stations.common.locking import lock_row
from stations.common.refusals import Refused, within
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.units.models import Unit

# Of places that are offered to be pressed; the others are typed.
MOST_PLACES = 12
# Of a shelf that is moved at once.
MOST_AT_ONCE = 200


def known_places() -> list[str]:
    """Those where most stands, by name: one query."""
    here = Unit.objects.exclude(stage__in=LEFT).exclude(place="").order_by()
    most = here.values("place").annotate(n=Count("id")).order_by("-n", "place").values_list("place", flat=True)
    return sorted(most[:MOST_PLACES], key=str.casefold)


def standing_at(place: str):
    """What stands there now, the newest of it first."""
    here = Unit.objects.exclude(stage__in=LEFT).filter(place=place)
    return here.select_related("lot", "model").order_by("-number")


def unit_of(typed: str) -> Unit:
    """The unit of a tag as it was scanned or typed; raises Refused, in words."""
    if not typed:
        raise Refused("Scan a tag, or type one.", "tag")
    try:
        tag = parse_tag(typed)
    except TagError as problem:
        raise Refused(str(problem), "tag") from problem
    unit = Unit.objects.filter(number=tag.number).first() if tag else None
    if unit is None:
        raise Refused(f"No unit goes by {typed}.", "tag")
    return unit


@transaction.atomic
def put(person: Person, units: Sequence[Unit], place: str) -> int:
    """They stand there now; answers how many did not before. A place that is known by another spelling keeps that."""
    require(person, "say where a unit stands")
    place = _as_known(within(" ".join(place.split()), 40, "place"))
    if not place:
        raise Refused("Say where.", "place")
    moved = 0
    for unit in sorted(units, key=lambda unit: unit.pk):
        unit = lock_row(Unit.objects.all(), unit)
        if unit.stage in LEFT:
            raise Refused(f"{unit.tag} is {unit.get_stage_display()}: it stands nowhere here.", "tag")
        if unit.place != place:
            Unit.objects.filter(pk=unit.pk).update(place=place, version=F("version") + 1)
            note(person, unit, unit.place, place)
            moved += 1
    return moved


def nowhere_yet(person: Person, unit: Unit) -> None:
    """It is here again, and nobody has said where it was put."""
    if unit.place:
        Unit.objects.filter(pk=unit.pk).update(place="")
        note(person, unit, unit.place, "")


@transaction.atomic
def move_all(person: Person, place: str, to: str) -> int:
    """All that stands in one place stands in another now; answers how much that is."""
    require(person, "say where a unit stands")
    there = list(standing_at(place)[: MOST_AT_ONCE + 1])
    if not there:
        raise Refused(f"Nothing stands at {place} any more.", "to")
    if len(there) > MOST_AT_ONCE:
        raise Refused(f"More than {MOST_AT_ONCE} stand there. Move them in parts.", "to")
    return put(person, there, to)


def note(person: Person, unit: Unit, before: str, now: str) -> None:
    """A line of its story: where it was put, and where it was."""
    words = f"Stands at {now or 'no place that is known'}{f', was at {before}' if before else ''}"
    history.record(person, "units.note", HistoryEntry.Subject.UNIT, unit.pk, words, place=now, before=before)


def _as_known(place: str) -> str:
    known = Unit.objects.filter(place=place).exclude(place="").values_list("place", flat=True).first()
    return known or place
