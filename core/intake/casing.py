"""The case unfolded: where each face of a box stands on a flat drawing."""

from dataclasses import dataclass
from enum import StrEnum


class Face(StrEnum):
    FRONT = "front"
    BACK = "back"
    LEFT = "left"
    RIGHT = "right"
    TOP = "top"
    UNDERSIDE = "underside"


class FormFactor(StrEnum):
    KEYBOARD = "keyboard"
    DESKTOP = "desktop"
    TOWER = "tower"
    ALL_IN_ONE = "all_in_one"
    LAPTOP = "laptop"
    LUGGABLE = "luggable"
    MONITOR = "monitor"
    BOARD = "board"
    DRIVE = "drive"

    @property
    def label(self) -> str:
        return _FORM_LABELS.get(self, self.value)


_FORM_LABELS = {
    FormFactor.KEYBOARD: "keyboard computer",
    FormFactor.ALL_IN_ONE: "all-in-one with picture tube",
}


@dataclass(frozen=True)
class Panel:
    """One face on the drawing: left, top, width and height in drawing units."""

    face: Face
    x: float
    y: float
    width: float
    height: float


@dataclass(frozen=True)
class Casing:
    panels: tuple[Panel, ...]
    width: float
    height: float

    def panel(self, face: Face) -> Panel:
        return next(panel for panel in self.panels if panel.face is face)


GAP = 18.0
LEAST = 46.0  # a thin side is drawn thicker than it is, or no pin could stand on it


def unfold(width_mm: int, height_mm: int, depth_mm: int, across: float = 640.0) -> Casing:
    """Lay the six faces of a box of these outer measures (each above 0) on a drawing `across` units wide.

    Left, front, right and back stand in a row; the top above the front, the underside below it.
    """
    if min(width_mm, height_mm, depth_mm) <= 0:
        raise ValueError("Width, height and depth must be above 0.")
    scale = (across - 3 * GAP) / (2 * width_mm + 2 * depth_mm)
    wide, deep = width_mm * scale, depth_mm * scale
    high = min(max(height_mm * scale, LEAST), 190.0)
    cover = min(max(deep, LEAST), 96.0)
    row = cover + GAP
    front_x = deep + GAP
    right_x = front_x + wide + GAP
    back_x = right_x + deep + GAP
    panels = (
        Panel(Face.TOP, front_x, 0.0, wide, cover),
        Panel(Face.LEFT, 0.0, row, deep, high),
        Panel(Face.FRONT, front_x, row, wide, high),
        Panel(Face.RIGHT, right_x, row, deep, high),
        Panel(Face.BACK, back_x, row, wide, high),
        Panel(Face.UNDERSIDE, front_x, row + high + GAP, wide, cover),
    )
    return Casing(panels, back_x + wide, row + high + GAP + cover)


def stack(width_mm: int, height_mm: int, depth_mm: int, across: float = 340.0) -> Casing:
    """The same six faces two abreast, for a narrow screen: front and back, the sides, top and underside.

    Each row is scaled to the width by itself, so that a finger can find its place on every face.
    """
    if min(width_mm, height_mm, depth_mm) <= 0:
        raise ValueError("Width, height and depth must be above 0.")
    wide = (across - GAP) / 2
    rows = (
        ((Face.FRONT, Face.BACK), height_mm / width_mm),
        ((Face.LEFT, Face.RIGHT), height_mm / depth_mm),
        ((Face.TOP, Face.UNDERSIDE), depth_mm / width_mm),
    )
    panels: list[Panel] = []
    down = 0.0
    for pair, shape in rows:
        high = min(max(wide * shape, LEAST), wide)
        panels += [Panel(face, (wide + GAP) * place, down, wide, high) for place, face in enumerate(pair)]
        down += high + GAP
    return Casing(tuple(panels), across, down - GAP)
