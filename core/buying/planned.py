"""What a plan says: the pieces of a lot and how each may turn out, the terms, what is wanted of it."""

import math
from dataclasses import dataclass, field
from decimal import Decimal

from core.buying.calibration import LOT_RHO, STATED, Calibration, relative_variance
from core.buying.landed import Charge, ChargeKind
from core.buying.odds import OUTCOMES


@dataclass(frozen=True)
class Case:
    """What one piece is worth if it turns out so: price low, likely, high; parts cost; hands-on minutes. `shape` by
    its value, where it was said: by it is reckoned what sending takes."""

    odds: float
    low: float = 0.0
    likely: float = 0.0
    high: float = 0.0
    cost: float = 0.0
    minutes: float = 0.0
    shape: str = ""

    @property
    def mean_price(self) -> float:
        """Mean of the PERT distribution: (low + 4 likely + high) / 6 (Malcolm and others 1959)."""
        return (self.low + 4 * self.likely + self.high) / 6

    @property
    def price_variance(self) -> float:
        """Variance of the beta distribution behind it: (mean - low)(high - mean) / 7."""
        return (self.mean_price - self.low) * (self.high - self.mean_price) / 7


@dataclass(frozen=True)
class BidLine:
    """`cases` in the order of OUTCOMES, odds summing to 1. `rho` is the correlation of outcomes within the line.

    `doubt` (0 to under 1) is how far the odds themselves are open: the variance of a share p that is known only so
    well, as a part of p (1 − p). `look_minutes` is what it takes to find out how one piece turns out, `look_cost` what
    is paid for that, in base currency (a journey, a deposit). Lines of one `kin` were one line until some of its pieces
    were asked about: whatever its prices and minutes are off is the same for all of them.
    """

    name: str
    quantity: int
    cases: tuple[Case, ...]
    rho: float = 0.15
    look_minutes: float = 5.0
    look_cost: float = 0.0
    doubt: float = 0.0
    kin: int | None = None

    def __post_init__(self) -> None:
        if len(self.cases) != len(OUTCOMES):
            raise ValueError("A line has one case for each outcome.")
        if any(case.odds < 0 for case in self.cases) or abs(sum(case.odds for case in self.cases) - 1) > 1e-6:
            raise ValueError("The odds of a line add up to 1.")
        if not (0 <= self.rho < 1 and 0 <= self.doubt < 1):
            raise ValueError("A correlation goes from 0 to under 1.")
        if any(not case.low <= case.likely <= case.high for case in self.cases):
            raise ValueError("Low, likely and high rise in this order.")
        if self.quantity < 1:
            raise ValueError("A line is for at least one piece.")


@dataclass(frozen=True)
class PlannedTax:
    """The tax within what is sold: `scheme` as in core/selling/price.py ("none", "standard", "margin"), or "global",
    where what sells for less than it cost is set against the rest. `percent` on top of what is taxed. Where it is on
    the margin, the price counts as bought for, and the premium where `premium_counts`."""

    scheme: str = "none"
    percent: Decimal = Decimal(0)
    premium_counts: bool = True

    @property
    def counted(self) -> frozenset[ChargeKind]:
        """The charges that count as what a lot was bought for."""
        return frozenset({ChargeKind.PRICE, ChargeKind.PREMIUM} if self.premium_counts else {ChargeKind.PRICE})

    @property
    def fraction(self) -> float:
        """Tax within 1 of what is taxed: r ÷ (100 + r); 0 without a scheme."""
        return 0.0 if self.scheme == "none" else float(self.percent / (100 + self.percent))

    @property
    def of_price(self) -> float:
        """The share of every price that is tax, before what was paid is set against it."""
        return 0.0 if self.scheme == "margin" else self.fraction


@dataclass(frozen=True)
class BidTerms:
    """What selling and working costs, and what the bid drags along.

    `fee` is the seller's fee as a share of price, `labour_rate` per hour, `lot_rho` 0 to under 1 ties all
    lines to one common factor, `charges` are those besides the price, `rate` is ours per unit of currency. `postage`
    is what we pay to send one piece, `postages` that of shapes of which more is known, and `after` what answering for
    a sale costs on average, base currency.
    """

    fee: float = 0.0
    labour_rate: float = 0.0
    lot_rho: float = LOT_RHO
    charges: tuple[Charge, ...] = ()
    rate: Decimal = Decimal(1)
    postage: float = 0.0
    postages: tuple[tuple[str, float], ...] = ()
    after: float = 0.0
    tax: PlannedTax = field(default_factory=PlannedTax)
    calibration: Calibration = STATED


@dataclass(frozen=True)
class Targets:
    """Expected profit at least `margin` of expected sales; chance of a loss at most `loss`; profit an hour."""

    margin: float = 0.2
    loss: float = 0.2
    hourly: float = 0.0


def shared_fate(line: BidLine, terms: BidTerms) -> float:
    """The correlation by which a line hangs on what all lines share: the lot’s, and as far as its odds are open, since
    one seller’s record is open for all that he sells. Two signs of normal variables of correlation r have
    2 ÷ π · asin r between them (Sheppard 1899), here turned round."""
    return 1 - (1 - terms.lot_rho) * (1 - math.sin(math.pi / 2 * line.doubt))


def expected_price(case: Case, terms: BidTerms) -> float:
    """What one piece sells for on average in this case, as plans came out so far."""
    return case.mean_price * terms.calibration.price


def expected_minutes(case: Case, terms: BidTerms) -> float:
    return case.minutes * terms.calibration.minutes


def sending(case: Case, terms: BidTerms) -> float:
    """What sending one piece and answering for it costs in this case. Nobody sells what would not bring that: more than
    is left of the price after the fee is never spent on it."""
    kept = expected_price(case, terms) * (1 - terms.fee)
    postage = next((takes for shape, takes in terms.postages if shape == case.shape), terms.postage)
    return min(postage + terms.after, kept)


def net_value(case: Case, terms: BidTerms) -> float:
    """What one piece leaves on average in this case: price less fee, tax on all of it, sending, parts and labour. What
    is taxed on a margin is another matter: it hangs on the bid."""
    kept = expected_price(case, terms) * (1 - terms.fee - terms.tax.of_price)
    labour = expected_minutes(case, terms) / 60 * terms.labour_rate
    return kept - sending(case, terms) - case.cost - labour


def extra_spread(case: Case, known: Calibration) -> float:
    """The relative variance that one sale has over what low and high of the case make: the wider of the two counts."""
    if case.mean_price <= 0:
        return 0.0
    return max(0.0, relative_variance(known.sale_price) - case.price_variance / case.mean_price**2)
