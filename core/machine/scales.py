"""Round marks for the scales of drawings."""

import math


def round_step(rough: float) -> float:
    """The next of 1, 2, 5 times a power of ten at or over `rough` (above 0)."""
    power = 10.0 ** math.floor(math.log10(rough))
    return next(power * m for m in (1, 2, 5, 10) if power * m >= rough * 0.999)


def round_marks(low: float, high: float, about: int = 3) -> list[float]:
    """Multiples of a round step from `low` to `high`, at most `about` + 1 of them."""
    step = round_step((high - low) / about)
    return [place * step for place in range(math.ceil(low / step), math.floor(high / step) + 1)]
