"""What a lot is worth to us before we own it, how sure we are, and the most we may bid.

What the pieces turn out to be does not depend on the bid; only what they cost does. So the worth is drawn once, and
every question about a bid is answered from the same draws.
"""

import os
from collections import Counter
from collections.abc import Callable, Collection, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from decimal import Decimal
from functools import cached_property

import numpy as np
import numpy.typing as npt

from core.buying.draws import DrawnLine, Shared, draw_line
from core.buying.margin_tax import MarginTax
from core.buying.moments import factor_nodes, moments, odds_at
from core.buying.odds import OUTCOMES
from core.buying.outlay import Outlay
from core.buying.planned import (
    BidLine,
    BidTerms,
    Targets,
    expected_minutes,
    expected_price,
    net_value,
    sending,
)
from core.buying.questions import ASKS, Ask

Floats = npt.NDArray[np.float64]
DRAWS = 20_000
THREADS = min(4, os.cpu_count() or 1)
# Amounts of money nearer than this are the same: half a cent.
SAME = 0.005
# Where tax goes by the bid a search begins from one in so many of the draws, which lies near.
THINNED = 8


@dataclass(frozen=True)
class Limit:
    """The highest bid that keeps one target; None when even a bid of 0 breaks it."""

    name: str
    bid: Decimal | None


@dataclass(frozen=True)
class AtBid:
    """What to expect at one bid. `landed` is all-in, in base currency; `low` and `high` the 5 and 95 % profits; `tax`
    what is to be expected of it within the sales."""

    bid: Decimal
    landed: Decimal
    profit: float
    loss: float
    low: float
    high: float
    tax: float
    hourly: float | None
    on_cash: float | None


@dataclass(frozen=True)
class Expected:
    """Where the sales of a lot go on average, before tax and what the lot costs; base currency."""

    sales: float
    fee: float
    sending: float
    parts: float
    labour: float


@dataclass(frozen=True)
class Question:
    """Asking about one piece of a line: how far the most we may bid would move, what knowing is `worth` at a bid, and
    what finding out takes: minutes, and its `cost` with those minutes at the labour rate."""

    line: int
    ask: str
    lowers: Decimal
    lifts: Decimal
    minutes: float
    worth: float
    cost: float

    @property
    def gain(self) -> float:
        """What knowing is worth more than it costs."""
        return self.worth - self.cost

    @property
    def rate(self) -> float:
        """What is gained for a minute of finding out."""
        return self.gain / self.minutes


@dataclass(frozen=True)
class Forecast:
    """The draws of a lot’s worth, line by line, and what can be asked of them.

    `worth` has one row a line and one column a draw, net of fees, sending, parts and labour, before a tax on the
    margin; `mean` and `variance` are exact, of their sum.
    """

    lines: tuple[BidLine, ...]
    terms: BidTerms
    worth: Floats
    drawn: tuple[DrawnLine, ...]
    mean: float
    variance: float

    @cached_property
    def total(self) -> Floats:
        """The worth of the whole lot in each draw, as wide as closed lots came out."""
        return self._widened(self._sum, self.mean)

    @cached_property
    def _sum(self) -> Floats:
        return np.asarray(self.worth.sum(axis=0))

    def _widened(self, draws: Floats, mean: float) -> Floats:
        width = self.terms.calibration.width
        return draws if width == 1 else mean + width * (draws - mean)

    @cached_property
    def expected(self) -> Expected:
        terms = self.terms
        sales = self._over_all([[expected_price(case, terms) for case in line.cases] for line in self.lines])
        return Expected(
            sales,
            sales * terms.fee,
            self._over_all([[sending(case, terms) for case in line.cases] for line in self.lines]),
            self._over_all([[case.cost for case in line.cases] for line in self.lines]),
            self.hours * terms.labour_rate,
        )

    @cached_property
    def hours(self) -> float:
        """Expected hands-on hours."""
        return self._over_all([[expected_minutes(case, self.terms) for case in line.cases] for line in self.lines]) / 60

    def _over_all(self, amounts: Sequence[Sequence[float]]) -> float:
        return sum(
            line.quantity * sum(case.odds * one for case, one in zip(line.cases, of, strict=True))
            for line, of in zip(self.lines, amounts, strict=True)
        )

    @cached_property
    def outlay(self) -> Outlay:
        """What the lot costs at any bid."""
        return Outlay(self.terms, float(self.total.max()))

    @cached_property
    def _margin_tax(self) -> MarginTax:
        return MarginTax(self.lines, self.terms, self.drawn)

    def _tax(self, bought_for: float, without: int | None = None) -> Floats | float:
        """What is still to be taken off the worth for tax, in each draw; below 0 where tax on all that is sold was
        taken off already and what was paid is set against it."""
        tax = self.terms.tax
        if tax.scheme == "margin":
            return self._margin_tax.drawn(bought_for, without)
        return -tax.fraction * bought_for if tax.scheme == "global" else 0.0

    def at(self, bid: Decimal) -> AtBid:
        """What to expect at a bid of 0 or more."""
        landed, bought_for = self.outlay.at(bid)
        tax, profits = self._tax(bought_for), self.profits(bid)
        low, high = np.quantile(profits, (0.05, 0.95))
        profit = self.mean - float(np.mean(tax)) - float(landed)
        return AtBid(
            bid,
            landed,
            profit,
            float((profits < 0).mean()),
            float(low),
            float(high),
            float(np.mean(tax)) + self.expected.sales * self.terms.tax.of_price,
            profit / self.hours if self.hours else None,
            profit / float(landed) if landed else None,
        )

    def profits(self, bid: Decimal) -> Floats:
        """The profit at a bid in each draw."""
        landed, bought_for = self.outlay.at(bid)
        return np.asarray(self.total - self._tax(bought_for) - float(landed))

    def limits(self, targets: Targets) -> tuple[Limit, ...]:
        """The highest bid for each target; the lowest of them binds."""
        names = self._left(targets)
        return tuple(Limit(name, self.outlay.highest(self._affordable(targets, name))) for name in names)

    def most(self, targets: Targets, without: int | None = None) -> Limit:
        """The binding target and the most we may bid (`without` a line); None when we should leave the lot."""
        if without is not None:
            return self._most(targets, without)
        if targets not in self._found:
            self._found[targets] = self._most(targets)
        return self._found[targets]

    @cached_property
    def _found(self) -> dict[Targets, Limit]:
        """What was found already: a page asks for the same more than once."""
        return {}

    def _most(self, targets: Targets, without: int | None = None) -> Limit:
        # The landed cost rises with the bid, so the target that affords least is the one that binds.
        most = self._affordable(targets, None, without)
        left, tax = self._left(targets, without), self._tax(self.outlay.bought_for(most), without)
        return Limit(min(left, key=lambda target: left[target](tax)), self.outlay.highest(most))

    def _affordable(self, targets: Targets, name: str | None, without: int | None = None) -> float:
        """The most that may be paid all-in to keep the target of this name, or all of them."""
        left = self._left(targets, without)

        def least(tax: Floats | float) -> float:
            return left[name](tax) if name else min(of(tax) for of in left.values())

        if self.terms.tax.scheme not in {"margin", "global"}:
            return least(0.0)
        draws = self.worth.shape[1]
        near = self._few._affordable(targets, name, without) if draws > THINNED * 1000 else self.mean / 2
        return self._solved(least, near, without)

    def _left(self, targets: Targets, without: int | None = None) -> dict[str, Callable[[Floats | float], float]]:
        """For each target, the most that may be paid all-in once so much is taken off the draws for tax."""
        draws, mean, sales, hours = self.total, self.mean, self.expected.sales, self.hours
        if without is not None:
            line = self.lines[without]
            mean -= line.quantity * sum(c.odds * net_value(c, self.terms) for c in line.cases)
            sales -= line.quantity * sum(c.odds * expected_price(c, self.terms) for c in line.cases)
            hours -= line.quantity * sum(c.odds * expected_minutes(c, self.terms) for c in line.cases) / 60
            draws = self._widened(self._sum - self.worth[without], mean)
        return {
            "margin": lambda tax: mean - float(np.mean(tax)) - targets.margin * sales,
            "loss": lambda tax: _lower_quantile(draws - tax, targets.loss),
            "hourly": lambda tax: mean - float(np.mean(tax)) - targets.hourly * hours,
        }

    def _solved(self, left: Callable[[Floats | float], float], near: float, without: int | None = None) -> float:
        """The amount x, all-in, of which just x is left once tax is reckoned with what that buys; `near` begins.

        What is paid lowers a tax on the margin, by less than itself: straight lines through the last two guesses close
        in on it (secant method).
        """

        def off_by(landed: float) -> float:
            return left(self._tax(self.outlay.bought_for(landed), without)) - landed

        before, off_before = near, off_by(near)
        guess = before + off_before / (1 - self.terms.tax.fraction)
        for _ in range(12):
            off = off_by(guess)
            if abs(off) < SAME or guess == before:
                break
            bend = (off - off_before) / (guess - before)
            before, off_before = guess, off
            guess -= off / min(bend, -0.05)
        return guess

    def adds(self, targets: Targets) -> tuple[Decimal, ...]:
        """How much each line adds to the most we may bid; below 0 for one that only costs."""
        # Where tax goes by the bid each line is a search of its own: an eighth of the draws, the same on both sides.
        drawn = self._few if self.terms.tax.scheme == "margin" else self
        whole = drawn.most(targets).bid or Decimal(0)
        return tuple(whole - (drawn.most(targets, without=i).bid or Decimal(0)) for i in range(len(self.lines)))

    @cached_property
    def _few(self) -> "Forecast":
        """The same lot by some of its draws."""
        return replace(self, worth=self.worth[:, ::THINNED], drawn=tuple(line.thinned(THINNED) for line in self.drawn))

    def questions(
        self, targets: Targets, bid: Decimal, asked: Collection[tuple[int, str]] = (), *, most: int = 8
    ) -> tuple[Question, ...]:
        """The `most` questions about one piece of a line that are best worth their minutes; `asked` are left out.

        Worth is the expected value of that information at `bid`: profit if we may still leave after the
        answer, less profit without it (value of sample information). Answers are weighed by how likely each
        outcome makes them.
        """
        landed, bought_for = self.outlay.at(bid)
        tax = self._tax(bought_for)
        paid = float(landed) + float(np.mean(tax))
        now = max(0.0, self.mean - paid)
        found = []
        for index, line in enumerate(self.lines):
            given = self._given[index]
            sums = given.worth - given.shares * paid
            if isinstance(tax, np.ndarray):
                # A tax on the margin goes with what the piece turns out to be, as the draws have it.
                sums = sums - self._turned(index) @ (tax - tax.mean()) / len(tax)
            for ask in ASKS:
                if (index, ask.code) in asked or (ask.certain and max(case.odds for case in line.cases) >= 1):
                    continue
                chances = np.array([answer.chances for answer in ask.answers])
                if (chances @ given.shares > 0.002).sum() < 2:
                    continue
                worth = max(0.0, float(np.maximum(0.0, chances @ sums).sum()) - now)
                minutes = ask.minutes if ask.minutes is not None else line.look_minutes
                cost = minutes / 60 * self.terms.labour_rate + (line.look_cost if ask.at_viewing else 0.0)
                found.append(((worth - cost) / minutes, -index, ask, minutes, worth, cost))
        best = sorted(found, key=lambda f: f[:2], reverse=True)[:most]
        at_most = self._now(targets)
        return tuple(
            Question(-place, ask.code, *self._moved(targets, at_most, -place, ask), minutes, worth, cost)
            for _, place, ask, minutes, worth, cost in best
        )

    def _moved(self, targets: Targets, now: "_Now", index: int, ask: Ask) -> tuple[Decimal, Decimal]:
        """How far the answers to one question would lower and lift the most we may bid."""
        given = self._given[index]
        turned = self._turned(index)[:, now.order]
        moved = [Decimal(0)]
        for answer in ask.answers:
            chances = np.array(answer.chances)
            heard = chances @ turned
            if heard.sum() <= 0.002 * heard.size:
                continue
            so_far = np.cumsum(heard)
            place = min(int(np.searchsorted(so_far, targets.loss * so_far[-1], "right")), heard.size - 1)
            share = float(chances @ given.shares)
            worth, sales, hours = (float(chances @ sums) / share for sums in (given.worth, given.sales, given.hours))
            tax = float(heard @ now.tax / so_far[-1])
            affordable = {
                "margin": worth - tax - targets.margin * sales,
                "loss": float(now.ranked[place]),
                "hourly": worth - tax - targets.hourly * hours,
            }
            name = min(affordable, key=lambda target: affordable[target])
            # What more is paid lowers a tax on the margin again.
            landed = now.landed + (affordable[name] - now.landed) / (1 - now.relief)
            moved.append((self.outlay.highest(landed) or Decimal(0)) - (now.bid or Decimal(0)))
        return min(moved), max(moved)

    def _now(self, targets: Targets) -> "_Now":
        """What the lot leaves at the most we may bid, for questions to move."""
        bid = self.most(targets).bid
        landed, bought_for = self.outlay.at(bid or Decimal(0))
        tax = np.broadcast_to(np.asarray(self._tax(bought_for)), self.total.shape)
        further, for_more = self.outlay.at((bid or Decimal(0)) * Decimal("1.01") + 1)
        relief = float(tax.mean() - np.mean(self._tax(for_more))) / float(further - landed)
        after = self.total - tax
        order = np.argsort(after)
        return _Now(bid, float(landed), order, after[order], tax[order], relief)

    @cached_property
    def _given(self) -> tuple["_Given", ...]:
        """For each line, what follows from how its first piece turns out: exact, the common factor integrated."""
        nodes, weights = factor_nodes(self.lines, self.terms)
        odds, means = [], []
        tables = [
            np.array(
                [[of(case, self.terms) for of in (net_value, expected_price, expected_minutes)] for case in one.cases]
            )
            for one in self.lines
        ]
        for line, table in zip(self.lines, tables, strict=True):
            at_node = odds_at(line, nodes, self.terms)
            odds.append(at_node)
            means.append(table.T @ at_node)
        whole = np.sum([line.quantity * mean for line, mean in zip(self.lines, means, strict=True)], axis=0)
        found = []
        for line, table, at_node, mean in zip(self.lines, tables, odds, means, strict=True):
            # The piece itself, and rho of every other one of the line, go with it; other lines only by the factor.
            more = (table[:, :, None] - mean[None]) * (1 + (line.quantity - 1) * line.rho)
            sums = np.einsum("z,kz,kaz->ka", weights, at_node, whole[None] + more)
            found.append(_Given(at_node @ weights, sums[:, 0], sums[:, 1], sums[:, 2] / 60))
        return tuple(found)

    def _turned(self, index: int) -> Floats:
        """A row an outcome, a column a draw: 1 where the first piece of the line turned out so."""
        first = self.drawn[index].first
        return np.stack([first == outcome for outcome in range(len(OUTCOMES))]).astype(np.float64)


@dataclass(frozen=True)
class _Given:
    """How likely each outcome of the first piece of a line is, and that times the lot’s worth, sales and hours then."""

    shares: Floats
    worth: Floats
    sales: Floats
    hours: Floats


@dataclass(frozen=True)
class _Now:
    """At the most we may bid: what that lands at, the draws after tax in rising `order`, their tax, and by how much a
    unit more of landed cost lowers the tax."""

    bid: Decimal | None
    landed: float
    order: npt.NDArray[np.intp]
    ranked: Floats
    tax: Floats
    relief: float


def forecast(lines: Sequence[BidLine], terms: BidTerms, draws: int = DRAWS, seed: int = 1) -> Forecast:
    """Draw the worth of a lot `draws` times; the same seed draws the same.

    All lines share a normal factor that moves their odds together, as far as `shared_fate` says of each, while each
    keeps its odds on average. Raises ValueError without lines.
    """
    if not lines:
        raise ValueError("A plan has at least one line.")
    dice = np.random.default_rng(seed)
    shared = Shared.drawn(terms, draws, dice)

    kin = Counter(line.kin for line in lines if line.kin is not None)
    together = {one: shared.of_kin(terms.calibration, draws, dice) for one, count in kin.items() if count > 1}
    # What a kin shares is drawn once for all of it, and no second time for each.
    among = replace(terms, calibration=replace(terms.calibration, line_price=0.0, line_minutes=0.0))

    def draw(line: BidLine, own: np.random.Generator) -> tuple[DrawnLine, Floats]:
        if line.kin in together:
            drawn = draw_line(line, among, together[line.kin], draws, own)
        else:
            drawn = draw_line(line, terms, shared, draws, own)
        spent = np.array([case.cost + sending(case, terms) for case in line.cases], dtype=np.float32) @ drawn.counts
        kept = drawn.gross * np.float32(1 - terms.fee - terms.tax.of_price)
        labour = drawn.minutes * np.float32(terms.labour_rate / 60)
        return drawn, (kept - spent - labour).astype(np.float64)

    # Every line has dice of its own, so that the threads draw the same whichever comes first.
    with ThreadPoolExecutor(THREADS) as threads:
        found = list(threads.map(draw, lines, dice.spawn(len(lines))))
    mean, variance = moments(lines, terms)
    drawn, worth = zip(*found, strict=True)
    return Forecast(tuple(lines), terms, np.stack(worth), drawn, mean, variance)


def _lower_quantile(draws: Floats, chance: float) -> float:
    """The largest amount that at most a share `chance` of the draws falls short of."""
    place = min(int(np.floor(chance * len(draws))), len(draws) - 1)
    return float(np.partition(draws, place)[place])
