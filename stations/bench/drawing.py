"""The limit band: where a reading lies between its limits, as drawing units."""

from dataclasses import dataclass
from decimal import Decimal

from core.bench.checks import Limits

WIDTH = 580.0
EDGE = 14.0


@dataclass(frozen=True)
class Mark:
    x: float
    text: str


@dataclass(frozen=True)
class Band:
    """`low` and `high` are where the limits stand; `one_sided` bands begin at their low end."""

    low: Mark
    high: Mark
    nominal: Mark | None
    now: Mark | None
    spread: tuple[float, float] | None
    earlier: tuple[float, ...]
    one_sided: bool


def limit_band(limits: Limits, value: Decimal | None, uncertainty: Decimal | None, earlier: list[Decimal]) -> Band:
    """Lay the band out: the limits take the middle three fifths; what lies beyond the edge stands at the edge."""
    low, high = float(limits.low), float(limits.high)
    one_sided = limits.low == 0
    start = low if one_sided else low - (high - low) * 0.3
    span = (high - low) * (1.3 if one_sided else 1.6)

    def place(number: float) -> float:
        share = min(max((number - start) / span, 0.0), 1.0)
        return EDGE + share * (WIDTH - 2 * EDGE)

    def mark(number: Decimal) -> Mark:
        return Mark(place(float(number)), f"{number:f}")

    spread = None
    if value is not None and uncertainty is not None:
        spread = (place(float(value - uncertainty)), place(float(value + uncertainty)))
    return Band(
        mark(limits.low),
        mark(limits.high),
        mark(limits.nominal) if limits.nominal else None,
        mark(value) if value is not None else None,
        spread,
        tuple(place(float(number)) for number in earlier),
        one_sided,
    )
