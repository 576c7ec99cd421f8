"""How far what comes lies from what was planned, and what a shop’s own lots teach about it.

A plan begins with stated figures; every line that was sold and every lot that is closed moves them.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from math import exp, log

# The correlation that ties all lines of a lot to one common factor, as a plan begins with: what came from one cellar
# shares its damp, and one seller’s words are one seller’s (judgement of ours, no source; each plan may set its own).
LOT_RHO = 0.10
# How many lines, pieces and lots the stated figures count for beside the shop’s own: ten don’t swing it (judgement).
LINES_BESIDE, PIECES_BESIDE, LOTS_BESIDE = 10.0, 20.0, 10.0
# What came twentyfold or a twentieth of what was planned is a slip of a pen or of a clock, and counts as that much.
FURTHEST = 20.0
# A lot further off than three spreads counts as three: one freak must not widen every band for a year.
FREAK = 3.0


@dataclass(frozen=True)
class Calibration:
    """How plans come out.

    `price` and `minutes` are what came for one that was planned, on average (above 0). The spreads around that are
    standard deviations of logarithms (0 or more): of prices and minutes, what all pieces of a line share, and what each
    has of its own. `width` (above 0) is how much further off whole lots lay than all that makes them. `lines` and
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

    @property
    def is_own(self) -> bool:
        """Something of the shop’s own is in it."""
        return bool(self.lines or self.lots)


# Nothing beyond what the cases themselves say.
EXACT = Calibration()
# What a plan begins with. A price thought up in a thin market is a fifth off for the whole line, and the same thing
# fetches a seventh more or less from one sale to the next; times of repair are lognormal (the usual law of
# maintainability handbooks, from memory) with a long tail. All figures: judgement of ours, no source.
STATED = Calibration(line_price=0.20, sale_price=0.15, line_minutes=0.30, piece_minutes=0.60)


@dataclass(frozen=True)
class SoldLine:
    """One planned line that was sold: for each piece of which it is known, what came ÷ what was planned for how it
    turned out, of prices and of minutes (each above 0)."""

    prices: tuple[float, ...] = ()
    minutes: tuple[float, ...] = ()


def learn_spreads(lines: Sequence[SoldLine], stated: Calibration = STATED) -> Calibration:
    """The stated figures, moved by lines that were sold; `width` is left as it is.

    A mean ratio counts once a line, since its pieces share an error. Spreads are components of variance of the
    logarithms, between lines and within them (Searle, Casella and McCulloch, Variance Components, 1992), each with the
    stated one beside it (the mean of a scaled inverse chi-square). Raises ValueError for a ratio of 0 or below.
    """
    price = _components([line.prices for line in lines if line.prices], stated.line_price, stated.sale_price)
    minutes = _components([line.minutes for line in lines if line.minutes], stated.line_minutes, stated.piece_minutes)
    return replace(
        stated,
        price=price[0],
        line_price=price[1],
        sale_price=price[2],
        minutes=minutes[0],
        line_minutes=minutes[1],
        piece_minutes=minutes[2],
        lines=sum(1 for line in lines if line.prices),
    )


def _components(lines: Sequence[Sequence[float]], between: float, within: float) -> tuple[float, float, float]:
    """The mean ratio, and the spreads of logarithms between lines and within them."""
    if any(ratio <= 0 for line in lines for ratio in line):
        raise ValueError("A ratio is above 0.")
    kept = [[min(max(ratio, 1 / FURTHEST), FURTHEST) for ratio in line] for line in lines]
    mean = (LINES_BESIDE + sum(sum(line) / len(line) for line in kept)) / (LINES_BESIDE + len(kept))
    logs = [[log(ratio) for ratio in line] for line in kept]
    centres = [sum(line) / len(line) for line in logs]
    inside = sum((one - centre) ** 2 for line, centre in zip(logs, centres, strict=True) for one in line)
    freedom = sum(len(line) - 1 for line in logs)
    own = (PIECES_BESIDE * within**2 + inside) / (PIECES_BESIDE + freedom)
    shared = LINES_BESIDE * between**2
    if len(logs) > 1:
        middle = sum(centres) / len(centres)
        apart = sum((centre - middle) ** 2 for centre in centres)
        # Lines of few pieces lie apart by chance alone too.
        chance = own * sum(1 / len(line) for line in logs) * (len(logs) - 1) / len(logs)
        shared = max(0.0, shared + apart - chance) / (LINES_BESIDE + len(logs) - 1)
    else:
        shared /= LINES_BESIDE
    return mean, shared**0.5, own**0.5


def learn_width(calibration: Calibration, off: Sequence[float]) -> Calibration:
    """With the width that closed lots had: `off` is what each brought less what was forecast, in spreads of that
    forecast. Lots that lie as far off as they should leave the width at 1."""
    squares = sum(min(one * one, FREAK**2) for one in off)
    width = ((LOTS_BESIDE + squares) / (LOTS_BESIDE + len(off))) ** 0.5
    return replace(calibration, width=width, lots=len(off))


def relative_variance(spread: float) -> float:
    """The variance of a lognormal of mean 1 whose logarithm spreads so: exp(s²) − 1."""
    return exp(spread * spread) - 1
