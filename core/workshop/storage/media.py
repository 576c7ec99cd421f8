"""Images of disks: what their size says they are."""

from dataclasses import dataclass

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
