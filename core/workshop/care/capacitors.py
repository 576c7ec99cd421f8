"""The capacitors of a board as a kit to buy: what each may be replaced with, and how many of each that makes."""

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from decimal import Decimal

from core.catalogue.recipes import Need
from core.workshop.care import CareError

MOST_LINES = 40
# A new one holds so many times the old value at most. Common practice, no source: more strains the rectifier.
MOST_VALUE = Decimal("1.5")
# Leads that stand further apart than this off the holes are bent, and strain the seal. Common practice, no source.
PITCH_OFF = Decimal("0.5")


@dataclass(frozen=True)
class Capacitor:
    """µF and volts; diameter and pitch in mm, None where nobody measured."""

    microfarads: Decimal
    volts: Decimal
    diameter: Decimal | None = None
    pitch: Decimal | None = None

    def __str__(self) -> str:
        measures = [
            f"⌀ {_plain(self.diameter)}" if self.diameter else "",
            f"pitch {_plain(self.pitch)}" if self.pitch else "",
        ]
        return ", ".join([f"{_plain(self.microfarads)} µF {_plain(self.volts)} V", *filter(None, measures)])


@dataclass(frozen=True)
class Place:
    """Where capacitors of a kind sit on a board, what sits there, and what is to come there (None: the same again)."""

    names: tuple[str, ...]
    old: Capacitor
    new: Capacitor | None = None

    @property
    def bought(self) -> Capacitor:
        """What nobody said of the new one is as on the old."""
        if self.new is None:
            return self.old
        return replace(
            self.new, diameter=self.new.diameter or self.old.diameter, pitch=self.new.pitch or self.old.pitch
        )

    @property
    def not_measured(self) -> tuple[str, ...]:
        """What has to be measured before it is bought."""
        found = (("diameter", self.bought.diameter), ("pitch", self.bought.pitch))
        return tuple(name for name, value in found if value is None)


def check(place: Place) -> None:
    """Refuses a replacement that would fail, or does not go in. Raises CareError."""
    old, new, at = place.old, place.bought, place.names[0]
    if new.volts < old.volts:
        raise CareError(
            f"{at}: never fewer volts, {_plain(old.volts)} V or more instead of {_plain(new.volts)}.", "capacitors"
        )
    if not old.microfarads <= new.microfarads <= old.microfarads * MOST_VALUE:
        most = _plain(old.microfarads * MOST_VALUE)
        raise CareError(
            f"{at}: from {_plain(old.microfarads)} to {most} µF, not {_plain(new.microfarads)}.", "capacitors"
        )
    if old.diameter and new.diameter and new.diameter > old.diameter:
        raise CareError(
            f"{at}: ⌀ {_plain(new.diameter)} mm where ⌀ {_plain(old.diameter)} sat: too wide.", "capacitors"
        )
    if old.pitch and new.pitch and abs(new.pitch - old.pitch) > PITCH_OFF:
        raise CareError(f"{at}: pitch {_plain(new.pitch)} mm, its holes are {_plain(old.pitch)} apart.", "capacitors")


def read_board(typed: str) -> tuple[Place, ...]:
    """A line for places of a kind: "C12, C14: 220 µF 16 V ⌀8 pitch 3.5; new 220 µF 25 V ⌀8". Raises CareError."""
    lines = [line for line in typed.splitlines() if line.strip()]
    if not lines:
        raise CareError("At least one capacitor, a line each: C12, C14: 220 µF 16 V ⌀8 pitch 3.5.", "capacitors")
    if len(lines) > MOST_LINES:
        raise CareError(f"{MOST_LINES} lines at most.", "capacitors")
    places = tuple(_place(line) for line in lines)
    seen: set[str] = set()
    for name in (name for place in places for name in place.names):
        if name in seen:
            raise CareError(f"{name} stands there twice.", "capacitors")
        seen.add(name)
    return places


_ONE = re.compile(
    r"(\d+(?:[.,]\d+)?)\s*[µμu]F\s+(\d+(?:[.,]\d+)?)\s*V"
    r"(?:\s+[⌀øØ]\s*(\d+(?:[.,]\d+)?))?(?:\s+pitch\s+(\d+(?:[.,]\d+)?))?"
)


def _place(line: str) -> Place:
    names, colon, rest = line.partition(":")
    where = tuple(filter(None, (one.strip() for one in names.split(","))))
    if not colon or not where or any(len(one) > 8 for one in where):
        raise CareError(f"“{line.strip()[:30]}”: its names, a colon, what sits there.", "capacitors")
    old, semicolon, new = rest.partition(";")
    words = new.strip()
    if semicolon and not words.lower().startswith("new "):
        raise CareError(f"{where[0]}: after the semicolon comes new and what is to be fitted.", "capacitors")
    found = Place(where, _capacitor(old, where[0]), _capacitor(words[4:], where[0]) if semicolon else None)
    check(found)
    return found


def _capacitor(typed: str, at: str) -> Capacitor:
    match = _ONE.fullmatch(typed.strip())
    if not match:
        raise CareError(f"{at}: “{typed.strip()[:30]}” is nothing such as 220 µF 16 V ⌀8 pitch 3.5.", "capacitors")
    value, volts, diameter, pitch = (Decimal(one.replace(",", ".")) if one else None for one in match.groups())
    if not value or not volts or diameter == 0 or pitch == 0 or max(value, volts) > 1_000_000:
        raise CareError(f"{at}: figures above 0, a million at most.", "capacitors")
    return Capacitor(value, volts, diameter, pitch)


def kit(places: Sequence[Place]) -> list[tuple[Capacitor, int]]:
    """What is bought and how many of each, the largest first."""
    count: dict[Capacitor, int] = {}
    for place in places:
        count[place.bought] = count.get(place.bought, 0) + len(place.names)
    return sorted(count.items(), key=lambda one: (-one[0].microfarads, -one[0].volts))


def needs(places: Sequence[Place]) -> tuple[Need, ...]:
    """The kit as a step names it."""
    return tuple(Need(f"capacitor {one}".replace(", ", " "), Decimal(number), "pieces") for one, number in kit(places))


def _plain(figure: Decimal) -> str:
    return f"{figure.normalize():f}"
