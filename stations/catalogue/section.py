"""The section through a machine, drawn from its assemblies: slabs by layer, pins, the way through them.

Geometry only; every number here is one of the data. One function takes the width it is drawn for; it is called again
for another one, never scaled down.
"""

from collections import defaultdict
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum
from itertools import pairwise

from core.catalogue.assemblies import Assembly, StripDown

DESK, PHONE = 456.0, 358.0  # px a section is drawn wide
GUTTER, TOP, ROW, THIN, GAP = 34.0, 26.0, 50.0, 26.0, 24.0
RING = 15.0
LETTER = 6.4  # width of a letter of 12.5 px, on average
FOLD_OVER = 14  # so many assemblies are drawn all; beyond, what is not concerned folds
ROWS = 7  # so many rows; beyond, layers that are all off fold to a band
PINS, PIN_ROOM = 8, 13.0
NARROW = 90.0


class Look(StrEnum):
    """How a slab is drawn: what state its assembly is in."""

    STAYS = "stays"
    OFF = "off"
    SAFE = "safe"
    NOW = "now"
    NEXT = "next"
    GOAL = "goal"
    HELD = "held"
    GONE = "gone"


@dataclass(frozen=True)
class Mark:
    """What is shown of one assembly: its look, the words under its name, its number on the way, letters of open work,
    fasteners that are out or short, whether a gate lies under it, and whether it is on the way at all."""

    look: Look = Look.STAYS
    words: str = ""
    step: int = 0
    done: bool = False
    letters: tuple[str, ...] = ()
    out: int = 0
    short: int = 0
    gate: str = ""


@dataclass(frozen=True)
class Pin:
    x: float
    y: float
    state: str  # "in", "out" or "short"


@dataclass(frozen=True)
class Slab:
    """One assembly, or what is left of a layer folded (`name` empty)."""

    name: str
    title: str
    words: str
    mark: Mark
    x: float
    y: float
    width: float
    height: float
    pins: tuple[Pin, ...] = ()
    more_pins: int = 0
    layer: int = 0

    @property
    def ring_x(self) -> float:
        return self.x + min(RING + 8, self.width / 2)

    @property
    def ring_y(self) -> float:
        return self.y + self.height / 2

    @property
    def text_x(self) -> float:
        return self.x + (RING * 2 + 14 if self.mark.step else 10)

    @property
    def narrow(self) -> bool:
        """Too narrow for its name: that is said below the drawing."""
        return self.width < NARROW and self.title != self.name

    @property
    def tells_more(self) -> bool:
        """Room to say how many fasteners are not drawn."""
        return self.more_pins > 0 and self.width >= NARROW

    @property
    def right(self) -> float:
        return self.x + self.width

    @property
    def bottom(self) -> float:
        return self.y + self.height


@dataclass(frozen=True)
class Band:
    """Layers that are all off, folded to one dashed line."""

    y: float
    words: str


@dataclass(frozen=True)
class Row:
    layer: int
    y: float


@dataclass(frozen=True)
class Section:
    width: float
    height: float
    slabs: tuple[Slab, ...]
    rows: tuple[Row, ...]
    bands: tuple[Band, ...]
    done: str  # the way so far and the way to come, as points of a line
    to_come: str
    names: tuple[Slab, ...] = field(default=())  # those too narrow for their name, to be listed below


def draw(
    strip: StripDown,
    marks: Mapping[str, Mark],
    way: Sequence[str],
    width: float,
    *,
    back: bool = False,
    unfold: Collection[str] = (),
) -> Section:
    """Draw the section `width` px wide; `way` in the order of its steps, from outside in or `back` out again.

    Nothing to draw: an empty section.
    """
    if not len(strip):
        return Section(width, 0, (), (), (), "", "")
    left = min(a.x_from for a in strip.assemblies.values())
    scale = (width - GUTTER - 2) / max(1, max(a.x_to for a in strip.assemblies.values()) - left)
    whole, by_layer = len(strip) <= FOLD_OVER, _by_layer(strip)
    folded = set() if "layers" in unfold else _folded_layers(by_layer, marks)
    slabs: list[Slab] = []
    rows: list[Row] = []
    bands: list[Band] = []
    y = TOP
    for layer, assemblies in by_layer.items():
        if layer in folded:
            if layer == min(folded):
                trays = sum(1 for a in strip.assemblies.values() if a.layer in folded)
                bands.append(Band(y, _band(folded, trays)))
                y += THIN + 8
            continue
        rows.append(Row(layer, y))
        shown = [a for a in assemblies if whole or _concerned(a, marks) or f"layer {layer}" in unfold]
        for lane in _lanes([(a, *_extent(a, left, scale, width)) for a in shown]):
            slabs += [_slab(a, marks.get(a.name, Mark()), x, y, wide, ROW) for a, x, wide in lane]
            y += ROW + GAP
        if rest := len(assemblies) - len(shown):
            title = f"{rest} more {'stays' if rest == 1 else 'stay'}"
            slabs.append(Slab("", title, "", Mark(), GUTTER, y, width - GUTTER - 6, THIN, layer=layer))
            y += THIN + 10
    done, to_come = _path([s for name in way for s in slabs if s.name == name], back)
    names = tuple(slab for slab in slabs if slab.name and slab.narrow)
    return Section(width, y, tuple(slabs), tuple(rows), tuple(bands), done, to_come, names)


def _by_layer(strip: StripDown) -> dict[int, list[Assembly]]:
    found: dict[int, list[Assembly]] = defaultdict(list)
    for assembly in sorted(strip.assemblies.values(), key=lambda a: (a.layer, a.x_from, a.name)):
        found[assembly.layer].append(assembly)
    return dict(found)


def _concerned(assembly: Assembly, marks: Mapping[str, Mark]) -> bool:
    """On the way, off, in hand, or with open work: what the drawing is about."""
    mark = marks.get(assembly.name, Mark())
    return bool(mark.step or mark.letters or mark.look is not Look.STAYS)


def _folded_layers(by_layer: Mapping[int, Sequence[Assembly]], marks: Mapping[str, Mark]) -> set[int]:
    """The outermost layers that are all off, when there are more rows than fit."""
    if len(by_layer) <= ROWS:
        return set()
    folded: set[int] = set()
    for layer, assemblies in by_layer.items():
        if any(marks.get(a.name, Mark()).look is not Look.OFF for a in assemblies):
            break
        folded.add(layer)
    return folded if len(folded) > 1 else set()


def _band(folded: Collection[int], trays: int) -> str:
    return f"layers {min(folded)}–{max(folded)} off, {trays} trays"


def _extent(assembly: Assembly, left: float, scale: float, width: float) -> tuple[float, float]:
    """Where it begins and how wide it is drawn: as wide as it is, but never too narrow to be seen."""
    wide = max(24.0, (assembly.x_to - assembly.x_from) * scale - 4)
    return min(GUTTER + (assembly.x_from - left) * scale, width - wide), wide


def _lanes(drawn: Sequence[tuple[Assembly, float, float]]) -> list[list[tuple[Assembly, float, float]]]:
    """What lies beside each other in a row; what overlaps another of its layer gets a row of its own below."""
    lanes: list[list[tuple[Assembly, float, float]]] = []
    for one in sorted(drawn, key=lambda one: one[1]):
        lane = next((lane for lane in lanes if lane[-1][1] + lane[-1][2] <= one[1]), None)
        if lane is None:
            lanes.append([one])
        else:
            lane.append(one)
    return lanes


def _slab(assembly: Assembly, mark: Mark, x: float, y: float, width: float, height: float) -> Slab:
    pins = tuple(_pins(assembly, mark, x, y + height, width))
    room = width - (RING * 2 + 18 if mark.step else 14)
    return Slab(
        assembly.name,
        _fitted(assembly.name, room, LETTER),
        _fitted(mark.words, room, LETTER * 0.9),
        mark,
        round(x, 1),
        round(y, 1),
        round(width, 1),
        height,
        pins,
        assembly.fastener_count - len(pins),
        assembly.layer,
    )


def _fitted(words: str, room: float, letter: float) -> str:
    """As much of the words as fit, with a mark that some are left out."""
    most = int(room / letter)
    if len(words) <= most:
        return words
    return words[: most - 1].rstrip(" ,") + "…" if most > 2 else ""


def _pins(assembly: Assembly, mark: Mark, x: float, y: float, width: float) -> list[Pin]:
    # Never so close that one covers the next.
    count = min(PINS, assembly.fastener_count, max(1, int(width / PIN_ROOM)))
    pins = []
    for number in range(count):
        at = x + width * (number + 1) / (count + 1)
        state = "short" if number >= count - mark.short else "out" if number < mark.out else "in"
        pins.append(Pin(round(at, 1), y, state))
    return pins


def _path(slabs: Sequence[Slab], back: bool) -> tuple[str, str]:
    """The way from ring to ring through the gap above each row: what is done, and what is to come from there. It comes
    from outside, or goes there."""
    if not slabs:
        return "", ""
    outside = [(slabs[-1 if back else 0].ring_x, 6.0)]
    legs: list[list[tuple[float, float]]] = [
        [(before.ring_x, gap), (after.ring_x, gap), (after.ring_x, after.ring_y)]
        for before, after in pairwise(slabs)
        for gap in [max(before.y, after.y) - GAP / 2]
    ]
    legs.insert(0, [*([] if back else outside), (slabs[0].ring_x, slabs[0].ring_y)])
    in_hand = any(slab.mark.look in {Look.NOW, Look.HELD} for slab in slabs)
    reached = min(sum(slab.mark.done for slab in slabs) + in_hand, len(slabs))
    solid = [point for leg in legs[:reached] for point in leg]
    dotted = [*solid[-1:], *(point for leg in legs[reached:] for point in leg), *(outside if back else [])]
    return _points(solid) if len(solid) > 1 else "", _points(dotted) if len(dotted) > 1 else ""


def _points(points: Sequence[tuple[float, float]]) -> str:
    return " ".join(f"{x:.1f},{y:.1f}" for x, y in points)
