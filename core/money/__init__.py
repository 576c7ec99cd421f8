"""Money: Decimal amounts at the cent, and sharing that always adds up."""

from collections.abc import Sequence
from decimal import ROUND_CEILING, ROUND_HALF_EVEN, Decimal
from math import lcm

CENT = Decimal("0.01")
ZERO = Decimal("0.00")


def to_cent(amount: Decimal) -> Decimal:
    """Round to the cent, half to even."""
    return amount.quantize(CENT, rounding=ROUND_HALF_EVEN)


def up_to_cent(amount: Decimal) -> Decimal:
    """Round up to the next cent: for prices that must cover a cost."""
    return amount.quantize(CENT, rounding=ROUND_CEILING)


def convert(amount: Decimal, rate: Decimal) -> Decimal:
    """An amount in base currency. `rate` is base currency per one unit of the other; it must be above 0."""
    if rate <= 0:
        raise ValueError("An exchange rate must be above 0.")
    return to_cent(amount * rate)


def allocate(total: Decimal, weights: Sequence[Decimal]) -> tuple[Decimal, ...]:
    """Share `total` over `weights` to the cent, by largest remainder; the shares sum to `total` exactly.

    `total` is a whole number of cents and may be negative (a credit is shared like a cost). Weights are
    0 or more and not all 0. Equal remainders go to the earlier share. Whole-number arithmetic
    throughout, so no weight is too large or too small.
    """
    if not weights:
        raise ValueError("There is nothing to share over.")
    if any(weight < 0 for weight in weights):
        raise ValueError("A weight may not be below 0.")
    if total != to_cent(total):
        raise ValueError("Only whole cents can be shared.")
    ratios = [weight.as_integer_ratio() for weight in weights]
    common = lcm(*{below for _, below in ratios})
    wholes = [above * (common // below) for above, below in ratios]
    whole = sum(wholes)
    if whole == 0:
        raise ValueError("All weights are 0.")
    cents = int(abs(total) * 100)
    parts = [divmod(cents * weight, whole) for weight in wholes]
    shares = [share for share, _ in parts]
    by_remainder = sorted(range(len(parts)), key=lambda i: (-parts[i][1], i))
    for index in by_remainder[: cents - sum(shares)]:
        shares[index] += 1
    sign = -1 if total < 0 else 1
    return tuple(sign * Decimal(share) / 100 for share in shares)
