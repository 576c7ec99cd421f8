"""What a minute costs when it goes into a machine, and when a clock was forgotten."""

from datetime import datetime, time
from decimal import Decimal

from core.money import ZERO, to_cent

# Minutes; common practice, no source: nobody works four hours at one thing without a break.
LONGEST_STRETCH = 4 * 60
LONGEST_ENTRY = 24 * 60


def why_doubted(started: datetime, now: datetime, closes_at: time | None, signed_out: datetime | None) -> str:
    """Why a clock that runs may have been forgotten, in words; empty when nothing speaks for it.

    It ran over four hours, past the hour at which the shop closes (local times; None when nobody said), or through a
    sign-out.
    """
    ran = (now - started).total_seconds() / 60
    if ran > LONGEST_STRETCH:
        return f"ran {round(ran) // 60} hours"
    if closes_at is not None and started < datetime.combine(started.date(), closes_at, started.tzinfo) <= now:
        return f"ran past {closes_at:%H:%M}, when the shop closes"
    if signed_out is not None and started <= signed_out:
        return "ran on when its person signed out"
    return ""


def labour_cost(minutes: int, rate_per_hour: Decimal) -> Decimal:
    """Minutes (0 or more) at an hourly rate in base currency."""
    if minutes < 0:
        raise ValueError("Minutes may not be below 0.")
    return to_cent(rate_per_hour * minutes / 60) if minutes else ZERO
