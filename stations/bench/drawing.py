"""What the bench draws: the limit band, a supply against its load, and how sure we are; as drawing units."""

import math
import sys
from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from core.bench.assurance import Sureness, clean_runs_needed
from core.bench.checks import Limits
from core.bench.electrics import LoadLine, load_line
from core.machine.scales import round_marks

WIDTH = 580.0
EDGE = 14.0
# How wide a figure of the even-spaced face is drawn: its size in the band, and the share of that it takes.
FIGURE = 15 * 0.62
# Limits this many times apart are drawn by decades.
DECADES = 20


@dataclass(frozen=True)
class Mark:
    x: float
    text: str


@dataclass(frozen=True)
class Band:
    """`low` and `high` are where the limits stand; `one_sided` bands begin at their low end. What is written of the
    nominal and of the reading stands at `nominal_text` and `now_text`, beside what is written of the limits."""

    low: Mark
    high: Mark
    nominal: Mark | None
    nominal_text: float
    now: Mark | None
    now_text: float
    spread: tuple[float, float] | None
    earlier: tuple[float, ...]
    one_sided: bool

    @property
    def start(self) -> float:
        """Where the allowed part begins."""
        return EDGE if self.one_sided else self.low.x

    @property
    def inside(self) -> float:
        """How wide the allowed part is."""
        return self.high.x - self.start

    @property
    def beyond(self) -> float:
        """From the high limit to the right end of the band."""
        return WIDTH - EDGE - self.high.x


def limit_band(limits: Limits, value: Decimal | None, uncertainty: Decimal | None, earlier: list[Decimal]) -> Band:
    """Lay the band out: the limits take the middle three fifths; what lies beyond the edge stands at the edge. Limits
    that are decades apart are drawn by decades, so that what is under the lower one is seen to be."""
    one_sided = limits.low == 0
    by_decades = limits.low > 0 and limits.high / limits.low >= DECADES

    def along(number: float) -> float:
        return math.log10(max(number, sys.float_info.min)) if by_decades else number

    low, high = along(float(limits.low)), along(float(limits.high))
    start = low if one_sided else low - (high - low) * 0.3
    span = (high - low) * (1.3 if one_sided else 1.6)

    def place(number: float) -> float:
        share = min(max((along(number) - start) / span, 0.0), 1.0)
        return EDGE + share * (WIDTH - 2 * EDGE)

    def mark(number: Decimal) -> Mark:
        return Mark(place(float(number)), f"{number:f}")

    spread = None
    if value is not None and uncertainty is not None:
        spread = (place(float(value - uncertainty)), place(float(value + uncertainty)))
    at_low, at_high = mark(limits.low), mark(limits.high)
    nominal = mark(limits.nominal) if limits.nominal else None
    now = mark(value) if value is not None else None
    return Band(
        at_low,
        at_high,
        nominal,
        _between(nominal, EDGE if one_sided else _end(at_low), at_high.x - _half(at_high)) if nominal else 0.0,
        now,
        _between(now, 0.0, WIDTH) if now else 0.0,
        spread,
        tuple(place(float(number)) for number in earlier),
        one_sided,
    )


def _half(mark: Mark) -> float:
    """Half of what its text takes, with room to the next."""
    return len(mark.text) * FIGURE / 2 + 3


def _end(mark: Mark) -> float:
    return mark.x + _half(mark)


def _between(mark: Mark, left: float, right: float) -> float:
    """Where the middle of its text stands: at the mark, or as near to it as it runs into nothing."""
    return min(max(mark.x, left + _half(mark)), right - _half(mark))


CHART = (560.0, 190.0)
LEFT, BOTTOM = 52.0, 160.0


@dataclass(frozen=True)
class LoadChart:
    """Volts over amperes: measured points, the line through them, limits, and what the line says."""

    line: LoadLine
    points: tuple[tuple[float, float], ...]
    start: tuple[float, float]
    end: tuple[float, float]
    limits: tuple[Mark, ...]
    volts: tuple[Mark, ...]
    amps: tuple[Mark, ...]


def load_chart(points: Sequence[Sequence[float]], limits: Limits) -> LoadChart:
    """Lay the points out; the axis of volts holds the points, not the limits when these are far away."""
    line = load_line([(a, v) for a, v in points])
    most = max(a for a, _ in points)
    seen = [v for _, v in points] + [line.no_load, line.at(most)]
    low, high = min(seen), max(seen)
    room = max((high - low) * 0.25, 0.01)
    low, high = low - room, high + room

    def across(amps: float) -> float:
        return round(LEFT + amps / most * (CHART[0] - LEFT - 20), 1)

    def up(volts: float) -> float:
        return round(BOTTOM - (volts - low) / (high - low) * (BOTTOM - 14), 1)

    def marks(values: Sequence[float], place, text: str) -> tuple[Mark, ...]:
        return tuple(Mark(place(value), format(value, text)) for value in values)

    inside = [float(x) for x in (limits.low, limits.high) if low <= float(x) <= high]
    return LoadChart(
        line,
        tuple((across(a), up(v)) for a, v in points),
        (across(0.0), up(line.no_load)),
        (across(most), up(line.at(most))),
        marks(inside, up, ".2f"),
        marks(round_marks(low, high), up, ".3f"),
        marks(sorted({0.0, most / 2, most}), across, ".2f"),
    )


@dataclass(frozen=True)
class SureBar:
    """How bad it could still be against what one would like to claim; and the clean starts there and wanted."""

    could_be: float
    claim: float
    ticks: tuple[tuple[float, bool], ...]


def sure_bar(sure: Sureness, width: float = 260.0) -> SureBar:
    needed = clean_runs_needed(1 - sure.claim)
    step = width / needed
    ticks = tuple((round(place * step, 1), place < needed - sure.more) for place in range(needed))
    return SureBar(round(sure.could_be * width, 1), round(sure.claim * width, 1), ticks)
