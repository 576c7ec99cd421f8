"""What a part and a minute cost when they go into a machine."""

from decimal import Decimal

from core.money import ZERO, to_cent


def issue_cost(held: int, value: Decimal, wanted: int) -> Decimal:
    """The cost of `wanted` pieces out of `held`, worth `value` in all: moving weighted average.

    The last piece takes what is left, so that nothing stays behind on an empty drawer (IAS 2 paragraphs 23
    to 27). Raises ValueError when more is wanted than held, or less than one.
    """
    if wanted < 1:
        raise ValueError("Issue at least one.")
    if wanted > held:
        raise ValueError(f"Only {held} in the drawer, {wanted} wanted.")
    return value if wanted == held else to_cent(value * wanted / held)


# Minutes; common practice, no source: beyond a day's shift a clock was forgotten, not worked by.
LONGEST_STRETCH = 12 * 60
LONGEST_ENTRY = 24 * 60


def labour_cost(minutes: int, rate_per_hour: Decimal) -> Decimal:
    """Minutes (0 or more) at an hourly rate in base currency."""
    if minutes < 0:
        raise ValueError("Minutes may not be below 0.")
    return to_cent(rate_per_hour * minutes / 60) if minutes else ZERO
