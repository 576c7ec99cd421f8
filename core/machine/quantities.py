"""Readings as people type them: decimal comma or point, a unit with or without its prefix."""

import re
from decimal import Decimal, InvalidOperation
from enum import StrEnum

_PREFIX = {
    "": Decimal(1),
    "m": Decimal("0.001"),
    "k": Decimal(1000),
    "M": Decimal(10) ** 6,
    "µ": Decimal("0.000001"),
    "μ": Decimal("0.000001"),
    "u": Decimal("0.000001"),
    "n": Decimal("0.000000001"),
    "p": Decimal("0.000000000001"),
}
# The sign for a millionth is typed as the micro sign, the Greek letter, or u; for an ohm as either omega.
_TYPED = re.compile(r"^\s*([+\-−]?\d+(?:[.,]\d+)?)\s*([a-zA-ZµμΩΩ%°]*)\s*$")
# What is never below nothing, and what a meter means that says so.
_NEVER_NEGATIVE = {
    "Ω": "Ohms below 0 mean that charge is left in the part, or that the leads are not zeroed. "
    "Measure volts first, then zero the leads and measure again.",
    "F": "A capacitance below 0 means that charge is left in it, or that the meter is not zeroed. "
    "Discharge it, then measure again.",
}
# Which two prefixes are asked between.
_SCALES = {"Ω": ("", "k"), "F": ("n", "µ"), "V": ("m", "")}


class QuantityError(ValueError):
    """What was typed is not a reading in the wanted unit; the message says what to type."""


def parse_reading(text: str, unit: str) -> Decimal:
    """The number in `unit` that `text` states: "5,06", "5.06 V" and "5060 mV" all give 5.06 for V.

    Raises QuantityError for text that is no number, a unit that is not `unit` with a prefix, and ohms or
    farads below 0.
    """
    match = _TYPED.match(text)
    if not match:
        raise QuantityError(f"Type a number in {unit}, for example 5.06.")
    try:
        number = Decimal(match[1].replace(",", ".").replace("−", "-"))
    except InvalidOperation as problem:  # pragma: no cover - the pattern admits only numbers
        raise QuantityError(f"Type a number in {unit}, for example 5.06.") from problem
    written = match[2].replace("Ω", "Ω")
    if number < 0 and unit in _NEVER_NEGATIVE:
        raise QuantityError(_NEVER_NEGATIVE[unit])
    if not written or written == unit:
        return number
    prefix = written.removesuffix(unit) if written.endswith(unit) or written in _PREFIX else None
    if prefix is None or prefix not in _PREFIX:
        raise QuantityError(f"This step is read in {unit}; you typed {written}.")
    return number * _PREFIX[prefix]


def parse_scaled(text: str, unit: str) -> Decimal:
    """As parse_reading, for what is met in many scales (470 may be Ω or kΩ, pF or µF): its unit is never guessed.

    Raises QuantityError for a bare number other than 0 too, and for mF: on old parts that stands for µF (common
    practice, no source).
    """
    value = parse_reading(text, unit)
    bare = text.strip()
    if unit == "F" and bare.removesuffix("F").endswith("m"):
        micro = (value * 1000).normalize()
        raise QuantityError(
            f"On old parts mF stands for µF. Type {micro:f} µF, or {value.normalize():f} F if so it is."
        )
    if value and bare[-1:].isdigit():
        small, large = _SCALES.get(unit, ("m", ""))
        raise QuantityError(f"{bare} what? Say the unit too: {bare} {small}{unit} or {bare} {large}{unit}.")
    return value


class TwoMeanings(QuantityError):
    """What was typed is a number in two ways; the message asks which."""


class Mark(StrEnum):
    """What a single comma or point before exactly three figures stands for."""

    ASK = "ask"
    THOUSANDS = "thousands"
    DECIMAL = "decimal"

    @property
    def label(self) -> str:
        return {
            "ask": "asked about",
            "thousands": "thousands: 1,234 is 1234",
            "decimal": "a decimal mark: 1,234 is 1.234",
        }[self.value]


_AMBIGUOUS = re.compile(r"[+-]?[1-9]\d{0,2}[.,]\d{3}", re.ASCII)
# Thousands in threes, parted by one mark throughout, and the other mark before what is behind the point.
_GROUPED = re.compile(r"[+-]?[1-9]\d{0,2}(?P<mark>[.,])\d{3}(?:(?P=mark)\d{3})*(?:(?!(?P=mark))[.,]\d+)?", re.ASCII)
_PLAIN = re.compile(r"[+-]?\d+(?:[.,]\d+)?", re.ASCII)


def read_number(text: str, mark: Mark = Mark.ASK) -> Decimal:
    """1.234,50 and 1,234.50 and 12,5 and 12.5; blanks are passed over.

    "1,234" can be a thousand and more, or one and a little: it is asked about, unless `mark` says which.
    Raises QuantityError, in words.
    """
    bare = "".join(text.split()).replace("−", "-")
    if _AMBIGUOUS.fullmatch(bare):
        plain = bare.replace(",", "").replace(".", "")
        point = bare.replace(",", ".")
        if mark is Mark.ASK:
            raise TwoMeanings(f"{text.strip()} can be {plain} or {point}. Type the one that is meant.")
        return Decimal(plain if mark is Mark.THOUSANDS else point)
    if grouped := _GROUPED.fullmatch(bare):
        return Decimal(bare.replace(grouped["mark"], "").replace(",", "."))
    if not _PLAIN.fullmatch(bare):
        raise QuantityError(f"“{text.strip()}” is no number.")
    return Decimal(bare.replace(",", "."))
