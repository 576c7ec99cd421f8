"""How far what comes lies from what was planned, and what a shop’s own lots teach about it.

A plan begins with stated figures; every line that was sold and every lot that is closed moves them.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from math import exp, log

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]

# The correlation that ties all lines of a lot to one common factor, as a plan begins with: what came from one cellar
# shares its damp, and one seller’s words are one seller’s (judgement of ours, no source; each plan may set its own).
LOT_RHO = 0.10
# How many lines, pieces and lots the stated spreads count for beside the shop’s own. A spread that is known to a third
# of itself is worth as much as some 4 of what it was seen in (its logarithm then spreads by 1 ÷ √(2 n)), and shops lie
# apart by about that; twice as many for pieces, which lie less apart, and ten for whole lots, which gather both
# (judgement of ours, no source).
LINES_BESIDE, PIECES_BESIDE, LOTS_BESIDE = 4.0, 8.0, 10.0
# So many lots are looked back on: what was sold long ago says little of today's prices and hands.
LOOK_BACK = 60
# What came twentyfold or a twentieth of what was planned is a slip of a pen or of a clock, and counts as that much.
FURTHEST = 20.0
# A lot further off than three spreads counts as three: one freak must not widen every band for a year.
FREAK = 3.0


@dataclass(frozen=True)
class Calibration:
    """How plans come out.

    `price` and `minutes` are what came for one that was planned, on average (above 0). The spreads around that are
    standard deviations of logarithms (0 or more): of prices and minutes, what all pieces of a line share, and what each
    has of its own; `price_open` and `minutes_open` are how far the averages themselves are not known, which all lines
    of a lot share. `width` (above 0) is how much further off whole lots lay than all that makes them. `lines` and
    `lots` say how many of the shop’s own it rests on.
    """

    price: float = 1.0
    line_price: float = 0.0
    sale_price: float = 0.0
    minutes: float = 1.0
    line_minutes: float = 0.0
    piece_minutes: float = 0.0
    width: float = 1.0
    lines: int = 0
    lots: int = 0
    price_open: float = 0.0
    minutes_open: float = 0.0

    @property
    def is_own(self) -> bool:
        """Something of the shop’s own is in it."""
        return bool(self.lines or self.lots)


# Nothing beyond what the cases themselves say.
EXACT = Calibration()
# What a plan begins with. A price thought up in a thin market is a fifth off for the whole line, and the same thing
# fetches a seventh more or less from one sale to the next; times of repair are lognormal (the usual law of
# maintainability handbooks, from memory) with a long tail. On the whole, what one shop thinks prices to be lies within
# a quarter of what they are nine times of ten, and its minutes between half and double: the first is known from sales,
# the second nobody measured yet.
# People think too well of work before they do it (Buehler, Griffin and Ross, Exploring the “planning fallacy”, 1994),
# and whoever wins what others bid for too tends to have thought too well of it (Capen, Clapp and Campbell, Competitive
# bidding in high-risk situations, 1971): a fifth more minutes come than were planned, and a twentieth less money.
# All figures: judgement of ours, no source.
STATED = Calibration(
    price=0.95,
    line_price=0.20,
    sale_price=0.15,
    minutes=1.20,
    line_minutes=0.30,
    piece_minutes=0.60,
    price_open=0.14,
    minutes_open=0.40,
)


@dataclass(frozen=True)
class SoldLine:
    """One planned line that was sold: for each piece of which it is known, what came ÷ what was planned for how it
    turned out, of prices and of minutes (each above 0)."""

    prices: tuple[float, ...] = ()
    minutes: tuple[float, ...] = ()

    # Worked out once: each lot is set against what all others teach.
    @cached_property
    def price_logs(self) -> tuple[float, float, float]:
        return _summed(self.prices)

    @cached_property
    def minute_logs(self) -> tuple[float, float, float]:
        return _summed(self.minutes)


def _summed(ratios: Sequence[float]) -> tuple[float, float, float]:
    """How many ratios there are, the mean of their logarithms, and the sum of squares around that."""
    if any(ratio <= 0 for ratio in ratios):
        raise ValueError("A ratio is above 0.")
    logs = [log(min(max(ratio, 1 / FURTHEST), FURTHEST)) for ratio in ratios]
    centre = sum(logs) / len(logs)
    return len(logs), centre, sum((one - centre) ** 2 for one in logs)


def learn_spreads(lines: Sequence[SoldLine], stated: Calibration = STATED) -> Calibration:
    """The stated figures, moved by lines that were sold; `width` is left as it is.

    Spreads are components of variance of the logarithms, between lines and within them (Searle, Casella and McCulloch,
    Variance Components, 1992), each with the stated one beside it (the mean of a scaled inverse chi-square). A mean
    weighs as much as these spreads let it: the pieces of a line share its error. Raises ValueError for a ratio of 0 or
    below.
    """
    prices = np.array([line.price_logs for line in lines if line.prices]).reshape(-1, 3)
    minutes = np.array([line.minute_logs for line in lines if line.minutes]).reshape(-1, 3)
    line_price, sale_price = _components(prices, stated.line_price, stated.sale_price)
    line_minutes, piece_minutes = _components(minutes, stated.line_minutes, stated.piece_minutes)
    price, price_open = _level(prices, stated.price, stated.price_open, line_price, sale_price)
    usual, minutes_open = _level(minutes, stated.minutes, stated.minutes_open, line_minutes, piece_minutes)
    return Calibration(
        price, line_price, sale_price, usual, line_minutes, piece_minutes,
        lines=len(prices), price_open=price_open, minutes_open=minutes_open,
    )  # fmt: skip


def _level(lines: Floats, stated: float, known_to: float, between: float, within: float) -> tuple[float, float]:
    """The mean ratio, and how far its logarithm is open: what is stated, as well as that is known, then every line (a
    row as from `_summed`) as well as its spreads let it be known. It is the posterior of a normal mean, of logarithms;
    the mean of a lognormal is exp(mu + s² / 2)."""
    if not len(lines) or known_to == 0:
        return stated, known_to
    counts, centres, _ = lines.T
    precisions = 1 / np.maximum(between**2 + within**2 / counts, 1e-6)
    weight = 1 / known_to**2 + float(precisions.sum())
    told = (log(stated) - known_to**2 / 2) / known_to**2 + float(precisions @ (centres + (between**2 + within**2) / 2))
    return exp(told / weight + 1 / weight / 2), weight**-0.5


def _components(lines: Floats, between: float, within: float) -> tuple[float, float]:
    """The spreads of logarithms between lines (rows as from `_summed`) and within them."""
    counts, centres, inside = lines.T
    own = (PIECES_BESIDE * within**2 + inside.sum()) / (PIECES_BESIDE + (counts - 1).sum())
    shared, freedom = LINES_BESIDE * between**2, LINES_BESIDE
    if len(lines) > 1:
        # Lines of few pieces lie apart by chance alone too.
        chance = own * (1 / counts).sum() * (len(lines) - 1) / len(lines)
        shared = max(0.0, shared + ((centres - centres.mean()) ** 2).sum() - chance)
        freedom += len(lines) - 1
    return float(shared / freedom) ** 0.5, float(own) ** 0.5


def learn_width(calibration: Calibration, off: Sequence[float]) -> Calibration:
    """With the width that closed lots had: `off` is what each brought less what was forecast by what the others teach,
    in spreads of that forecast. Lots that lie as far off as they should leave the width at 1."""
    squares = sum(min(one * one, FREAK**2) for one in off)
    width = ((LOTS_BESIDE + squares) / (LOTS_BESIDE + len(off))) ** 0.5
    return replace(calibration, width=width, lots=len(off))


def relative_variance(spread: float) -> float:
    """The variance of a lognormal of mean 1 whose logarithm spreads so: exp(s²) − 1."""
    return exp(spread * spread) - 1
