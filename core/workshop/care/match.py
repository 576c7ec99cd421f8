"""Which paint comes closest to the case: candidates compared before any is bought."""

import re
from collections.abc import Sequence
from dataclasses import dataclass

from core.intake.colour import Lab, delta_e, lab_of
from core.workshop.care import CareError

# Over this a sample is bought and measured first.
SAMPLE_FIRST = 2.0
MOST_CANDIDATES = 12


@dataclass(frozen=True)
class Candidate:
    """A colour somebody sells, by its name and what its maker gives for it."""

    name: str
    lab: Lab


@dataclass(frozen=True)
class Match:
    candidate: Candidate
    off: float
    lighter: float

    @property
    def words(self) -> str:
        if self.off <= SAMPLE_FIRST:
            return "close enough to be bought"
        if abs(self.lighter) < 1:
            return "off in hue"
        return f"too {'light' if self.lighter > 0 else 'dark'} by {abs(self.lighter):.0f}"


def read_candidates(typed: str) -> tuple[Candidate, ...]:
    """A line each: "harbour grey: #c9c2b0", or "harbour grey: 78.5 0.4 9.6" for L* a* b*. Raises CareError."""
    lines = [line for line in typed.splitlines() if line.strip()]
    if len(lines) > MOST_CANDIDATES:
        raise CareError(f"{MOST_CANDIDATES} colours at most.", "candidates")
    return tuple(_candidate(line) for line in lines)


def _candidate(line: str) -> Candidate:
    name, colon, rest = (part.strip() for part in line.partition(":"))
    if not colon or not name or len(name) > 40:
        raise CareError(f"“{line.strip()[:30]}”: a name, a colon, then #rrggbb or L* a* b*.", "candidates")
    if match := re.fullmatch(r"#([0-9a-fA-F]{2})([0-9a-fA-F]{2})([0-9a-fA-F]{2})", rest):
        red, green, blue = (int(pair, 16) for pair in match.groups())
        return Candidate(name, lab_of((red, green, blue)))
    figures = rest.replace(";", " ").split()
    try:
        light, a, b = (float(one.replace(",", ".").replace("−", "-")) for one in figures)
    except ValueError as problem:
        raise CareError(
            f"{name}: “{rest[:30]}” is neither #rrggbb nor L* a* b*, such as 78.5 0.4 9.6.", "candidates"
        ) from problem
    if not 0 <= light <= 100 or not (-128 <= a <= 128 and -128 <= b <= 128):
        raise CareError(f"{name}: L* from 0 to 100, a* and b* from −128 to 128.", "candidates")
    return Candidate(name, Lab(light, a, b))


def compare(case: Lab, candidates: Sequence[Candidate]) -> list[Match]:
    """By CIEDE2000, the closest first."""
    found = [Match(one, delta_e(case, one.lab), one.lab.l - case.l) for one in candidates]
    return sorted(found, key=lambda one: one.off)


def advice(matches: Sequence[Match]) -> str:
    """What to buy, in words."""
    if not matches:
        return "No colour was compared: a named one can be far off. Measure before you buy."
    best = matches[0]
    if best.off > SAMPLE_FIRST:
        return (
            f"Buy a sample first: even {best.candidate.name} is {best.off:.1f} off, over {SAMPLE_FIRST:.1f} it is seen."
        )
    return f"{best.candidate.name} is {best.off:.1f} off: buy that."
