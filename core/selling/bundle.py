"""Several units sold together: what that saves, and the least to take for all."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from decimal import Decimal

from core.money import CENT, ZERO, allocate
from core.selling.price import lowest_for


@dataclass(frozen=True)
class Piece:
    """One unit of a bundle. `asking` alone, above 0; `floor`: its lowest price alone, None where none covers its cost;
    `waiting`: what waiting with it alone is worth after everything, None where nobody can say; `left`: what a sale of
    it alone at a price leaves, `postage` what it takes to send alone."""

    asking: Decimal
    floor: Decimal | None
    waiting: Decimal | None
    left: Callable[[Decimal], Decimal]
    postage: Decimal = ZERO


@dataclass(frozen=True)
class BundleSums:
    """In base currency. `saved`: fixed fees and postage that are paid once instead of for each; `floor`: the lowest
    price for all that leaves what the floors of each do, and `least` the lowest that is as good as waiting with each;
    None where that is not known of one of them, or no price is."""

    asking: Decimal
    waiting: Decimal | None
    saved: Decimal
    floor: Decimal | None
    least: Decimal | None

    @property
    def proposed(self) -> Decimal | None:
        """What to ask for all: under neither of the two, and never more than for each alone."""
        known = [price for price in (self.floor, self.least) if price is not None]
        return min(self.asking, max(known)) if known else None


def bundle_sums(pieces: Sequence[Piece], *, fee_fixed: Decimal, parcels: int) -> BundleSums:
    """What several units are asked for, are worth and save together, sent in so many parcels (1 to one for each); the
    parcels that are paid are those that would be dearest.

    Raises ValueError for fewer than two pieces, or for parcels that are none or more than those.
    """
    if len(pieces) < 2 or not 1 <= parcels <= len(pieces):
        raise ValueError("A bundle is two units or more, in one parcel at least and in one for each at most.")
    saved = fee_fixed * (len(pieces) - 1) + sum(sorted(one.postage for one in pieces)[: len(pieces) - parcels], ZERO)
    asked = [one.asking for one in pieces]

    def left(price: Decimal) -> Decimal:
        if price < CENT * len(pieces):
            return Decimal("-Infinity")
        shares = share_price(price, asked)
        return sum((one.left(share) for one, share in zip(pieces, shares, strict=True)), saved)

    covered = _all([None if one.floor is None else one.left(one.floor) for one in pieces])
    waiting = _all([one.waiting for one in pieces])
    floor, least = (None if amount is None else lowest_for(amount, left) for amount in (covered, waiting))
    return BundleSums(sum(asked, ZERO), waiting, saved, floor, least)


def _all(amounts: Sequence[Decimal | None]) -> Decimal | None:
    """Their sum, where each is known."""
    known = [amount for amount in amounts if amount is not None]
    return sum(known, ZERO) if len(known) == len(amounts) else None


def share_price(price: Decimal, asked: Sequence[Decimal]) -> tuple[Decimal, ...]:
    """The price of all over the units by what each was asked for, to the cent; a cent each at least, and it adds up.
    Raises ValueError for less than that."""
    if price < CENT * len(asked):
        raise ValueError("That is less than a cent for each.")
    return tuple(CENT + share for share in allocate(price - CENT * len(asked), asked))
