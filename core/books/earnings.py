"""What a unit and a lot cost and earned, out of ledger sums."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from core.money import ZERO, to_cent


@dataclass(frozen=True)
class Bar:
    """One bar of the waterfall: from `start` to `end` (base currency); costs go up, the sale comes down."""

    label: str
    start: Decimal
    end: Decimal

    @property
    def amount(self) -> Decimal:
        return self.end - self.start


@dataclass(frozen=True)
class Earnings:
    """`margin` counts our own labour as a cost; `before_labour` does not. `sale` is what came in, net of refunds, with
    what a carrier paid for damage. `as_parts` is by how much more was taken out
    with parts than came in with others; 0 where it was less."""

    bars: tuple[Bar, ...]
    cost: Decimal
    sale: Decimal
    labour: Decimal
    as_parts: Decimal = ZERO

    @property
    def margin(self) -> Decimal:
        return self.sale - self.cost

    @property
    def before_labour(self) -> Decimal:
        return self.margin + self.labour


# Kinds of ledger entry, grouped once: a unit’s part of its lot, what went into it, what selling took, what came in.
LOT_SHARE = ("purchase", "charge", "allocation", "transfer")
PARTS = ("part_issued", "part_returned", "part_recovered")
TAKEN_BY_SELLING = ("fee", "postage", "tax")
INCOME = ("sale", "refund", "claim")

# Those that belong to one bar, in the order in which the money goes.
STEPS: tuple[tuple[str, tuple[str, ...]], ...] = (
    ("lot share", LOT_SHARE),
    ("parts", PARTS),
    ("labour", ("labour",)),
    ("fees", ("fee",)),
    ("postage", ("postage",)),
    ("tax", ("tax",)),
    ("written off", ("write_off",)),
    ("its owner", ("payout",)),
)


def earnings(by_kind: Mapping[str, Decimal]) -> Earnings:
    """Build the waterfall from signed sums by ledger kind: costs above 0, income below.

    Raises ValueError for a kind that no bar holds, so that a new kind can't vanish from the result.
    """
    known = {kind for _, kinds in STEPS for kind in kinds} | set(INCOME)
    if unknown := set(by_kind) - known:
        raise ValueError(f"No bar holds {', '.join(sorted(unknown))}.")
    bars: list[Bar] = []
    running = ZERO
    for label, kinds in STEPS:
        amount = sum((by_kind.get(kind, ZERO) for kind in kinds), ZERO)
        if amount:
            bars.append(Bar(label, running, running + amount))
            running += amount
    sale = -sum((by_kind.get(kind, ZERO) for kind in INCOME), ZERO)
    parts = sum((by_kind.get(kind, ZERO) for kind in PARTS), ZERO)
    return Earnings(tuple(bars), running, sale, by_kind.get("labour", ZERO), max(ZERO, -parts))


def an_hour(money: Earnings, minutes: int) -> Decimal | None:
    """What it earned for each hour on record, before our own labour; None where no minutes are, or nothing came in."""
    return to_cent(money.before_labour * 60 / minutes) if minutes and money.sale else None


@dataclass(frozen=True)
class ToCome:
    """What the pieces left may still bring, net, piece by piece; None for a piece that nobody put a worth to."""

    pieces: Sequence[Decimal | None] = ()

    @property
    def known(self) -> Decimal:
        return sum((piece for piece in self.pieces if piece is not None), ZERO)

    @property
    def unsaid(self) -> int:
        """How many pieces nobody put a worth to."""
        return sum(piece is None for piece in self.pieces)

    def expected(self, margin: Decimal) -> Decimal | None:
        """The result with what is still to come; None while that of a piece is not known."""
        return None if self.unsaid else margin + self.known

    def pieces_to_even(self, to_go: Decimal) -> int | None:
        """How many of the pieces left must sell for what they are thought worth, the dearest first, to cover `to_go`.

        0 when nothing is to go; None when all that have a worth don't cover it together.
        """
        covered = ZERO
        for count, piece in enumerate([ZERO, *sorted((p for p in self.pieces if p is not None), reverse=True)]):
            covered += piece
            if covered >= to_go:
                return count
        return None


def day_even(days: Sequence[tuple[date, Decimal]]) -> date | None:
    """The day since which the running result (income less cost, by day) has not been below 0; None if it is now."""
    running, since = ZERO, None
    for day, result in days:
        running += result
        if running < 0:
            since = None
        elif since is None:
            since = day
    return since
