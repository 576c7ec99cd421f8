"""Several units sold together: what that saves, and the least to take for all."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from decimal import Decimal

from core.money import CENT, ZERO, allocate
from core.selling.price import lowest_for


@dataclass(frozen=True)
class Piece:
    """One unit of a bundle. `asking` alone, above 0; `waiting`: what waiting with it alone is worth after everything,
    None where nobody can say; `left`: what a sale of it alone at a price leaves."""

    asking: Decimal
    waiting: Decimal | None
    left: Callable[[Decimal], Decimal]


@dataclass(frozen=True)
class BundleSums:
    """In base currency. `saved`: fixed fees and postage that are paid once instead of for each; `least`: the lowest
    price for all that is as good as waiting with each, None where that is not known of one of them."""

    asking: Decimal
    waiting: Decimal | None
    saved: Decimal
    least: Decimal | None


def bundle_sums(pieces: Sequence[Piece], *, fee_fixed: Decimal, postage: Decimal, parcels: int) -> BundleSums:
    """What several units are asked for, are worth and save together, sent in so many parcels (1 to one for each).

    Raises ValueError for fewer than two pieces, or for parcels that are none or more than those.
    """
    if len(pieces) < 2 or not 1 <= parcels <= len(pieces):
        raise ValueError("A bundle is two units or more, in one parcel at least and in one for each at most.")
    saved = fee_fixed * (len(pieces) - 1) + postage * (len(pieces) - parcels)
    asked = [one.asking for one in pieces]
    waits = [one.waiting for one in pieces if one.waiting is not None]
    if len(waits) < len(pieces):
        return BundleSums(sum(asked, ZERO), None, saved, None)

    def left(price: Decimal) -> Decimal:
        if price < CENT * len(pieces):
            return Decimal("-Infinity")
        shares = share_price(price, asked)
        return sum((one.left(share) for one, share in zip(pieces, shares, strict=True)), saved)

    waiting = sum(waits, ZERO)
    return BundleSums(sum(asked, ZERO), waiting, saved, lowest_for(waiting, left))


def share_price(price: Decimal, asked: Sequence[Decimal]) -> tuple[Decimal, ...]:
    """The price of all over the units by what each was asked for, to the cent; a cent each at least, and it adds up.
    Raises ValueError for less than that."""
    if price < CENT * len(asked):
        raise ValueError("That is less than a cent for each.")
    return tuple(CENT + share for share in allocate(price - CENT * len(asked), asked))
