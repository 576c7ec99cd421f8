"""A backup put back into an empty database: looked through first, then all of it or nothing."""

import hashlib
import json
import re
import zlib
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from zipfile import BadZipFile, ZipFile

from django.conf import settings
from django.core.management import call_command
from django.db import DatabaseError, connection, transaction
from django.db.migrations.executor import MigrationExecutor

from stations.backup.making import FORMAT, MANIFEST, read_through
from stations.backup.tables import LEFT_OUT, Table, hold_a_shop, put_in, tables
from stations.backup.upgrades import there_already
from stations.common.refusals import Refused

_SAFE = re.compile(r"(?:[A-Za-z0-9_-][A-Za-z0-9._-]*/)*[A-Za-z0-9_-][A-Za-z0-9._-]*")


@dataclass(frozen=True)
class Contents:
    """What a whole backup holds."""

    made_at: str
    currency: str
    migrations: frozenset[tuple[str, str]]
    tables: tuple[Table, ...]
    rows: int
    media: tuple[str, ...]


def look_through(path: Path) -> Contents:
    """Everything a backup holds, read to its end. Refused, with what is wrong, where it is not whole."""
    try:
        with ZipFile(path) as file:
            return _look_through(file)
    except (OSError, BadZipFile, zlib.error, EOFError) as problem:
        raise Refused(f"{path.name} is no backup, or not all of it: {problem}.") from problem


def _look_through(file: ZipFile) -> Contents:
    try:
        told = json.loads(file.read(MANIFEST))
        found = Contents(
            told["made_at"],
            told["currency"],
            frozenset((app, name) for app, name in told["migrations"]),
            tuple(Table(name, tuple(row["columns"]), row["next_key"]) for name, row in told["tables"].items()),
            sum(row["rows"] for row in told["tables"].values()),
            tuple(told["media"]),
        )
        sums = {f"data/{name}.jsonl": row["sha256"] for name, row in told["tables"].items()}
        sums |= {f"media/{name}": sha256 for name, sha256 in told["media"].items()}
    except (KeyError, ValueError, TypeError, AttributeError) as problem:
        raise Refused("It says nothing of what it holds, or nothing that can be read: it is no backup.") from problem
    if told["format"] != FORMAT:
        raise Refused(f"It is written in format {told['format']}; this version of Wendopolis reads {FORMAT}.")
    there = set(file.namelist())
    for name, sha256 in sums.items():
        if name not in there:
            raise Refused(f"{name} is missing in it.")
        if name.startswith("media/") and not _SAFE.fullmatch(name):
            raise Refused(f"{name} is no name of a file here.")
        with file.open(name) as opened:
            told_of = hashlib.sha256()
            for piece in read_through(opened):
                told_of.update(piece)
        if told_of.hexdigest() != sha256:
            raise Refused(f"{name} in it is not what was written.")
    return found


def restore(path: Path) -> Contents:
    """Put a backup back. Refused where the database holds a shop, or the backup is of a newer version.

    One of an older version goes in as it was then, and is brought up to date.
    """
    found = look_through(path)
    if found.currency != settings.BASE_CURRENCY:
        said = f"Its books are kept in {found.currency}, this shop is set up for {settings.BASE_CURRENCY}"
        raise Refused(f"{said}: set WENDOPOLIS_CURRENCY to {found.currency} first.")
    _refuse_a_shop()
    _as_it_was_then(found)
    here = tables()
    for table in found.tables:
        if table.name not in here or set(here[table.name].columns) != set(table.columns):
            raise Refused(f"The table {table.name} has other columns here than in the backup. Nothing was put back.")
    with ZipFile(path) as file, _unguarded():
        _empty(here)
        _put_in_all(file, found.tables)
        _count_on(found.tables)
        for name in found.media:
            _keep(file, name)
    with there_already():
        call_command("migrate", verbosity=0, interactive=False)
    return found


def _put_in_all(file: ZipFile, found: tuple[Table, ...]) -> None:
    try:
        with transaction.atomic():
            for table in found:
                with file.open(f"data/{table.name}.jsonl") as opened:
                    put_in(table, iter(opened))
            connection.check_constraints()
    except (DatabaseError, ValueError, TypeError, KeyError) as problem:
        raise Refused(f"Its rows can’t be put back: {problem}. The database is empty still.") from problem


def _refuse_a_shop() -> None:
    if hold_a_shop():
        raise Refused("There is a shop in this database already. A backup goes back into an empty one only.")


def _as_it_was_then(found: Contents) -> None:
    """Bring the empty tables to where they stood when the backup was made."""
    executor = MigrationExecutor(connection)
    known = set(executor.loader.graph.nodes)
    if unknown := sorted(found.migrations - known):
        app, name = unknown[0]
        raise Refused(f"It was made by a newer version of Wendopolis ({app} {name}). Update this one first.")
    if set(executor.loader.applied_migrations) & known == set(found.migrations):
        return
    _drop_all()
    executor = MigrationExecutor(connection)
    executor.migrate([one for one in found.migrations if not _leads_on(executor, one, found.migrations)])


def _leads_on(executor: MigrationExecutor, one: tuple[str, str], all_of: frozenset[tuple[str, str]]) -> bool:
    """Whether another of the same app among them rests on it."""
    children = executor.loader.graph.node_map[one].children
    return any(child.key in all_of and child.key[0] == one[0] for child in children)


def _drop_all() -> None:
    with connection.cursor() as cursor, _unguarded():
        for name in connection.introspection.table_names(cursor):
            cursor.execute(f"DROP TABLE `{name}`")


def _empty(here: dict[str, Table]) -> None:
    """What making the tables put there, such as the kinds of content: the backup has its own."""
    with connection.cursor() as cursor:
        there = set(connection.introspection.table_names(cursor))
        for name in [*here, *((LEFT_OUT - {"django_migrations"}) & there)]:
            cursor.execute(f"TRUNCATE TABLE `{name}`")


def _count_on(found: tuple[Table, ...]) -> None:
    """No key that was given out once is given to another row."""
    with connection.cursor() as cursor:
        for table in found:
            if table.next_key:
                cursor.execute(f"ALTER TABLE `{table.name}` AUTO_INCREMENT = {int(table.next_key)}")


def _keep(file: ZipFile, name: str) -> None:
    path = Path(settings.MEDIA_ROOT) / name
    path.parent.mkdir(parents=True, exist_ok=True)
    part = path.with_name(f".{path.name}.part")
    with file.open(f"media/{name}") as opened, part.open("wb") as out:
        for piece in read_through(opened):
            out.write(piece)
    part.rename(path)


@contextmanager
def _unguarded() -> Iterator[None]:
    """Tables in any order: what refers to what is checked once all are there."""
    with connection.cursor() as cursor:
        cursor.execute("SET FOREIGN_KEY_CHECKS = 0")
    try:
        yield
    finally:
        with connection.cursor() as cursor:
            cursor.execute("SET FOREIGN_KEY_CHECKS = 1")
