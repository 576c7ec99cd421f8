"""A shop is backed up before a newer version changes its tables: whatever goes wrong then, it can be put back."""

import sys
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from contextvars import ContextVar
from typing import Any

from django.conf import settings
from django.core.management.base import CommandError

from stations.backup import kept
from stations.backup.making import make
from stations.backup.tables import hold_a_shop
from stations.common.refusals import Refused

_there_already: ContextVar[bool] = ContextVar("a backup of it is at hand", default=False)


def keep_as_it_was(plan: Sequence[Any] = (), stdout: Any = sys.stdout, **kwargs: Any) -> None:
    """Before `migrate` does what is in its plan. Where that can't be done nothing is changed; none is made where none
    is made by itself."""
    if not plan or not settings.BACKUPS_KEPT or _there_already.get() or not hold_a_shop():
        return
    try:
        path = make()
    except (Refused, OSError) as problem:
        said = f"Before its tables are changed the shop is backed up, and that could not be done: {problem}"
        raise CommandError(f"{said} Nothing was changed.") from problem
    kept.let_go()
    stdout.write(f"Backed up before the tables are brought up to date: {path}\n")


@contextmanager
def there_already() -> Iterator[None]:
    """What is brought up to date within was put back from a backup just now."""
    token = _there_already.set(True)
    try:
        yield
    finally:
        _there_already.reset(token)
