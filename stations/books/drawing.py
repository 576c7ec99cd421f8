"""The waterfall of what a unit or a lot cost and brought, laid out."""

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from math import log

from core.books.earnings import Earnings
from core.books.pays import Likely
from core.money import ZERO

# Columns stand left of 372; the rest is for the words at the line of all costs.
WIDTH, BASE = 372.0, 176.0
BRIDGE_WIDTH = 464.0
COLUMN_SHARE = 0.86  # of a step; the rest is the gap to the next column


@dataclass(frozen=True)
class Column:
    label: str
    amount: Decimal
    x: float
    y: float
    height: float
    middle: float
    kind: str  # gone, in, come; of a bridge: stood, came, went


@dataclass(frozen=True)
class Waterfall:
    columns: tuple[Column, ...]
    width: float
    cost_y: float
    step: float


@dataclass(frozen=True)
class Span:
    """From `low` to `high` with `at` between them, on a scale on which `zero` lies."""

    low: float
    at: float
    high: float
    zero: float


def spans(kinds: Sequence[Likely | None], width: float = 300.0) -> list[Span | None]:
    """What is thought of each on a common scale, 0 within it; None for one of which nothing is."""
    ends = [end for one in kinds if one for end in (one.low, one.high)]
    low, high = min([0.0, *ends]), max([0.0, *ends])
    scale = (width - 16) / ((high - low) or 1.0)

    def x(value: float) -> float:
        return round(8 + (value - low) * scale, 1)

    return [Span(x(one.low), x(one.at), x(one.high), x(0.0)) if one else None for one in kinds]


def times(low: float, at: float, high: float, most: float, width: float = 300.0) -> Span:
    """So many times what was thought, which lies in the middle: as much again to the right as half of it to the left,
    up to `most` times; what lies farther out at the edge."""

    def x(value: float) -> float:
        place = log(min(max(value, 1 / most), most)) / log(most) if value > 0 else -1.0
        return round(width / 2 + place * (width / 2 - 8), 1)

    return Span(x(low), x(at), x(high), x(1.0))


@dataclass(frozen=True)
class Bridge:
    """From one stock to another: `columns` on a common scale, and the line at 0."""

    columns: tuple[Column, ...]
    width: float
    zero: float


def bridge(begins: tuple[str, Decimal], steps: Sequence[tuple[str, Decimal]], ends: str) -> Bridge:
    """What stood, what came and went, what stands then: each step begins where the one before it ended."""
    name, running = begins
    spans = [(name, ZERO, running, "stood")]
    for label, amount in steps:
        spans.append((label, running, running + amount, "came" if amount >= 0 else "went"))
        running += amount
    spans.append((ends, ZERO, running, "stood"))
    levels = [level for _, start, end, _ in spans for level in (start, end)]
    low, high = min(levels), max(*levels, Decimal(1))
    scale, step = (BASE - 26) / float(high - low), BRIDGE_WIDTH / len(spans)

    def y(level: Decimal) -> float:
        return round(BASE - float(level - low) * scale, 1)

    columns = tuple(
        Column(
            label,
            end - start,
            round(index * step, 1),
            y(max(start, end)),
            round(max(abs(y(start) - y(end)), 1.0), 1),
            round(index * step + step * COLUMN_SHARE / 2, 1),
            kind,
        )
        for index, (label, start, end, kind) in enumerate(spans)
    )
    return Bridge(columns, round(step * COLUMN_SHARE, 1), y(ZERO))


def waterfall(money: Earnings, expected: Decimal | None = None) -> Waterfall:
    """Costs climb from the left; what came in (or may) stands at the right against them."""
    income = money.sale or expected or ZERO
    most = max(money.cost, income, Decimal(1))
    count = len(money.bars) + (1 if income else 0)
    step = WIDTH / max(count, 5)
    scale = (BASE - 26) / float(most)

    def column(index: int, label: str, start: Decimal, end: Decimal, kind: str) -> Column:
        top = max(start, end)
        return Column(
            label,
            end - start,
            round(index * step, 1),
            round(BASE - float(top) * scale, 1),
            round(max(abs(float(end - start)) * scale, 1.0), 1),
            round(index * step + step * COLUMN_SHARE / 2, 1),
            kind,
        )

    columns = [column(i, bar.label, bar.start, bar.end, "gone") for i, bar in enumerate(money.bars)]
    if income:
        columns.append(
            column(len(columns), "sale" if money.sale else "to come", ZERO, income, "in" if money.sale else "come")
        )
    return Waterfall(tuple(columns), round(step * COLUMN_SHARE, 1), round(BASE - float(money.cost) * scale, 1), step)
