"""What was done, in words, beside the thing it was done to; all of it together is the log of the shop."""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from datetime import date, time
from decimal import Decimal
from typing import Any

from django.db.models import Field, Model
from django.utils import timezone

from stations.common import clock
from stations.common.refusals import Refused, shortened
from stations.common.registry import Registry
from stations.people.models import HistoryEntry, Person

# What data may hold: it has to come back from JSON as it went in.
Plain = str | int | bool | None | Decimal | list[str]


# So many entries of a unit or lot are most of its story.
WHOLE = 60
# What others must not read in the log.
SECRET = {"key"}


@dataclass(frozen=True)
class Place:
    """How a thing is called, and the address of its page."""

    name: str
    url: str


# Where the things of a subject are looked at: by their keys, those that are still there; a query for all of them.
places: Registry[Callable[[Iterable[int]], dict[int, Place]]] = Registry("where what was done is looked at")


def record(person: Person, action: str, subject: str, subject_id: int, words: str, **data: Plain) -> HistoryEntry:
    """Leave an entry: what was done (`room.function`), to what, in words, and the figures and keys it was done with.

    `words` past 400 characters are left out, with a mark that they are; they may be worded anew later from `action`
    and `data`. What was recorded without a connection stands where it was recorded, with when it was sent.
    """
    if sent := clock.sent_at():
        data["sent"] = sent.isoformat()
    return HistoryEntry.objects.create(
        when=clock.now(),
        who=person,
        action=action,
        subject=subject,
        subject_id=subject_id,
        words=shortened(words, 400),
        data={name: str(value) if isinstance(value, Decimal) else value for name, value in data.items()},
    )


def says_otherwise(row: Model, new: Mapping[str, Any]) -> list[str]:
    """Names of what `new` says otherwise than the row is kept: a save that changes nothing leaves nothing."""
    kept = _as_kept(row)
    return [name for name, value in new.items() if getattr(kept, name) != value]


def _as_kept(row: Model) -> Model:
    """As it is in the database: a form that was looked over has written what was typed into the row it was given."""
    return row if row.pk is None else type(row)._base_manager.get(pk=row.pk)


def changed(
    person: Person, action: str, subject: str, subject_id: int, what: str, row: Model, new: Mapping[str, Any]
) -> None:
    """Leave an entry of what `new` says otherwise than the row has it, before that is saved; none where nothing is."""
    names = says_otherwise(row, new)
    if not names:
        return
    kept = _as_kept(row)
    fields = [field for field in row._meta.fields if field.name in names]
    was = [_worded(field, getattr(kept, field.name)) for field in fields]
    now = [_worded(field, new[field.name]) for field in fields]
    told = "; ".join(
        f"{field.verbose_name} {_turn(before, after)}" for field, before, after in zip(fields, was, now, strict=True)
    )
    record(
        person,
        action,
        subject,
        subject_id,
        f"{what}: {told}",
        fields=[field.name for field in fields],
        before=was,
        after=now,
    )


def _turn(before: str, after: str) -> str:
    return f"{shortened(before, 60)} → {shortened(after, 60)}" if before != after else before


def _worded(field: Field, value: Any) -> str:
    """A value as people read it; what is secret, or no single value, is only said to be another."""
    if field.name in SECRET or isinstance(value, dict | list):
        return "put anew"
    if value is None or value == "":
        return "nothing"
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, Decimal):
        return f"{value:.{getattr(field, 'decimal_places', 2)}f}"
    if isinstance(value, time):
        return f"{value:%H:%M}"
    if isinstance(value, date):
        return f"{value:%-d %b %Y}"
    return str(dict(field.flatchoices or ()).get(value, value))


def refuse_if_later(action: str, subject: str, subject_id: int) -> None:
    """Raise Refused where something was recorded without a connection, and the same was done of the thing between that
    and now: the later word holds."""
    if not clock.sent_at():
        return
    if later := of(subject, subject_id).filter(action=action, when__gt=clock.now()).last():
        when = timezone.localtime(later.when)
        raise Refused(
            f"{later.who.name} recorded another after this, on {when:%-d %B at %H:%M}: "
            f"{later.words}. That holds until you save yours again."
        )


def of(subject: str, subject_id: int):
    """The story of one lot, unit or person, oldest first, with the people: two queries. Joined to few people, a
    database goes through all that these ever did."""
    return HistoryEntry.objects.filter(subject=subject, subject_id=subject_id).prefetch_related("who")


@dataclass(frozen=True)
class Story:
    """The last entries of one thing, the newest first; `more`: there are earlier ones, which the log has."""

    entries: list[HistoryEntry]
    subject: str
    subject_id: int
    more: bool


def latest(subject: str, subject_id: int, most: int = 20) -> Story:
    """Its story as its page shows it: two queries."""
    found = list(of(subject, subject_id).reverse()[: most + 1])
    return Story(found[:most], subject, subject_id, len(found) > most)
