"""Bad tracks: the table on a drive’s label, what a scan found, and what is new."""

import re
from dataclasses import dataclass

from core.workshop.storage import StorageError

MOST = 2000
_TRACK = re.compile(r"(\d{1,5})\s*[/:]\s*(\d{1,3})")


@dataclass(frozen=True, order=True)
class Track:
    cylinder: int
    head: int

    def __str__(self) -> str:
        return f"{self.cylinder}/{self.head}"


def read_tracks(typed: str, cylinders: int | None = None, heads: int | None = None) -> tuple[Track, ...]:
    """Cylinder/head with commas or lines between: "120/3, 121/3". Raises StorageError for what the drive has not."""
    found: set[Track] = set()
    for part in filter(None, (one.strip() for one in re.split(r"[,;\n]+", typed))):
        match = _TRACK.fullmatch(part)
        if not match:
            raise StorageError(f"“{part[:20]}” is no track such as 120/3, cylinder and head.", "tracks")
        track = Track(int(match[1]), int(match[2]))
        if cylinders is not None and track.cylinder >= cylinders:
            raise StorageError(f"{track}: the drive has {cylinders} cylinders, from 0.", "tracks")
        if heads is not None and track.head >= heads:
            raise StorageError(f"{track}: the drive has {heads} heads, from 0.", "tracks")
        if track in found:
            raise StorageError(f"{track} stands there twice.", "tracks")
        found.add(track)
    if len(found) > MOST:
        raise StorageError(f"{MOST:,} tracks at most.", "tracks")
    return tuple(sorted(found))


@dataclass(frozen=True)
class Compared:
    """`new`: found now and not on the label; `unseen`: on the label and read well now, still not to be used."""

    new: tuple[Track, ...]
    unseen: tuple[Track, ...]
    both: int

    @property
    def words(self) -> str:
        if not self.new:
            return f"Nothing new: {self.both} of the label’s found, {len(self.unseen)} read well now."
        named = ", ".join(map(str, self.new[:12]))
        more = f" and {len(self.new) - 12} more" if len(self.new) > 12 else ""
        return f"{len(self.new)} new: {named}{more}. What grows is on its way out: copy it first."


def compare(label: tuple[Track, ...], scan: tuple[Track, ...]) -> Compared:
    on_label, found = set(label), set(scan)
    return Compared(tuple(sorted(found - on_label)), tuple(sorted(on_label - found)), len(on_label & found))
