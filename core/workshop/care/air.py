"""The air paint is laid in: how warm and moist it may be, and whether dew comes down on what is painted."""

from dataclasses import dataclass
from math import log

from core.workshop.care import CareError

# Magnus formula over water with the constants of Alduchov and Eskridge 1996, good from −40 to 50 °C.
_A, _B = 17.625, 243.04
# A surface stays so far above the dew point while it is painted (ISO 8502-4, from memory).
ABOVE_DEW = 3.0


@dataclass(frozen=True)
class Air:
    """°C, and relative humidity in %. Raises CareError for what no workshop has."""

    celsius: float
    humidity: float

    def __post_init__(self) -> None:
        if not -40 <= self.celsius <= 50:
            raise CareError(f"{self.celsius:g} °C: from −40 to 50.", "typed")
        if not 0 < self.humidity <= 100:
            raise CareError(f"{self.humidity:g} % humidity: above 0, 100 at most.", "typed")

    @property
    def dew_point(self) -> float:
        """°C at which water comes down."""
        lies = log(self.humidity / 100) + _A * self.celsius / (_B + self.celsius)
        return _B * lies / (_A - lies)


@dataclass(frozen=True)
class Limits:
    """What a paint wants: °C from and to, and % humidity at most. Common practice, no source; a can says its own."""

    coldest: float = 15.0
    warmest: float = 30.0
    moistest: float = 65.0

    def __post_init__(self) -> None:
        if not -40 <= self.coldest < self.warmest <= 50 or not 0 < self.moistest <= 100:
            raise CareError("Air from cold to warm within −40 to 50 °C, humidity up to 100 %.", "coats")

    def __str__(self) -> str:
        return f"{self.coldest:g} to {self.warmest:g} °C, {self.moistest:g} % humidity at most"

    def against(self, air: Air) -> str:
        """Why nothing may be painted in such air, in words; empty where it may."""
        if air.celsius < self.coldest:
            return (
                f"{air.celsius:g} °C is too cold, it wants {self.coldest:g} or more: bring the part in, warm the can."
            )
        if air.celsius > self.warmest:
            return f"{air.celsius:g} °C is too warm, {self.warmest:g} at most: it dries before it flows out."
        if air.humidity > self.moistest:
            return f"{air.humidity:g} % humidity, {self.moistest:g} at most: it turns dull. Wait for drier air."
        if (gap := air.celsius - air.dew_point) < ABOVE_DEW:
            return f"Dew comes down at {air.dew_point:.1f} °C, only {gap:.1f} below: it wants {ABOVE_DEW:g}."
        return ""


def read_air(figures: list[float]) -> Air:
    """°C and % as they were typed, in this order. Raises CareError."""
    if len(figures) != 2:
        raise CareError("Two figures: °C, then % humidity. For example 21 55.", "typed")
    return Air(*figures)
