"""Comparables as points by date with the band across, and the plan of prices as steps by week."""

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from core.selling.market import PriceBand, Weighed
from stations.selling.waiting import Waiting

WIDTH, HEIGHT, LEFT, BOTTOM = 560.0, 210.0, 46.0, 24.0
YEAR = 365.0


@dataclass(frozen=True)
class Point:
    x: float
    y: float
    radius: float
    own: bool
    words: str
    outlier: bool = False


@dataclass(frozen=True)
class PriceChart:
    points: tuple[Point, ...]
    low: float
    likely: float
    high: float
    floor: float | None
    ticks: tuple[tuple[float, int], ...]
    months: tuple[tuple[float, str], ...]

    @property
    def band_height(self) -> float:
        return max(1.0, round(self.low - self.high, 1))

    @property
    def floor_label(self) -> float:
        """The baseline of the words at the floor, clear of those at the likely price."""
        floor = self.floor or 0.0
        gap = floor - self.likely
        if abs(gap) < 17:
            floor = self.likely + (17 if gap >= 0 else -17)
        return round(floor + 4, 1)


def price_chart(band: PriceBand, weighed: Sequence[Weighed], floor: float | None = None) -> PriceChart:
    """Lay the chart out from 0 to a little over the dearest point; today at the right."""
    most = max([float(w.adjusted) for w in weighed] + [float(band.high), floor or 0.0]) * 1.1
    oldest = max(YEAR, max(w.comparable.age_days for w in weighed) + 15)
    heaviest = max(w.weight for w in weighed)

    def up(amount: float) -> float:
        return round(HEIGHT - BOTTOM - amount / most * (HEIGHT - BOTTOM - 10), 1)

    def across(age: float) -> float:
        return round(WIDTH - 80 - age / oldest * (WIDTH - LEFT - 92), 1)

    points = tuple(
        Point(
            across(w.comparable.age_days),
            up(float(w.adjusted)),
            round(2.5 + 5.5 * (w.weight / heaviest) ** 0.5, 1),
            w.comparable.own,
            f"{w.adjusted} brought to this grade, sold {w.comparable.age_days} days ago"
            + (", far from the others: counts less" if w.outlier else ""),
            w.outlier,
        )
        for w in weighed
    )
    step = next(s for s in (10, 20, 50, 100, 200, 500, 1000, 10**9) if most / s <= 6)
    ticks = tuple((up(amount), amount) for amount in range(0, int(most) + 1, step))
    months = tuple(
        (across(age), f"{age // 30} months ago" if age else "today") for age in (0, 180, 360) if age <= oldest
    )
    return PriceChart(
        points,
        up(float(band.low)),
        up(float(band.likely)),
        up(float(band.high)),
        up(floor) if floor else None,
        ticks,
        months,
    )


PLAN_WIDTH, PLAN_HEIGHT, PLAN_LEFT = 560.0, 170.0, 46.0


@dataclass(frozen=True)
class PlanStep:
    """A price and from which week on it is asked; where it stands in the drawing."""

    week: int
    price: Decimal
    x: float
    y: float


@dataclass(frozen=True)
class MarkdownDrawing:
    """The prices of the plan as steps by week, with the band behind; what is asked now, what waiting is worth."""

    path: str
    steps: tuple[PlanStep, ...]
    low: float
    high: float
    likely: float
    least: float
    asking: float | None
    weeks: tuple[tuple[float, int], ...]
    ticks: tuple[tuple[float, int], ...]

    @property
    def band_height(self) -> float:
        return max(1.0, round(self.low - self.high, 1))


def markdown_drawing(waiting: Waiting) -> MarkdownDrawing:
    plan, band, asking = waiting.plan, waiting.band, waiting.asking
    amounts = [float(week.price) for week in plan.weeks] + [float(band.high), float(waiting.least), float(asking or 0)]
    most, count = max(amounts) * 1.08, len(plan.weeks)

    def up(amount: float) -> float:
        return round(PLAN_HEIGHT - 24 - amount / most * (PLAN_HEIGHT - 34), 1)

    def across(week: int) -> float:
        return round(PLAN_LEFT + (week - 1) / count * (PLAN_WIDTH - PLAN_LEFT - 70), 1)

    path, steps = "", []
    for step in plan.steps():
        x, y = across(step.week), up(float(step.price))
        path += f"H{x}V{y}" if path else f"M{x} {y}"
        steps.append(PlanStep(step.week, step.price, x, y))
    path += f"H{across(count + 1)}"
    every = next(n for n in (1, 2, 4, 5, 10) if count / n <= 8)
    size = next(s for s in (10, 20, 50, 100, 200, 500, 1000, 10**9) if most / s <= 5)
    return MarkdownDrawing(
        path,
        tuple(steps),
        up(float(band.low)),
        up(float(band.high)),
        up(float(band.likely)),
        up(float(waiting.least)),
        up(float(asking)) if asking else None,
        tuple((across(week), week) for week in range(1, count + 1, every)),
        tuple((up(amount), amount) for amount in range(0, int(most) + 1, size)),
    )
