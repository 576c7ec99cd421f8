"""A drive and how far it is reached, what is wished of it, and the volumes of a plan."""

from dataclasses import dataclass, field
from enum import StrEnum

from core.workshop.storage import StorageError
from core.workshop.storage.clusters import Format
from core.workshop.storage.sizes import MIB
from core.workshop.storage.systems import System

# A drive from here on is cut at whole mebibytes, a smaller one at tracks of 63 sectors.
LARGE = 256 * MIB
TRACK = 63

# Ends of addressing, bytes: cylinders × heads × sectors × 512, or 2^28 sectors (AT attachment, from memory).
ENDS = {
    "615 × 4 × 17": 21_411_840,
    "1,024 × 16 × 63": 528_482_304,
    "1,024 × 255 × 63": 8_422_686_720,
    "28 bits": 137_438_953_472,
}


@dataclass(frozen=True)
class End:
    """Where a reach ends, bytes from the front, and whose it is. `drivers_too`: a system’s own driver does not reach
    beyond it either (an adapter’s, a controller’s)."""

    name: str
    size: int
    drivers_too: bool = False


@dataclass(frozen=True)
class Drive:
    """A drive, card or image: bytes, bytes a sector, what ends its reach, its id on a bus that has ids (None: nobody
    said). An overlay takes the firmware’s ends away."""

    size: int
    ends: tuple[End, ...] = ()
    sector: int = 512
    overlay: bool = False
    id: int | None = None

    def __post_init__(self) -> None:
        if self.sector not in {256, 512, 1024, 2048, 4096}:
            raise StorageError("A sector of 256, 512, 1,024, 2,048 or 4,096 bytes.", "sector")
        if self.size < 64 * self.sector:
            raise StorageError("A drive of 64 sectors at least.", "size")
        if any(end.size < self.sector for end in self.ends):
            raise StorageError("An end below a sector reaches nothing.", "ends")

    @property
    def grain(self) -> int:
        """Volumes begin and end at multiples of this."""
        return MIB if self.size >= LARGE else TRACK * self.sector

    def reach(self, driver: bool) -> int:
        """How far it is reached, bytes: through the firmware, or by a system’s own driver."""
        ends = [end.size for end in self.ends if end.drivers_too or not (driver or self.overlay)]
        return min([self.size, *ends])


@dataclass(frozen=True)
class Wish:
    """A system, how much space it wants for itself (bytes), how many files go there (None: nobody knows), and whether
    it is to write the shared space."""

    system: System
    space: int
    files: int | None = None
    shares: bool = True


@dataclass(frozen=True)
class Shared:
    """Space that all who want it can write: bytes (None: all that is left), and files."""

    space: int | None = None
    files: int | None = None


class Sees(StrEnum):
    """What a system does with a volume."""

    BOOTS = "boots"
    WRITES = "writes"
    READS = "reads"
    NO = "no"


@dataclass(frozen=True)
class Volume:
    """A volume: where it begins and its size in bytes, how it is formatted; `of` is the system that starts from it,
    empty for shared space; `files` None where nobody knows."""

    letter: str
    start: int
    size: int
    format: Format
    of: str = ""
    files: int | None = None
    label: str = ""

    @property
    def end(self) -> int:
        return self.start + self.size

    @property
    def waste(self) -> int | None:
        return self.format.waste(self.files) if self.files is not None and self.format.cluster else None


@dataclass(frozen=True)
class StoragePlan:
    """Volumes front to back, what each system does with each, the order of installing, what can’t be had and what is
    nearest, cuts that would lose less, bytes that stay free."""

    drive: Drive
    volumes: tuple[Volume, ...]
    sees: dict[str, tuple[Sees, ...]]
    order: tuple[System, ...]
    refused: tuple[str, ...] = ()
    cuts: tuple[str, ...] = ()
    spare: int = 0
    systems: tuple[System, ...] = field(default=())

    @property
    def waste(self) -> int:
        """Of all whose files are known."""
        return sum(volume.waste or 0 for volume in self.volumes)

    @property
    def usable(self) -> list[str]:
        """Systems that see at least one volume."""
        return [name for name, row in self.sees.items() if any(one is not Sees.NO for one in row)]
