"""What a lot is worth to us before we own it, how sure we are, and the most we may bid.

The worth of a lot does not depend on the bid; only what it costs does. So the worth is drawn once, and
every question about a bid is answered from the same draws.
"""

import os
from collections.abc import Collection, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from decimal import ROUND_DOWN, Decimal
from functools import cached_property, lru_cache

import numpy as np
import numpy.typing as npt
from scipy import special

from core.buying.landed import Charge, ChargeKind, landed_cost
from core.buying.odds import OUTCOMES
from core.buying.questions import ASKS, Ask
from core.money import CENT

Floats = npt.NDArray[np.float64]
DRAWS = 20_000
ITEM_BY_ITEM = 12
THREADS = min(4, os.cpu_count() or 1)
_GRID = 1024


@dataclass(frozen=True)
class Case:
    """What one piece is worth if it turns out so: price low, likely, high; parts cost; hands-on minutes."""

    odds: float
    low: float = 0.0
    likely: float = 0.0
    high: float = 0.0
    cost: float = 0.0
    minutes: float = 0.0

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

    `look_minutes` is what it takes to find out how one piece turns out.
    """

    name: str
    quantity: int
    cases: tuple[Case, ...]
    rho: float = 0.15
    look_minutes: float = 5.0

    def __post_init__(self) -> None:
        if len(self.cases) != len(OUTCOMES):
            raise ValueError("A line has one case for each outcome.")
        if any(case.odds < 0 for case in self.cases) or abs(sum(case.odds for case in self.cases) - 1) > 1e-6:
            raise ValueError("The odds of a line add up to 1.")
        if not 0 <= self.rho < 1:
            raise ValueError("A correlation goes from 0 to under 1.")
        if any(not case.low <= case.likely <= case.high for case in self.cases):
            raise ValueError("Low, likely and high rise in this order.")
        if self.quantity < 1:
            raise ValueError("A line is for at least one piece.")


@dataclass(frozen=True)
class BidTerms:
    """What selling and working costs, and what the bid drags along.

    `fee` is the seller's fee as a share of price, `labour_rate` per hour, `lot_rho` 0 to under 1 ties all
    lines to one common factor, `charges` are those besides the price, `rate` is ours per unit of currency.
    """

    fee: float = 0.0
    labour_rate: float = 0.0
    lot_rho: float = 0.0
    charges: tuple[Charge, ...] = ()
    rate: Decimal = Decimal(1)


@dataclass(frozen=True)
class Targets:
    """Expected profit at least `margin` of expected sales; chance of a loss at most `loss`; profit an hour."""

    margin: float = 0.2
    loss: float = 0.2
    hourly: float = 0.0


@dataclass(frozen=True)
class Limit:
    """The highest bid that keeps one target; None when even a bid of 0 breaks it."""

    name: str
    bid: Decimal | None


@dataclass(frozen=True)
class AtBid:
    """What to expect at one bid. `landed` is all-in, in base currency; `low` and `high` the 5 and 95 % profits."""

    bid: Decimal
    landed: Decimal
    profit: float
    loss: float
    low: float
    high: float
    hourly: float | None
    on_cash: float | None


@dataclass(frozen=True)
class Question:
    """Asking about one piece of a line: how far the most we may bid would move, and what knowing is worth at a bid."""

    line: int
    ask: str
    lowers: Decimal
    lifts: Decimal
    minutes: float
    worth: float

    @property
    def rate(self) -> float:
        """What knowing is worth for a minute of finding out."""
        return self.worth / self.minutes


def net_value(case: Case, terms: BidTerms) -> float:
    """What one piece leaves on average in this case: price less fee, parts and labour."""
    return case.mean_price * (1 - terms.fee) - case.cost - case.minutes / 60 * terms.labour_rate


@dataclass(frozen=True)
class Forecast:
    """The draws of a lot's worth, line by line, and what can be asked of them.

    `worth` has one row a line and one column a draw, net of fees, parts and labour; `first` is the outcome
    of the first piece of each line in each draw; `sales` and `hours` are expectations.
    """

    lines: tuple[BidLine, ...]
    terms: BidTerms
    worth: Floats
    first: npt.NDArray[np.int8]
    sales: float
    hours: float
    mean: float
    variance: float

    @cached_property
    def total(self) -> Floats:
        return np.asarray(self.worth.sum(axis=0))

    def landed(self, bid: Decimal) -> Decimal:
        """All that is paid for the lot at this bid (in the lot's currency), in base currency."""
        price = Charge(ChargeKind.PRICE, amount=bid)
        return landed_cost((price, *self.terms.charges), self.terms.rate).total

    def at(self, bid: Decimal) -> AtBid:
        """What to expect at a bid of 0 or more."""
        landed = self.landed(bid)
        profits = self.total - float(landed)
        low, high = np.quantile(profits, (0.05, 0.95))
        profit = self.mean - float(landed)
        return AtBid(
            bid,
            landed,
            profit,
            float((profits < 0).mean()),
            float(low),
            float(high),
            profit / self.hours if self.hours else None,
            profit / float(landed) if landed else None,
        )

    def highest(self, most_landed: float) -> Decimal | None:
        """The highest bid, to the cent, whose landed cost stays within `most_landed`; None if 0 does not."""
        if float(self.landed(Decimal(0))) > most_landed:
            return None
        low, high = 0, max(1, int(most_landed / float(self.terms.rate) * 100) + 200)
        # Charges are straight in the bid but for rounding, so the answer lies within cents of a straight guess.
        guess = int((most_landed - float(self.landed(Decimal(0)))) / self._slope * 100)
        if self._within(guess - 8, most_landed) and not self._within(guess + 8, most_landed):
            low, high = max(guess - 8, 0), guess + 7
        while low < high:
            middle = (low + high + 1) // 2
            if self._within(middle, most_landed):
                low = middle
            else:
                high = middle - 1
        return (Decimal(low) / 100).quantize(CENT, rounding=ROUND_DOWN)

    @cached_property
    def _slope(self) -> float:
        """What one more unit of the bid adds to the landed cost, in base currency."""
        return float(self.landed(Decimal(1_000_000)) - self.landed(Decimal(0))) / 1_000_000

    def _within(self, cents: int, most_landed: float) -> bool:
        return float(self.landed(Decimal(max(cents, 0)) / 100)) <= most_landed

    def limits(self, targets: Targets) -> tuple[Limit, ...]:
        """The highest bid for each target; the lowest of them binds."""
        return tuple(Limit(name, self.highest(amount)) for name, amount in self._affordable(targets).items())

    def most(self, targets: Targets, without: int | None = None) -> Limit:
        """The binding target and the most we may bid (`without` a line); None when we should leave the lot."""
        return self._binding(self._affordable(targets, without))

    def _affordable(self, targets: Targets, without: int | None = None) -> dict[str, float]:
        """The most that may be paid all-in, for each target."""
        draws, mean, sales, hours = self.total, self.mean, self.sales, self.hours
        if without is not None:
            line = self.lines[without]
            draws = draws - self.worth[without]
            mean -= line.quantity * sum(c.odds * net_value(c, self.terms) for c in line.cases)
            sales -= line.quantity * sum(c.odds * c.mean_price for c in line.cases)
            hours -= line.quantity * sum(c.odds * c.minutes for c in line.cases) / 60
        return {
            "margin": mean - targets.margin * sales,
            "loss": _lower_quantile(draws, targets.loss),
            "hourly": mean - targets.hourly * hours,
        }

    def _binding(self, affordable: dict[str, float]) -> Limit:
        # The landed cost rises with the bid, so the target that affords least is the one that binds.
        name = min(affordable, key=lambda target: affordable[target])
        return Limit(name, self.highest(affordable[name]))

    def adds(self, targets: Targets) -> tuple[Decimal, ...]:
        """How much each line adds to the most we may bid; below 0 for one that only costs."""
        whole = self.most(targets).bid or Decimal(0)
        return tuple(whole - (self.most(targets, without=i).bid or Decimal(0)) for i in range(len(self.lines)))

    def questions(
        self, targets: Targets, bid: Decimal, asked: Collection[tuple[int, str]] = (), *, most: int = 8
    ) -> tuple[Question, ...]:
        """The `most` questions about one piece of a line that are best worth their minutes; `asked` are left out.

        Worth is the expected value of that information at `bid`: profit if we may still leave after the
        answer, less profit without it (value of sample information). Answers are weighed by how likely each
        outcome makes them.
        """
        landed = float(self.landed(bid))
        now = max(0.0, self.mean - landed)
        found = []
        for index, line in enumerate(self.lines):
            shares, sums = self._by_outcome(index)
            for ask in ASKS:
                if (index, ask.code) in asked or (ask.certain and max(case.odds for case in line.cases) >= 1):
                    continue
                chances = np.array([answer.chances for answer in ask.answers])
                heard = chances @ shares
                if (heard > 0.002).sum() < 2:
                    continue
                worth = float(np.maximum(0.0, chances @ sums - heard * landed).sum()) - now
                minutes = ask.minutes if ask.minutes is not None else line.look_minutes
                found.append((max(0.0, worth) / minutes, -index, ask, minutes))
        best = sorted(found, key=lambda f: f[:2], reverse=True)[:most]
        return tuple(self._moved(targets, -place, ask, minutes, rate) for rate, place, ask, minutes in best)

    def _moved(self, targets: Targets, index: int, ask: Ask, minutes: float, rate: float) -> Question:
        """How far the answers to one question would move the most we may bid."""
        order = np.argsort(self.total)
        ranked, turned = self.total[order], self._turned(index)[:, order]
        moved = [Decimal(0)]
        for answer in ask.answers:
            heard = np.array(answer.chances) @ turned
            if heard.sum() <= 0.002 * len(ranked):
                continue
            so_far = np.cumsum(heard)
            place = min(int(np.searchsorted(so_far, targets.loss * so_far[-1], "right")), len(ranked) - 1)
            mean = float(heard @ ranked / so_far[-1])
            sales, hours = self._after(index, turned @ np.ones(len(ranked)) * np.array(answer.chances))
            affordable = {
                "margin": mean - targets.margin * sales,
                "loss": float(ranked[place]),
                "hourly": mean - targets.hourly * hours,
            }
            moved.append((self._binding(affordable).bid or Decimal(0)) - (self.most(targets).bid or Decimal(0)))
        return Question(index, ask.code, min(moved), max(moved), minutes, rate * minutes)

    def _by_outcome(self, index: int) -> tuple[Floats, Floats]:
        """How likely each outcome of the first piece of a line is, and that times what the lot is worth on average
        then: exact where lines have nothing to do with each other, by the draws where they share a factor."""
        if self.terms.lot_rho > 0:
            turned = self._turned(index)
            return turned.mean(axis=1), turned @ (self.total - self.total.mean() + self.mean) / len(self.total)
        line = self.lines[index]
        shares = np.array([case.odds for case in line.cases])
        values = np.array([net_value(case, self.terms) for case in line.cases])
        # The piece itself, and rho of every other one, go with it.
        moved = (values - shares @ values) * (1 + (line.quantity - 1) * line.rho)
        return shares, shares * (self.mean + moved)

    def _after(self, index: int, heard: Floats) -> tuple[float, float]:
        """Expected sales and hours of the lot once the first piece of a line is known as far as `heard` says (a weight
        an outcome): that piece, and the others of its line, which learn from it by rho."""
        line = self.lines[index]
        odds = np.array([case.odds for case in line.cases])
        piece = heard / heard.sum()
        rest = (1 - line.rho) * odds + line.rho * piece
        more = piece + (line.quantity - 1) * rest - line.quantity * odds
        sales = float(more @ np.array([case.mean_price for case in line.cases]))
        hours = float(more @ np.array([case.minutes for case in line.cases])) / 60
        return self.sales + sales, self.hours + hours

    def _turned(self, index: int) -> Floats:
        """A row an outcome, a column a draw: 1 where the first piece of the line turned out so."""
        return np.stack([self.first[index] == outcome for outcome in range(len(OUTCOMES))]).astype(np.float64)


def forecast(lines: Sequence[BidLine], terms: BidTerms, draws: int = DRAWS, seed: int = 1) -> Forecast:
    """Draw the worth of a lot `draws` times; the same seed draws the same.

    Outcomes within a line are Dirichlet-multinomial with intra-line correlation rho (for two outcomes:
    beta-binomial). With `lot_rho` above 0 all lines share a normal factor that moves their odds together
    while each keeps its odds on average. Prices are PERT. Raises ValueError without lines.
    """
    if not lines:
        raise ValueError("A plan has at least one line.")
    dice = np.random.default_rng(seed)
    factor = dice.standard_normal(draws) if terms.lot_rho > 0 else None
    worth = np.empty((len(lines), draws))
    first = np.empty((len(lines), draws), dtype=np.int8)

    def draw(index: int, line: BidLine, own: np.random.Generator) -> None:
        cumulative = _cumulative(line, factor, terms.lot_rho)
        act = _item_by_item if line.quantity <= ITEM_BY_ITEM else _by_counts
        worth[index], first[index] = act(line, terms, cumulative, draws, own)

    # Every line has dice of its own, so that the threads draw the same whichever comes first.
    with ThreadPoolExecutor(THREADS) as threads:
        list(threads.map(draw, range(len(lines)), lines, dice.spawn(len(lines))))
    mean, variance = moments(lines, terms)
    sales = sum(line.quantity * case.odds * case.mean_price for line in lines for case in line.cases)
    hours = sum(line.quantity * case.odds * case.minutes for line in lines for case in line.cases) / 60
    return Forecast(tuple(lines), terms, worth, first, sales, hours, mean, variance)


def moments(lines: Sequence[BidLine], terms: BidTerms) -> tuple[float, float]:
    """Exact mean and variance of a lot's net worth.

    Given the common factor, a line of n pieces has variance n (between + within) + n (n - 1) rho between:
    `between` of the case means, `within` of the prices. The factor itself is integrated by Gauss-Hermite
    quadrature.
    """
    if terms.lot_rho > 0:
        nodes, weights = np.polynomial.hermite_e.hermegauss(40)
        weights = weights / weights.sum()
    else:
        nodes, weights = np.zeros(1), np.ones(1)
    means = np.zeros(len(nodes))
    variances = np.zeros(len(nodes))
    for line in lines:
        cumulative = _cumulative(line, nodes if terms.lot_rho > 0 else None, terms.lot_rho)
        odds = np.diff(np.broadcast_to(cumulative, (len(OUTCOMES), len(nodes))), axis=0, prepend=0.0)
        values = np.array([net_value(case, terms) for case in line.cases])[:, None]
        within = np.array([case.price_variance * (1 - terms.fee) ** 2 for case in line.cases])[:, None]
        mean = (odds * values).sum(axis=0)
        between = (odds * values**2).sum(axis=0) - mean**2
        n = line.quantity
        means += n * mean
        variances += n * (between + (odds * within).sum(axis=0)) + n * (n - 1) * line.rho * between
    mean = float((weights * means).sum())
    return mean, float((weights * (variances + (means - mean) ** 2)).sum())


def _cumulative(line: BidLine, factor: Floats | None, lot_rho: float) -> Floats:
    """Cumulative odds of the outcomes, best first: a column for all draws, or one for each value of the factor."""
    steps = np.cumsum([case.odds for case in line.cases])
    steps[-1] = 1.0
    if factor is None:
        return np.asarray(steps[:, None])
    edges = special.ndtri(np.clip(steps[:-1], 1e-12, 1 - 1e-12))[:, None]
    moved = special.ndtr((edges + np.sqrt(lot_rho) * factor[None, :]) / np.sqrt(1 - lot_rho))
    return np.vstack([moved, np.ones((1, len(factor)))])


def _pert_table(case: Case) -> npt.NDArray[np.float32]:
    """Prices at evenly spaced chances, so that a draw is a look-up."""
    if case.high <= case.low:
        return np.full(_GRID, case.low, dtype=np.float32)
    span = case.high - case.low
    return (case.low + span * _pert_quantiles((case.likely - case.low) / span)).astype(np.float32)


@lru_cache(maxsize=1024)
def _pert_quantiles(mode: float) -> Floats:
    """PERT from 0 to 1 with its mode at `mode`, at evenly spaced chances."""
    # The distribution function turned round by interpolation: much quicker than its inverse, and as good.
    at = np.linspace(0, 1, _GRID + 1)
    chances = (np.arange(_GRID) + 0.5) / _GRID
    return np.asarray(np.interp(chances, special.betainc(1 + 4 * mode, 5 - 4 * mode, at), at))


def _item_by_item(
    line: BidLine, terms: BidTerms, cumulative: Floats, draws: int, dice: np.random.Generator
) -> tuple[Floats, npt.NDArray[np.int8]]:
    """Piece after piece by the urn scheme of Pólya: a piece copies an earlier one, or is drawn anew."""
    tables = np.stack([_pert_table(case) for case in line.cases]) * np.float32(1 - terms.fee)
    tables -= np.array([[case.cost + case.minutes / 60 * terms.labour_rate] for case in line.cases], dtype=np.float32)
    # Singles and narrow integers throughout: this is where a plan spends its time.
    chance = dice.random((line.quantity, draws), dtype=np.float32)
    edges = cumulative[:-1].astype(np.float32)
    outcome = (chance > edges[0]).view(np.int8)
    for edge in edges[1:]:
        outcome += (chance > edge).view(np.int8)
    if line.rho > 0:
        weight = (1 - line.rho) / line.rho
        for number in range(1, line.quantity):
            copies = np.flatnonzero(dice.random(draws, dtype=np.float32) < number / (number + weight))
            outcome[number, copies] = outcome[dice.integers(0, number, len(copies), dtype=np.int8), copies]
    place = (dice.random(outcome.shape, dtype=np.float32) * np.float32(_GRID)).astype(np.int16)
    np.minimum(place, _GRID - 1, out=place)
    place += outcome.astype(np.int16) * np.int16(_GRID)
    return tables.ravel()[place].sum(axis=0, dtype=np.float64), outcome[0].copy()


def _by_counts(
    line: BidLine, terms: BidTerms, cumulative: Floats, draws: int, dice: np.random.Generator
) -> tuple[Floats, npt.NDArray[np.int8]]:
    """Many pieces: how many fall to each outcome, then the sum of their prices (normal for this many)."""
    odds = np.diff(np.broadcast_to(cumulative, (len(OUTCOMES), draws)), axis=0, prepend=0.0)
    if line.rho > 0:
        weight = (1 - line.rho) / line.rho
        odds = dice.standard_gamma(np.maximum(odds * weight, 1e-12))
        odds = odds / np.maximum(odds.sum(axis=0), 1e-300)
    total, counts = np.zeros(draws), []
    left, share = np.full(draws, line.quantity), np.ones(draws)
    for chance, case in zip(odds, line.cases, strict=True):
        part = np.clip(np.divide(chance, share, out=np.ones(draws), where=share > 1e-12), 0.0, 1.0)
        count = dice.binomial(left, part) if case is not line.cases[-1] else left
        counts.append(count)
        left, share = left - count, share - chance
        spread = np.sqrt(count * case.price_variance) * (1 - terms.fee)
        total += count * net_value(case, terms) + spread * dice.standard_normal(draws)
    # Any piece may be the first: it turned out so with the share that did.
    drawn = dice.random(draws) * line.quantity
    first = (drawn >= np.cumsum(counts, axis=0)[:-1]).sum(axis=0).astype(np.int8)
    return total, first


def _lower_quantile(draws: Floats, chance: float) -> float:
    """The largest amount that at most a share `chance` of the draws falls short of."""
    place = min(int(np.floor(chance * len(draws))), len(draws) - 1)
    return float(np.partition(draws, place)[place])
