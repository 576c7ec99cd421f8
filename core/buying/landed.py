"""What a lot really cost: every charge, in its own currency and in ours."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal
from enum import StrEnum
from graphlib import CycleError, TopologicalSorter

from core.buying.share import Basis
from core.money import ZERO, convert, to_cent


class ChargeKind(StrEnum):
    """In the order in which they usually come."""

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

# What a percentage of each kind is a percentage of, unless the charge says so itself. Duty on price and freight:
# the customs value of goods delivered to the border (common practice, no source; rules differ by country).
PERCENT_OF: Mapping[ChargeKind, tuple[ChargeKind, ...]] = {
    ChargeKind.PREMIUM: (ChargeKind.PRICE,),
    ChargeKind.PREMIUM_TAX: (ChargeKind.PREMIUM,),
    ChargeKind.FREIGHT: (ChargeKind.PRICE,),
    ChargeKind.DUTY: (ChargeKind.PRICE, ChargeKind.FREIGHT),
    ChargeKind.IMPORT_TAX: (ChargeKind.PRICE, ChargeKind.FREIGHT, ChargeKind.DUTY),
    ChargeKind.OTHER: (ChargeKind.PRICE,),
}


class ChargeError(ValueError):
    """A charge that cannot be: `index` says which one, `field` which of its fields to put right."""

    def __init__(self, index: int, field: str, message: str) -> None:
        super().__init__(message)
        self.index = index
        self.field = field


@dataclass(frozen=True)
class Band:
    """A percentage for the part of an amount up to `up_to`; None: for all that is above."""

    percent: Decimal
    up_to: Decimal | None = None


_BAND = re.compile(r"([0-9]{1,3}(?:\.[0-9]+)?) ?%?(?: to ([0-9]{1,9}(?:\.[0-9]+)?))?")


def read_bands(text: str) -> tuple[Band, ...]:
    """Bands as people write them: "25 to 1000; 20 to 5000; 12". Raises ValueError in words.

    Each percentage holds for its slice of the amount only. The limits rise, and the last band has none.
    """
    bands = []
    for part in text.split(";"):
        found = _BAND.fullmatch(part.strip())
        if not found:
            raise ValueError("Write bands like this: 25 to 1000; 20 to 5000; 12")
        percent, up_to = Decimal(found[1]), Decimal(found[2]) if found[2] else None
        if percent > 100:
            raise ValueError("A band is a percentage from 0 to 100.")
        bands.append(Band(percent, up_to))
    limits = [band.up_to for band in bands[:-1]]
    if bands[-1].up_to is not None or any(limit is None for limit in limits):
        raise ValueError("Every band but the last has a limit: 25 to 1000; 12")
    rising = [limit for limit in limits if limit is not None]
    if rising != sorted(set(rising)) or 0 in rising:
        raise ValueError("The limits of the bands rise from band to band.")
    return tuple(bands)


@dataclass(frozen=True)
class Charge:
    """A fixed amount, or a percentage (0 to 100, or in bands) of the charges that `of` names by kind.

    An empty `of` means what is usual for the kind. An amount is in `currency` at `rate` to base; without them
    in the lot's. A percentage is worked out in the currency of what it rests on, or in base currency when
    that is mixed. `basis` is how the charge is shared over the lines; None: as the lot is.
    """

    kind: ChargeKind
    amount: Decimal = ZERO
    percent: Decimal | None = None
    bands: tuple[Band, ...] = ()
    of: tuple[ChargeKind, ...] = ()
    name: str = ""
    currency: str = ""
    rate: Decimal | None = None
    basis: Basis | None = None

    @property
    def label(self) -> str:
        return self.name or self.kind.label

    @property
    def rests_on(self) -> tuple[ChargeKind, ...]:
        """The kinds it is a percentage of; empty for an amount."""
        if self.percent is None and not self.bands:
            return ()
        return self.of or PERCENT_OF.get(self.kind, ())


@dataclass(frozen=True)
class WorkedCharge:
    """One charge worked out: in `currency` (at `rate`), in base currency, and how."""

    charge: Charge
    currency: str
    rate: Decimal
    foreign: Decimal
    base: Decimal
    how: str

    @property
    def label(self) -> str:
        return self.charge.label


@dataclass(frozen=True)
class LandedCost:
    charges: tuple[WorkedCharge, ...]

    @property
    def total(self) -> Decimal:
        """In base currency; the sum of the rounded charges, so that the table adds up."""
        return sum((charge.base for charge in self.charges), ZERO)


def landed_cost(charges: Sequence[Charge], rate: Decimal, currency: str = "", base: str = "") -> LandedCost:
    """Work out every charge, in the order given.

    `rate` is base currency per unit of the lot's `currency`, above 0 (ValueError otherwise); `base` names the
    base currency. Raises ChargeError for a negative amount, a percentage outside 0 to 100, a percentage
    price, two prices, a rate of 0 and charges that rest on one another. What belongs in cost: IAS 2
    paragraphs 10 and 11.
    """
    if rate <= 0:
        raise ValueError("An exchange rate must be above 0.")
    for index, charge in enumerate(charges):
        _check(index, charge)
        if charge.kind is ChargeKind.PRICE and any(c.kind is ChargeKind.PRICE for c in charges[:index]):
            raise ChargeError(index, "kind", "The price stands here twice.")
    worked: dict[int, WorkedCharge] = {}
    for index in _in_order(charges):
        charge = charges[index]
        if not charge.rests_on:
            own = rate if charge.rate is None else charge.rate
            foreign, name, how = to_cent(charge.amount), charge.currency or currency, "as billed"
        else:
            under = [worked[i] for i, other in enumerate(charges) if other.kind in charge.rests_on]
            foreign, own, name = _percentage(charge, under, rate, currency, base)
            how = f"{_percent_words(charge)} of {' + '.join(kind.label for kind in charge.rests_on)}"
        worked[index] = WorkedCharge(charge, name, own, foreign, convert(foreign, own), how)
    return LandedCost(tuple(worked[index] for index in range(len(charges))))


def _check(index: int, charge: Charge) -> None:
    label = charge.label
    if charge.rate is not None and charge.rate <= 0:
        raise ChargeError(index, "rate", "A rate is above 0: what one unit of that currency costs in ours.")
    if charge.percent is None and not charge.bands:
        if charge.amount < 0:
            raise ChargeError(index, "amount", f"The {label} may not be below 0.")
        return
    if charge.kind is ChargeKind.PRICE:
        raise ChargeError(index, "percent", "The price is an amount, not a percentage.")
    if charge.amount:
        raise ChargeError(index, "amount", f"The {label} is an amount or a percentage, not both.")
    if charge.percent is not None and not 0 <= charge.percent <= 100:
        raise ChargeError(index, "percent", f"The {label} is a percentage from 0 to 100.")
    if charge.kind in charge.rests_on:
        raise ChargeError(index, "of", f"The {label} can’t be a percentage of itself.")


def _in_order(charges: Sequence[Charge]) -> list[int]:
    """The charges so that each comes after those it rests on."""
    rests = {
        index: [i for i, other in enumerate(charges) if other.kind in charge.rests_on]
        for index, charge in enumerate(charges)
    }
    try:
        return list(TopologicalSorter(rests).static_order())
    except CycleError as problem:
        round_trip = problem.args[1]
        names = " → ".join(charges[index].label for index in round_trip)
        raise ChargeError(round_trip[0], "of", f"These charges rest on one another: {names}.") from problem


def _percentage(
    charge: Charge, under: Sequence[WorkedCharge], rate: Decimal, currency: str, base: str
) -> tuple[Decimal, Decimal, str]:
    """The amount, its rate and its currency."""
    rates = {(c.currency, c.rate) for c in under} or {(currency, rate)}
    if len(rates) == 1:
        ((name, own),) = rates
        whole = sum((c.foreign for c in under), ZERO)
    else:
        name, own = base, Decimal(1)
        whole = sum((c.base for c in under), ZERO)
    if charge.percent is not None:
        return to_cent(whole * charge.percent / 100), own, name
    amount, floor = ZERO, ZERO
    for band in charge.bands:
        top = whole if band.up_to is None else min(whole, band.up_to)
        amount += max(ZERO, top - floor) * band.percent / 100
        floor = max(floor, top)
    return to_cent(amount), own, name


def _percent_words(charge: Charge) -> str:
    def plain(percent: Decimal) -> str:
        return f"{percent.normalize():f}"

    if charge.percent is not None:
        return f"{plain(charge.percent)} %"
    words = [f"{plain(b.percent)} % {'above' if b.up_to is None else f'to {b.up_to:,.0f}'}" for b in charge.bands]
    return ", ".join(words)


# The charges most sales have, by the names that forms give them: kind, and whether it is a percentage.
USUAL_CHARGES: Mapping[str, tuple[ChargeKind, bool]] = {
    "price": (ChargeKind.PRICE, False),
    "premium_percent": (ChargeKind.PREMIUM, True),
    "premium_tax_percent": (ChargeKind.PREMIUM_TAX, True),
    "freight": (ChargeKind.FREIGHT, False),
    "duty_percent": (ChargeKind.DUTY, True),
    "import_tax_percent": (ChargeKind.IMPORT_TAX, True),
    "other": (ChargeKind.OTHER, False),
}


def usual_charges(figures: Mapping[str, Decimal | None], premium_bands: str = "") -> tuple[Charge, ...]:
    """Charges from plain figures under the names of USUAL_CHARGES; empty ones are none.

    Written `premium_bands` stand in for the percentage of the premium (ValueError, see read_bands).
    """
    charges = []
    for name, (kind, percentage) in USUAL_CHARGES.items():
        figure = figures.get(name)
        if kind is ChargeKind.PREMIUM and premium_bands:
            charges.append(Charge(kind, bands=read_bands(premium_bands)))
        elif figure:
            charges.append(Charge(kind, percent=figure) if percentage else Charge(kind, amount=figure))
    return tuple(charges)
