"""When to ask after what was bought and has not come."""

from datetime import date, timedelta

# Without a day that was said (common practice, no source).
ASK_AFTER = timedelta(days=21)


def is_late(since: date, today: date, expected: date | None = None) -> bool:
    """Whether what was bought, or paid for, on `since` should have come: after the day that was said, else after
    three weeks."""
    return today > (expected or since + ASK_AFTER)
