"""The backups that lie in the shop's folder, and the records written out for another program: how old, how large, and
which are let go."""

import re
import shutil
from contextlib import suppress
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path

from django.conf import settings

from stations.common import clock

# What each is called, before the moment of which it is.
BACKUP, RECORDS = "wendopolis", "wendopolis-records"
_NAME = re.compile(rf"({BACKUP}|{RECORDS})-(\d{{8}}-\d{{6}})\.zip")
# Older than that an owner is told so, and of less room than that (common practice, no source).
OLD = timedelta(days=3)
LITTLE = 1 << 30
# Records that nobody fetched lie about no longer: they hold names and addresses that are wiped in their time.
RECORDS_STAY = timedelta(days=7)


@dataclass(frozen=True)
class Backup:
    name: str
    made_at: datetime
    size: int

    @property
    def megabytes(self) -> float:
        return self.size / 1024 / 1024


def backups() -> list[Backup]:
    """Those in the shop's folder that are whole, the newest first."""
    return _there(BACKUP)


def records() -> list[Backup]:
    """Records for another program that lie there, the newest first."""
    return _there(RECORDS)


def _there(what: str) -> list[Backup]:
    found = []
    for path in Path(settings.BACKUP_ROOT).glob(f"{what}-*.zip"):
        # One may be let go while they are looked through, and anybody may put a file there.
        with suppress(OSError, ValueError):
            if (told := _NAME.fullmatch(path.name)) and told[1] == what:
                made = datetime.strptime(told[2], "%Y%m%d-%H%M%S").replace(tzinfo=UTC)
                found.append(Backup(path.name, made, path.stat().st_size))
    return sorted(found, key=lambda one: one.name, reverse=True)


def short_of_room() -> list[tuple[Path, int]]:
    """Where pictures and backups lie, on one disk or two, and little is free; with how many bytes. Nothing of one that
    can't be looked at: whoever writes there is told."""
    disks: dict[int, tuple[Path, int]] = {}
    for folder in (Path(settings.MEDIA_ROOT), Path(settings.BACKUP_ROOT)):
        with suppress(OSError):
            # What is not there yet is made beside what is.
            there = next(path for path in (folder, *folder.absolute().parents) if path.exists())
            disks.setdefault(there.stat().st_dev, (there, shutil.disk_usage(there).free))
    return [(there, free) for there, free in disks.values() if free < LITTLE]


def path_of(name: str) -> Path | None:
    """Where one of them lies, by its name; None where there is none of that name."""
    path = Path(settings.BACKUP_ROOT) / name
    return path if _NAME.fullmatch(name) and path.is_file() else None


def age() -> timedelta | None:
    """How old the newest is; None where there is none."""
    newest = next(iter(backups()), None)
    return clock.now() - newest.made_at if newest else None


def is_old() -> bool:
    """Whether an owner is told so: none was made for days. Where none is made by itself, somebody sees to it in another
    way."""
    if not settings.BACKUPS_KEPT:
        return False
    found = age()
    return found is None or found > OLD


def let_go() -> None:
    """The oldest go, once there are more than are kept; where none is made by itself, none goes by itself."""
    for one in backups()[settings.BACKUPS_KEPT :] if settings.BACKUPS_KEPT else ():
        (Path(settings.BACKUP_ROOT) / one.name).unlink(missing_ok=True)


def let_records_go() -> None:
    """Only the newest stay, and those not for long."""
    for place, one in enumerate(records()):
        if place or clock.now() - one.made_at > RECORDS_STAY:
            (Path(settings.BACKUP_ROOT) / one.name).unlink(missing_ok=True)
