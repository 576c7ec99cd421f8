"""The money bar of a lot: what went out above, what came back and may still come below."""

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import Protocol

from core.books.earnings import Earnings
from core.money import ZERO
from stations.buying.models import Lot


class InTheBooks(Protocol):
    """A lot with its sums in base currency."""

    @property
    def lot(self) -> Lot: ...

    @property
    def money(self) -> Earnings: ...

    @property
    def to_come(self) -> Decimal: ...

    @property
    def paid(self) -> Decimal: ...

    @property
    def since(self) -> Decimal: ...


@dataclass(frozen=True)
class MoneyBar:
    """Lengths in drawing units on a scale that all lots share; no break-even where nobody knows what was paid."""

    paid: float
    since: float
    back: float
    to_come: float
    even: float


BAR = 300.0


def money_bars(results: Sequence[InTheBooks]) -> dict[int, MoneyBar]:
    most = max([Decimal(1), *(max(r.money.cost, r.money.sale + r.to_come) for r in results)])

    def long(amount: Decimal) -> float:
        return round(float(max(amount, ZERO) / most) * BAR, 1)

    return {
        r.lot.pk: MoneyBar(
            long(r.paid),
            long(r.since),
            long(r.money.sale),
            long(r.to_come),
            long(r.money.cost if r.lot.priced else ZERO),
        )
        for r in results
    }
