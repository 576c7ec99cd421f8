"""Pages of long lists that stay quick far down: which rows first, by an index alone, then the rows of the page."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any, Generic, TypeVar

from django.core.paginator import Page, Paginator
from django.db.models import QuerySet

T = TypeVar("T")


@dataclass(frozen=True)
class First(Generic[T]):
    """The first of what there is, and how much that is in all; where rows are left out the page says so
    (`shell/first_of.html`)."""

    rows: Sequence[T]
    count: int

    def __iter__(self) -> Iterator[T]:
        return iter(self.rows)

    def __len__(self) -> int:
        return len(self.rows)

    @property
    def cut(self) -> bool:
        return self.count > len(self.rows)


def first_of(rows: "QuerySet[Any, T]", most: int) -> First[T]:
    """The first `most`: one query, and one for the count where there are more."""
    found = list(rows[: most + 1])
    return First(found[:most], len(found) if len(found) <= most else rows.count())


class ByKeys(Paginator):
    """Pages through keys, in their order, and reads only the rows of a page.

    `keys`: primary keys, a queryset of them or a list; `rows`: what is read of each, with all that it takes. Two
    queries a page, and one for the count where `keys` are a queryset. Past `most` nobody counts or pages.
    """

    def __init__(
        self, keys: "QuerySet[Any, Any] | Sequence[Any]", rows: "QuerySet[Any]", per_page: int, most: int | None = None
    ) -> None:
        super().__init__(keys, per_page)
        self.rows, self.most = rows, most

    @cached_property
    def found(self) -> int:
        """How many there are; one more than `most` where there are more than that."""
        keys = self.object_list if self.most is None else self.object_list[: self.most + 1]
        return keys.count() if isinstance(keys, QuerySet) else len(keys)

    @property
    def more(self) -> bool:
        """There are more than are counted."""
        return self.most is not None and self.found > self.most

    @cached_property
    def count(self) -> int:  # type: ignore[override]
        return self.found if self.most is None else min(self.found, self.most)

    def page(self, number: int | str) -> Page:
        number = self.validate_number(number)
        begin = (number - 1) * self.per_page
        return Page(rows_of(self.object_list[begin : begin + self.per_page], self.rows), number, self)


def rows_of(keys: Any, rows: "QuerySet[Any]") -> list[Any]:
    """The rows of these keys, in their order: a query, and one for the keys."""
    wanted = list(keys)
    found = rows.in_bulk(wanted)
    return [found[key] for key in wanted if key in found]
