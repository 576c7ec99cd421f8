"""What is held, at what it cost and at what it will bring: the lower of the two, piece by piece (IAS 2 ¶9, ¶29).

What a piece will bring is its price less what it takes to finish and to sell it (net realisable value, ¶6). Nothing is
judged of a piece of which one of the two is not known: it stands at what is known of its cost.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from decimal import Decimal

from core.money import ZERO

# Days since it came: up to each, and more than the last (common practice, no source).
AGES = (30, 90, 180)
AGE_WORDS = (*(f"up to {days} days" for days in AGES), "longer")


@dataclass(frozen=True)
class HeldUnit:
    """One that is held, base currency: what it `cost` so far, and what it `brings`, each None where nobody knows; and
    for how many days it has been here."""

    cost: Decimal | None
    brings: Decimal | None
    days: int

    @property
    def too_much(self) -> Decimal:
        """By how much more it cost than it brings; 0 where one of them is not known."""
        if self.cost is None or self.brings is None:
            return ZERO
        return max(ZERO, self.cost - self.brings)

    @property
    def age(self) -> int:
        """Its place in AGES, after the last of them where it is older."""
        return sum(self.days > up_to for up_to in AGES)


@dataclass(frozen=True)
class HeldTogether:
    """Units together: at what they cost, by age and in all; `dear` is how many of them cost more than they bring,
    `unknown` of how many nobody knows the cost, `unsaid` how many nobody put a worth to."""

    pieces: int
    by_age: tuple[Decimal, ...]
    too_much: Decimal
    dear: int
    unknown: int
    unsaid: int

    @property
    def cost(self) -> Decimal:
        return sum(self.by_age, ZERO)

    @property
    def aged(self) -> list[tuple[str, Decimal]]:
        """Age by age, in words and at cost."""
        return list(zip(AGE_WORDS, self.by_age, strict=True))

    @property
    def at_lower(self) -> Decimal:
        return self.cost - self.too_much


def together(pieces: Iterable[HeldUnit]) -> HeldTogether:
    found = list(pieces)
    by_age = [ZERO] * (len(AGES) + 1)
    for piece in found:
        by_age[piece.age] += piece.cost or ZERO
    return HeldTogether(
        len(found),
        tuple(by_age),
        sum((piece.too_much for piece in found), ZERO),
        sum(piece.too_much > 0 for piece in found),
        sum(piece.cost is None for piece in found),
        sum(piece.brings is None for piece in found),
    )
