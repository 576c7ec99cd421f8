"""The drawing of a whitening: what was measured, how it falls, and where it may stop."""

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from core.workshop.care.fall import STOP_AT
from core.workshop.care.strength import Mixture
from stations.workshop.care import CoatOnIt, Painting, Whitening

WIDE, HIGH = 520.0, 150.0
LEFT, TOP, FOOT = 30.0, 14.0, 24.0


@dataclass(frozen=True)
class Point:
    """A reading, or what is expected: its place, its figure, and from where to where its spots lie."""

    x: float
    y: float
    words: str
    high: float | None = None
    low: float | None = None

    @property
    def left(self) -> float:
        return self.x - 4

    @property
    def top(self) -> float:
        return self.y - 4

    @property
    def words_x(self) -> float:
        return min(WIDE - 26, self.x + 8)

    @property
    def words_y(self) -> float:
        return max(11.0, self.y - 7)


@dataclass(frozen=True)
class Cylinder:
    """So much in a measuring cylinder, 0 to 98 pixels high on the scale of the whole mixture."""

    ml: Decimal
    whole: Decimal
    words: str
    under: str
    fill: str
    sign: str = ""

    @property
    def high(self) -> float:
        return 96 * float(self.ml / self.whole) if self.whole else 0.0

    @property
    def top(self) -> float:
        return 99 - self.high


def cylinders_of(mixture: Mixture) -> list[Cylinder]:
    """The bottle, the water and what they make."""
    whole = mixture.total_ml
    return [
        Cylinder(mixture.bottle_ml, whole, f"{mixture.bottle_percent:.1f} %", "the bottle", "p-yellow", "+"),
        Cylinder(mixture.water_ml, whole, "water", "deionised", "p-maybe", "="),
        Cylinder(whole, whole, f"{mixture.percent:.1f} %", "on the case", "p-come"),
    ]


@dataclass(frozen=True)
class FallDrawn:
    points: tuple[Point, ...]
    line: str
    expected: str
    ends: tuple[Point, ...]
    ticks: tuple[tuple[float, str], ...]
    steps: tuple[tuple[float, str], ...]
    stop_y: float
    floor_y: float

    @property
    def stop_high(self) -> float:
        return self.floor_y - self.stop_y

    @property
    def stop_words_y(self) -> float:
        return self.stop_y + 13


def fall_drawn(whitening: Whitening) -> FallDrawn | None:
    """None while nothing was measured."""
    if not whitening.readings:
        return None
    rounds, found = whitening.rounds, whitening.advice.fall
    until = max([one.end for one in rounds] or [2.0])
    top = max(4.0, *(max(one.spots) for one in whitening.readings)) * 1.1

    def x(hours: float) -> float:
        return LEFT + (WIDE - LEFT - 20) * hours / until

    def y(value: float) -> float:
        return HIGH - FOOT - (HIGH - FOOT - TOP) * value / top

    points = [
        Point(
            x(one.hours),
            y(one.value),
            f"{one.value:.1f}",
            y(max(one.spots)) if len(one.spots) > 1 else None,
            y(min(one.spots)) if len(one.spots) > 1 else None,
        )
        for one in whitening.readings
    ]
    last = whitening.readings[-1].hours
    ahead = [one.end for one in rounds if one.end > last]
    ends = [Point(x(hours), y(found.at(hours)), f"{found.at(hours):.1f}") for hours in ahead] if found else []
    curve = [(x(h), y(found.at(h))) for h in _between(last, until)] if found and ahead else []
    return FallDrawn(
        tuple(points),
        _path([(one.x, one.y) for one in points]),
        _path(curve),
        tuple(ends),
        tuple((x(hours), f"{hours:g} h") for hours in [0.0, *(one.end for one in rounds)]),
        tuple((y(value), f"{value:g}") for value in range(0, int(top) + 1, 2)),
        y(STOP_AT),
        y(0),
    )


def _between(start: float, end: float, count: int = 24) -> Sequence[float]:
    return [start + (end - start) * place / count for place in range(count + 1)]


def _path(points: Sequence[tuple[float, float]]) -> str:
    return "M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in points) if points else ""


@dataclass(frozen=True)
class CoatDrawn:
    """A row: the layer in the section at the left, and its window or when it was laid."""

    coat: CoatOnIt
    y: float
    start: float
    wide: float
    words: str

    @property
    def before(self) -> bool:
        """Its words stand before it, where they would run over the edge after it."""
        return self.start + 22 + 7 * len(self.words) > WIDE


@dataclass(frozen=True)
class PaintingDrawn:
    rows: tuple[CoatDrawn, ...]
    ticks: tuple[tuple[float, str], ...]
    now: float | None
    high: float


ROW, BARS_AT, BARS_WIDE = 22.0, 150.0, 360.0
MOST_HOURS = 96.0


def painting_drawn(painting: Painting) -> PaintingDrawn:
    """The last coat on top, as it lies; a window that stays open runs to the edge."""
    ends = [coat.closes if coat.closes is not None else coat.opens + 12 for coat in painting.coats]
    until = min(MOST_HOURS, max([6.0, *ends, *([painting.now] if painting.now else [])]))

    def x(hours: float) -> float:
        return BARS_AT + BARS_WIDE * min(max(hours, 0), until) / until

    count = len(painting.coats)
    rows = []
    for place, coat in enumerate(painting.coats):
        y = 8 + ROW * (count - 1 - place)
        if coat.laid is not None:
            rows.append(CoatDrawn(coat, y, x(coat.laid) - 5, 10, f"laid after {_hours(coat.laid)}"))
            continue
        closes = coat.closes if coat.closes is not None else until
        words = f"from {_hours(coat.opens)}{f' to {_hours(coat.closes)}' if coat.closes is not None else ' on'}"
        words = f"{words}: too late, see what to do" if coat.late else words
        rows.append(CoatDrawn(coat, y, x(coat.opens), max(3.0, x(closes) - x(coat.opens)), words))
    step = next(one for one in (1, 2, 6, 12, 24) if until / one <= 8)
    ticks = [(x(hours), f"{hours} h") for hours in range(0, int(until) + 1, step)]
    now = x(painting.now) if painting.now is not None and painting.now <= until else None
    return PaintingDrawn(tuple(rows), tuple(ticks), now, 8 + ROW * count + 22)


def _hours(hours: float) -> str:
    return f"{round(60 * hours)} min" if hours < 1 else f"{hours:.1f} h".replace(".0 h", " h")
