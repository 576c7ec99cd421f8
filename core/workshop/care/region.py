"""Part of a face of the case, and how large it is: by the outer measures of the case, less the openings in it."""

from dataclasses import dataclass
from decimal import Decimal
from math import sqrt

from core.machine.casing import BOX, Face
from core.workshop.care import CareError

ONE = Decimal(1)
_PLACES = Decimal("0.001")


@dataclass(frozen=True)
class Size:
    """Outer measures, mm."""

    width: int
    height: int
    depth: int

    def face(self, face: Face) -> tuple[int, int] | None:
        """Across and down a face, mm; None for what lies within the case."""
        if face not in BOX:
            return None
        across = self.depth if face in {Face.LEFT, Face.RIGHT} else self.width
        return across, self.depth if face in {Face.TOP, Face.UNDERSIDE} else self.height


@dataclass(frozen=True)
class Region:
    """A rectangle on a face as shares of it, 0 to 1: the whole of it where nothing is said. Raises CareError."""

    face: Face
    left: Decimal = Decimal(0)
    top: Decimal = Decimal(0)
    wide: Decimal = ONE
    high: Decimal = ONE

    def __post_init__(self) -> None:
        for at, start, reach in (("left", self.left, self.wide), ("top", self.top, self.high)):
            if not 0 <= start < 1:
                raise CareError("It begins on the face: from 0 to under 100 %.", at)
            name = "wide" if at == "left" else "high"
            if reach <= 0:
                raise CareError("More than 0 % of the face.", name)
            if start + reach > 1:
                raise CareError(f"It runs over the edge: {100 * (1 - start):.0f} % are left there.", name)

    def measures(self, size: Size) -> tuple[Decimal, Decimal] | None:
        """Across and down, mm; None where the face has no measures."""
        face = size.face(self.face)
        return (face[0] * self.wide, face[1] * self.high) if face else None

    def area(self, size: Size, openings_cm2: Decimal = Decimal(0)) -> Decimal | None:
        """cm², less what is open in it; None where the face has no measures. Raises CareError."""
        measures = self.measures(size)
        if measures is None:
            return None
        whole = measures[0] * measures[1] / 100
        if openings_cm2 < 0 or openings_cm2 >= whole:
            raise CareError(f"Less than the {whole:.0f} cm² it is cut out of.", "openings")
        return whole - openings_cm2


def around(face: Face, x: float, y: float, share: float) -> Region:
    """Where a finding lies: so large a share of the face (0 to 1) about its place, moved so that it stays on it."""
    side = Decimal(sqrt(min(max(share, 0.001), 1.0))).quantize(_PLACES)

    def start(middle: float) -> Decimal:
        return min(max((Decimal(middle) - side / 2).quantize(_PLACES), Decimal(0)), 1 - side)

    return Region(face, start(x), start(y), side, side)
