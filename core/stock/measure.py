"""What parts and consumables are counted in, and amounts of them as people type them."""

import re
from decimal import Decimal
from enum import StrEnum

from core.machine.quantities import Mark, QuantityError, read_number

MOST = Decimal(1_000_000)
_THOUSANDTH = Decimal("0.001")


class Measure(StrEnum):
    """What an amount is counted in."""

    PIECE = "piece"
    ML = "ml"
    GRAM = "g"
    METRE = "m"

    @property
    def label(self) -> str:
        return {"piece": "pieces", "ml": "ml", "g": "g", "m": "m"}[self.value]

    def words(self, amount: Decimal) -> str:
        """12, 250 ml, 1.2 m: pieces go without a word."""
        bare = format(amount.normalize(), "f") if amount else "0"
        return bare if self is Measure.PIECE else f"{bare} {self.value}"


# How many of the measure one of what was typed is; SI prefixes and the litre (BIPM, SI brochure, tables 7 and 8).
_UNITS: dict[Measure, dict[str, Decimal]] = {
    Measure.PIECE: {"pcs": Decimal(1), "pc": Decimal(1), "piece": Decimal(1), "pieces": Decimal(1), "×": Decimal(1)},
    Measure.ML: {"ml": Decimal(1), "cl": Decimal(10), "dl": Decimal(100), "l": Decimal(1000)},
    Measure.GRAM: {"g": Decimal(1), "mg": _THOUSANDTH, "kg": Decimal(1000)},
    Measure.METRE: {"m": Decimal(1), "cm": Decimal("0.01"), "mm": _THOUSANDTH},
}
_TYPED = re.compile(r"\s*([+\-−]?[\d.,\s]*\d)\s*([^\d\s.,]*)\s*")


def read_amount(text: str, measure: Measure) -> Decimal:
    """The amount in `measure` that was typed: "0,5 l", "500 ml" and "500" all give 500 for ml.

    Raises QuantityError, in words: for no number, another measure, a part of a piece, less than a thousandth, what is
    below 0 or above a million.
    """
    match = _TYPED.fullmatch(text)
    if not match:
        raise QuantityError(f"“{text.strip()}” is no amount. Type a number in {measure.label}.")
    unit = match[2].lower() or next(iter(_UNITS[measure]))
    if unit not in _UNITS[measure]:
        raise QuantityError(f"This is kept in {measure.label}; you typed {match[2]}.")
    amount = read_number(match[1], Mark.ASK if measure is Measure.PIECE else Mark.DECIMAL) * _UNITS[measure][unit]
    if amount < 0:
        raise QuantityError("An amount may not be below 0.")
    if amount > MOST:
        raise QuantityError("A million at most.")
    if measure is Measure.PIECE and amount != int(amount):
        raise QuantityError("Pieces are whole.")
    if amount != amount.quantize(_THOUSANDTH):
        raise QuantityError(f"To a thousandth of a {measure.value} at most.")
    return amount.quantize(_THOUSANDTH)
