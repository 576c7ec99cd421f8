"""What can be asked or looked at before a sale closes, and how far each answer is to be believed."""

from collections.abc import Sequence
from dataclasses import dataclass

from core.buying.odds import OUTCOMES


@dataclass(frozen=True)
class Answer:
    """`chances` of hearing this answer if the piece is such, in the order of OUTCOMES."""

    code: str
    words: str
    chances: tuple[float, ...]


@dataclass(frozen=True)
class Ask:
    """A question about one piece: over all its answers the chances sum to 1 for each outcome.

    `minutes` None: the line says itself how long finding out takes.
    """

    code: str
    words: str
    minutes: int | None
    answers: tuple[Answer, ...]
    certain: bool = False
    caution: str = ""

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
    ),
)
BY_CODE = {ask.code: ask for ask in ASKS}


def posterior(odds: Sequence[float], answer: Answer) -> tuple[float, ...]:
    """Odds of one piece after an answer (Bayes' theorem); unchanged when the answer could not be."""
    joint = [p * chance for p, chance in zip(odds, answer.chances, strict=True)]
    total = sum(joint)
    return tuple(p / total for p in joint) if total > 0 else tuple(odds)


def learned(odds: Sequence[float], piece: Sequence[float], rho: float) -> tuple[float, ...]:
    """Odds of the other pieces of a line, once one piece is known to be `piece`.

    With intra-line correlation rho in (0, 1) the line's odds are worth (1 - rho) / rho pieces (Dirichlet), and
    the piece is one more; at 0 the others learn nothing.
    """
    if rho <= 0:
        return tuple(odds)
    weight = (1 - rho) / rho
    return tuple((weight * p + q) / (weight + 1) for p, q in zip(odds, piece, strict=True))
