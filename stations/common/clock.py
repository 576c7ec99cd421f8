"""The clock that every station reads, so that the demo shop and the tests can set it."""

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from datetime import date, datetime

from django.utils import timezone

_set_to: ContextVar[datetime | None] = ContextVar("set_to", default=None)


def now() -> datetime:
    return _set_to.get() or timezone.now()


def today() -> date:
    return day_of(now())


def day_of(moment: datetime) -> date:
    """The shop's day that a moment lies in: its midnight is the shop's own, not that of UTC."""
    return timezone.localtime(moment).date()


@contextmanager
def at(moment: datetime) -> Iterator[None]:
    """Inside, it is `moment`."""
    token = _set_to.set(moment)
    try:
        yield
    finally:
        _set_to.reset(token)
