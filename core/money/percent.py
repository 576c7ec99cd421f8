"""Whether a percentage can be as it was typed, or was meant as a share of 1."""

from decimal import Decimal

WORDS = "Less than 1 %? Type it in percent: a fifth is 20."


def fraction_doubt(percent: Decimal | None) -> str:
    """Why something that nobody charges or takes below 1 % can't be so many percent; empty when it can, as 0 can
    (common practice, no source)."""
    return WORDS if percent is not None and 0 < percent < 1 else ""
