"""Images of disks and chips: what their size says they are, and where what was read back differs."""

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

# Cylinders × heads × sectors × bytes of usual diskettes (ECMA-59, -70, -99, -100, -125 for their discs; counts from
# memory, common practice).
_FLOPPIES = (
    (40, 1, 8, 512, "5.25 inch, single sided"),
    (40, 1, 9, 512, "5.25 inch, single sided"),
    (40, 2, 8, 512, "5.25 inch, double density"),
    (40, 2, 9, 512, "5.25 inch, double density"),
    (80, 2, 9, 512, "3.5 inch, double density"),
    (80, 2, 15, 512, "5.25 inch, high density"),
    (80, 2, 18, 512, "3.5 inch, high density"),
    (80, 2, 36, 512, "3.5 inch, extra density"),
    (77, 1, 26, 128, "8 inch, single density"),
    (35, 1, 16, 256, "5.25 inch, 35 tracks"),
    (80, 2, 11, 512, "3.5 inch, eleven sectors"),
    (80, 2, 10, 512, "3.5 inch, ten sectors"),
)
CD_SECTOR = 2048
SECTOR = 512


@dataclass(frozen=True)
class Floppy:
    cylinders: int
    heads: int
    sectors: int
    sector: int
    name: str

    @property
    def size(self) -> int:
        return self.cylinders * self.heads * self.sectors * self.sector


FLOPPIES = {floppy.size: floppy for floppy in (Floppy(*row) for row in _FLOPPIES)}


def format_of(size: int) -> str:
    """What an image of so many bytes is, in words; empty for no known format."""
    if floppy := FLOPPIES.get(size):
        return f"diskette, {floppy.name}, {floppy.cylinders} × {floppy.heads} × {floppy.sectors}"
    if size >= 16 * CD_SECTOR and size % CD_SECTOR == 0 and size > max(FLOPPIES):
        return f"disc or drive, {size // CD_SECTOR:,} blocks of {CD_SECTOR:,}"
    if size and size % 512 == 0 and size > max(FLOPPIES):
        return f"drive, {size // 512:,} sectors"
    if 2048 <= size <= 4 * 1024 * 1024 and size & (size - 1) == 0:
        return f"chip, {size // 1024} KiB"
    return ""


@dataclass(frozen=True)
class Difference:
    """What was read back against the image it was written from: blocks of `block` bytes that differ, the first of them
    (None where all are equal), bytes that are there too many (below 0: too few)."""

    blocks: int
    first: int | None
    longer: int = 0
    block: int = SECTOR

    @property
    def equal(self) -> bool:
        return not self.blocks and not self.longer

    @property
    def words(self) -> str:
        if self.equal:
            return "equal"
        said = []
        if self.first is not None:
            unit = "byte" if self.block == 1 else "sector"
            at = f"0x{self.first:X}" if self.block == 1 else str(self.first)
            said.append(f"{self.blocks:,} {unit}{' differs' if self.blocks == 1 else 's differ'}, the first is {at}")
        if self.longer:
            unit = "byte" if abs(self.longer) == 1 else "bytes"
            said.append(f"{abs(self.longer):,} {unit} too {'many' if self.longer > 0 else 'few'}")
        return "; ".join(said)


def difference(image: bytes, read: bytes, block: int = SECTOR) -> Difference:
    """Compare what both have; what one has beyond the other counts as bytes too many or too few."""
    both = min(len(image), len(read))
    unlike = np.frombuffer(image, np.uint8, both) != np.frombuffer(read, np.uint8, both)
    at = np.unique(np.flatnonzero(unlike) // block)
    return Difference(len(at), int(at[0]) if len(at) else None, len(read) - len(image), block)


def closest(images: Iterable[bytes], read: bytes) -> tuple[int, Difference] | None:
    """The image it was written from, as far as it shows: the one with fewest sectors that differ, those of its very
    size before all others. None without images."""
    found = [(number, difference(image, read)) for number, image in enumerate(images)]
    return min(found, key=lambda one: (one[1].longer != 0, one[1].blocks, abs(one[1].longer)), default=None)
