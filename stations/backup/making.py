"""One file with everything of the shop: every row, every picture, sound and file, and how to tell whether it is whole.

A zip: `data/TABLE.jsonl`, a row a line; `media/…` as it lies in the media folder; last `manifest.json`, which tells the
SHA-256 of each.
"""

import fcntl
import hashlib
import json
import os
import shutil
import tempfile
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager, suppress
from datetime import UTC, timedelta
from pathlib import Path
from typing import IO, Any
from zipfile import ZIP_DEFLATED, ZIP_STORED, ZipFile, ZipInfo

from django.conf import settings
from django.db import connections
from django.db.backends.base.base import BaseDatabaseWrapper

from stations.backup.kept import BACKUP
from stations.backup.tables import lines, tables
from stations.common import clock
from stations.common.refusals import Refused

FORMAT = 1
MANIFEST = "manifest.json"
PIECE = 1024 * 1024
# Left free beside a backup.
SPARE = 64 * 1024 * 1024


class BeingMade(Refused):
    """Somebody is at it already."""


def make(folder: Path | None = None) -> Path:
    """Write a backup into the folder (the shop's own where none is said) and answer where it is.

    People go on working: the rows are those of one moment. What is there under its name is whole. Refused where one is
    being made already, or there is no room for it.
    """
    return written(Path(folder or settings.BACKUP_ROOT), BACKUP, _write)


def written(folder: Path, named: str, write: Callable[[ZipFile, BaseDatabaseWrapper, Path], None]) -> Path:
    """A zip of rows and files of one moment, named by what it is and when, written by `write`; where it is.

    It is handed the database as it is now and the media folder as it is now. One at a time, of whatever kind.
    """
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    media = Path(settings.MEDIA_ROOT)
    media.mkdir(parents=True, exist_ok=True)
    with _one_at_a_time(media), _snapshot() as database:
        for left in (*folder.glob(".wendopolis-*.part"), *media.glob(".backup-*")):
            # By one that was killed.
            shutil.rmtree(left) if left.is_dir() else left.unlink()
        _refuse_without_room(folder, database)
        path = _path(folder, named)
        part = folder / f".{path.name}.part"
        try:
            with open(part, "wb", opener=_for_nobody_else) as out:
                with ZipFile(out, "w", ZIP_DEFLATED) as file, _held(media) as there:
                    write(file, database, there)
                out.flush()
                os.fsync(out.fileno())
            part.rename(path)
        finally:
            part.unlink(missing_ok=True)
    return path


def _path(folder: Path, named: str) -> Path:
    """By the second; of one made in the same second nothing is overwritten: this one takes the next that is free."""
    moment = clock.now().astimezone(UTC)
    while (path := folder / f"{named}-{moment:%Y%m%d-%H%M%S}.zip").exists():
        moment += timedelta(seconds=1)
    return path


def _write(file: ZipFile, database: BaseDatabaseWrapper, media: Path) -> None:
    found: dict[str, Any] = {}
    for table in tables(database).values():
        name = f"data/{table.name}.jsonl"
        sha256, rows = put(file, name, lines(table, database))
        found[table.name] = {"columns": table.columns, "next_key": table.next_key, "rows": rows, "sha256": sha256}
    kept = put_media(file, media)
    with database.cursor() as cursor:
        cursor.execute("SELECT app, name FROM django_migrations ORDER BY id")
        migrations = [list(row) for row in cursor.fetchall()]
    manifest = {
        "format": FORMAT,
        "made_at": clock.now().astimezone(UTC).isoformat(),
        "currency": settings.BASE_CURRENCY,
        "migrations": migrations,
        "tables": found,
        "media": kept,
    }
    file.writestr(MANIFEST, json.dumps(manifest, indent=1))


def put_media(file: ZipFile, media: Path) -> dict[str, str]:
    """All that lies in the media folder, under `media/`; the SHA-256 of each by its name there."""
    told = {}
    for path in _files(media):
        name = path.relative_to(media).as_posix()
        # Pictures and sounds are as small as they get.
        told[name], _ = put(file, f"media/{name}", _pieces(path), ZIP_STORED)
    return told


def put(file: ZipFile, name: str, pieces: Iterable[bytes], how: int = ZIP_DEFLATED) -> tuple[str, int]:
    """Write the pieces as one file; its SHA-256 and how many they were."""
    info = ZipInfo(name)
    info.compress_type = how
    told, count = hashlib.sha256(), 0
    with file.open(info, "w", force_zip64=True) as out:
        for piece in pieces:
            told.update(piece)
            out.write(piece)
            count += 1
    return told.hexdigest(), count


def _pieces(path: Path) -> Iterator[bytes]:
    with path.open("rb") as opened:
        yield from read_through(opened)


def read_through(opened: IO[bytes]) -> Iterator[bytes]:
    while piece := opened.read(PIECE):
        yield piece


@contextmanager
def _snapshot() -> Iterator[BaseDatabaseWrapper]:
    """A connection of its own that sees the database as it is now, whatever is written meanwhile."""
    database = connections.create_connection("default")
    try:
        database.connect()
        with database.cursor() as cursor:
            cursor.execute("SET SESSION TRANSACTION ISOLATION LEVEL REPEATABLE READ")
            cursor.execute("START TRANSACTION WITH CONSISTENT SNAPSHOT")
        yield database
    finally:
        database.close()


def _files(media: Path) -> list[Path]:
    """What lies in the media folder, in order; what begins with a point is nobody’s picture."""
    found = [path for path in media.rglob("*") if path.is_file()]
    return sorted(path for path in found if not any(part.startswith(".") for part in path.relative_to(media).parts))


@contextmanager
def _held(media: Path) -> Iterator[Path]:
    """The media folder as it is now: links, made at once, so that what is dropped while the rest is written is there
    still. Where there are no links it is the folder itself."""
    held = Path(tempfile.mkdtemp(prefix=".backup-", dir=media))
    try:
        yield held if _linked(media, held) else media
    finally:
        shutil.rmtree(held, ignore_errors=True)


def _linked(media: Path, held: Path) -> bool:
    for path in _files(media):
        there = held / path.relative_to(media)
        there.parent.mkdir(parents=True, exist_ok=True)
        try:
            os.link(path, there)
        except FileNotFoundError:
            continue
        except OSError:
            return False
    return True


def _for_nobody_else(path: str, flags: int) -> int:
    return os.open(path, flags, 0o600)


@contextmanager
def _one_at_a_time(media: Path) -> Iterator[None]:
    with (media / ".backup").open("w") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError as problem:
            raise BeingMade("A backup is being made already.") from problem
        yield


def _refuse_without_room(folder: Path, database: BaseDatabaseWrapper) -> None:
    with database.cursor() as cursor:
        cursor.execute("SELECT SUM(data_length) FROM information_schema.tables WHERE table_schema = DATABASE()")
        rows = int(cursor.fetchone()[0] or 0)
    files = 0
    for path in _files(Path(settings.MEDIA_ROOT)):
        with suppress(FileNotFoundError):
            files += path.stat().st_size
    wanted, free = rows + files + SPARE, shutil.disk_usage(folder).free
    if free < wanted:
        raise Refused(f"Only {free >> 20:,} MB are free at {folder}; a backup may want {wanted >> 20:,} MB.")
