"""The shop's tables for another program: which go out, and what each column holds, said in two published forms.

CSVW: W3C, *Metadata Vocabulary for Tabular Data* (Recommendation of 17 December 2015), beside tables as CSV.
JSON Schema, draft 2020-12, beside tables as JSON, a row a line.
"""

from dataclasses import dataclass
from enum import StrEnum
from typing import Any

from django.apps import apps
from django.db.models import Field, ForeignKey, Model

# Whose tables say how people sign in and what waits to be done, or belong to the framework.
ROOMS_LEFT_OUT = {"auth", "axes", "contenttypes", "queue", "sessions"}
TABLES_LEFT_OUT = {
    "day_calendaraddress",
    "people_person_groups",
    "people_person_user_permissions",
    "people_readtoken",
    "people_secondfactor",
    "people_sparecode",
    "people_writekey",
}
# What opens a door here or elsewhere; `(table, column)`.
SECRETS = {("people_person", "password"), ("selling_channel", "key")}


class Kind(StrEnum):
    """What the values of a column are; named as CSVW names its datatypes."""

    WHOLE = "integer"
    DECIMAL = "decimal"
    FLOAT = "double"
    YES_OR_NO = "boolean"
    DAY = "date"
    MOMENT = "datetime"
    TIME = "time"
    TEXT = "string"
    JSON = "json"


_KINDS = {
    "AutoField": Kind.WHOLE,
    "BigAutoField": Kind.WHOLE,
    "BigIntegerField": Kind.WHOLE,
    "IntegerField": Kind.WHOLE,
    "PositiveBigIntegerField": Kind.WHOLE,
    "PositiveIntegerField": Kind.WHOLE,
    "PositiveSmallIntegerField": Kind.WHOLE,
    "SmallIntegerField": Kind.WHOLE,
    "DecimalField": Kind.DECIMAL,
    "FloatField": Kind.FLOAT,
    "BooleanField": Kind.YES_OR_NO,
    "DateField": Kind.DAY,
    "DateTimeField": Kind.MOMENT,
    "TimeField": Kind.TIME,
    "CharField": Kind.TEXT,
    "SlugField": Kind.TEXT,
    "TextField": Kind.TEXT,
    "JSONField": Kind.JSON,
}
# How JSON has the kinds that it does not know: decimals as text, so that no cent is lost to a binary fraction.
_IN_JSON: dict[Kind, dict[str, Any]] = {
    Kind.WHOLE: {"type": "integer"},
    Kind.DECIMAL: {"type": "string", "pattern": r"^-?[0-9]+(\.[0-9]+)?$"},
    Kind.FLOAT: {"type": "number"},
    Kind.YES_OR_NO: {"type": "boolean"},
    Kind.DAY: {"type": "string", "format": "date"},
    Kind.MOMENT: {"type": "string", "format": "date-time"},
    # By the shop’s clock: what JSON Schema calls a time has a zone (RFC 3339, full-time).
    Kind.TIME: {"type": "string", "pattern": r"^[0-2][0-9]:[0-5][0-9]:[0-5][0-9](\.[0-9]+)?$"},
    Kind.TEXT: {"type": "string"},
    Kind.JSON: {},
}


@dataclass(frozen=True)
class Column:
    """A column; `leads_to` is the table and column of which it holds a value, `means` what its codes stand for."""

    name: str
    title: str
    kind: Kind
    may_be_unknown: bool
    leads_to: tuple[str, str] | None
    means: tuple[tuple[Any, str], ...]


@dataclass(frozen=True)
class Table:
    name: str
    title: str
    about: str
    key: str
    columns: tuple[Column, ...]


def tables() -> list[Table]:
    """All that go out, by name."""
    models = [model for model in apps.get_models(include_auto_created=True) if _goes_out(model)]
    return sorted((_table(model) for model in models), key=lambda table: table.name)


def _goes_out(model: type[Model]) -> bool:
    return model._meta.app_label not in ROOMS_LEFT_OUT and model._meta.db_table not in TABLES_LEFT_OUT


def _table(model: type[Model]) -> Table:
    meta = model._meta
    told = " ".join((model.__doc__ or "").split())
    return Table(
        name=meta.db_table,
        title=str(meta.verbose_name),
        # Django writes one of its own where a model has none.
        about="" if told.startswith(f"{model.__name__}(") else told,
        key=meta.pk.attname,
        columns=tuple(_column(one) for one in meta.concrete_fields if (meta.db_table, one.attname) not in SECRETS),
    )


def _column(field: Field) -> Column:
    there = field.target_field if isinstance(field, ForeignKey) else field
    leads_to = (there.model._meta.db_table, there.attname) if isinstance(field, ForeignKey) else None
    return Column(
        name=field.attname,
        title=str(field.verbose_name),
        kind=_KINDS[there.get_internal_type()],
        may_be_unknown=field.null,
        leads_to=leads_to,
        means=tuple((code, str(label)) for code, label in field.flatchoices),
    )


def as_csvw(found: list[Table], where: str) -> dict[str, Any]:
    """The metadata document of the tables; `where` is the address of one, with `{}` for its name."""
    return {"@context": "http://www.w3.org/ns/csvw", "tables": [_csvw_table(table, where) for table in found]}


def _csvw_table(table: Table, where: str) -> dict[str, Any]:
    told: dict[str, Any] = {"url": where.format(table.name), "dc:title": table.title}
    if table.about:
        told["dc:description"] = table.about
    schema: dict[str, Any] = {
        "columns": [_csvw_column(column) for column in table.columns],
        "primaryKey": table.key,
    }
    leading = [(column.name, *column.leads_to) for column in table.columns if column.leads_to]
    if leading:
        schema["foreignKeys"] = [
            {"columnReference": name, "reference": {"resource": where.format(there), "columnReference": column}}
            for name, there, column in leading
        ]
    return told | {"tableSchema": schema}


def _csvw_column(column: Column) -> dict[str, Any]:
    told: dict[str, Any] = {"name": column.name, "titles": column.name, "dc:title": column.title}
    told["datatype"] = str(column.kind)
    told["required"] = not column.may_be_unknown and column.kind is not Kind.TEXT
    if column.kind is Kind.TEXT and not column.may_be_unknown:
        # Nothing typed is a text like another.
        told["null"] = []
    if column.means:
        told["dc:description"] = "; ".join(f"{code}: {label}" for code, label in column.means)
    return told


def as_json_schema(found: list[Table]) -> dict[str, Any]:
    """A schema of a row of each table, under its name in `$defs`."""
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "A row of each table of the workshop",
        "$defs": {table.name: _json_table(table) for table in found},
    }


def _json_table(table: Table) -> dict[str, Any]:
    return {
        "title": table.title,
        **({"description": table.about} if table.about else {}),
        "type": "object",
        "properties": {column.name: _json_column(column) for column in table.columns},
        "required": [column.name for column in table.columns],
        "additionalProperties": False,
    }


def _json_column(column: Column) -> dict[str, Any]:
    told = {"title": column.title, **_IN_JSON[column.kind]}
    if column.leads_to:
        told["description"] = "A {1} of {0}.".format(*column.leads_to)
    if column.means:
        codes = [{"const": code, "title": label} for code, label in column.means]
        # A code may be empty until somebody chose.
        told["anyOf"] = [*codes, *([{"const": ""}] if column.kind is Kind.TEXT else [])]
    if column.may_be_unknown:
        told = {"title": column.title, "anyOf": [{"type": "null"}, told]}
    return told
