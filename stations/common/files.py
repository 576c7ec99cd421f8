"""Files that are there whole or not at all."""

import logging
import os
import uuid
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

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
