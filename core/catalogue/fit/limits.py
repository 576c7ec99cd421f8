"""How large a disk or a volume can be, by how its blocks are counted; and the usual rates of pictures."""

from dataclasses import dataclass
from decimal import Decimal

SECTOR = 512


@dataclass(frozen=True)
class DiskLimit:
    """The first byte that is not reached, and what counts so."""

    name: str
    size: int


def chs(cylinders: int, heads: int, sectors: int) -> int:
    """Bytes that cylinders, heads and sectors a track reach."""
    return cylinders * heads * sectors * SECTOR


# The firmware call counts 10 bits of cylinders, 8 of heads, 6 of sectors from 1; the drive's registers 16, 4 and 8:
# what both can count is the least of each. 28 bits of sectors after that (ATA-1, X3.221, from memory).
LIMITS = (
    DiskLimit("cylinders, heads and sectors of firmware and drive alike", chs(1024, 16, 63)),
    DiskLimit("cylinders, heads and sectors, translated", chs(1024, 255, 63)),
    DiskLimit("28 bits of sectors", 2**28 * SECTOR),
)


def limit_named(size: int) -> str:
    """What counts so that just this much is seen; empty for a size that is no such limit."""
    return next((limit.name for limit in LIMITS if limit.size == size), "")


@dataclass(frozen=True)
class PictureRate:
    """A usual picture: its lines a second from the clock it is made with, and its fields a second."""

    name: str
    line: Decimal
    field: Decimal


def rates_of(clock_hz: Decimal, points_a_line: Decimal, lines_a_field: Decimal) -> tuple[Decimal, Decimal]:
    """Line rate in kHz and field rate in Hz, from the clock and what it is divided by, to a thousandth."""
    line = clock_hz / points_a_line
    return round(line / 1000, 3), round(line / lines_a_field, 2)


# ITU-R BT.1700 (625/50: 15,625 lines a second; 525/59.94: 4.5 MHz / 286) and the 25.175 MHz raster of 800 × 525 that
# VESA lists as an industry standard; from memory.
RATES = (
    PictureRate("625 lines, 50 Hz", *rates_of(Decimal(15625), Decimal(1), Decimal("312.5"))),
    PictureRate("525 lines, 59.94 Hz", *rates_of(Decimal(4500000), Decimal(286), Decimal("262.5"))),
    PictureRate("640 × 480, 60 Hz", *rates_of(Decimal(25175000), Decimal(800), Decimal(525))),
)
