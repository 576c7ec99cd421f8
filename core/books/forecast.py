"""A plan set against what happened: where the difference came from."""

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from core.buying.planned import BidTerms, Case, expected_minutes, expected_price, sending
from core.money import ZERO, to_cent


@dataclass(frozen=True)
class PlannedCase:
    """What one piece was expected to bring and take if it turned out so: price, parts and fees, labour."""

    odds: Decimal
    price: Decimal
    costs: Decimal
    labour: Decimal


def planned_case(case: Case, terms: BidTerms, carried: Decimal) -> PlannedCase:
    """A case as the forecast reckoned it, with all that selling takes of it among the costs. `carried` is the piece’s
    part of what the lot was bought for, to be set against the price where tax is on the margin."""

    def money(amount: float) -> Decimal:
        return Decimal(str(amount))

    price, fraction = money(expected_price(case, terms)), money(terms.tax.fraction)
    tax = {
        "margin": max(ZERO, price - carried) * fraction,
        "global": (price - carried) * fraction,
        "standard": price * fraction,
    }.get(terms.tax.scheme, ZERO)
    costs = money(case.cost + sending(case, terms)) + price * money(terms.fee) + tax
    return PlannedCase(money(case.odds), price, costs, money(expected_minutes(case, terms) * terms.labour_rate / 60))


@dataclass(frozen=True)
class Piece:
    """One piece of a planned line as it went. `case` is the index of how it turned out, None if nobody knows.

    Amounts in base currency: what it sold for, parts, fees and tax it took, and labour.
    """

    cases: tuple[PlannedCase, ...]
    case: int | None
    price: Decimal
    costs: Decimal
    labour: Decimal


@dataclass(frozen=True)
class Difference:
    """Planned and actual profit, and the steps from the one to the other; the steps sum to the difference."""

    planned: Decimal
    actual: Decimal
    odds: Decimal
    prices: Decimal
    costs: Decimal
    hours: Decimal
    charges: Decimal

    @property
    def gap(self) -> Decimal:
        return self.actual - self.planned

    @property
    def steps(self) -> tuple[tuple[str, Decimal], ...]:
        return (
            ("odds: how things turned out", self.odds),
            ("prices: what they sold for", self.prices),
            ("parts, fees and tax", self.costs),
            ("hours: our own labour", self.hours),
            ("charges on the lot", self.charges),
        )


def difference(pieces: Sequence[Piece], landed_planned: Decimal, landed_actual: Decimal) -> Difference:
    """Split the gap between plan and outcome, one cause after the other.

    Odds: planned value in the case that came less the planned mean. Prices, costs and hours: what happened
    less what was planned for that case (for the mean where the case is unknown). Charges: landed cost
    planned less paid. All to the cent; the steps sum to actual less planned exactly.
    """
    mean = prices = costs = hours = ZERO
    for piece in pieces:
        expected = sum((c.odds * (c.price - c.costs - c.labour) for c in piece.cases), ZERO)
        if piece.case is None:
            base = PlannedCase(
                Decimal(1),
                *(sum((c.odds * getattr(c, name) for c in piece.cases), ZERO) for name in ("price", "costs", "labour")),
            )
        else:
            base = piece.cases[piece.case]
        mean += expected
        prices += piece.price - base.price
        costs += base.costs - piece.costs
        hours += base.labour - piece.labour
    planned = to_cent(mean - landed_planned)
    actual = sum((p.price - p.costs - p.labour for p in pieces), ZERO) - landed_actual
    prices, costs, hours = to_cent(prices), to_cent(costs), to_cent(hours)
    charges = landed_planned - landed_actual
    # The cent of rounding goes to the odds, which are the only step nobody can check to the cent.
    return Difference(
        planned, actual, actual - planned - prices - costs - hours - charges, prices, costs, hours, charges
    )
