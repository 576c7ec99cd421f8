"""What one like it fetches: a model on the logarithm of the price, and a band for the next sale.

Each comparable is ``log price = level + starting ratios + what is learned + chance``. The starting ratios are a table
(common practice, no source); what sales teach against them is a ridge regression whose penalty says how far the table
is trusted, with Huber’s weights against outliers. With few sales the table decides, with many the sales do. A few odd
sales don’t turn the order round: no better grade is thought to fetch less than a worse one, nor is a thing for being
complete, or for a shortcoming less.
"""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from functools import cached_property
from itertools import chain, pairwise
from math import exp, log
from operator import attrgetter
from typing import NamedTuple

import numpy as np
from scipy.special import stdtrit

from core.intake.triage import FAULTY
from core.money import to_cent
from core.selling.disclosure import SHORTCOMINGS
from core.selling.grade import LADDER, Grade
from core.selling.robust import HUBER, Fit, Floats, fit, in_order, left_out

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
# On the logarithm, common practice without a source: what is missing takes away (all of it: to 0.61), and an auction
# brings a little less than a fixed price.
COMPLETE, AUCTION = 0.5, -0.05
# How far each ratio may be off, and how far two sales of the same thing differ, as standard deviations of logarithms.
OFF = {"grade": 0.15, "completeness": 0.3, "quarter": 0.03, "channel": 0.1, "auction": 0.1, "postage": 0.05}
OFF |= {"feature": 0.15, "said": 0.15, "model": 0.3}
SPREAD = 0.2
# Our own sales are known better; what was sold a year ago says half as much of today.
OWN_SALE, HALF_LIFE_DAYS, QUARTER_DAYS = 1.5, 365.0, 91.25
FEW = 3.0
# From how many comparables on the penalty is chosen by them, the table’s own first, and by how much better it must be.
ENOUGH, PLAINLY = 8, 0.98
PENALTIES = (1.0, 0.5, 2.0, 0.25, 4.0)
# At so many comparables the residuals count as much for the ends of the band as Student’s distribution.
HALF_BY_RESIDUALS = 20.0
IN_BAND = 0.8

_TABLE = {"completeness": COMPLETE, "auction": AUCTION}
_BY_GRADE = {grade: log(float(RATIO[grade])) for grade in Grade}
# Who fetches no less than whom: nobody pays more for what was not tested than for a B, nor less than for parts.
_NO_LESS = (*pairwise(LADDER), (Grade.B, Grade.UNTESTED), (Grade.UNTESTED, Grade.PARTS))


@dataclass(frozen=True)
class Comparable:
    """A sale elsewhere (or our own): price in base currency, above 0; how old in days; in what state.

    `postage` came on top for the buyer, None where nobody said; `auction` None: not said how it was sold. `features`
    None: not said what it had; `said`: the kinds of what a buyer was told, None where that is not known. `model` is
    empty for the model that is priced, else which other one of its family.
    """

    price: Decimal
    age_days: int
    grade: Grade
    completeness: int = 100
    own: bool = False
    channel: str = ""
    auction: bool | None = None
    postage: Decimal | None = None
    features: frozenset[str] | None = None
    model: str = ""
    said: frozenset[str] | None = None


@dataclass(frozen=True)
class Subject:
    """What is priced. `completeness` 0 to 100; `features` and `said` None: not known; `channel` empty: wherever;
    `faulty`: a fault of it is known and not mended, and said to whoever buys it."""

    grade: Grade
    completeness: int
    features: frozenset[str] | None = None
    channel: str = ""
    said: frozenset[str] | None = None
    faulty: bool = False


@dataclass(frozen=True)
class Weighed:
    """A comparable brought to the subject, with the weight it carries; `outlier`: it counts less than it would because
    it lies far from the others."""

    comparable: Comparable
    adjusted: Decimal
    weight: float
    outlier: bool = False


@dataclass(frozen=True)
class PriceBand:
    """In base currency: eight of ten next sales fall between `low` and `high`, half of them under `likely`.

    `effective` is on how many sales of the very same thing that rests.
    """

    low: Decimal
    likely: Decimal
    high: Decimal
    effective: float

    @property
    def few(self) -> bool:
        """Fewer than FEW effective comparables: the band is a guess and must be called one."""
        return self.effective < FEW


@dataclass(frozen=True)
class Learned:
    """What the sales say of one ratio: as a factor on the price, where the table had another, and how sure, as a
    standard deviation of its logarithm."""

    what: str
    table: float
    factor: float
    off: float


class _Columns(NamedTuple):
    """Comparables the other way round: one tuple for each of what is known of them."""

    price: tuple[Decimal, ...]
    age_days: tuple[int, ...]
    grade: tuple[Grade, ...]
    completeness: tuple[int, ...]
    own: tuple[bool, ...]
    channel: tuple[str, ...]
    auction: tuple[bool | None, ...]
    postage: tuple[Decimal | None, ...]
    features: tuple[frozenset[str] | None, ...]
    model: tuple[str, ...]
    said: tuple[frozenset[str] | None, ...]


class _Tags:
    """What each sale had of something that is there or not: None where nobody said."""

    def __init__(self, of_each: Sequence[frozenset[str] | None]) -> None:
        self.of_each = of_each
        self.times = Counter(chain.from_iterable(told for told in of_each if told is not None))
        self.told = sum(told is not None for told in of_each)

    def share(self, name: str) -> float:
        """How often it is there where somebody said: what is reckoned with where nobody did."""
        return self.times[name] / self.told if self.told else 0.0


def _or_else(said: Sequence[Decimal | bool | None], unknown: float) -> Floats:
    return np.array([unknown if one is None else one for one in said], dtype=float)


class Market:
    """Sales of a model (and of its family), read once; asked for as many subjects as are wanted.

    Raises ValueError without a sale, for a price that is not above 0, or an age below 0.
    """

    def __init__(self, comparables: Sequence[Comparable]) -> None:
        if not comparables:
            raise ValueError("A market needs at least one sale.")
        self.comparables = tuple(comparables)
        self._all = _Columns(*(tuple(map(attrgetter(name), comparables)) for name in _Columns._fields))
        prices, ages = np.array(self._all.price, dtype=float), np.array(self._all.age_days, dtype=float)
        if prices.min() <= 0 or ages.min() < 0:
            raise ValueError("A sale has a price above 0 and lies in the past.")
        # Which of the grades each sale has.
        place = {grade: at for at, grade in enumerate(Grade)}
        self._grade = np.array([place[grade] for grade in self._all.grade])
        # What was there, or was said, of those of which that is known.
        self._tags = {"feature": _Tags(self._all.features), "said": _Tags(self._all.said)}
        self.columns = self._columns()
        self._at = {column: place for place, column in enumerate(self.columns, 1)}
        off = np.array([OFF[kind] / SPREAD for kind, _ in self.columns])
        # Of the penalty: nothing on the level, else one over the square of how far the ratio may be off.
        self._trust = np.concatenate(([0.0], off**-2.0))
        self._rows = self._design()
        table = np.array([_BY_GRADE[grade] for grade in Grade])[self._grade]
        table += COMPLETE * (np.array(self._all.completeness) - 100) / 100
        table += AUCTION * _or_else(self._all.auction, 0.5)
        self._over = np.log(prices + _or_else(self._all.postage, 0)) - table
        counts = np.where(self._all.own, OWN_SALE, 1.0) * 0.5 ** (ages / HALF_LIFE_DAYS)
        # Weights that say how many sales they are: what is older counts less, and does not spread less.
        self.count = float(counts.sum() ** 2 / (counts**2).sum())
        self._weights = counts * self.count / counts.sum()
        self._fit = in_order(self._fitted(), self._rows, self._over, *self._order())

    def _columns(self) -> list[tuple[str, str]]:
        """What is learned, as (kind, which): of every grade, of all else what these sales can say something of."""
        seen = self._all
        found: list[tuple[str, str]] = [("grade", grade.value) for grade in Grade]
        found += [("completeness", ""), ("quarter", "")]
        found += [("auction", "")] if any(said is not None for said in seen.auction) else []
        found += [("postage", "")] if any(said is not None for said in seen.postage) else []
        found += [("channel", name) for name in sorted(set(seen.channel) - {""})]
        found += [("model", name) for name in sorted(set(seen.model) - {""})]
        return found + [(kind, name) for kind, tags in self._tags.items() for name in sorted(tags.times)]

    def _table(self, subject: Subject) -> float:
        """What the starting ratios say against a complete B at a fixed price. Where of no sale it was said how it was
        sold, the subject is sold like them."""
        as_sold = 0.0 if ("auction", "") in self._at else AUCTION / 2
        return log(float(RATIO[subject.grade])) + COMPLETE * (subject.completeness - 100) / 100 + as_sold

    def _design(self) -> Floats:
        seen, at = self._all, self._at
        rows = np.zeros((len(seen.price), len(self.columns) + 1))
        rows[:, 0] = 1.0
        rows[:, at["completeness", ""]] = (np.array(seen.completeness) - 100) / 100
        rows[:, at["quarter", ""]] = -np.array(seen.age_days) / QUARTER_DAYS
        if ("auction", "") in at:
            rows[:, at["auction", ""]] = _or_else(seen.auction, 0.5)
        if ("postage", "") in at:
            rows[:, at["postage", ""]] = [said is None for said in seen.postage]
        every = np.arange(len(rows))
        # What has no column of its own is written into the first one, where there is a one already.
        rows[every, np.array([at["grade", grade.value] for grade in Grade])[self._grade]] = 1.0
        for kind, names in (("channel", seen.channel), ("model", seen.model)):
            place = {name: at.get((kind, name), 0) for name in set(names)}
            rows[every, [place[name] for name in names]] = 1.0
        for (kind, name), column in at.items():
            if kind in self._tags:
                share, of_each = self._tags[kind].share(name), self._tags[kind].of_each
                # Written out: a call for each of thousands of sales takes its time.
                rows[:, column] = [share if told is None else name in told for told in of_each]
        return rows

    def _row(self, subject: Subject) -> tuple[Floats, float]:
        """The subject as a row; what no sale says of how it is sold, as a variance in spreads squared."""
        row, of_sale = np.zeros(len(self.columns) + 1), 0.0
        row[0] = row[self._at["grade", subject.grade.value]] = 1.0
        row[self._at["completeness", ""]] = (subject.completeness - 100) / 100
        channel = self._at.get(("channel", subject.channel))
        if channel:
            row[channel] = 1.0
        else:
            places = [place for (kind, _), place in self._at.items() if kind == "channel"]
            row[places] = self._rows[:, places].mean(axis=0)
            of_sale += (OFF["channel"] / SPREAD) ** 2 if places else 0.0
        if ("postage", "") not in self._at:
            of_sale += (OFF["postage"] / SPREAD) ** 2
        for (kind, which), place in self._at.items():
            if kind in self._tags:
                told = subject.features if kind == "feature" else subject.said
                row[place] = self._tags[kind].share(which) if told is None else float(which in told)
        return row, of_sale

    def _order(self) -> tuple[Floats, Floats]:
        """A row for each difference that takes nothing from a price; and the table, column by column."""
        shortcomings = sorted(self._tags["said"].times.keys() & SHORTCOMINGS)
        adds: list[dict[tuple[str, str], float]] = [
            *({("grade", better.value): 1.0, ("grade", worse.value): -1.0} for better, worse in _NO_LESS),
            {("completeness", ""): 1.0},
            *({("said", name): -1.0} for name in shortcomings),
        ]
        rows, table = np.zeros((len(adds), len(self.columns) + 1)), np.zeros(len(self.columns) + 1)
        for row, differs in zip(rows, adds, strict=True):
            for column, by in differs.items():
                row[self._at[column]] = by
        for grade in Grade:
            table[self._at["grade", grade.value]] = _BY_GRADE[grade]
        table[self._at["completeness", ""]] = COMPLETE
        return rows, table

    def _fitted(self) -> Fit:
        """By leaving each sale out in turn: the penalty under which the others tell it best, the errors held as Huber
        holds them."""
        usual = fit(self._rows, self._over, self._weights, self._trust, self.count, spread=SPREAD)
        if len(self.comparables) < ENOUGH:
            return usual
        weights = self._weights * usual.huber
        least, best = float("inf"), 1.0
        for penalty, error in left_out(self._rows, self._over, weights, self._trust, PENALTIES):
            # Another penalty than the table’s own is taken only where it tells them plainly better.
            if error < least * (1.0 if least == float("inf") else PLAINLY):
                least, best = error, penalty
        if best == 1.0:
            return usual
        trust = best * self._trust
        return fit(self._rows, self._over, self._weights, trust, self.count, spread=SPREAD, begin=usual.huber)

    def band(self, subject: Subject) -> PriceBand:
        """Where the next sale of this subject will fall eight times in ten. One with a fault that is known fetches no
        more than such a one does, and no less than its parts."""
        found = self._band(subject)
        if not subject.faulty:
            return found
        untested, parts = (self._band(replace(subject, grade=grade)) for grade in (Grade.UNTESTED, Grade.PARTS))
        share = Decimal(str(FAULTY))
        low, likely, high = (
            to_cent(max(share * as_found, for_parts))
            for as_found, for_parts in (
                (untested.low, parts.low),
                (untested.likely, parts.likely),
                (untested.high, parts.high),
            )
        )
        return PriceBand(low, likely, high, untested.effective) if likely < found.likely else found

    def _band(self, subject: Subject) -> PriceBand:
        row, of_sale = self._row(subject)
        fitted = self._fit
        likely = self._table(subject) + float(row @ fitted.learned)
        unsure = float(row @ fitted.inverse @ row)
        off = fitted.spread * (1 + unsure + of_sale) ** 0.5
        low, high = (exp(likely + off * self._end(q)) for q in ((1 - IN_BAND) / 2, (1 + IN_BAND) / 2))
        cents = [to_cent(Decimal(repr(min(amount, 1e9)))) for amount in (low, exp(likely), high)]
        return PriceBand(cents[0], cents[1], cents[2], 1 / unsure)

    def _end(self, q: float) -> float:
        """Where the end of the band lies, in spreads: Student’s with few sales, with many as the residuals lie."""
        student = float(stdtrit(self._fit.freedom, q))
        share = self.count / (self.count + HALF_BY_RESIDUALS)
        return (1 - share) * student + share * self._quantile(q)

    @cached_property
    def _lie(self) -> tuple[Floats, Floats]:
        """How far the sales lie from what the others say, in spreads, in order; and the weight up to each."""
        fitted = self._fit
        away = fitted.residuals / (fitted.spread * np.sqrt(1 - fitted.leverage))
        order = np.argsort(away)
        return away[order], np.cumsum(self._weights[order])

    def _quantile(self, q: float) -> float:
        """`weighted_quantile` of how far they lie."""
        away, upto = self._lie
        return float(away[min(int(np.searchsorted(upto, q * upto[-1])), len(away) - 1)])

    def brought(self, subject: Subject) -> tuple[Weighed, ...]:
        """Each sale as it would have been for the subject, today; none is left out."""
        row, _ = self._row(subject)
        fitted = self._fit
        logs = self._table(subject) + row @ fitted.learned + fitted.residuals
        weights = self._weights * fitted.huber
        return tuple(
            Weighed(c, to_cent(Decimal(repr(float(price)))), float(weight), bool(held < 1 / HUBER))
            for c, price, weight, held in zip(self.comparables, np.exp(logs), weights, fitted.huber, strict=True)
        )

    @property
    def a_year(self) -> float:
        """How the price moves in a year, as a share: what these sales say, drawn to 0 where they say little."""
        return exp(4 * float(self._fit.learned[self._at["quarter", ""]])) - 1

    def learned(self) -> tuple[Learned, ...]:
        """What the sales say of each ratio beside the table: completeness from nothing to all, a quarter later, by
        auction, for a channel, a feature, what a buyer was told, another model of the family."""
        fitted, found = self._fit, []
        for (kind, which), place in self._at.items():
            table = _BY_GRADE[Grade(which)] if kind == "grade" else _TABLE.get(kind, 0.0)
            off = fitted.spread * float(fitted.inverse[place, place]) ** 0.5
            what = f"{kind} {which}".strip()
            found.append(Learned(what, exp(table), exp(table + float(fitted.learned[place])), off))
        return tuple(found)
