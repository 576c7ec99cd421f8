"""The condition map: panels, details and pins of one unit, ready to be drawn."""

from dataclasses import dataclass

from core.intake.casing import Casing, Face, FormFactor, Panel, stack, unfold
from stations.intake.models import Finding, Unit

# Outer measures in mm for a unit whose model is not known yet.
USUAL_SIZE = {
    FormFactor.KEYBOARD: (420, 75, 220),
    FormFactor.DESKTOP: (400, 150, 400),
    FormFactor.TOWER: (180, 420, 420),
    FormFactor.ALL_IN_ONE: (300, 340, 300),
    FormFactor.LAPTOP: (310, 60, 260),
    FormFactor.LUGGABLE: (480, 230, 390),
    FormFactor.MONITOR: (360, 320, 360),
    FormFactor.BOARD: (330, 40, 220),
    FormFactor.DRIVE: (150, 60, 200),
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
    size = (unit.model.width_mm, unit.model.height_mm, unit.model.depth_mm) if unit.model else USUAL_SIZE[form]
    casing = (stack if narrow else unfold)(*size)
    pins = []
    for number, finding in enumerate(findings, 1):
        panel = casing.panel(Face(finding.face))
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
    """Enough of the machine to know which way up it is: screen, keys, slots, vents, feet."""
    front, back = casing.panel(Face.FRONT), casing.panel(Face.BACK)
    top, under = casing.panel(Face.TOP), casing.panel(Face.UNDERSIDE)
    shapes = [_on(back, "port", 0.08 + 0.22 * i, 0.25, 0.16, 0.22) for i in range(3)]
    shapes.append(_on(back, "plate", 0.66, 0.6, 0.26, 0.26))
    shapes += [_on(under, "foot", x, y, 0.06, 0.1) for x in (0.06, 0.88) for y in (0.1, 0.8)]
    for side in (Face.LEFT, Face.RIGHT):
        shapes += [_on(casing.panel(side), "vent", 0.2, 0.2 + 0.1 * i, 0.6, 0.0) for i in range(4)]
    screens = {
        FormFactor.ALL_IN_ONE: (0.14, 0.1, 0.72, 0.5),
        FormFactor.MONITOR: (0.1, 0.1, 0.8, 0.7),
        FormFactor.LUGGABLE: (0.06, 0.14, 0.42, 0.64),
    }
    if form in screens:
        shapes.append(_on(front, "screen", *screens[form]))
    if form in {FormFactor.ALL_IN_ONE, FormFactor.LUGGABLE, FormFactor.DESKTOP, FormFactor.TOWER, FormFactor.DRIVE}:
        where = {
            FormFactor.ALL_IN_ONE: (0.5, 0.76, 0.36, 0.06),
            FormFactor.LUGGABLE: (0.56, 0.22, 0.38, 0.16),
            FormFactor.DESKTOP: (0.5, 0.25, 0.42, 0.2),
            FormFactor.TOWER: (0.14, 0.1, 0.72, 0.08),
            FormFactor.DRIVE: (0.1, 0.4, 0.8, 0.2),
        }[form]
        shapes.append(_on(front, "slot", *where))
    if form in {FormFactor.KEYBOARD, FormFactor.LAPTOP}:
        shapes += [_on(top, "keys", 0.08, 0.28 + 0.16 * i, 0.78, 0.1) for i in range(4)]
    elif form is not FormFactor.BOARD:
        shapes += [_on(top, "vent", 0.2, 0.3 + 0.1 * i, 0.6, 0.0) for i in range(4)]
    if form is FormFactor.BOARD:
        shapes += [_on(top, "chip", 0.1 + 0.28 * (i % 3), 0.15 + 0.4 * (i // 3), 0.2, 0.22) for i in range(6)]
    return shapes


def _on(panel: Panel, kind: str, x: float, y: float, width: float, height: float) -> Detail:
    return Detail(
        kind, panel.x + x * panel.width, panel.y + y * panel.height, width * panel.width, height * panel.height
    )
