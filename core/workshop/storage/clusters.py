"""File allocation tables: how many clusters a volume of so many bytes has, and how much of them is lost.

Limits of the counts: FAT specification 1.03 (2000), from memory. FAT12 to 4,084 clusters, FAT16 to 65,524, FAT32 to
268,435,444; a count decides the kind, so none of them may have the count of another.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum

from core.workshop.storage.sizes import KIB

ROOT_ENTRIES, ENTRY_BYTES = 512, 32


class FileSystem(StrEnum):
    """`own`: a system's own, whose arithmetic is nobody's business."""

    FAT12 = "FAT12"
    FAT16 = "FAT16"
    FAT32 = "FAT32"
    OWN = "own"


# By file system: bits of an entry, fewest and most clusters, reserved sectors.
_TABLE = {
    FileSystem.FAT12: (12, 1, 4_084, 1),
    FileSystem.FAT16: (16, 4_085, 65_524, 1),
    FileSystem.FAT32: (32, 65_525, 268_435_444, 32),
}


@dataclass(frozen=True)
class Format:
    """How a volume is formatted: bytes a cluster and how many; both 0 for a system's own."""

    system: FileSystem
    cluster: int = 0
    clusters: int = 0

    def waste(self, files: int) -> int:
        """Bytes lost at the ends of so many files: half a cluster each."""
        return files * self.cluster // 2


def least_size(system: FileSystem, sector: int = 512) -> int:
    """Bytes below which no volume is of this kind."""
    return sector if system is FileSystem.OWN else _bytes_for(system, _TABLE[system][1], sector, sector)


def most_size(system: FileSystem, most_cluster: int, sector: int = 512) -> int:
    """Bytes above which no volume is of this kind with clusters up to that; none such for a system’s own."""
    if system is FileSystem.OWN:
        return 2**62
    return _bytes_for(system, _TABLE[system][2] + 1, most_cluster, sector)


def _bytes_for(system: FileSystem, clusters: int, cluster: int, sector: int) -> int:
    """What so many clusters take with their tables."""
    bits, _, _, reserved = _TABLE[system]
    root = 0 if system is FileSystem.FAT32 else ROOT_ENTRIES * ENTRY_BYTES
    return reserved * sector + root + 2 * sector * _table_sectors(clusters, bits, sector) + clusters * cluster


def clusters_of(size: int, system: FileSystem, cluster: int, sector: int = 512) -> int:
    """How many clusters of so many bytes fit beside the tables; 0 where none does."""
    bits, _, _, reserved = _TABLE[system]
    root = 0 if system is FileSystem.FAT32 else ROOT_ENTRIES * ENTRY_BYTES // sector
    left, each = size // sector - reserved - root, cluster // sector
    if left <= 0 or each < 1:
        return 0
    # The fewest sectors of table that do: enough for all clusters without tables is enough with.
    low, high = 1, _table_sectors(left // each, bits, sector)
    while low < high:
        middle = (low + high) // 2
        if _table_sectors((left - 2 * middle) // each, bits, sector) <= middle:
            high = middle
        else:
            low = middle + 1
    return max(0, (left - 2 * high) // each)


def _table_sectors(clusters: int, bits: int, sector: int) -> int:
    return -(-(clusters + 2) * bits // (8 * sector))


def formats(size: int, system: FileSystem, most_cluster: int = 32 * KIB, sector: int = 512) -> list[Format]:
    """Every way to format a volume of so many bytes, the smallest clusters first."""
    if system is FileSystem.OWN:
        return [Format(system)]
    _, least, most, _ = _TABLE[system]
    found, cluster = [], sector
    while cluster <= most_cluster:
        count = clusters_of(size, system, cluster, sector)
        if least <= count <= most:
            found.append(Format(system, cluster, count))
        cluster *= 2
    return found


def best_format(
    size: int, systems: Iterable[FileSystem], most_cluster: int = 32 * KIB, sector: int = 512
) -> Format | None:
    """The one that loses least: the smallest clusters, FAT before a system's own; None where none can hold it."""
    found = [form for system in systems for form in formats(size, system, most_cluster, sector)[:1]]
    return min(found, key=lambda form: (form.system is FileSystem.OWN, form.cluster), default=None)
