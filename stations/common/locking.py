"""Rows held until a transaction ends, so that two people don't change them at once.

Only the row's own table is locked, never a join, and always in the same order: shop, lot, line, unit, what hangs on
the unit (run, job, fault, listing), what hangs on that, stock. Two transactions that lock in different orders wait
for each other for ever, until the database undoes one of them.
"""

from typing import TypeVar

from django.db.models import Model, QuerySet

M = TypeVar("M", bound=Model)


def lock_row(rows: "QuerySet[M]", row: Model, first: Model | None = None) -> M:
    """The row as it now is, held; `first` is what must be held before it. `rows` is its whole table, and says what to
    read with it: only that takes a second query, for what is joined would be held too."""
    if first is not None:
        _hold(type(first), first.pk)
    if not rows.query.select_related:
        return rows.select_for_update().get(pk=row.pk)
    _hold(rows.model, row.pk)
    return rows.get(pk=row.pk)


def _hold(model: type[Model], pk: int) -> None:
    model._base_manager.select_for_update().values_list("pk").get(pk=pk)
