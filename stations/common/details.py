"""What is said of a row by hand: a frozen dataclass beside its service, with the names of the row's own fields."""

from dataclasses import fields
from typing import Any, TypeVar

from django.db.models import Model

T = TypeVar("T")


def names_of(kind: type) -> list[str]:
    """The fields of it, in their order."""
    return [field.name for field in fields(kind)]


def as_kept(kind: type[T], row: Model) -> T:
    """What the row says now."""
    said: dict[str, Any] = {name: getattr(row, name) for name in names_of(kind)}
    return kind(**said)
