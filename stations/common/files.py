"""Files that are there whole or not at all, and those that are named by their content."""

import fcntl
import logging
import os
import uuid
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from pathlib import Path

from django.apps import apps
from django.conf import settings
from django.db import transaction

from stations.common.refusals import Refused

log = logging.getLogger(__name__)


class NotWritten(Refused):
    """The disk is full, or the folder can't be written into."""


def write_whole(path: Path, data: bytes) -> None:
    """Write under a name of its own, hidden, then move it to its place: a stop leaves no half of it, and two who write
    the same at the same moment don't meet. On the disk when this returns, as a row is that tells of it. Makes the
    folder. Raises NotWritten, and leaves nothing then."""
    with can_be_written(path.parent):
        unfinished = path.parent / f".{uuid.uuid4().hex}.part"
        try:
            with unfinished.open("wb") as out:
                out.write(data)
                out.flush()
                os.fsync(out.fileno())
            unfinished.replace(path)
        finally:
            unfinished.unlink(missing_ok=True)
        # Its name too: otherwise a machine that loses its power may forget it.
        folder = os.open(path.parent, os.O_RDONLY)
        try:
            os.fsync(folder)
        finally:
            os.close(folder)


@contextmanager
def can_be_written(folder: Path) -> Iterator[None]:
    """Makes the folder; what the disk says against it, or against what is done meanwhile, is told as NotWritten."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
        yield
    except OSError as problem:
        log.exception("%s can't be written", folder)
        said = (problem.strerror or "no answer").lower()
        raise NotWritten(
            f"The shop can’t keep files now ({said}), so nothing was kept of this. "
            "Tell the owner: the disk is full, or it is not there."
        ) from problem


@contextmanager
def alone(name: str) -> Iterator[None]:
    """Among all threads and processes of this machine, one at a time does what goes by this name."""
    folder = Path(settings.MEDIA_ROOT)
    with ExitStack() as held:
        with can_be_written(folder):
            lock = held.enter_context((folder / f".{name}").open("w"))
        fcntl.flock(lock, fcntl.LOCK_EX)
        yield


def keep(path: Path, data: bytes) -> None:
    """A file that is named by its content: written where it is not there yet, and once more where somebody lets go of
    the same one before the row that tells of it stands. Raises NotWritten."""
    if not path.exists():
        write_whole(path, data)

    def still_there() -> None:
        with alone("kept"):
            if not path.exists():
                write_whole(path, data)

    transaction.on_commit(still_there, robust=True)


def let_go(sha256: str, *paths: Path) -> None:
    """When this transaction stands, the files of this hash go if nothing else of the shop is the same."""
    tell = [model for model in apps.get_models() if any(field.name == "sha256" for field in model._meta.fields)]

    def gone() -> None:
        with alone("kept"):
            if not any(model._base_manager.filter(sha256=sha256).exists() for model in tell):
                for path in paths:
                    path.unlink(missing_ok=True)

    transaction.on_commit(gone, robust=True)
