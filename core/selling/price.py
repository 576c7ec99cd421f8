"""A price that can be defended: from what others paid, brought to this unit's grade."""

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from core.money import to_cent, up_to_cent
from core.selling.grade import Grade

# What each grade fetches against a B (common practice, no source).
RATIO = {
    Grade.A: Decimal("1.25"),
    Grade.B: Decimal("1.00"),
    Grade.C: Decimal("0.78"),
    Grade.D: Decimal("0.50"),
    Grade.E: Decimal("0.35"),
    Grade.PARTS: Decimal("0.22"),
    Grade.UNTESTED: Decimal("0.55"),
}
_RANK = {Grade.A: 0, Grade.B: 1, Grade.C: 2, Grade.UNTESTED: 2, Grade.D: 3, Grade.E: 4, Grade.PARTS: 5}
HALF_LIFE_DAYS = 180
PER_GRADE_STEP = 0.6
OWN_SALE = 1.5
FEW = 3.0


@dataclass(frozen=True)
class Comparable:
    """A sale elsewhere (or our own): price in base currency, how old in days, in what state."""

    price: Decimal
    age_days: int
    grade: Grade
    completeness: int = 100
    own: bool = False


@dataclass(frozen=True)
class Weighed:
    """A comparable brought to this unit's grade, with the weight it carries."""

    comparable: Comparable
    adjusted: Decimal
    weight: float


@dataclass(frozen=True)
class PriceBand:
    """Low, likely and high are the 10, 50 and 90 % weighted quantiles, in base currency."""

    low: Decimal
    likely: Decimal
    high: Decimal
    effective: float
    weighed: tuple[Weighed, ...]

    @property
    def few(self) -> bool:
        """Fewer than FEW effective comparables: the band is a guess and must be called one."""
        return self.effective < FEW


def weigh(comparable: Comparable, grade: Grade, completeness: int) -> Weighed:
    """Weight by age (half-life 180 days), grade distance and completeness; own sales count half as much again."""
    weight = 0.5 ** (comparable.age_days / HALF_LIFE_DAYS)
    weight *= PER_GRADE_STEP ** abs(_RANK[comparable.grade] - _RANK[grade])
    weight *= 1 - min(abs(comparable.completeness - completeness), 80) / 100
    weight *= OWN_SALE if comparable.own else 1.0
    return Weighed(comparable, to_cent(comparable.price * RATIO[grade] / RATIO[comparable.grade]), weight)


def weighted_quantile(values: Sequence[Decimal], weights: Sequence[float], q: float) -> Decimal:
    """The least value at which the share of weight reaches `q` (0 to 1): the inverted distribution function.

    Weights are 0 or more and not all 0 (ValueError otherwise).
    """
    whole = sum(weights)
    if not values or whole <= 0:
        raise ValueError("A quantile needs at least one value with a weight.")
    running = 0.0
    ranked = sorted((value, weight) for value, weight in zip(values, weights, strict=True) if weight > 0)
    for value, weight in ranked:
        running += weight
        if running >= q * whole:
            return value
    return ranked[-1][0]


def price_band(comparables: Sequence[Comparable], grade: Grade, completeness: int) -> PriceBand | None:
    """The band for a unit of this grade and completeness (0 to 100); None when nothing can be compared."""
    weighed = tuple(weigh(c, grade, completeness) for c in comparables)
    weights = [w.weight for w in weighed]
    if not weights or sum(weights) <= 0:
        return None
    values = [w.adjusted for w in weighed]
    low, likely, high = (weighted_quantile(values, weights, q) for q in (0.1, 0.5, 0.9))
    effective = sum(weights) ** 2 / sum(weight * weight for weight in weights)
    return PriceBand(low, likely, high, effective, weighed)


@dataclass(frozen=True)
class SellingTerms:
    """What selling takes: fee as a percentage of price and a fixed part, postage we pay, tax by its scheme.

    `tax_scheme` is "none", "standard" (tax within the whole price) or "margin" (tax within price less
    purchase). Rates and schemes differ by country: settings, ask an accountant.
    """

    fee_percent: Decimal
    fee_fixed: Decimal = Decimal(0)
    postage: Decimal = Decimal(0)
    tax_scheme: str = "none"
    tax_percent: Decimal = Decimal(0)


def tax_within(price: Decimal, purchase: Decimal, terms: SellingTerms) -> Decimal:
    """The tax inside a price that includes it: m x r / (1 + r) on the taxed amount, never below 0.

    Margin scheme: bought at 1,000, sold at 1,200, 20 % -> 33.33 (tax authority's notice, from memory).
    """
    fraction = terms.tax_percent / (100 + terms.tax_percent)
    if terms.tax_scheme == "standard":
        return to_cent(price * fraction)
    if terms.tax_scheme == "margin":
        return to_cent(max(Decimal(0), price - purchase) * fraction)
    return Decimal("0.00")


def owners_part(price: Decimal, commission_percent: Decimal) -> Decimal:
    """What is owed to the owner of a thing sold on commission: the price less our commission, to the cent."""
    return price - to_cent(price * commission_percent / 100)


def fee_on(price: Decimal, terms: SellingTerms) -> Decimal:
    """What the channel keeps of a sale at `price`."""
    return to_cent(price * terms.fee_percent / 100 + terms.fee_fixed)


def floor_price(to_cover: Decimal, purchase: Decimal, terms: SellingTerms) -> Decimal:
    """The lowest price that leaves `to_cover` after fee, postage and tax, rounded up to the cent.

    p = (to_cover + fixed fee + postage) / (1 - fee - tax share), with the tax share on the margin only when
    there is one. Raises ValueError when fee and tax would take all of it.
    """
    need = to_cover + terms.fee_fixed + terms.postage
    fee = terms.fee_percent / 100
    fraction = terms.tax_percent / (100 + terms.tax_percent)
    if terms.tax_scheme == "standard":
        return up_to_cent(need / _kept(1 - fee - fraction))
    without = need / _kept(1 - fee)
    if terms.tax_scheme == "margin" and without > purchase:
        return up_to_cent((need - purchase * fraction) / _kept(1 - fee - fraction))
    return up_to_cent(without)


def _kept(share: Decimal) -> Decimal:
    if share <= 0:
        raise ValueError("Fee and tax take the whole price; no price covers the cost.")
    return share
