"""The waterfall of what a unit or a lot cost and brought, laid out."""

from dataclasses import dataclass
from decimal import Decimal

from core.books.earnings import Earnings
from core.money import ZERO

# Columns stand left of 372; the rest is for the words at the line of all costs.
WIDTH, BASE = 372.0, 176.0
COLUMN_SHARE = 0.86  # of a step; the rest is the gap to the next column


@dataclass(frozen=True)
class Column:
    label: str
    amount: Decimal
    x: float
    y: float
    height: float
    middle: float
    kind: str  # gone, income


@dataclass(frozen=True)
class Waterfall:
    columns: tuple[Column, ...]
    width: float
    cost_y: float
    step: float


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
