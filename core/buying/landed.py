"""What a lot really cost: every charge, in the lot's currency and in ours."""

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from enum import StrEnum

from core.money import ZERO, convert, to_cent


class ChargeKind(StrEnum):
    """In the order in which they are worked out: each may rest on those before it."""

    PRICE = "price"
    PREMIUM = "premium"
    PREMIUM_TAX = "premium_tax"
    FREIGHT = "freight"
    DUTY = "duty"
    IMPORT_TAX = "import_tax"
    OTHER = "other"

    @property
    def label(self) -> str:
        return _LABELS[self]


_LABELS = {
    ChargeKind.PRICE: "price",
    ChargeKind.PREMIUM: "buyer’s premium",
    ChargeKind.PREMIUM_TAX: "tax on premium",
    ChargeKind.FREIGHT: "freight",
    ChargeKind.DUTY: "import duty",
    ChargeKind.IMPORT_TAX: "import tax",
    ChargeKind.OTHER: "other charges",
}

# What a percentage of each kind is a percentage of. Duty on price and freight: the customs value of goods
# delivered to the border (common practice, no source; rules differ by country).
PERCENT_OF: dict[ChargeKind, tuple[ChargeKind, ...]] = {
    ChargeKind.PREMIUM: (ChargeKind.PRICE,),
    ChargeKind.PREMIUM_TAX: (ChargeKind.PREMIUM,),
    ChargeKind.FREIGHT: (ChargeKind.PRICE,),
    ChargeKind.DUTY: (ChargeKind.PRICE, ChargeKind.FREIGHT),
    ChargeKind.IMPORT_TAX: (ChargeKind.PRICE, ChargeKind.FREIGHT, ChargeKind.DUTY),
    ChargeKind.OTHER: (ChargeKind.PRICE,),
}


class ChargeError(ValueError):
    """A charge that cannot be; `kind` says which field to put right."""

    def __init__(self, kind: ChargeKind, message: str) -> None:
        super().__init__(message)
        self.kind = kind


@dataclass(frozen=True)
class Charge:
    """A fixed amount in the lot's currency, or a percentage (0 to 100) of what PERCENT_OF names."""

    kind: ChargeKind
    amount: Decimal = ZERO
    percent: Decimal | None = None


@dataclass(frozen=True)
class WorkedCharge:
    """One charge worked out: in the lot's currency, in base currency, and how."""

    kind: ChargeKind
    foreign: Decimal
    base: Decimal
    how: str


@dataclass(frozen=True)
class LandedCost:
    charges: tuple[WorkedCharge, ...]

    @property
    def foreign_total(self) -> Decimal:
        return sum((charge.foreign for charge in self.charges), ZERO)

    @property
    def total(self) -> Decimal:
        """In base currency; the sum of the rounded charges, so that the table adds up."""
        return sum((charge.base for charge in self.charges), ZERO)


def landed_cost(charges: Sequence[Charge], rate: Decimal) -> LandedCost:
    """Work out every charge, each kind at most once.

    `rate` is base currency per unit of the lot's currency, above 0 (ValueError otherwise). Raises
    ChargeError for a negative amount, a percentage outside 0 to 100, a percentage price or a kind
    given twice. What belongs in cost: IAS 2 paragraphs 10 and 11.
    """
    order = list(ChargeKind)
    worked: dict[ChargeKind, WorkedCharge] = {}
    for charge in sorted(charges, key=lambda c: order.index(c.kind)):
        if charge.kind in worked:
            raise ChargeError(charge.kind, f"The {charge.kind.label} stands here twice.")
        foreign, how = _amount(charge, worked)
        worked[charge.kind] = WorkedCharge(charge.kind, foreign, convert(foreign, rate), how)
    return LandedCost(tuple(worked.values()))


def _amount(charge: Charge, worked: dict[ChargeKind, WorkedCharge]) -> tuple[Decimal, str]:
    if charge.percent is None:
        if charge.amount < 0:
            raise ChargeError(charge.kind, f"The {charge.kind.label} may not be below 0.")
        return to_cent(charge.amount), "as billed"
    if charge.kind not in PERCENT_OF:
        raise ChargeError(charge.kind, "The price is an amount, not a percentage.")
    if not 0 <= charge.percent <= 100:
        raise ChargeError(charge.kind, f"The {charge.kind.label} is a percentage from 0 to 100.")
    of = PERCENT_OF[charge.kind]
    rests_on = sum((worked[kind].foreign for kind in of if kind in worked), ZERO)
    percent = charge.percent.normalize()
    how = f"{percent:f} % of {' + '.join(kind.label for kind in of)}"
    return to_cent(rests_on * charge.percent / 100), how
