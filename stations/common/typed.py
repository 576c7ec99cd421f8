"""Figures as people type them: 1.234,50 and 1,234.50 and 12,5; what can mean two things is asked about."""

from collections.abc import Iterable, Mapping
from decimal import Decimal
from enum import StrEnum
from typing import Any, TypeVar, cast

from django import forms
from django.core.validators import MinValueValidator
from django.db import models

from core.machine.quantities import Mark, QuantityError, TwoMeanings, read_number


def whole_number(text: str) -> int | None:
    """The whole number from 0 to under a thousand million that an address or a button sent; None for anything else.

    Python refuses to read numbers of thousands of figures, and no key or count of ours has ten.
    """
    return int(text) if text.isascii() and text.isdecimal() and len(text) < 10 else None


C = TypeVar("C", bound=StrEnum)


def columns_said(data: Mapping[str, str], kinds: type[C]) -> dict[C, int] | None:
    """Which column of a file holds what, as an address or a form says it; None where it says nothing of columns."""
    named = {kind: data.get(kind.value, "") for kind in kinds if kind.value in data}
    read = {kind: whole_number(text) for kind, text in named.items()}
    return {kind: place for kind, place in read.items() if place is not None} if named else None


def one_of(data: Mapping[str, str], name: str, default: C) -> C:
    """The value that was sent under this name, of the kind of the default; the default for anything else."""
    kinds = type(default)
    said = data.get(name)
    return kinds(said) if said in set(kinds) else default


class _AsTyped(forms.Field):
    """Reads a figure by the application's own rule before the field checks it."""

    widget = forms.TextInput
    mark = Mark.ASK

    def to_python(self, value):
        if isinstance(value, str) and value.strip():
            try:
                value = format(read_number(value, self.mark), "f")
            except TwoMeanings as problem:
                raise forms.ValidationError(str(problem), code="two_meanings") from problem
            except QuantityError as problem:
                raise forms.ValidationError(self.error_messages["invalid"], code="invalid") from problem
        return super().to_python(value)

    def prepare_value(self, value):
        exponent = value.as_tuple().exponent if isinstance(value, Decimal) else 0
        if isinstance(exponent, int) and exponent < -2:
            value = format(value.normalize(), "f")
        return super().prepare_value(value)

    def widget_attrs(self, widget):
        return super().widget_attrs(widget) | {"inputmode": "decimal", "autocomplete": "off"}


class NumberField(_AsTyped, forms.DecimalField):
    """A decimal number as typed. One that keeps three decimals (a rate, an adapter's amperes) takes 1.173 for that."""

    @property
    def mark(self) -> Mark:  # type: ignore[override]
        return Mark.DECIMAL if (self.decimal_places or 0) >= 3 else Mark.ASK


class CountField(_AsTyped, forms.IntegerField):
    """A whole number as typed."""


def as_typed(field: models.Field, **options):
    """A form field for a field of a model: figures are read as they are typed, and held to the model’s own limits
    before a form’s `clean` reckons with them; a choice that nobody made says so. For `Meta.formfield_callback`."""
    if field.choices is None:
        if isinstance(field, models.DecimalField):
            options = {"form_class": NumberField, **_limits(field), **options}
        elif isinstance(field, models.PositiveIntegerField | models.PositiveSmallIntegerField):
            options = {"form_class": CountField, **_limits(field), **options}
    found = field.formfield(**options)
    unmade = "not said" if field.blank else "choose"
    if isinstance(found, forms.ModelChoiceField):
        found.empty_label = found.empty_label and unmade
    elif isinstance(found, forms.TypedChoiceField):
        made = cast(Iterable[tuple[str, str]], found.choices)
        found.choices = [(value, words if value != "" or "--" not in words else unmade) for value, words in made]
    return found


def _limits(field: models.Field) -> dict[str, Any]:
    """What is said of a field in the model, in its words: where that is a least, Django’s own of 0 goes."""
    said = field.deconstruct()[3].get("validators", [])
    least = any(isinstance(one, MinValueValidator) for one in said)
    whole = isinstance(field, models.IntegerField)
    return {"validators": said, **({"min_value": None} if least and whole else {})}
