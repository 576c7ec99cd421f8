"""Steps whose answer is worked out from what is typed: a part by its marking, a battery by its cells, a discharge."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from decimal import Decimal

from core.bench.checks import CheckKind
from core.bench.electrics import Cell, at_least, discharge_seconds, make_up
from core.bench.markings import Suspicion, engineering, read_part, screen
from core.bench.verdict import Verdict
from core.machine.quantities import parse_reading, parse_scaled


@dataclass(frozen=True)
class Calculated:
    """What came of it: a verdict as on a reading, and the sum in words."""

    verdict: Verdict
    words: str


@dataclass(frozen=True)
class Calculation:
    """`asks` says what to type, with an example; `act` works it out (ValueError, in words, when it can't be read)."""

    asks: str
    example: str
    act: Callable[[str], Calculated]


def _pieces(text: str, at_least: int, at_most: int, asks: str) -> list[str]:
    pieces = [piece.strip() for piece in text.split(";") if piece.strip()]
    if not at_least <= len(pieces) <= at_most:
        raise ValueError(f"Type {asks}, with semicolons between.")
    return pieces


def _part(text: str) -> Calculated:
    """In circuit a reading only screens: there it can clear a part, and never convict it."""
    marking, *readings = _pieces(text, 2, 3, _PART)
    marked = read_part(marking)
    values = [parse_scaled(reading, marked.unit) for reading in readings]
    found = screen(marked, values[0], values[1] if len(values) > 1 else None)
    read = engineering(values[-1], marked.unit) if values[-1] > 0 else f"0 {marked.unit}"
    verdict, words = {
        Suspicion.GOOD: (Verdict.INSIDE, "within its tolerance"),
        Suspicion.MEASURE_OUT: (Verdict.TOO_CLOSE, "in circuit that says nothing yet: lift one leg and measure again"),
        Suspicion.BAD: (Verdict.OUTSIDE, "out of tolerance: the part is bad"),
    }[found]
    return Calculated(verdict, f"Marked {marked.words}, reads {read}: {words}.")


def _cells(text: str) -> Calculated:
    counted, wanted, charges = _pieces(text, 3, 3, _CELLS)
    count, _, kind = counted.partition(" ")
    by_name = {cell.label.lower(): cell for cell in Cell} | {cell.value: cell for cell in Cell}
    if not count.isdecimal() or len(count) > 2 or kind.strip().lower() not in by_name:
        raise ValueError(f"How many cells, of which kind? Kinds are {', '.join(cell.label for cell in Cell)}.")
    if charges.lower() not in {"charger", "no charger"}:
        raise ValueError("Does the board charge it? Type “charger” or “no charger”.")
    volts = float(parse_reading(wanted, "V"))
    made = make_up(by_name[kind.strip().lower()], int(count), volts, charges.lower() == "charger")
    if made.refused:
        return Calculated(Verdict.OUTSIDE, made.refused)
    return Calculated(Verdict.INSIDE, f"{made.volts:.1f} V. {made.remark}".strip())


def _bleed(text: str) -> Calculated:
    farads, volts, ohms = _pieces(text, 3, 3, _BLEED)
    parts = (parse_scaled(farads, "F"), parse_reading(volts, "V"), parse_scaled(ohms, "Ω"))
    if max(parts) >= Decimal(10) ** 9:
        raise ValueError("No supply has that.")
    seconds = discharge_seconds(*(float(part) for part in parts))
    return Calculated(Verdict.INSIDE, f"Wait at least {at_least(seconds)}, then measure: a bleeder can be open.")


_PART = "marking; reading in circuit; reading out of circuit when there is one"
_CELLS = "cells; volts the board wants; charger or no charger"
_BLEED = "capacitance; volts; bleeder"
CALCULATIONS: Mapping[CheckKind, Calculation] = {
    CheckKind.PART: Calculation(_PART, "104K; 130n; 101n", _part),
    CheckKind.CELLS: Calculation(_CELLS, "3 NiMH; 3.6 V; charger", _cells),
    CheckKind.BLEED: Calculation(_BLEED, "470u; 325 V; 100k", _bleed),
}
