"""The profit at a bid as a distribution, and where to stop bidding, laid out."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from decimal import Decimal

import numpy as np

from core.buying.bid import AtBid, Forecast, Limit, Question
from core.machine.scales import round_marks, round_step
from stations.buying.models import PlanCase

WIDTH, BASE = 500.0, 170.0
BINS = 24


@dataclass(frozen=True)
class Bar:
    x: float
    y: float
    width: float
    height: float
    loss: bool


@dataclass(frozen=True)
class Tick:
    x: float
    text: str


@dataclass(frozen=True)
class Distribution:
    """Bars of profit; `even` is where profit is 0; the whisker holds 8 of 10, `mean` is marked on it."""

    bars: tuple[Bar, ...]
    ticks: tuple[Tick, ...]
    even: float
    low: float
    high: float
    mean: float

    @property
    def words_shift(self) -> float:
        """How far the words over `even` move so that they stay in the picture."""
        return round(min(max(self.even, 110.0), 390.0) - self.even, 1)


def distribution(drawn: Forecast, at: AtBid) -> Distribution:
    """Bars as wide as a round number of euro, with 0 always on an edge and always in the picture."""
    profits = drawn.profits(at.bid)
    least, most = np.quantile(profits, (0.005, 0.995))
    least, most = min(float(least), 0.0), max(float(most), 0.0)
    step = round_step((most - least) / BINS or 1.0)
    first, last = int(np.floor(least / step)), int(np.ceil(most / step)) or 1
    edges = np.arange(first, last + 1) * step
    counts, _ = np.histogram(np.clip(profits, edges[0], edges[-1]), edges)
    scale = WIDTH / (edges[-1] - edges[0])
    tallest = max(int(counts.max()), 1)

    def across(amount: float) -> float:
        return round((min(max(amount, edges[0]), edges[-1]) - edges[0]) * scale, 1)

    bars = tuple(
        Bar(
            across(edge) + 0.75,
            round(BASE - count / tallest * 128, 1),
            round(step * scale - 1.5, 1),
            round(count / tallest * 128, 1),
            edge < 0,
        )
        for edge, count in zip(edges[:-1], counts, strict=True)
        if count
    )
    marks = round_marks(edges[0], edges[-1], 5)
    ticks = tuple(Tick(across(mark), f"{mark:+,.0f}".replace("-", "−").replace("+0", "0")) for mark in marks)
    low, high = np.quantile(profits, (0.1, 0.9))
    return Distribution(bars, ticks, across(0.0), across(float(low)), across(float(high)), across(at.profit))


@dataclass(frozen=True)
class Mark:
    name: str
    x: float
    y: float
    text: str

    @property
    def shape(self) -> str:
        return limit_shape(self.name)


def limit_shape(name: str) -> str:
    """The outline of the mark of a limit, around 0: a square for the margin, a diamond for the loss, else a circle."""
    return {"margin": "M-7-7h14v14h-14z", "loss": "M0-9L9 0 0 9-9 0z"}.get(name, "M-7 0a7 7 0 1 0 14 0a7 7 0 1 0-14 0z")


@dataclass(frozen=True)
class StopLine:
    """The scale of bids with our bid and the limits on it; labels that would touch stand on two levels."""

    marks: tuple[Mark, ...]
    ours: float
    ticks: tuple[Tick, ...]


def stop_line(bid: Decimal, limits: tuple[Limit, ...]) -> StopLine:
    amounts = [float(bid), *(float(limit.bid) for limit in limits if limit.bid is not None)]
    low, high = min(amounts), max(amounts)
    room = max((high - low) * 0.18, high * 0.08, 10.0)
    start, end = max(0.0, low - room), high + room

    def across(amount: float) -> float:
        return round(10 + (amount - start) / (end - start) * (WIDTH - 20), 1)

    marks: list[Mark] = []
    for limit in sorted((limit for limit in limits if limit.bid is not None), key=lambda item: item.bid or 0):
        x = across(float(limit.bid or 0))
        crowded = bool(marks) and x - marks[-1].x < 52
        marks.append(Mark(limit.name, x, 12.0 if crowded and marks[-1].y > 20 else 26.0, f"{int(limit.bid or 0):,}"))
    scale = round_marks(start, end, 5)
    return StopLine(
        tuple(marks),
        across(float(bid)),
        tuple(Tick(across(a), f"{a:,.0f}") for a in scale),
    )


@dataclass(frozen=True)
class Swing:
    """How far an answer may move our limit: lengths left and right of today's, on one scale for all questions."""

    down: float
    up: float

    @property
    def left(self) -> float:
        """Where the length to the left begins, on a scale of 100 with today in the middle."""
        return round(50 - self.down, 1)


SWING = 46.0


def moves(questions: Sequence[Question]) -> tuple[Swing, ...]:
    most = max([Decimal(1), *(max(-q.lowers, q.lifts) for q in questions)])
    return tuple(
        Swing(round(float(-q.lowers / most) * SWING, 1), round(float(q.lifts / most) * SWING, 1)) for q in questions
    )


@dataclass(frozen=True)
class Piece:
    outcome: str
    x: float
    width: float


def odds_bar(cases: Iterable[PlanCase]) -> tuple[Piece, ...]:
    """The odds of a line's cases as pieces of a bar 100 wide, end to end; under half a hundredth is left out."""
    pieces, start = [], 0.0
    for case in cases:
        width = float(case.odds) * 100
        if width >= 0.5:
            pieces.append(Piece(case.outcome, round(start, 1), round(width, 1)))
        start += width
    return tuple(pieces)
