"""What a parcel cost, piece by piece: goods in the seller's currency, postage, duty."""

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from enum import StrEnum

from core.money import ZERO, allocate, to_cent


class Rest(StrEnum):
    """What becomes of what was ordered and did not come."""

    LATER = "later"
    UNPAID = "unpaid"
    PAID = "paid"

    @property
    def label(self) -> str:
        return {
            "later": "comes in another parcel",
            "unpaid": "was not charged, or is paid back",
            "paid": "was paid, and does not come",
        }[self.value]


@dataclass(frozen=True)
class ParcelLine:
    """So much that came, at what one of it costs in the seller's currency (0 or more each); `paid`: so much was paid
    for, None for what came."""

    came: Decimal
    each: Decimal
    paid: Decimal | None = None

    @property
    def charged(self) -> Decimal:
        return (self.came if self.paid is None else self.paid) * self.each


@dataclass(frozen=True)
class Landed:
    """What each line costs landed and what all of it does, base currency: they add up to the cent."""

    lines: tuple[Decimal, ...]
    total: Decimal


def landed(lines: Sequence[ParcelLine], rate: Decimal, postage: Decimal, duty: Decimal = ZERO) -> Landed:
    """The cost of goods and postage (seller's currency) at `rate`, and of `duty` (base currency), shared by value as a
    lot's charges are; by number where nothing of it costs anything. A line of which nothing came carries nothing: what
    was paid for it goes on to what came, as postage does (common practice, no source).

    ValueError when nothing came at all: then there is nothing to carry the postage.
    """
    if not any(line.came for line in lines):
        raise ValueError("Nothing of it came: call the order off instead.")
    goods = [to_cent(line.charged * rate) for line in lines]
    arrived = [n for n, line in enumerate(lines) if line.came]
    weights = [goods[n] for n in arrived]
    extra = to_cent(postage * rate) + duty + sum(goods, ZERO) - sum(weights, ZERO)
    shares = allocate(extra, weights if any(weights) else [lines[n].came for n in arrived])
    costs = [ZERO] * len(goods)
    for n, share in zip(arrived, shares, strict=True):
        costs[n] = goods[n] + share
    return Landed(tuple(costs), sum(costs, ZERO))
