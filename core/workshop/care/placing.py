"""Feet, badges and labels put where they belong: by measure from the edges, kept with the model."""

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from enum import StrEnum

from core.catalogue.recipes import JobKind, Need, Recipe, Step
from core.machine.casing import Face
from core.safety import Hazard
from core.workshop.care import CareError
from core.workshop.care.agents import Agent, Bears, Surface, bears
from core.workshop.care.plans import AFTER, PHOTO
from core.workshop.care.region import Size

# Two that should lie opposite one another do, within so many mm. Common practice, no source.
OPPOSITE_MM = Decimal(1)


class Stuck(StrEnum):
    """What is stuck on."""

    FOOT = "foot"
    BADGE = "badge"
    LABEL = "label"


@dataclass(frozen=True)
class Placed:
    """Where one sits: mm from the left and the top edge of a face as one looks at it, and how large it is."""

    what: Stuck
    face: Face
    left: Decimal
    top: Decimal
    wide: Decimal
    high: Decimal

    def within(self, size: Size) -> None:
        """Refuses what would stand over an edge. Raises CareError."""
        face = size.face(self.face)
        if face is None:
            raise CareError("Nothing is measured on that face.", "face")
        for at, name, start, reach, whole in (
            ("left", "wide", self.left, self.wide, face[0]),
            ("top", "high", self.top, self.high, face[1]),
        ):
            if start < 0:
                raise CareError("From 0 mm.", at)
            if reach <= 0:
                raise CareError("More than 0 mm.", name)
            if start + reach > whole:
                raise CareError(f"It would stand over the edge: the {self.face} measures {whole} mm there.", at)

    def from_edges(self, size: Size) -> dict[str, Decimal]:
        """mm to each edge; only for what lies within."""
        face = size.face(self.face) or (0, 0)
        return {
            "left": self.left,
            "right": face[0] - self.left - self.wide,
            "top": self.top,
            "bottom": face[1] - self.top - self.high,
        }

    def overlaps(self, other: "Placed") -> bool:
        return (
            self.face is other.face
            and self.left < other.left + other.wide
            and other.left < self.left + self.wide
            and self.top < other.top + other.high
            and other.top < self.top + self.high
        )


def doubts(placed: Sequence[Placed], size: Size) -> list[str]:
    """Where what should lie opposite does not, or two lie on one another: one of them was measured wrong."""
    said = []
    for number, one in enumerate(placed):
        for other in placed[number + 1 :]:
            if one.face is not other.face:
                continue
            if one.overlaps(other):
                said.append(f"A {one.what} and a {other.what} lie on one another on the {one.face}.")
            elif one.what is other.what is Stuck.FOOT and abs(one.top - other.top) <= max(one.high, other.high):
                first, second = sorted((one, other), key=lambda each: each.left)
                left, right = first.from_edges(size)["left"], second.from_edges(size)["right"]
                if abs(left - right) > OPPOSITE_MM:
                    said.append(
                        f"Two feet on the {one.face}: {left.normalize():f} mm from the left, "
                        f"{right.normalize():f} from the right. Measure again."
                    )
    return said


def stick(placed: Sequence[Placed], size: Size, surface: Surface, part: str, residue: bool = True) -> Recipe:
    """Old glue off by what the surface bears, then each put where it belongs. Raises CareError."""
    if not placed:
        raise CareError("Nothing is measured yet: measure one that is still on.", "face")
    steps = [PHOTO]
    if residue:
        agent = next(
            (one for one in (Agent.OIL, Agent.ISOPROPANOL, Agent.SOAP) if bears(surface, one) is not Bears.NEVER), None
        )
        if agent is None:
            raise CareError(f"{surface} bears nothing that takes glue off.", "surface")
        if bears(surface, agent) is Bears.HIDDEN:
            steps.append(Step(f"Try {agent} on a hidden spot: nothing may come off.", 3, hazards=agent.hazards))
        steps += [
            Step(
                f"Soften the old glue with {agent}, roll it off with a thumb or a wooden edge; again until it is gone.",
                10,
                agent.dwell_minutes or 5,
                hazards=agent.hazards,
                caution="No flame, no hot air, power off until it is dry." if Hazard.SOLVENT in agent.hazards else "",
                needs=(Need(agent.value, Decimal(10), "ml"),),
            ),
            Step("Wipe it dry and free of oil: what is stuck on oil comes off within the week.", 3, 10),
        ]
    for number, one in enumerate(placed, 1):
        edges = one.from_edges(size)
        across = min(("left", "right"), key=lambda name: edges[name])
        down = min(("top", "bottom"), key=lambda name: edges[name])
        steps.append(
            Step(
                f"{one.what.capitalize()} {number} of {len(placed)} on the {one.face}: "
                f"{edges[across].normalize():f} mm from the {across} edge, {edges[down].normalize():f} mm from the "
                f"{down} edge. Mark it in pencil, press it on for 30 s.",
                3,
                needs=(Need(one.what.value, Decimal(1), "pieces"),),
            )
        )
    steps.append(AFTER)
    return Recipe("care-stick", f"Stick on: {part}"[:80], JobKind.CLEAN, tuple(steps))
