"""The tables of the shop as lines of JSON, and back: read straight off the database, so that none is forgotten."""

import base64
import json
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, time, timedelta
from decimal import Decimal
from typing import Any

import MySQLdb.cursors
from django.db import connection
from django.db.backends.base.base import BaseDatabaseWrapper

# Who is signed in, and who tried to: nobody is by another machine's word. Which migrations ran is said beside the rows.
LEFT_OUT = {
    "django_session",
    "django_migrations",
    "axes_accessattempt",
    "axes_accessattemptexpiration",
    "axes_accesslog",
    "axes_accessfailurelog",
}
# Names of tables and columns are those of the database itself; what a backup names is held against them first.
# So many rows go in with one statement.
AT_ONCE = 400


@dataclass(frozen=True)
class Table:
    """A table: its columns that are stored, and the key that the next row gets where it counts them."""

    name: str
    columns: tuple[str, ...]
    next_key: int | None


def tables(on: BaseDatabaseWrapper = connection) -> dict[str, Table]:  # type: ignore[assignment]
    """Every table of the database that holds something of the shop, by name. Columns that the database works out itself
    are left out."""
    with on.cursor() as cursor:
        cursor.execute(
            "SELECT t.table_name, t.auto_increment, c.column_name FROM information_schema.tables t"
            " JOIN information_schema.columns c USING (table_schema, table_name)"
            " WHERE t.table_schema = DATABASE() AND t.table_type = 'BASE TABLE' AND c.is_generated = 'NEVER'"
            " ORDER BY t.table_name, c.ordinal_position"
        )
        rows = cursor.fetchall()
    columns: dict[str, list[str]] = {}
    counts = {}
    for name, next_key, column in rows:
        columns.setdefault(name, []).append(column)
        counts[name] = next_key
    return {name: Table(name, tuple(found), counts[name]) for name, found in columns.items() if name not in LEFT_OUT}


def hold_a_shop() -> bool:
    """Whether somebody is in it already."""
    if "people_person" not in tables():
        return False
    with connection.cursor() as cursor:
        cursor.execute("SELECT COUNT(*) FROM people_person")
        return bool(cursor.fetchone()[0])


def lines(table: Table, on: BaseDatabaseWrapper) -> Iterator[bytes]:
    """Every row as a line of JSON, a list in the order of the columns; read as they are written, never all at once."""
    cursor = on.connection.cursor(MySQLdb.cursors.SSCursor)
    try:
        cursor.execute(f"SELECT {_named(table)} FROM `{table.name}`")  # noqa: S608
        for row in cursor:
            yield json.dumps(row, default=_as_json, ensure_ascii=False, separators=(",", ":")).encode() + b"\n"
    finally:
        cursor.close()


def put_in(table: Table, found: Iterator[bytes]) -> int:
    """Put lines back as rows, in the transaction that is open; answers how many."""
    places = ", ".join(["%s"] * len(table.columns))
    statement = f"INSERT INTO `{table.name}` ({_named(table)}) VALUES ({places})"  # noqa: S608
    count, batch = 0, []
    with connection.cursor() as cursor:
        for line in found:
            batch.append([_from_json(value) for value in json.loads(line)])
            if len(batch) == AT_ONCE:
                cursor.executemany(statement, batch)
                count, batch = count + len(batch), []
        if batch:
            cursor.executemany(statement, batch)
    return count + len(batch)


def _named(table: Table) -> str:
    return ", ".join(f"`{column}`" for column in table.columns)


def _as_json(value: Any) -> Any:
    if isinstance(value, Decimal | timedelta | time):
        return str(value)
    if isinstance(value, date):
        return value.isoformat()
    if isinstance(value, bytes):
        return {"base64": base64.b64encode(value).decode()}
    raise TypeError(f"{type(value).__name__} is no value of a column")


def _from_json(value: Any) -> Any:
    return base64.b64decode(value["base64"]) if isinstance(value, dict) else value
