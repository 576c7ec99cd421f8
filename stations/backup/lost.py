"""Files that rows tell of and that are not on the disk any more: named, kept where a backup has them, brought back."""

import hashlib
import json
from collections.abc import Callable, Iterable
from contextlib import suppress
from pathlib import Path
from zipfile import BadZipFile, ZipFile

from django.conf import settings

from stations.backup import kept
from stations.backup.making import MANIFEST
from stations.common.files import write_whole
from stations.common.registry import Registry

# Every file that rows of a kind tell of, by where it should lie.
told_of: Registry[Callable[[], Iterable[Path]]] = Registry("whose files lie in the media folder")

_MARK = "lost-files.txt"


def by_kind() -> dict[str, set[str]]:
    """Names within the media folder, by what they are of; nothing of a kind of which nothing is lost."""
    media = Path(settings.MEDIA_ROOT)
    gone = {
        kind: {path.relative_to(media).as_posix() for path in files() if not path.is_file()}
        for kind, files in told_of.items()
    }
    return {kind: names for kind, names in gone.items() if names}


def lost() -> list[str]:
    """All of their names, in order."""
    return sorted(set().union(*by_kind().values()))


def look() -> list[str]:
    """What is lost, written down beside the backups for pages that can't look at every file."""
    found, mark = lost(), Path(settings.BACKUP_ROOT) / _MARK
    if found:
        write_whole(mark, "\n".join(found).encode())
    else:
        mark.unlink(missing_ok=True)
    return found


def last_seen() -> int:
    """How many were lost when somebody last looked."""
    with suppress(OSError):
        return len((Path(settings.BACKUP_ROOT) / _MARK).read_text().splitlines())
    return 0


def bring_back() -> list[str]:
    """Put back what a backup in the shop's folder has as it was written, the newest first; answers what is still
    lost."""
    wanted = set(lost())
    for backup in kept.backups():
        # One that is broken has nothing to give.
        broken = suppress(OSError, BadZipFile, ValueError, KeyError, TypeError)
        with broken, ZipFile(Path(settings.BACKUP_ROOT) / backup.name) as file:
            wanted -= _out_of(file, wanted)
    return look()


def _out_of(file: ZipFile, wanted: set[str]) -> set[str]:
    sums = json.loads(file.read(MANIFEST))["media"]
    found = set()
    for name in sorted(wanted & set(sums)):
        data = file.read(f"media/{name}")
        if hashlib.sha256(data).hexdigest() == sums[name]:
            write_whole(Path(settings.MEDIA_ROOT) / name, data)
            found.add(name)
    return found
