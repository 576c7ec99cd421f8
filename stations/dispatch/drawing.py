"""The parcel drawn to scale, seen from the front and from above: thing, padding, inner box, outer box."""

from dataclasses import dataclass

from core.selling.packing import Packed, Size

WIDE, TALL, BETWEEN = 190.0, 150.0, 20.0


@dataclass(frozen=True)
class Rectangle:
    """In units of the drawing, from its left upper corner."""

    kind: str
    x: float
    y: float
    width: float
    height: float


@dataclass(frozen=True)
class View:
    name: str
    x: float
    rectangles: tuple[Rectangle, ...]
    words: str


@dataclass(frozen=True)
class PackDrawing:
    width: float
    height: float
    views: tuple[View, ...]


def _turned(need: Size, room: Size, *, upright: bool) -> tuple[int, int, int]:
    """The edges of what lies within, along those of the room: the longest along the longest; an upright one keeps its
    height."""
    if upright:
        pair = sorted(need.edges[:2]) if room.length <= room.width else sorted(need.edges[:2], reverse=True)
        return pair[0], pair[1], need.height
    order = sorted(range(3), key=lambda place: room.edges[place])
    edges = [0, 0, 0]
    for place, edge in zip(order, sorted(need.edges), strict=True):
        edges[place] = edge
    return edges[0], edges[1], edges[2]


def pack_drawing(thing: Size, packed: Packed, *, upright: bool) -> PackDrawing:
    """Both views at one scale; what lies within stands in the middle."""
    outer = packed.outer
    layers: list[tuple[str, tuple[int, int, int]]] = [("outer", outer.outer.edges), ("room", outer.inner.edges)]
    within = outer.inner
    if packed.inner:
        inner = _turned(packed.inner.outer, within, upright=upright)
        layers.append(("inner", inner))
        within = Size(*inner)
    layers.append(("thing", _turned(thing, within, upright=upright)))
    length, depth, height = outer.outer.edges
    scale = min(WIDE / length, TALL / max(height, depth))
    views = []
    for name, x, across in (("from the front", 0.0, 2), ("from above", length * scale + BETWEEN, 1)):
        rectangles = tuple(
            Rectangle(
                kind,
                round(x + (length - edges[0]) * scale / 2, 1),
                round((outer.outer.edges[across] - edges[across]) * scale / 2, 1),
                round(edges[0] * scale, 1),
                round(edges[across] * scale, 1),
            )
            for kind, edges in layers
        )
        views.append(View(name, round(x, 1), rectangles, f"{length} × {outer.outer.edges[across]} mm"))
    return PackDrawing(round(2 * length * scale + BETWEEN, 1), round(max(height, depth) * scale, 1), tuple(views))
