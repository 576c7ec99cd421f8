"""Reading several things as they were at one moment."""

from collections.abc import Iterator
from contextlib import contextmanager

from django.db import connection, transaction


@contextmanager
def one_moment() -> Iterator[None]:
    """Inside, everything is read as it was when the first of it was read, whatever others write meanwhile; nothing is
    written. For pages that read the same rows more than once. Inside another transaction it changes nothing."""
    if connection.in_atomic_block:
        yield
        return
    with connection.cursor() as cursor:
        cursor.execute("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ")  # for the next transaction only
    with transaction.atomic():
        yield
