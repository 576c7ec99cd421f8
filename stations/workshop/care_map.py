"""The case unfolded for care: the region that is picked, where care was done before, and feet and badges by measure."""

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from core.machine.casing import Face, Panel
from core.workshop.care.placing import Placed, doubts
from core.workshop.care.region import Region, Size
from stations.units.drawing import ConditionMap, condition_map
from stations.units.models import Finding, Unit
from stations.workshop.care_planning import size_of
from stations.workshop.models import CarePlan

MOST_BEFORE = 12


@dataclass(frozen=True)
class Box:
    """A rectangle in drawing units, and what it is in words."""

    x: float
    y: float
    width: float
    height: float
    words: str = ""


@dataclass(frozen=True)
class CareMap:
    map: ConditionMap
    picked: Box | None
    before: tuple[Box, ...]


def care_map(
    unit: Unit, findings: list[Finding], before: Sequence[CarePlan], region: Region | None, narrow: bool = False
) -> CareMap:
    """`narrow` for a phone, as the condition map has it."""
    drawn = condition_map(unit, findings, narrow)

    def box(face: str, left: Decimal, top: Decimal, wide: Decimal, high: Decimal, words: str = "") -> Box | None:
        panel = drawn.casing.panel(Face(face))
        return _on(panel, float(left), float(top), float(wide), float(high), words) if panel else None

    picked = box(region.face.value, region.left, region.top, region.wide, region.high) if region else None
    earlier = [
        box(one.face, one.left, one.top, one.wide, one.high, one.job.title) for one in before[:MOST_BEFORE] if one.face
    ]
    return CareMap(drawn, picked, tuple(one for one in earlier if one))


def _on(panel: Panel, left: float, top: float, wide: float, high: float, words: str) -> Box:
    return Box(
        panel.x + left * panel.width, panel.y + top * panel.height, wide * panel.width, high * panel.height, words
    )


@dataclass(frozen=True)
class FaceDrawn:
    """A face to scale with what is stuck on it, each with its measures from the nearest edges; `doubts` in words."""

    face: Face
    width: float
    height: float
    boxes: tuple[Box, ...]
    doubts: tuple[str, ...]


WIDE = 340.0


def faces_drawn(unit: Unit, kept: Sequence[Placed]) -> list[FaceDrawn]:
    """Those on which something was measured; none where nobody knows how large the model is."""
    size = size_of(unit)
    if size is None:
        return []
    return [
        _face(size, face, [one for one in kept if one.face is face]) for face in dict.fromkeys(o.face for o in kept)
    ]


def _face(size: Size, face: Face, kept: list[Placed]) -> FaceDrawn:
    across, down = size.face(face) or (1, 1)
    scale = WIDE / across

    def drawn(one: Placed) -> Box:
        edges = one.from_edges(size)
        sideways = min(("left", "right"), key=lambda name: edges[name])
        upright = min(("top", "bottom"), key=lambda name: edges[name])
        words = f"{one.what}: {edges[sideways]:f} mm from the {sideways}, {edges[upright]:f} mm from the {upright}"
        x, y, wide, high = (float(mm) * scale for mm in (one.left, one.top, one.wide, one.high))
        return Box(x, y, wide, high, words)

    return FaceDrawn(face, WIDE, down * scale, tuple(map(drawn, kept)), tuple(doubts(kept, size)))
