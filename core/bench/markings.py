"""What is printed on components: colour bands, capacitor codes, preferred values.

Colour code and letter codes by IEC 60062, preferred values (E series) by IEC 60063; figures from memory.
"""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from enum import StrEnum
from math import log10


class MarkingError(ValueError):
    """Not a marking that can be read; the message says why."""


class Colour(StrEnum):
    BLACK = "black"
    BROWN = "brown"
    RED = "red"
    ORANGE = "orange"
    YELLOW = "yellow"
    GREEN = "green"
    BLUE = "blue"
    VIOLET = "violet"
    GREY = "grey"
    WHITE = "white"
    GOLD = "gold"
    SILVER = "silver"


_DIGIT = {colour: digit for digit, colour in enumerate(list(Colour)[:10])}
_POWER = {**_DIGIT, Colour.GOLD: -1, Colour.SILVER: -2}
_TOLERANCE = {
    Colour.BROWN: Decimal(1),
    Colour.RED: Decimal(2),
    Colour.ORANGE: Decimal("0.05"),
    Colour.YELLOW: Decimal("0.02"),
    Colour.GREEN: Decimal("0.5"),
    Colour.BLUE: Decimal("0.25"),
    Colour.VIOLET: Decimal("0.1"),
    Colour.GREY: Decimal("0.01"),
    Colour.GOLD: Decimal(5),
    Colour.SILVER: Decimal(10),
}
# Letters for tolerance in percent (capacitors of 10 pF and more).
_LETTERS = {
    "B": Decimal("0.1"),
    "C": Decimal("0.25"),
    "D": Decimal("0.5"),
    "F": Decimal(1),
    "G": Decimal(2),
    "J": Decimal(5),
    "K": Decimal(10),
    "M": Decimal(20),
}


@dataclass(frozen=True)
class Marked:
    """A value in ohms or farads with its tolerance in percent, None when none is marked."""

    value: Decimal
    unit: str
    tolerance: Decimal | None

    @property
    def low(self) -> Decimal:
        return self.value * (1 - (self.tolerance or Decimal(0)) / 100)

    @property
    def high(self) -> Decimal:
        return self.value * (1 + (self.tolerance or Decimal(0)) / 100)

    @property
    def words(self) -> str:
        spread = f" ± {self.tolerance.normalize():f} %" if self.tolerance is not None else ""
        return f"{engineering(self.value, self.unit)}{spread}"


def read_bands(bands: Sequence[str]) -> Marked:
    """A resistor by its bands: three (no tolerance band: 20 %) to six; the sixth, for temperature, is passed over."""
    try:
        colours = [Colour(band.strip().lower()) for band in bands]
    except ValueError as problem:
        raise MarkingError(f"Bands are {', '.join(Colour)}.") from problem
    if not 3 <= len(colours) <= 6:
        raise MarkingError("A resistor has three to six bands.")
    digits = 2 if len(colours) <= 4 else 3
    if any(colour not in _DIGIT for colour in colours[:digits]):
        raise MarkingError("Gold and silver are no digits. Read it from the other end.")
    number = int("".join(str(_DIGIT[colour]) for colour in colours[:digits]))
    tolerance = Decimal(20)
    if len(colours) > 3:
        if colours[digits + 1] not in _TOLERANCE:
            raise MarkingError(f"{colours[digits + 1].value} is no tolerance. Read it from the other end.")
        tolerance = _TOLERANCE[colours[digits + 1]]
    return Marked(Decimal(number).scaleb(_POWER[colours[digits]]), "Ω", tolerance)


def read_capacitor(text: str) -> Marked:
    """A capacitor by its code: "104K" is 100 nF ± 10 %, "4n7J" 4.7 nF ± 5 %, "22" 22 pF."""
    code = text.strip()
    if found := re.fullmatch(r"(\d\d)(\d)([A-Z]?)", code.upper()):
        if int(found[3 - 1]) > 7:
            raise MarkingError("The third figure is a power from 0 to 7.")
        value = Decimal(found[1]).scaleb(int(found[2]) - 12)
        letter = found[3]
    elif found := re.fullmatch(r"(\d+)([pnuµ])(\d*)([A-Z]?)", code):
        value = Decimal(f"{found[1]}.{found[3] or 0}").scaleb({"p": -12, "n": -9}.get(found[2], -6))
        letter = found[4]
    elif found := re.fullmatch(r"(\d{1,2})([A-Z]?)", code.upper()):
        value, letter = Decimal(found[1]).scaleb(-12), found[2]
    else:
        raise MarkingError("Type it as printed: 104K, 4n7, 22.")
    if letter and letter not in _LETTERS:
        raise MarkingError(f"{letter} is no tolerance letter. There are: {', '.join(_LETTERS)}.")
    if not value:
        raise MarkingError("0 is no value.")
    return Marked(value, "F", _LETTERS.get(letter))


_PREFIXES = ((9, "G"), (6, "M"), (3, "k"), (0, ""), (-3, "m"), (-6, "µ"), (-9, "n"), (-12, "p"))


def engineering(value: Decimal, unit: str) -> str:
    """A value with the prefix that leaves 1 to 999 before the point: 4.7 kΩ, 100 nF."""
    for power, prefix in _PREFIXES:
        if abs(value) >= Decimal(1).scaleb(power):
            return f"{value.scaleb(-power).normalize():f} {prefix}{unit}"
    return f"{value.normalize():f} {unit}"


# Preferred values to two figures (E3 to E24) as the standard lists them; E48 and up follow the rule.
_E24 = (10, 11, 12, 13, 15, 16, 18, 20, 22, 24, 27, 30, 33, 36, 39, 43, 47, 51, 56, 62, 68, 75, 82, 91)


def series(number: int) -> tuple[Decimal, ...]:
    """The values of a decade of E3, E6, E12, E24, E48, E96 or E192, from 1 up to 10."""
    if number in {3, 6, 12, 24}:
        return tuple(Decimal(value) / 10 for value in _E24[:: 24 // number])
    if number in {48, 96, 192}:
        values = [Decimal(str(round(10 ** (place / number), 2))) for place in range(number)]
        if number == 192:
            values[185] = Decimal("9.20")  # the standard rounds this one the other way
        return tuple(values)
    raise MarkingError("There are E3, E6, E12, E24, E48, E96 and E192.")


def nearest_preferred(value: Decimal, number: int = 24) -> Decimal:
    """The preferred value nearest to `value` (above 0), by ratio."""
    if value <= 0:
        raise MarkingError("A value is above 0.")
    power = value.adjusted()
    near = [v.scaleb(power + shift) for v in series(number) for shift in (-1, 0, 1)]
    return min(near, key=lambda v: abs(log10(float(v / value))))


class Suspicion(StrEnum):
    """What a component reading says."""

    GOOD = "good"
    MEASURE_OUT = "measure_out"
    BAD = "bad"


def screen(marked: Marked, in_circuit: Decimal | None = None, out_of_circuit: Decimal | None = None) -> Suspicion:
    """In-circuit readings only screen: out of tolerance there asks for a reading out of circuit, never convicts.

    100 nF marked, 400 in circuit, 250 out: bad. Readings in the unit of the marking, 0 or more; without a
    marked tolerance 20 % is taken (common practice, no source).
    """
    spread = marked.tolerance if marked.tolerance is not None else Decimal(20)
    low, high = marked.value * (1 - spread / 100), marked.value * (1 + spread / 100)
    if out_of_circuit is not None:
        return Suspicion.GOOD if low <= out_of_circuit <= high else Suspicion.BAD
    if in_circuit is None:
        raise ValueError("One reading at least.")
    return Suspicion.GOOD if low <= in_circuit <= high else Suspicion.MEASURE_OUT
