"""Comparables as points by date, sized by weight, with the band across."""

from dataclasses import dataclass

from core.selling.price import PriceBand

WIDTH, HEIGHT, LEFT, BOTTOM = 560.0, 210.0, 46.0, 24.0
YEAR = 365.0


@dataclass(frozen=True)
class Point:
    x: float
    y: float
    radius: float
    own: bool
    words: str


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
        if abs(gap) < 14:
            floor = self.likely + (14 if gap >= 0 else -14)
        return round(floor + 4, 1)


def price_chart(band: PriceBand, floor: float | None = None) -> PriceChart:
    """Lay the chart out from 0 to a little over the dearest point; today at the right."""
    most = max([float(w.adjusted) for w in band.weighed] + ([floor] if floor else [])) * 1.1 or 1.0
    oldest = max(YEAR, max(w.comparable.age_days for w in band.weighed) + 15)
    heaviest = max(w.weight for w in band.weighed)

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
            f"{w.adjusted} brought to this grade, sold {w.comparable.age_days} days ago",
        )
        for w in band.weighed
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
