"""What selling takes of a price, and the lowest price that covers what it must."""

from bisect import bisect_left
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from decimal import Decimal

from core.money import CENT, to_cent, up_to_cent

# In cents: no price of ours is higher.
HIGHEST = 10**10 - 1


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


def share_kept(fee: float, commission_percent: Decimal | None) -> float:
    """The share of a price that is kept after a `fee`, which is a share of it too. Of what is sold for its owner that
    is our commission less the fee, and may be below 0; `commission_percent` is None for what is ours."""
    ours = 1.0 if commission_percent is None else float(commission_percent) / 100
    return ours - fee


def fee_on(price: Decimal, terms: SellingTerms) -> Decimal:
    """What the channel keeps of a sale at `price`."""
    return to_cent(price * terms.fee_percent / 100 + terms.fee_fixed)


@dataclass(frozen=True)
class FeesKept:
    """What a channel kept of `sales` sales and what it would keep of them by its terms, in percent of their prices."""

    sales: int
    kept: Decimal
    by_terms: Decimal

    @property
    def more(self) -> bool:
        """It takes a twentieth more than its terms say, or a larger part."""
        return self.kept > self.by_terms * Decimal("1.05")


# From fewer sales nothing is told. Common practice, no source.
FEWEST_SALES = 3


def fees_kept(sales: Sequence[tuple[Decimal, Decimal]], terms: SellingTerms) -> FeesKept | None:
    """From (price, what the channel kept) of each sale; None for fewer than three."""
    if len(sales) < FEWEST_SALES:
        return None
    fetched = sum((price for price, _ in sales), Decimal(0))

    def percent(amount: Decimal) -> Decimal:
        return (100 * amount / fetched).quantize(Decimal("0.1"))

    kept = sum((fee for _, fee in sales), Decimal(0))
    reckoned = sum((fee_on(price, terms) for price, _ in sales), Decimal(0))
    return FeesKept(len(sales), percent(kept), percent(reckoned))


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


def lowest_for(amount: Decimal, left: Callable[[Decimal], Decimal]) -> Decimal | None:
    """The lowest price, to the cent, of which at least `amount` is left; `left` rises with the price. None where no
    price leaves so much: what is sold for its owner may bring us less than the fee."""
    top = 100
    while left(top * CENT) < amount:
        if top >= HIGHEST:
            return None
        top = min(top * 2, HIGHEST)
    return bisect_left(range(top + 1), True, key=lambda cents: left(cents * CENT) >= amount) * CENT


def left_of(price: Decimal, purchase: Decimal, terms: SellingTerms) -> Decimal:
    """What a sale at `price` leaves after fee, postage and tax: the other way round than `floor_price`."""
    return price - fee_on(price, terms) - terms.postage - tax_within(price, purchase, terms)
