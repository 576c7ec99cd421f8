"""The clock that every station reads, so that the demo shop and the tests can set it."""

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from datetime import date, datetime, time, timedelta

from django.utils import timezone

_set_to: ContextVar[datetime | None] = ContextVar("set_to", default=None)
_sent_at: ContextVar[datetime | None] = ContextVar("sent_at", default=None)


def now() -> datetime:
    return _set_to.get() or timezone.now()


def today() -> date:
    return day_of(now())


def day_of(moment: datetime) -> date:
    """The shop's day that a moment lies in: its midnight is the shop's own, not that of UTC."""
    return timezone.localtime(moment).date()


def begin_of(day: date) -> datetime:
    """The midnight with which a day of the shop begins."""
    return timezone.make_aware(datetime.combine(day, time.min))


def span_of(day: date) -> tuple[datetime, datetime]:
    """From the beginning of a day to that of the next. Days are cut here and not in the database, which may have no
    tables of time zones and then finds nothing."""
    return begin_of(day), begin_of(day + timedelta(days=1))


@contextmanager
def at(moment: datetime) -> Iterator[None]:
    """Inside, it is `moment`."""
    token = _set_to.set(moment)
    try:
        yield
    finally:
        _set_to.reset(token)


@contextmanager
def recorded(moment: datetime) -> Iterator[None]:
    """Inside, it is `moment`, at which somebody recorded what is only sent now: there was no connection."""
    token = _sent_at.set(now())
    try:
        with at(moment):
            yield
    finally:
        _sent_at.reset(token)


def sent_at() -> datetime | None:
    """When what is being done was sent, where that is not when it was recorded."""
    return _sent_at.get()
