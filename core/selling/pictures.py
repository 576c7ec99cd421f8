"""Pictures of a listing: in the order of what they are worth to a buyer, straightened, cropped, defects marked."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime
from math import cos, radians, sin

from core.catalogue.recipes import JobKind
from core.intake.shots import Shot

# What a buyer looks for first (common practice, no source).
ORDER = (
    Shot.FRONT,
    Shot.SCREEN,
    Shot.DEFECT,
    Shot.PORTS,
    Shot.INSIDE,
    Shot.KEYBOARD,
    Shot.BACK,
    Shot.TOP,
    Shot.LEFT,
    Shot.RIGHT,
    Shot.UNDERSIDE,
    Shot.LABEL,
)
# Work after which a thing looks otherwise than on a picture from before (common practice, no source).
LOOKS_OTHERWISE = {JobKind.CLEAN: "cleaned", JobKind.WHITEN: "whitened", JobKind.REFINISH: "refinished"}
MOST_TURN = 15.0
LEAST_SIDE = 0.2


def by_worth(shots: Iterable[str]) -> list[int]:
    """Places of these pictures, best first: by what they show; what shows nothing named comes last, as it came."""
    rank = {shot.value: place for place, shot in enumerate(ORDER)}
    return [place for place, _ in sorted(enumerate(shots), key=lambda one: (rank.get(one[1], len(ORDER)), one[0]))]


def from_before(taken: datetime, work: Iterable[tuple[JobKind, datetime]], came_back: datetime | None) -> str:
    """What happened to a thing since a picture of it was taken, by which that shows it as it was; empty for nothing.
    `work` with when each was done, `came_back` from a buyer."""
    found = [LOOKS_OTHERWISE[kind] for kind, done in work if kind in LOOKS_OTHERWISE and done > taken]
    if came_back is not None and came_back > taken:
        found.append("sent to a buyer and came back")
    return ", ".join(dict.fromkeys(found))


@dataclass(frozen=True)
class Cut:
    """A picture turned clockwise by `turn` degrees about its middle, then cut to a part of what is whole of it: `left`,
    `top`, `width` and `height` as shares, 0 to 1, of the largest upright rectangle that the turn leaves.

    ValueError, in words, for a turn beyond 15 degrees, or a part that is small or does not lie within.
    """

    left: float = 0.0
    top: float = 0.0
    width: float = 1.0
    height: float = 1.0
    turn: float = 0.0

    def __post_init__(self) -> None:
        if not -MOST_TURN <= self.turn <= MOST_TURN:
            raise ValueError(f"Turn it by {MOST_TURN:.0f} degrees at most.")
        if min(self.width, self.height) < LEAST_SIDE:
            raise ValueError("Less than a fifth of its side is left: take another picture.")
        if min(self.left, self.top) < 0 or max(self.left + self.width, self.top + self.height) > 1 + 1e-9:
            raise ValueError("The part has to lie within the picture.")

    @property
    def whole(self) -> bool:
        return self == Cut()

    def box(self, width: int, height: int) -> tuple[float, float, float, float]:
        """Left, top, right and bottom, in pixels of the turned picture of the same size."""
        inner = upright_within(width, height, self.turn)
        left, top = (width - inner[0]) / 2 + self.left * inner[0], (height - inner[1]) / 2 + self.top * inner[1]
        return left, top, left + self.width * inner[0], top + self.height * inner[1]

    def place(self, x: float, y: float, width: int, height: int) -> tuple[float, float] | None:
        """Where a spot of the picture (x and y, 0 to 1) stands in the part, 0 to 1; None where it was cut away."""
        turn = radians(self.turn)
        across, down = (x - 0.5) * width, (y - 0.5) * height
        turned = (across * cos(turn) - down * sin(turn) + width / 2, across * sin(turn) + down * cos(turn) + height / 2)
        left, top, right, bottom = self.box(width, height)
        there = (turned[0] - left) / (right - left), (turned[1] - top) / (bottom - top)
        return there if all(0 <= side <= 1 for side in there) else None


def upright_within(width: float, height: float, turn: float) -> tuple[float, float]:
    """Sides of the largest upright rectangle inside one that was turned by `turn` degrees about its middle.

    Either two corners lie on opposite long sides (a thin one), or all four on all sides; plane geometry.
    """
    if width <= 0 or height <= 0:
        raise ValueError("A picture has two sides.")
    sine, cosine = abs(sin(radians(turn))), abs(cos(radians(turn)))
    long, short = max(width, height), min(width, height)
    if short <= 2 * sine * cosine * long or abs(sine - cosine) < 1e-10:
        half = short / 2
        across, down = (half / sine, half / cosine) if width >= height else (half / cosine, half / sine)
    else:
        both = cosine * cosine - sine * sine
        across, down = (width * cosine - height * sine) / both, (height * cosine - width * sine) / both
    return across, down
