"""The condition map: panels, details and pins of one unit, ready to be drawn."""

from dataclasses import dataclass

from core.machine.casing import Casing, Face, FormFactor, Panel, lay_out
from stations.units.models import Finding, Unit

# Outer measures in mm for a unit whose model, or how large that is, is not known yet.
USUAL_SIZE = {
    FormFactor.KEYBOARD: (420, 75, 220),
    FormFactor.DESKTOP: (400, 150, 400),
    FormFactor.TOWER: (180, 420, 420),
    FormFactor.ALL_IN_ONE: (300, 340, 300),
    FormFactor.LAPTOP: (310, 60, 260),
    FormFactor.LUGGABLE: (480, 230, 390),
    FormFactor.TERMINAL: (380, 340, 360),
    FormFactor.MONITOR: (360, 320, 360),
    FormFactor.BOARD: (330, 40, 220),
    FormFactor.DRIVE: (150, 60, 200),
    FormFactor.CARD: (330, 30, 110),
    FormFactor.CHIP: (50, 10, 16),
    FormFactor.CABINET: (410, 160, 420),
    FormFactor.ADAPTER: (80, 60, 110),
}


@dataclass(frozen=True)
class Detail:
    """A shape on a face: `kind` names its style, measures in drawing units."""

    kind: str
    x: float
    y: float
    width: float
    height: float


@dataclass(frozen=True)
class Pin:
    number: int
    finding: Finding
    x: float
    y: float
    damage_width: float
    damage_height: float


@dataclass(frozen=True)
class ConditionMap:
    casing: Casing
    details: tuple[Detail, ...]
    pins: tuple[Pin, ...]


def condition_map(unit: Unit, findings: list[Finding], narrow: bool = False) -> ConditionMap:
    """Lay out the unit's case from its model's measures (or the usual ones of its shape) with its findings.

    Unfolded for a desk; `narrow` stacks the faces two abreast for a phone.
    """
    form = FormFactor(unit.form_factor)
    size = (unit.model and unit.model.size) or USUAL_SIZE[form]
    casing = lay_out(form, *size, narrow=narrow)
    pins = []
    for number, finding in enumerate(findings, 1):
        # A finding from before the shape was put right may lie on a face that this shape has not.
        panel = casing.panel(Face(finding.face)) or casing.panels[0]
        side = (finding.extent_percent / 100) ** 0.5
        pins.append(
            Pin(
                number,
                finding,
                panel.x + finding.x * panel.width,
                panel.y + finding.y * panel.height,
                max(14.0, panel.width * side),
                max(10.0, panel.height * side),
            )
        )
    return ConditionMap(casing, tuple(_details(casing, form)), tuple(pins))


def _details(casing: Casing, form: FormFactor) -> list[Detail]:
    """Enough of the machine to know which way up it is: screen, keys, slots, vents, feet, chips."""
    shapes: list[Detail] = []

    def draw(face: Face, kind: str, *boxes: tuple[float, float, float, float]) -> None:
        panel = casing.panel(face)
        if panel:
            shapes.extend(_on(panel, kind, *box) for box in boxes)

    if form is FormFactor.CHIP:
        draw(Face.TOP, "chip", (0.1, 0.25, 0.8, 0.5))
        draw(Face.UNDERSIDE, "foot", *((0.12 + 0.1 * i, y, 0.04, 0.12) for i in range(8) for y in (0.15, 0.73)))
        return shapes
    if form in {FormFactor.BOARD, FormFactor.CARD}:
        draw(Face.TOP, "chip", *((0.08 + 0.3 * (i % 3), 0.12 + 0.42 * (i // 3), 0.22, 0.24) for i in range(6)))
        draw(Face.TOP, "edge", (0.12, 0.94, 0.6, 0.06))
        draw(Face.UNDERSIDE, "edge", (0.28, 0.94, 0.6, 0.06))
        draw(Face.UNDERSIDE, "track", *((0.1, 0.18 + 0.16 * i, 0.5 + 0.1 * (i % 3), 0.0) for i in range(5)))
        draw(Face.BACK, "port", (0.12, 0.25, 0.24, 0.5), (0.5, 0.25, 0.16, 0.5))
        return shapes
    vents = tuple((0.2, 0.3 + 0.1 * i, 0.6, 0.0) for i in range(4))
    keys = tuple((0.08, 0.16 + 0.2 * i, 0.84, 0.14) for i in range(4))
    draw(Face.BACK, "port", *((0.08 + 0.22 * i, 0.25, 0.16, 0.22) for i in range(3)))
    draw(Face.BACK, "plate", (0.66, 0.6, 0.26, 0.26))
    draw(Face.UNDERSIDE, "foot", *((x, y, 0.06, 0.1) for x in (0.06, 0.88) for y in (0.1, 0.8)))
    draw(Face.LEFT, "vent", *((0.2, 0.2 + 0.1 * i, 0.6, 0.0) for i in range(4)))
    draw(Face.RIGHT, "vent", *((0.2, 0.2 + 0.1 * i, 0.6, 0.0) for i in range(4)))
    draw(Face.SCREEN, "screen", (0.08, 0.1, 0.84, 0.8))
    draw(Face.KEYBOARD, "keys", *keys)
    draw(Face.INSIDE, "chip", (0.06, 0.2, 0.3, 0.6), (0.42, 0.2, 0.16, 0.25), (0.42, 0.55, 0.16, 0.25))
    draw(Face.INSIDE, "slot", (0.66, 0.2, 0.28, 0.6))
    if form in _SCREENS:
        draw(Face.FRONT, "screen", _SCREENS[form])
    if form in _SLOTS:
        draw(Face.FRONT, "slot", _SLOTS[form])
    if form is FormFactor.KEYBOARD:
        draw(Face.TOP, "keys", *((0.08, 0.28 + 0.16 * i, 0.78, 0.1) for i in range(4)))
    elif form is not FormFactor.LAPTOP:
        draw(Face.TOP, "vent", *vents)
    return shapes


# Where the screen and the drive stand on a front, as shares of it.
_SCREENS = {
    FormFactor.ALL_IN_ONE: (0.14, 0.1, 0.72, 0.5),
    FormFactor.TERMINAL: (0.12, 0.1, 0.76, 0.62),
    FormFactor.MONITOR: (0.1, 0.1, 0.8, 0.7),
    FormFactor.LUGGABLE: (0.06, 0.14, 0.42, 0.64),
}
_SLOTS = {
    FormFactor.ALL_IN_ONE: (0.5, 0.76, 0.36, 0.06),
    FormFactor.LUGGABLE: (0.56, 0.22, 0.38, 0.16),
    FormFactor.DESKTOP: (0.5, 0.25, 0.42, 0.2),
    FormFactor.TOWER: (0.14, 0.1, 0.72, 0.08),
    FormFactor.DRIVE: (0.1, 0.4, 0.8, 0.2),
    FormFactor.CABINET: (0.14, 0.1, 0.72, 0.12),
}


def _on(panel: Panel, kind: str, x: float, y: float, width: float, height: float) -> Detail:
    return Detail(
        kind, panel.x + x * panel.width, panel.y + y * panel.height, width * panel.width, height * panel.height
    )
