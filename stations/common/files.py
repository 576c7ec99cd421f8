"""Files that are there whole or not at all."""

import uuid
from pathlib import Path


def write_whole(path: Path, data: bytes) -> None:
    """Write under a name of its own, hidden, then move it to its place: a stop leaves no half of it, and two who write
    the same at the same moment don't meet. Makes the folder; raises OSError."""
    path.parent.mkdir(parents=True, exist_ok=True)
    unfinished = path.parent / f".{uuid.uuid4().hex}.part"
    unfinished.write_bytes(data)
    unfinished.replace(path)
