"""What is printed on components: colour bands, capacitor codes, preferred values.

Colour code and letter codes by IEC 60062, preferred values (E series) by IEC 60063; figures from memory.
"""

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
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
# Letters for tolerance, in percent below and above (from 10 pF up).
_LETTERS = {
    "B": (Decimal("0.1"), Decimal("0.1")),
    "C": (Decimal("0.25"), Decimal("0.25")),
    "D": (Decimal("0.5"), Decimal("0.5")),
    "F": (Decimal(1), Decimal(1)),
    "G": (Decimal(2), Decimal(2)),
    "J": (Decimal(5), Decimal(5)),
    "K": (Decimal(10), Decimal(10)),
    "M": (Decimal(20), Decimal(20)),
    "N": (Decimal(30), Decimal(30)),
    "Q": (Decimal(10), Decimal(30)),
    "S": (Decimal(20), Decimal(50)),
    "T": (Decimal(10), Decimal(50)),
    "Z": (Decimal(20), Decimal(80)),
}
# Under 10 pF the same letters stand for picofarads.
_SMALL_LETTERS = {
    "B": Decimal("0.1"),
    "C": Decimal("0.25"),
    "D": Decimal("0.5"),
    "F": Decimal(1),
    "G": Decimal(2),
}
_PICO, _TEN_PICO = Decimal("1e-12"), Decimal("1e-11")


@dataclass(frozen=True)
class Marked:
    """A value in ohms or farads, and how far below and above it the part may lie, in percent; None: not marked."""

    value: Decimal
    unit: str
    tolerance: Decimal | None
    above: Decimal | None = None

    @property
    def low(self) -> Decimal:
        return self.value * (1 - (self.tolerance or Decimal(0)) / 100)

    @property
    def high(self) -> Decimal:
        above = self.above if self.above is not None else self.tolerance
        return self.value * (1 + (above or Decimal(0)) / 100)

    @property
    def words(self) -> str:
        value = engineering(self.value, self.unit)
        if self.tolerance is None:
            return value
        if self.above is not None and self.above != self.tolerance:
            return f"{value} −{self.tolerance.normalize():f} +{self.above.normalize():f} %"
        if self.unit == "F" and self.value < _TEN_PICO:
            apart = self.value * self.tolerance / 100 / _PICO
            return f"{value} ± {round(apart, 2).normalize():f} pF"
        return f"{value} ± {self.tolerance.normalize():f} %"


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


_OHMS = {"R": 0, "K": 3, "M": 6, "G": 9}
_FARADS = {"p": -12, "n": -9, "u": -6, "µ": -6, "μ": -6, "m": -3}


def read_resistor(text: str) -> Marked:
    """A resistor by its bands, or by the code printed on it: "4K7", "4k7J", "R47", "1K" (IEC 60062, clause 4).

    Three figures or four without a letter, as on small flat parts: the last is a power of ten.
    """
    code = text.strip()
    words = code.replace(",", " ").replace("-", " ").lower().split()
    if words and words[0] in set(Colour):
        return read_bands(words)
    bare = code.upper().replace("Ω", "R").replace("Ω", "R")
    if found := re.fullmatch(r"(\d*)([RKMG])(\d*)([A-Z]?)", bare):
        if not found[1] and not found[3]:
            raise MarkingError("Type it as printed: 4K7, R47, 1K.")
        value = Decimal(f"{found[1] or 0}.{found[3] or 0}").scaleb(_OHMS[found[2]])
        letter = found[4]
    elif found := re.fullmatch(r"(\d{2,3})(\d)()", bare):
        value, letter = Decimal(found[1]).scaleb(int(found[2])), ""
    else:
        raise MarkingError("Type the bands, such as yellow violet red gold, or the code: 4K7, R47, 472.")
    if letter and letter not in _LETTERS:
        raise MarkingError(f"{letter} is no tolerance letter. There are: {', '.join(_LETTERS)}.")
    if not value:
        raise MarkingError("0 Ω is a bridge: there is no value to measure against.")
    below, above = _LETTERS[letter] if letter else (None, None)
    return Marked(value, "Ω", below, above)


def read_capacitor(text: str) -> Marked:
    """A capacitor by its code: "104K" is 100 nF ± 10 %, "229C" 2.2 pF ± 0.25 pF, "p68" 0.68 pF, "4n7J" 4.7 nF ± 5 %.

    The third figure is a power of ten from 0 to 7; 8 stands for a hundredth, 9 for a tenth (EIA-198, from memory).
    """
    code = text.strip()
    if found := re.fullmatch(r"(\d\d)(\d)([A-Za-z]?)", code if code[-1:] not in _FARADS else ""):
        power = {8: -2, 9: -1}.get(int(found[2]), int(found[2]))
        value, letter = Decimal(found[1]).scaleb(power - 12), found[3].upper()
    elif (found := re.fullmatch(r"(\d*)([pnuµμm])(\d*)F?([A-Za-z]?)", code)) and (found[1] or found[3]):
        value = Decimal(f"{found[1] or 0}.{found[3] or 0}").scaleb(_FARADS[found[2]])
        letter = found[4].upper()
    elif found := re.fullmatch(r"(\d{1,2})([A-Z]?)", code.upper()):
        value, letter = Decimal(found[1]).scaleb(-12), found[2]
    else:
        raise MarkingError("Type it as printed: 104K, 4n7, p68, 22.")
    if not value:
        raise MarkingError("0 is no value.")
    small = value < _TEN_PICO
    if letter and letter not in (_SMALL_LETTERS if small else _LETTERS):
        raise MarkingError(
            f"{letter} is no tolerance letter {'under' if small else 'from'} 10 pF. "
            f"There are: {', '.join(_SMALL_LETTERS if small else _LETTERS)}."
        )
    if not letter:
        return Marked(value, "F", None)
    if small:
        share = _SMALL_LETTERS[letter] * _PICO / value * 100
        return Marked(value, "F", share, share)
    return Marked(value, "F", *_LETTERS[letter])


_LIKE_OHMS = re.compile(r"\d*[RrΩ]\d*[A-Z]?|\d*[KkM]\d+[A-Z]?|\d{1,2}[KkM]")


def read_part(text: str) -> Marked:
    """A resistor by its bands or by a code with R, K or M in its place, "4K7"; anything else is a capacitor.

    "104K" is a capacitor of 10 %, "47K" a resistor: figures before a tolerance letter come in threes.
    """
    words = text.replace(",", " ").lower().split()
    if (words and words[0] in set(Colour)) or _LIKE_OHMS.fullmatch(text.strip()):
        return read_resistor(text)
    return read_capacitor(text)


_PREFIXES = ((9, "G"), (6, "M"), (3, "k"), (0, ""), (-3, "m"), (-6, "µ"), (-9, "n"), (-12, "p"))


def engineering(value: Decimal, unit: str) -> str:
    """A value with the prefix that leaves 1 to 999 before the point: 4.7 kΩ, 100 nF. Of farads mostly 4700 µF, as
    parts are marked: on old ones mF stands for µF (common practice, no source).
    """
    for power, prefix in _PREFIXES:
        if prefix + unit == "mF":
            continue
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
    taken = marked if marked.tolerance is not None else replace(marked, tolerance=Decimal(20))
    low, high = taken.low, taken.high
    if out_of_circuit is not None:
        return Suspicion.GOOD if low <= out_of_circuit <= high else Suspicion.BAD
    if in_circuit is None:
        raise ValueError("One reading at least.")
    return Suspicion.GOOD if low <= in_circuit <= high else Suspicion.MEASURE_OUT
