"""Drawing what the pieces of a planned line turn out to be, sell for and take."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
import numpy.typing as npt
from scipy import special

from core.buying.calibration import Calibration, relative_variance
from core.buying.odds import OUTCOMES
from core.buying.planned import BidLine, BidTerms, Case, extra_spread, shared_fate

Floats = npt.NDArray[np.float64]
Singles = npt.NDArray[np.float32]
Indices = npt.NDArray[np.int16]
ITEM_BY_ITEM = 12
_GRID = 1024
# A normal law at evenly spaced chances, of mean 0 and variance 1, so that a draw is a look-up.
NORMAL = special.ndtri((np.arange(_GRID) + 0.5) / _GRID)
NORMAL /= NORMAL.std()
_SINGLE_NORMAL = NORMAL.astype(np.float32)


def even_chances(dice: np.random.Generator, draws: int) -> Indices:
    """Places in a table at evenly spaced chances, each as likely as any other."""
    return dice.integers(0, _GRID, draws, dtype=np.int16)


@dataclass(frozen=True)
class Shared:
    """What all lines of a lot share in each draw: `fate` moves their odds (places in NORMAL), `price` and `minutes` are
    how far the shop’s figures on the whole are off."""

    fate: Indices
    price: Singles
    minutes: Singles

    @classmethod
    def drawn(cls, terms: BidTerms, draws: int, dice: np.random.Generator) -> "Shared":
        fate, known = even_chances(dice, draws), terms.calibration
        return cls(fate, _off_by(known.price_open, draws, dice), _off_by(known.minutes_open, draws, dice))

    def of_kin(self, known: Calibration, draws: int, dice: np.random.Generator) -> "Shared":
        """With what all lines that were one share besides: the errors of its prices and minutes."""
        price, minutes = (_off_by(spread, draws, dice) for spread in (known.line_price, known.line_minutes))
        return replace(self, price=self.price * price, minutes=self.minutes * minutes)


def _off_by(spread: float, draws: int, dice: np.random.Generator) -> Singles:
    """A lognormal of mean 1 whose logarithm spreads so."""
    if spread == 0:
        return np.ones(draws, dtype=np.float32)
    off = np.float32(spread) * _SINGLE_NORMAL.take(even_chances(dice, draws))
    return np.asarray(np.exp(off - np.float32(spread * spread / 2)))


@dataclass(frozen=True)
class DrawnLine:
    """A line in each draw: `counts` a row an outcome, `gross` what its pieces sell for, `minutes` what they take, and
    the outcome of its `first` piece."""

    counts: Singles
    gross: Singles
    minutes: Singles
    first: npt.NDArray[np.int8]

    def thinned(self, every: int) -> "DrawnLine":
        """One draw in so many."""
        # Copied, since what lies apart is read much slower.
        counts = np.ascontiguousarray(self.counts[:, ::every])
        return DrawnLine(counts, self.gross[::every].copy(), self.minutes[::every].copy(), self.first[::every].copy())


def draw_line(line: BidLine, terms: BidTerms, shared: Shared, draws: int, dice: np.random.Generator) -> DrawnLine:
    """Outcomes are Dirichlet-multinomial with the line’s correlation (for two outcomes: beta-binomial), moved by the
    fate that all lines of the lot share. Prices are PERT, around what the line’s pieces share by error; sums of
    lognormals are drawn as one lognormal of their mean and variance (Fenton and Wilkinson, 1960)."""
    fate = shared_fate(line, terms)
    cumulative = cumulative_odds(line, NORMAL if fate > 0 else np.zeros(1), fate).astype(np.float32)
    if fate > 0:
        cumulative = cumulative.take(shared.fate, axis=1)
    act = _item_by_item if line.quantity <= ITEM_BY_ITEM else _by_counts
    counts, gross, first = act(line, cumulative, draws, dice)
    known = terms.calibration
    extra = [extra_spread(case, known) * case.mean_price**2 for case in line.cases]
    took = [case.minutes for case in line.cases]
    own = [relative_variance(known.piece_minutes) * each**2 for each in took]
    gross = _erring(gross, _of_counts(extra, counts), known.price, known.line_price, dice)
    minutes = _erring(_of_counts(took, counts), _of_counts(own, counts), known.minutes, known.line_minutes, dice)
    return DrawnLine(counts, gross * shared.price, minutes * shared.minutes, first)


def _of_counts(each: Sequence[float], counts: Singles) -> Singles:
    """The sum over the pieces of an amount that goes by outcome."""
    return np.asarray(np.array(each, dtype=np.float32) @ counts)


def _erring(planned: Singles, variance: Singles, usual: float, shared: float, dice: np.random.Generator) -> Singles:
    """Sums of pieces as they come: `usual` for one planned, each sum with this variance of its own, and a spread (of
    the logarithm) that all of it shares."""
    if shared == 0 and not variance.any():
        return planned * np.float32(usual)
    own = np.divide(variance, planned * planned, out=np.zeros_like(planned), where=planned > 0)
    spread = np.log1p(own) + np.float32(shared * shared)
    off = np.sqrt(spread) * _SINGLE_NORMAL.take(even_chances(dice, len(planned))) - spread / 2
    return np.asarray(planned * np.float32(usual) * np.exp(off))


def cumulative_odds(line: BidLine, factor: Floats, fate: float) -> Floats:
    """Cumulative odds of the outcomes, best first: a column for each value of the factor, on which they hang by the
    correlation `fate` (0 to under 1)."""
    steps = np.cumsum([case.odds for case in line.cases])
    steps[-1] = 1.0
    if fate == 0:
        return np.repeat(steps[:, None], len(factor), axis=1)
    edges = special.ndtri(np.clip(steps[:-1], 1e-12, 1 - 1e-12))[:, None]
    moved = special.ndtr((edges + np.sqrt(fate) * factor[None, :]) / np.sqrt(1 - fate))
    return np.vstack([moved, np.ones((1, len(factor)))])


def _pert_table(case: Case) -> Singles:
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


Turned = tuple[Singles, Singles, npt.NDArray[np.int8]]


def _item_by_item(line: BidLine, cumulative: Singles, draws: int, dice: np.random.Generator) -> Turned:
    """Piece after piece by the urn scheme of Pólya: a piece copies an earlier one, or is drawn anew."""
    tables = np.stack([_pert_table(case) for case in line.cases])
    # Singles and narrow integers throughout: this is where a plan spends its time.
    chance = dice.random((line.quantity, draws), dtype=np.float32)
    outcome = (chance > cumulative[0]).view(np.int8)
    for edge in cumulative[1:-1]:
        outcome += (chance > edge).view(np.int8)
    if line.rho > 0:
        weight = (1 - line.rho) / line.rho
        for number in range(1, line.quantity):
            copies = np.flatnonzero(dice.random(draws, dtype=np.float32) < number / (number + weight))
            outcome[number, copies] = outcome[dice.integers(0, number, len(copies), dtype=np.int8), copies]
    # The low bits of a chance know nothing of the outcome that its high bits chose: they draw the price.
    place = (chance * np.float32(2**24)).astype(np.int32)
    place &= _GRID - 1
    place += outcome * np.int32(_GRID)
    counts = [(outcome == one).view(np.int8).sum(axis=0, dtype=np.int8) for one in range(len(OUTCOMES))]
    return np.stack(counts).astype(np.float32), tables.ravel().take(place).sum(axis=0), outcome[0].copy()


def _by_counts(line: BidLine, cumulative: Singles, draws: int, dice: np.random.Generator) -> Turned:
    """Many pieces: how many fall to each outcome, then the sum of their prices (normal for this many)."""
    odds = np.diff(np.broadcast_to(cumulative.astype(np.float64), (len(OUTCOMES), draws)), axis=0, prepend=0.0)
    if line.rho > 0:
        weight = (1 - line.rho) / line.rho
        odds = dice.standard_gamma(np.maximum(odds * weight, 1e-12))
        odds = odds / np.maximum(odds.sum(axis=0), 1e-300)
    gross, counts = np.zeros(draws), np.empty((len(OUTCOMES), draws), dtype=np.float32)
    left, share = np.full(draws, line.quantity), np.ones(draws)
    for place, (chance, case) in enumerate(zip(odds, line.cases, strict=True)):
        part = np.clip(np.divide(chance, share, out=np.ones(draws), where=share > 1e-12), 0.0, 1.0)
        count = dice.binomial(left, part) if case is not line.cases[-1] else left
        counts[place] = count
        left, share = left - count, share - chance
        gross += count * case.mean_price + np.sqrt(count * case.price_variance) * dice.standard_normal(draws)
    # Any piece may be the first: it turned out so with the share that did.
    drawn = dice.random(draws) * line.quantity
    first = (drawn >= np.cumsum(counts, axis=0)[:-1]).sum(axis=0).astype(np.int8)
    return counts, np.maximum(gross, 0.0).astype(np.float32), first
