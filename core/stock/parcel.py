"""What a parcel cost, piece by piece: goods in the seller's currency, postage, duty."""

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from core.money import ZERO, allocate, to_cent


@dataclass(frozen=True)
class ParcelLine:
    """So much that came, at what one of it costs in the seller's currency (0 or more each)."""

    came: Decimal
    each: Decimal


@dataclass(frozen=True)
class Landed:
    """What each line costs landed and what all of it does, base currency: they add up to the cent."""

    lines: tuple[Decimal, ...]
    total: Decimal


def landed(lines: Sequence[ParcelLine], rate: Decimal, postage: Decimal, duty: Decimal = ZERO) -> Landed:
    """The cost of goods and postage (seller's currency) at `rate`, and of `duty` (base currency), shared by value as a
    lot's charges are; by number where nothing of it costs anything. A line of which nothing came carries nothing.

    ValueError when nothing came at all: then there is nothing to carry the postage.
    """
    if not any(line.came for line in lines):
        raise ValueError("Nothing of it came: call the order off instead.")
    goods = [to_cent(line.came * line.each * rate) for line in lines]
    extra = to_cent(postage * rate) + duty
    arrived = [n for n, line in enumerate(lines) if line.came]
    weights = [goods[n] for n in arrived]
    shares = allocate(extra, weights if any(weights) else [lines[n].came for n in arrived])
    costs = list(goods)
    for n, share in zip(arrived, shares, strict=True):
        costs[n] += share
    return Landed(tuple(costs), sum(costs, ZERO))
