"""Paint: how much of it, in whole cans, and when each coat may go on the one under it."""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from decimal import ROUND_CEILING, Decimal

from core.workshop.care import CareError
from core.workshop.care.air import Limits

MOST_AREA = Decimal(100_000)
MOST_MINUTES = 60 * 24 * 60
MOST_COATS = 12
# Where a can says nothing of the air.
ANY_AIR = Limits()


@dataclass(frozen=True)
class Coat:
    """A coat: so thick (µm, None: not known), laid again from `earliest` to `latest` minutes after (None: any time
    after), in air within `limits`. `covers`: cm² a can. `two_component` hardens with something that is breathed in."""

    name: str
    earliest: int
    latest: int | None = None
    covers: Decimal | None = None
    microns: int | None = None
    two_component: bool = False
    limits: Limits = ANY_AIR

    def __post_init__(self) -> None:
        if not self.name or len(self.name) > 40:
            raise CareError("A coat has a name of 1 to 40 characters.", "coats")
        if not 0 <= self.earliest <= MOST_MINUTES or (self.latest is not None and self.latest > MOST_MINUTES):
            raise CareError(f"{self.name}: minutes from 0 to 60 days.", "coats")
        if self.latest is not None and self.latest < self.earliest:
            raise CareError(f"{self.name}: its window closes before it opens.", "coats")
        if self.covers is not None and self.covers <= 0:
            raise CareError(f"{self.name}: a can covers more than nothing.", "coats")


def cans(area_cm2: Decimal, coats: int, covers_cm2: Decimal) -> int:
    """Whole cans for so many coats. 0.62 m² × 3 ÷ 1.8 m² a can: 1.03, two cans. Raises CareError."""
    if not 0 < area_cm2 <= MOST_AREA:
        raise CareError(f"An area from above 0 to {MOST_AREA:,} cm².", "area")
    if coats < 1 or covers_cm2 <= 0:
        raise CareError("At least one coat, and a can that covers something.", "coats")
    return int((area_cm2 * coats / covers_cm2).to_integral_value(ROUND_CEILING))


def paint_list(area_cm2: Decimal, coats: Sequence[Coat]) -> list[tuple[str, int, int | None]]:
    """Each paint with its coats and whole cans; None where nobody said what a can covers."""
    found: dict[str, list[Coat]] = {}
    for coat in coats:
        found.setdefault(coat.name.rstrip(" 0123456789").lower(), []).append(coat)
    rows = []
    for name, several in found.items():
        covers = next((coat.covers for coat in several if coat.covers), None)
        rows.append((name, len(several), cans(area_cm2, len(several), covers) if covers else None))
    return rows


def read_coats(typed: str) -> tuple[Coat, ...]:
    """A line a coat, in the order they are laid; the air may be left out. Raises CareError.

    primer: from 20 min; to 24 h; 35 µm; can 1.8 m²; air 10 to 25 °C, 70 %
    """
    coats = tuple(_coat(line) for line in typed.splitlines() if line.strip())
    if not coats:
        raise CareError("At least one coat, a line each: primer: from 20 min; to 24 h.", "coats")
    if len(coats) > MOST_COATS:
        raise CareError(f"{MOST_COATS} coats at most.", "coats")
    return coats


def _coat(line: str) -> Coat:
    name, colon, rest = line.partition(":")
    if not colon:
        raise CareError(f"“{line.strip()[:30]}”: a name, a colon, and from when the next may go on.", "coats")
    said: dict[str, str] = {}
    two = False
    for part in filter(None, (one.strip() for one in rest.split(";"))):
        word = next((one for one in ("from", "to", "can", "air") if part.lower().startswith(f"{one} ")), None)
        if part.lower() == "two-component":
            two = True
        elif word:
            said[word] = part[len(word) :].strip()
        elif part.lower().endswith("µm"):
            said["µm"] = part[:-2].strip()
        else:
            raise CareError(f"{name.strip()}: “{part}” is none of from, to, can, air, µm, two-component.", "coats")
    if "from" not in said:
        raise CareError(f"{name.strip()}: say from when the next coat may go on: from 20 min.", "coats")
    microns = said.get("µm")
    if microns is not None and not microns.isdecimal():
        raise CareError(f"{name.strip()}: “{microns} µm” is no thickness.", "coats")
    return Coat(
        name.strip(),
        _minutes(said["from"], name),
        _minutes(said["to"], name) if "to" in said else None,
        _area(said["can"], name) if "can" in said else None,
        int(microns) if microns else None,
        two,
        _limits(said["air"], name) if "air" in said else ANY_AIR,
    )


_UNITS = {"min": 1, "h": 60, "d": 24 * 60}


def _minutes(typed: str, name: str) -> int:
    number, _, unit = typed.partition(" ")
    try:
        return int(Decimal(number.replace(",", ".")) * _UNITS[unit.strip()])
    except (ArithmeticError, KeyError, ValueError) as problem:
        raise CareError(f"{name.strip()}: “{typed}” is no time such as 20 min, 24 h or 7 d.", "coats") from problem


def _area(typed: str, name: str) -> Decimal:
    try:
        area = Decimal(typed.removesuffix("m²").strip().replace(",", "."))
    except ArithmeticError as problem:
        raise CareError(f"{name.strip()}: “{typed}” is no area such as 1.8 m².", "coats") from problem
    if not area.is_finite():
        raise CareError(f"{name.strip()}: “{typed}” is no area such as 1.8 m².", "coats")
    return area * 10_000


_AIR = re.compile(r"(-?\d+(?:[.,]\d+)?)\s*(?:to|–|-)\s*(-?\d+(?:[.,]\d+)?)\s*°C,\s*(\d+)\s*%")


def _limits(typed: str, name: str) -> Limits:
    match = _AIR.fullmatch(typed)
    if not match:
        raise CareError(f"{name.strip()}: “{typed}” is no air such as 10 to 25 °C, 70 %.", "coats")
    coldest, warmest, moistest = (float(one.replace(",", ".")) for one in match.groups())
    return Limits(coldest, warmest, moistest)
