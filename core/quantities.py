"""Readings as people type them: decimal comma or point, a unit with or without its prefix."""

import re
from decimal import Decimal, InvalidOperation

_PREFIX = {
    "": Decimal(1),
    "m": Decimal("0.001"),
    "k": Decimal(1000),
    "M": Decimal(10) ** 6,
    "µ": Decimal("0.000001"),
    "u": Decimal("0.000001"),
    "n": Decimal("0.000000001"),
    "p": Decimal("0.000000000001"),
}
_TYPED = re.compile(r"^\s*([+\-−]?\d+(?:[.,]\d+)?)\s*([a-zA-ZµΩ%°]*)\s*$")


class QuantityError(ValueError):
    """What was typed is not a reading in the wanted unit; the message says what to type."""


def parse_reading(text: str, unit: str) -> Decimal:
    """The number in `unit` that `text` states: "5,06", "5.06 V" and "5060 mV" all give 5.06 for V.

    Raises QuantityError for text that is no number, or a unit that is not `unit` with a prefix.
    """
    match = _TYPED.match(text)
    if not match:
        raise QuantityError(f"Type a number in {unit}, for example 5.06.")
    try:
        number = Decimal(match[1].replace(",", ".").replace("−", "-"))
    except InvalidOperation as problem:  # pragma: no cover - the pattern admits only numbers
        raise QuantityError(f"Type a number in {unit}, for example 5.06.") from problem
    written = match[2]
    if not written or written == unit:
        return number
    prefix = written.removesuffix(unit) if written.endswith(unit) or written in _PREFIX else None
    if prefix is None or prefix not in _PREFIX:
        raise QuantityError(f"This step is read in {unit}; you typed {written}.")
    return number * _PREFIX[prefix]
