"""What can be asked or looked at before a sale closes, and how far each answer is to be believed."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from core.buying.odds import OUTCOMES

Floats = npt.NDArray[np.float64]


@dataclass(frozen=True)
class Answer:
    """`chances` of hearing this answer if the piece is such, in the order of OUTCOMES."""

    code: str
    words: str
    chances: tuple[float, ...]


@dataclass(frozen=True)
class Ask:
    """A question about one piece: over all its answers the chances sum to 1 for each outcome.

    `minutes` None: the line says itself how long finding out takes. `at_viewing`: somebody must go where it stands.
    """

    code: str
    words: str
    minutes: int | None
    answers: tuple[Answer, ...]
    certain: bool = False
    caution: str = ""
    at_viewing: bool = True

    def __post_init__(self) -> None:
        sums = [sum(chances) for chances in zip(*(a.chances for a in self.answers), strict=True)]
        if any(abs(total - 1) > 1e-9 for total in sums):
            raise ValueError(f"The answers to “{self.words}” must sum to 1 for every outcome.")

    def answer(self, code: str) -> Answer:
        """Raises KeyError for an answer that this question has not."""
        return {answer.code: answer for answer in self.answers}[code]


def _only(place: int) -> tuple[float, ...]:
    return tuple(float(i == place) for i in range(len(OUTCOMES)))


# How well each look tells the outcomes apart: common practice, no source.
ASKS: tuple[Ask, ...] = (
    Ask(
        "through",
        "look one through: how does it turn out?",
        None,
        tuple(Answer(o.value, o.label, _only(i)) for i, o in enumerate(OUTCOMES)),
        certain=True,
    ),
    Ask(
        "power",
        "power one up at the viewing",
        4,
        (
            Answer("comes_on", "comes on", (0.95, 0.40, 0.06, 0.02)),
            Answer("dead", "stays dead", (0.05, 0.60, 0.94, 0.98)),
        ),
        caution="Only if the house allows it, and never one that is wet, open or has a damaged lead. It may have stood "
        "for years: stand clear, and pull the plug at a noise, a smell or smoke.",
    ),
    Ask(
        "leak",
        "look inside one for a leaked cell",
        3,
        (
            Answer("clean", "clean", (0.97, 0.80, 0.55, 0.40)),
            Answer("leaked", "leaked", (0.03, 0.20, 0.45, 0.60)),
        ),
        caution="Unplugged, which is not discharged: look, don’t reach in. Gloves and goggles: what leaked burns. Keep "
        "away from the back of a CRT.",
    ),
    Ask(
        "inside",
        "ask for photographs of labels and inside",
        2,
        (
            Answer("complete", "complete", (0.97, 0.90, 0.50, 0.25)),
            Answer("stripped", "parts gone", (0.03, 0.10, 0.50, 0.75)),
        ),
        at_viewing=False,
    ),
)
BY_CODE = {ask.code: ask for ask in ASKS}


@dataclass(frozen=True)
class LinePosterior:
    """A line after answers about some of its pieces: odds of one of the rest, how alike the rest still turn out, and
    the odds of each piece that was asked about, in their order."""

    rest: tuple[float, ...]
    rho: float
    pieces: tuple[tuple[float, ...], ...]


def line_posterior(odds: Sequence[float], rho: float, pieces: Sequence[Sequence[Answer]]) -> LinePosterior:
    """What answers leave of a line of correlation `rho` (0 to under 1); each of `pieces` has the answers about it.

    Exact: outcomes of a line are Dirichlet-multinomial with weight (1 - rho) / rho, and every way in which the pieces
    may have turned out is weighed by the answers, so that their order is nothing. After certain answers the rest has
    rho / (1 + rho) for each; after doubtful ones the correlation is that of two of the rest, from the exact second
    moments. At rho 0 the rest learns nothing.
    """
    heard = [np.prod([answer.chances for answer in answers], axis=0) for answers in pieces]
    singly = tuple(_normed(np.asarray(odds) * chances, odds) for chances in heard)
    if rho <= 0 or not pieces:
        return LinePosterior(tuple(odds), rho, singly)
    weight = (1 - rho) / rho
    known, doubtful = np.zeros(len(OUTCOMES)), []
    for chances in heard:
        if np.count_nonzero(chances) == 1:
            known += chances > 0
        else:
            doubtful.append(chances)
    urn = weight * np.asarray(odds) + known
    if not (weight_of_ways := _ways(urn, doubtful)).sum() > 0:
        return LinePosterior(tuple(odds), rho, singly)
    counts = _counts(weight_of_ways, len(doubtful))
    balls = urn.sum() + len(doubtful)
    ways = weight_of_ways / weight_of_ways.sum()
    rest = [float((ways * (a + k)).sum() / balls) for a, k in zip(urn, counts, strict=True)]
    pairs = [
        float((ways * (a + k) * (a + k + 1)).sum() / balls / (balls + 1)) for a, k in zip(urn, counts, strict=True)
    ]
    apart = sum(p * (1 - p) for p in rest)
    alike = sum(pair - p * p for pair, p in zip(pairs, rest, strict=True)) / apart if apart > 1e-12 else 0.0
    # Pieces with the same answers have the same odds.
    told = {
        key: _of_piece(chances, urn, doubtful, odds) for key, chances in {one.tobytes(): one for one in heard}.items()
    }
    return LinePosterior(tuple(rest), max(0.0, alike), tuple(told[chances.tobytes()] for chances in heard))


def _of_piece(chances: Floats, urn: Floats, doubtful: list[Floats], odds: Sequence[float]) -> tuple[float, ...]:
    """Odds of one piece: what its own answers say, and the others’ through the urn that they have in common."""
    if np.count_nonzero(chances) == 1:
        return tuple(float(chance > 0) for chance in chances)
    others = list(doubtful)
    del others[next(place for place, one in enumerate(others) if np.array_equal(one, chances))]
    ways = _ways(urn, others)
    drawn = np.array([(ways * (a + k)).sum() for a, k in zip(urn, _counts(ways, len(others)), strict=True)])
    return _normed(drawn * chances, odds)


def _counts(ways: Floats, n: int) -> list[Floats]:
    """How many of each outcome there are in each place of `ways`; of the last, those that are left of `n`."""
    counts = [place.astype(float) for place in np.indices(ways.shape)]
    return [*counts, n - sum(counts)]


def _ways(urn: Floats, doubtful: list[Floats]) -> Floats:
    """How likely each way is in which the doubtful pieces may have turned out, by how many of each outcome (the last
    by what is left), up to a factor: answers as a product of polynomials, the urn by rising factorials."""
    n = len(doubtful)
    ways = np.zeros((n + 1,) * (len(OUTCOMES) - 1))
    ways[(0,) * ways.ndim] = 1.0
    for chances in doubtful:
        longer = ways * chances[-1]
        for axis in range(ways.ndim):
            longer += np.roll(ways, 1, axis=axis) * chances[axis]
        ways = longer / longer.sum()
    counts = _counts(ways, n)
    with np.errstate(divide="ignore"):
        steps = np.log(urn[:, None] + np.arange(n)[None, :])
        # An outcome that can’t be has the logarithm of nothing, which weighs nothing.
        found = np.log(ways)
    rising = np.concatenate([np.zeros((len(urn), 1)), np.cumsum(steps, axis=1)], axis=1)
    for place, many in enumerate(counts):
        found = found + rising[place][np.clip(many, 0, n).astype(int)]
    found[counts[-1] < 0] = -np.inf
    most = found.max()
    return np.asarray(np.exp(found - most)) if np.isfinite(most) else np.zeros_like(found)


def _normed(joint: Floats, otherwise: Sequence[float]) -> tuple[float, ...]:
    total = float(joint.sum())
    return tuple(float(share) / total for share in joint) if total > 0 else tuple(otherwise)
