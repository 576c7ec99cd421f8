"""The cosmetic score: what the findings on the case take off a hundred, term by term."""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from core.machine.casing import Face


class FindingKind(StrEnum):
    CRACK = "crack"
    SCRATCH = "scratch"
    YELLOWING = "yellowing"
    RUST = "rust"
    MISSING = "missing"
    LEAK = "leak"
    STICKER = "sticker"
    REWORK = "rework"
    PAINT = "paint"
    RESIDUE = "residue"
    BROKEN = "broken"
    LOOSE = "loose"
    SWOLLEN = "swollen"
    CELL = "cell"
    NOISE = "noise"

    @property
    def label(self) -> str:
        return _LABELS.get(self, self.value)


_LABELS = {
    FindingKind.MISSING: "missing part",
    FindingKind.LEAK: "leaked cell",
    FindingKind.STICKER: "sticker or marking",
    FindingKind.REWORK: "rework, tape, jumper wire",
    FindingKind.PAINT: "flaking paint",
    FindingKind.RESIDUE: "sticky residue, dirt",
    FindingKind.BROKEN: "broken pin or hinge",
    FindingKind.LOOSE: "loose or rattling",
    FindingKind.SWOLLEN: "swollen capacitor",
    FindingKind.CELL: "swollen cell or pack",
    FindingKind.NOISE: "noise, by ear",
}
# What holds a unit until somebody has dealt with it; with the words a settled one is closed by.
HAZARDOUS = frozenset({FindingKind.LEAK, FindingKind.CELL})
# What is heard or felt takes nothing off the looks.
_NOT_SEEN = frozenset({FindingKind.NOISE})


# Judgement of the trade (common practice, no source): how much a face is looked at, from 0 to 1.
VISIBILITY = {
    Face.FRONT: 1.0,
    Face.TOP: 1.0,
    Face.LEFT: 0.6,
    Face.RIGHT: 0.6,
    Face.BACK: 0.4,
    Face.UNDERSIDE: 0.2,
    Face.SCREEN: 1.0,
    Face.KEYBOARD: 1.0,
    Face.INSIDE: 0.1,
}
PENALTY = {1: 2.0, 2: 5.0, 3: 10.0, 4: 18.0}
MOST_PER_FACE = 30.0


@dataclass(frozen=True)
class Mark:
    """A finding on the case. `severity` 1 to 4; `extent` is the share of the face it covers, 0 to 1."""

    kind: FindingKind
    face: Face
    severity: int
    extent: float


@dataclass(frozen=True)
class Term:
    mark: Mark
    points: float

    @property
    def words(self) -> str:
        """How the points came about: penalty × visibility × extent factor."""
        if self.mark.kind in _NOT_SEEN:
            return "heard, not seen"
        extent = 0.5 + min(max(self.mark.extent, 0.0), 1.0)
        return f"{PENALTY[self.mark.severity]:.0f} × {VISIBILITY[self.mark.face]} × {extent:.2f}"


@dataclass(frozen=True)
class CosmeticScore:
    """`score` 0 to 100. `terms` are before saturation; `by_face` after, and 100 less their sum is the score."""

    score: int
    terms: tuple[Term, ...]
    by_face: dict[Face, float]


def cosmetic_score(marks: Sequence[Mark]) -> CosmeticScore:
    """100 less severity penalty x face visibility x extent factor; no face takes off more than MOST_PER_FACE."""
    terms = []
    by_face: dict[Face, float] = {}
    for mark in marks:
        if mark.severity not in PENALTY:
            raise ValueError("Severity goes from 1 to 4.")
        seen = 0.0 if mark.kind in _NOT_SEEN else 1.0
        points = seen * PENALTY[mark.severity] * VISIBILITY[mark.face] * (0.5 + min(max(mark.extent, 0.0), 1.0))
        terms.append(Term(mark, round(points, 1)))
        by_face[mark.face] = min(MOST_PER_FACE, by_face.get(mark.face, 0.0) + points)
    return CosmeticScore(max(0, round(100 - sum(by_face.values()))), tuple(terms), by_face)
