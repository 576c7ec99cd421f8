"""Sharing a lot's landed cost over its lines."""

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from enum import StrEnum

from core.money import ZERO, allocate


class Basis(StrEnum):
    VALUE = "value"
    WEIGHT = "weight"
    COUNT = "count"


class ShareError(ValueError):
    """The lines do not say enough to share on this basis; `line` is the index of the one that lacks it."""

    def __init__(self, message: str, line: int | None = None) -> None:
        super().__init__(message)
        self.line = line


@dataclass(frozen=True)
class ShareLine:
    """One line: how many, the weight of one in kg, and what one is worth and costs to finish, in base currency."""

    quantity: int
    weight_kg: Decimal | None = None
    worth_low: Decimal = ZERO
    worth_likely: Decimal = ZERO
    worth_high: Decimal = ZERO
    finish_cost: Decimal = ZERO

    @property
    def expected_worth(self) -> Decimal:
        """Mean of the PERT distribution through low, likely and high: (low + 4 likely + high) / 6."""
        return (self.worth_low + 4 * self.worth_likely + self.worth_high) / 6

    @property
    def net_value(self) -> Decimal:
        """Expected net realisable value of the whole line, never below 0 (IAS 2 paragraph 6)."""
        return max(ZERO, self.expected_worth - self.finish_cost) * self.quantity


@dataclass(frozen=True)
class Sharing:
    """The shares, one a line, in order; `note` says when another basis than the one asked for had to serve."""

    shares: tuple[Decimal, ...]
    weights: tuple[Decimal, ...]
    basis: Basis
    note: str = ""


def share_cost(total: Decimal, lines: Sequence[ShareLine], basis: Basis) -> Sharing:
    """Share `total` (base currency, whole cents) over `lines`, exactly.

    By value: relative expected net realisable value. By weight: kg of the whole line. By count: pieces.
    All weights 0: shared by count, and `note` says so. Raises ShareError when there are no lines, or a
    weight is missing on a sharing by weight.
    """
    if not lines:
        raise ShareError("The lot has no lines to share over. Add a line first.")
    weights = _weights(lines, basis)
    if sum(weights) == 0:
        counts = _weights(lines, Basis.COUNT)
        return Sharing(
            allocate(total, counts),
            counts,
            Basis.COUNT,
            f"No line has a {basis.value}, so the cost was shared by count.",
        )
    return Sharing(allocate(total, weights), weights, basis)


def _weights(lines: Sequence[ShareLine], basis: Basis) -> tuple[Decimal, ...]:
    if basis is Basis.VALUE:
        return tuple(line.net_value for line in lines)
    if basis is Basis.COUNT:
        return tuple(Decimal(line.quantity) for line in lines)
    weights = []
    for index, line in enumerate(lines):
        if line.weight_kg is None:
            raise ShareError(f"Line {index + 1} has no weight. Weigh it, or share on another basis.", index)
        weights.append(line.weight_kg * line.quantity)
    return tuple(weights)
