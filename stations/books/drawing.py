"""The waterfall of a unit and the money bar of a lot, laid out."""

from dataclasses import dataclass
from decimal import Decimal

from core.books.earnings import Earnings
from core.money import ZERO
from stations.books.selectors import LotResult

# Columns stand left of 372; the rest is for the words at the line of all costs.
WIDTH, BASE = 372.0, 176.0


@dataclass(frozen=True)
class Column:
    label: str
    amount: Decimal
    x: float
    y: float
    height: float
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
            kind,
        )

    columns = [column(i, bar.label, bar.start, bar.end, "gone") for i, bar in enumerate(money.bars)]
    if income:
        columns.append(
            column(len(columns), "sale" if money.sale else "to come", ZERO, income, "in" if money.sale else "come")
        )
    return Waterfall(tuple(columns), round(step * 0.86, 1), round(BASE - float(money.cost) * scale, 1), step)


@dataclass(frozen=True)
class MoneyBar:
    """Lengths in drawing units on a scale that all lots share."""

    paid: float
    since: float
    back: float
    to_come: float
    even: float


BAR = 300.0


def money_bars(results: list[LotResult]) -> dict[int, MoneyBar]:
    most = max([Decimal(1), *(max(r.money.cost, r.money.sale + r.to_come) for r in results)])

    def long(amount: Decimal) -> float:
        return round(float(max(amount, ZERO) / most) * BAR, 1)

    return {
        r.lot.pk: MoneyBar(long(r.paid), long(r.since), long(r.money.sale), long(r.to_come), long(r.money.cost))
        for r in results
    }
