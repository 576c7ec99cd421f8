"""The shop's records for another program: every table as CSV and as JSON, what each column means, and every picture.

It does not go back in; that is what a backup is for. What opens a door, here or elsewhere, is left out.
"""

import csv
import io
import json
from collections.abc import Callable, Iterable, Iterator
from datetime import UTC, date, datetime, time
from decimal import Decimal
from pathlib import Path
from typing import Any
from zipfile import ZipFile

import MySQLdb.cursors
from django.conf import settings
from django.db.backends.base.base import BaseDatabaseWrapper

from stations.backup.described import Column, Kind, Table, as_csvw, as_json_schema, tables
from stations.backup.kept import RECORDS
from stations.backup.making import put, put_media, written
from stations.common import clock
from stations.common.spreadsheet import harmless

CSV, JSON = "csv/{}.csv", "json/{}.jsonl"
_READ_ME = """The records of {shop}, as they were on {moment} (UTC). Money is in {currency}.

csv/TABLE.csv       each table; UTF-8, commas, the names of the columns in the first line. Nothing between two commas is
                    a value that nobody recorded, but for text, where it is an empty text. A text that a spreadsheet
                    would take for a formula (it begins with =, +, -, @, a tab or a return) has a ' before it.
csv-metadata.json   what each table and column is, what its codes mean and where it leads, as CSVW (W3C) says it
json/TABLE.jsonl    the same rows, one JSON object a line, every text as it is; null is what nobody recorded
schema.json         what each row of them is, as JSON Schema says it, by the name of the table in $defs
media/              pictures, sounds and files, under the names by which rows tell of them

Moments are in UTC, decimals in JSON are text. Keys and passwords are left out.
To put a shop back as it was, take a backup instead.
"""


def export(folder: Path | None = None) -> Path:
    """Write the records of one moment into the folder (that of the backups where none is said); where they are.

    Refused as a backup is: where one of either is being made, or there is no room.
    """
    return written(Path(folder or settings.BACKUP_ROOT), RECORDS, _write)


def _write(file: ZipFile, database: BaseDatabaseWrapper, media: Path) -> None:
    found = tables()
    with database.cursor() as cursor:
        cursor.execute("SELECT name FROM people_shopsettings")
        shop = next(iter(cursor.fetchall()), ("the workshop",))[0]
    moment = f"{clock.now().astimezone(UTC):%Y-%m-%d %H:%M}"
    file.writestr("README.txt", _READ_ME.format(shop=shop, moment=moment, currency=settings.BASE_CURRENCY))
    file.writestr("csv-metadata.json", _text(as_csvw(found, CSV)))
    file.writestr("schema.json", _text(as_json_schema(found)))
    for table in found:
        put(file, CSV.format(table.name), _as_csv(table, _rows(table, database)))
        put(file, JSON.format(table.name), _as_json(table, _rows(table, database)))
    put_media(file, media)


def _text(told: dict[str, Any]) -> str:
    return json.dumps(told, indent=1, ensure_ascii=False)


def _rows(table: Table, on: BaseDatabaseWrapper) -> Iterator[list[Any]]:
    """Every row in the order of the key, never all at once; values as JSON has them, decimals as they are."""
    named = ", ".join(f"`{column.name}`" for column in table.columns)
    turn = [_TURNS.get(column.kind, _as_it_is) for column in table.columns]
    cursor = on.connection.cursor(MySQLdb.cursors.SSCursor)
    try:
        cursor.execute(f"SELECT {named} FROM `{table.name}` ORDER BY `{table.key}`")  # noqa: S608
        for row in cursor:
            yield [None if value is None else act(value) for act, value in zip(turn, row, strict=True)]
    finally:
        cursor.close()


def _as_it_is(value: Any) -> Any:
    return value


def _moment(value: datetime) -> str:
    return f"{value.isoformat()}Z"


# How what the database answers is turned into what goes out.
_TURNS: dict[Kind, Callable[[Any], Any]] = {
    Kind.YES_OR_NO: bool,
    Kind.DAY: date.isoformat,
    Kind.MOMENT: _moment,
    Kind.TIME: time.isoformat,
    Kind.JSON: json.loads,
}


def _as_csv(table: Table, rows: Iterable[list[Any]]) -> Iterator[bytes]:
    line = io.StringIO()
    writer = csv.writer(line)

    def told() -> bytes:
        text = line.getvalue()
        line.seek(0)
        line.truncate()
        return text.encode()

    writer.writerow(column.name for column in table.columns)
    # So that a spreadsheet takes it for what it is.
    yield b"\xef\xbb\xbf" + told()
    for row in rows:
        writer.writerow(_cell(column, value) for column, value in zip(table.columns, row, strict=True))
        yield told()


def _cell(column: Column, value: Any) -> Any:
    if value is None:
        return ""
    if column.kind is Kind.TEXT:
        return harmless(value)
    if column.kind is Kind.YES_OR_NO:
        return str(value).lower()
    return json.dumps(value, ensure_ascii=False) if column.kind is Kind.JSON else value


def _as_json(table: Table, rows: Iterable[list[Any]]) -> Iterator[bytes]:
    names = [column.name for column in table.columns]
    for row in rows:
        told = dict(zip(names, row, strict=True))
        yield json.dumps(told, default=_exact, ensure_ascii=False, separators=(",", ":")).encode() + b"\n"


def _exact(value: Any) -> str:
    if isinstance(value, Decimal):
        return f"{value:f}"
    raise TypeError(f"{type(value).__name__} is no value of a column")
