"""When to ask after what should have come and has not: what was bought or ordered, what is sent back, an answer."""

from datetime import date, timedelta

# Without a day that was said (common practice, no source).
ASK_AFTER = timedelta(days=21)


def is_late(since: date, today: date, expected: date | None = None) -> bool:
    """Whether what is awaited `since` a day should have come: after the day that was said, else after three weeks."""
    return today > (expected or since + ASK_AFTER)
