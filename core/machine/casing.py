"""The case unfolded: which faces a machine has, and where each stands on a flat drawing."""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum


class Face(StrEnum):
    FRONT = "front"
    BACK = "back"
    LEFT = "left"
    RIGHT = "right"
    TOP = "top"
    UNDERSIDE = "underside"
    INSIDE = "inside"
    SCREEN = "screen"
    KEYBOARD = "keyboard"


class FormFactor(StrEnum):
    KEYBOARD = "keyboard"
    DESKTOP = "desktop"
    TOWER = "tower"
    ALL_IN_ONE = "all_in_one"
    LAPTOP = "laptop"
    LUGGABLE = "luggable"
    TERMINAL = "terminal"
    MONITOR = "monitor"
    BOARD = "board"
    DRIVE = "drive"
    CARD = "card"
    CHIP = "chip"
    CABINET = "cabinet"
    ADAPTER = "adapter"

    @property
    def label(self) -> str:
        return _FORM_LABELS.get(self, self.value)


_FORM_LABELS = {
    FormFactor.KEYBOARD: "keyboard computer",
    FormFactor.ALL_IN_ONE: "all-in-one with CRT",
    FormFactor.BOARD: "main board",
    FormFactor.CARD: "card",
    FormFactor.CABINET: "empty cabinet",
    FormFactor.ADAPTER: "mains adapter",
}

BOX = (Face.FRONT, Face.BACK, Face.LEFT, Face.RIGHT, Face.TOP, Face.UNDERSIDE)
# What a shape shows besides the six faces of its box.
_MORE: dict[FormFactor, tuple[Face, ...]] = {
    FormFactor.KEYBOARD: (Face.INSIDE,),
    FormFactor.DESKTOP: (Face.INSIDE,),
    FormFactor.TOWER: (Face.INSIDE,),
    FormFactor.ALL_IN_ONE: (Face.INSIDE, Face.SCREEN, Face.KEYBOARD),
    FormFactor.LAPTOP: (Face.INSIDE, Face.SCREEN, Face.KEYBOARD),
    FormFactor.LUGGABLE: (Face.INSIDE, Face.SCREEN, Face.KEYBOARD),
    FormFactor.TERMINAL: (Face.INSIDE, Face.SCREEN, Face.KEYBOARD),
    FormFactor.MONITOR: (Face.INSIDE, Face.SCREEN),
    FormFactor.DRIVE: (),
    FormFactor.CABINET: (Face.INSIDE,),
    FormFactor.ADAPTER: (),
}
# Flat things have two sides; a board or card a bracket or edge besides.
_FLAT = {
    FormFactor.BOARD: (Face.TOP, Face.UNDERSIDE, Face.BACK),
    FormFactor.CARD: (Face.TOP, Face.UNDERSIDE, Face.BACK),
    FormFactor.CHIP: (Face.TOP, Face.UNDERSIDE),
}
_BOARD_LABELS = {Face.TOP: "component side", Face.UNDERSIDE: "solder side", Face.BACK: "bracket"}


def faces_of(form: FormFactor) -> tuple[Face, ...]:
    """The faces that a thing of this shape has; a board or card has two sides and a bracket."""
    return _FLAT[form] if form in _FLAT else (*BOX, *_MORE[form])


def face_label(face: Face, form: FormFactor) -> str:
    """What the face is called on this shape."""
    if form is FormFactor.CHIP:
        return {Face.UNDERSIDE: "pins"}.get(face, face.value)
    return _BOARD_LABELS.get(face, face.value) if form in _FLAT else face.value


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

    def panel(self, face: Face) -> Panel | None:
        """Where the face stands; None when this shape has no such face."""
        return next((panel for panel in self.panels if panel.face is face), None)


GAP = 18.0
LEAST = 46.0  # a thin side is drawn thicker than it is, or no pin could stand on it
MOST = 190.0


def lay_out(form: FormFactor, width_mm: int, height_mm: int, depth_mm: int, narrow: bool = False) -> Casing:
    """The faces of a thing of this shape and these outer measures (each above 0, ValueError otherwise).

    Unfolded for a desk, 640 units across; `narrow` stacks them two abreast, 340 across, for a phone.
    """
    if min(width_mm, height_mm, depth_mm) <= 0:
        raise ValueError("Width, height and depth must be above 0.")
    if narrow:
        return _stacked(faces_of(form), width_mm, height_mm, depth_mm, 340.0)
    if form in _FLAT:
        return _side_by_side(_FLAT[form], width_mm, depth_mm, 640.0)
    return _unfolded(_MORE[form], width_mm, height_mm, depth_mm, 640.0)


def _unfolded(more: Sequence[Face], width_mm: int, height_mm: int, depth_mm: int, across: float) -> Casing:
    """Left, front, right and back in a row; top above the front, underside below; the rest in the free corners."""
    scale = (across - 3 * GAP) / (2 * width_mm + 2 * depth_mm)
    wide, deep = width_mm * scale, depth_mm * scale
    high = min(max(height_mm * scale, LEAST), MOST)
    cover = min(max(deep, LEAST), 96.0)
    row, low = cover + GAP, cover + GAP + high + GAP
    front_x = deep + GAP
    right_x = front_x + wide + GAP
    back_x = right_x + deep + GAP
    panels = [
        Panel(Face.TOP, front_x, 0.0, wide, cover),
        Panel(Face.LEFT, 0.0, row, deep, high),
        Panel(Face.FRONT, front_x, row, wide, high),
        Panel(Face.RIGHT, right_x, row, deep, high),
        Panel(Face.BACK, back_x, row, wide, high),
        Panel(Face.UNDERSIDE, front_x, low, wide, cover),
    ]
    corner = deep + GAP + wide
    if Face.INSIDE in more:
        panels.append(Panel(Face.INSIDE, right_x, low, corner, cover))
    shown = [face for face in more if face is not Face.INSIDE]
    each = (corner - GAP * (len(shown) - 1)) / max(len(shown), 1)
    panels += [Panel(face, right_x + (each + GAP) * place, 0.0, each, cover) for place, face in enumerate(shown)]
    return Casing(tuple(panels), back_x + wide, low + cover)


def _side_by_side(faces: Sequence[Face], width_mm: int, depth_mm: int, across: float) -> Casing:
    """Both sides of a board beside one another, its bracket below."""
    wide = (across - GAP) / 2
    high = min(max(wide * depth_mm / width_mm, LEAST), 240.0)
    panels = [Panel(Face.TOP, 0.0, 0.0, wide, high), Panel(Face.UNDERSIDE, wide + GAP, 0.0, wide, high)]
    if Face.BACK not in faces:
        return Casing(tuple(panels), across, high)
    panels.append(Panel(Face.BACK, 0.0, high + GAP, wide, LEAST))
    return Casing(tuple(panels), across, high + GAP + LEAST)


def _stacked(faces: Sequence[Face], width_mm: int, height_mm: int, depth_mm: int, across: float) -> Casing:
    """The faces two abreast; each row is scaled by itself, so that a finger can find its place on every face."""
    wide = (across - GAP) / 2
    shape = {
        Face.FRONT: height_mm / width_mm,
        Face.LEFT: height_mm / depth_mm,
        Face.TOP: depth_mm / width_mm,
        Face.INSIDE: 0.6,
    }
    pairs = ((Face.FRONT, Face.BACK), (Face.LEFT, Face.RIGHT), (Face.TOP, Face.UNDERSIDE))
    rows = [tuple(face for face in pair if face in faces) for pair in pairs]
    more = [face for face in faces if face not in BOX]
    rows += [tuple(more[place : place + 2]) for place in range(0, len(more), 2)]
    panels: list[Panel] = []
    down = 0.0
    for row in filter(None, rows):
        high = min(max(wide * shape.get(row[0], 0.6), LEAST), wide)
        panels += [Panel(face, (wide + GAP) * place, down, wide, high) for place, face in enumerate(row)]
        down += high + GAP
    return Casing(tuple(panels), across, down - GAP)
