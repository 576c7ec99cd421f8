"""Sharing a lot's landed cost over its lines, charge by charge."""

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
    """The lines do not say enough to share on this basis; `line` is the index of the one that is wrong."""

    def __init__(self, message: str, line: int | None = None) -> None:
        super().__init__(message)
        self.line = line


@dataclass(frozen=True)
class ShareLine:
    """One line: how many, the weight of one in kg, and what one is worth and costs to finish, in base currency.

    Weight and worth are None where nobody said them; the worth is said low, likely and high, or not at all. `fixed` is
    what the whole line shall carry by hand. `fast` is what pieces of it that left already keep, one amount a charge;
    `quantity` counts the others and may then be 0.
    """

    quantity: int
    weight_kg: Decimal | None = None
    worth_low: Decimal | None = None
    worth_likely: Decimal | None = None
    worth_high: Decimal | None = None
    finish_cost: Decimal = ZERO
    fixed: Decimal | None = None
    fast: tuple[Decimal, ...] = ()

    @property
    def expected_worth(self) -> Decimal | None:
        """Mean of the PERT distribution through low, likely and high: (low + 4 likely + high) / 6."""
        if self.worth_low is None or self.worth_likely is None or self.worth_high is None:
            return None
        return (self.worth_low + 4 * self.worth_likely + self.worth_high) / 6

    @property
    def net_value(self) -> Decimal | None:
        """Expected net realisable value of the whole line, never below 0 (IAS 2 paragraph 6)."""
        worth = self.expected_worth
        return None if worth is None else max(ZERO, worth - self.finish_cost) * self.quantity


@dataclass(frozen=True)
class ToShare:
    """One charge in base currency, whole cents, and the basis it is shared on."""

    amount: Decimal
    basis: Basis
    label: str = "cost"


@dataclass(frozen=True)
class Sharing:
    """`table` has a row a line and a column a charge, adding up both ways; `notes` say how it was done, `instead` those
    of them that say what else had to serve for the basis."""

    table: tuple[tuple[Decimal, ...], ...]
    notes: tuple[str, ...] = ()
    instead: tuple[str, ...] = ()

    @property
    def shares(self) -> tuple[Decimal, ...]:
        return tuple(sum(row, ZERO) for row in self.table)


def share_charges(charges: Sequence[ToShare], lines: Sequence[ShareLine]) -> Sharing:
    """Share every charge over the lines on its own basis, exactly: columns sum to the charges.

    First stands what pieces that left keep, then what was fixed by hand, then the rest goes by weight:
    by value, relative expected net realisable value; by weight, kg of the whole line; by count, pieces.
    All weights 0, or no worth said of any line: by count, and a note says so. Linear in lines times charges. Raises
    ShareError when there is nothing to share over, a weight is missing, only some lines have a worth, or the fixed
    amounts don't fit.
    """
    open_lines = [i for i, line in enumerate(lines) if line.quantity > 0]
    if not open_lines:
        raise ShareError("The lot has no lines to share over. Add a line first.")
    table = [list(line.fast or (ZERO,) * len(charges)) for line in lines]
    left = [charge.amount - sum((row[c] for row in table), ZERO) for c, charge in enumerate(charges)]
    by_hand = [i for i in open_lines if lines[i].fixed is not None]
    for index in by_hand:
        _give_by_hand(index, lines[index], table[index], left)
    rest = [i for i in open_lines if lines[i].fixed is None]
    if not rest:
        if any(left):
            raise ShareError(f"{sum(left, ZERO)} is left over: the amounts by hand must come to the whole cost.")
        return Sharing(tuple(map(tuple, table)), _by_hand_note(by_hand))
    instead: dict[str, None] = {}
    used = {charge.basis for charge, amount in zip(charges, left, strict=True) if amount}
    weights = {basis: _weights(lines, rest, basis) for basis in used}
    for column, (charge, amount) in enumerate(zip(charges, left, strict=True)):
        if not amount:
            continue
        weighing = weights[charge.basis]
        if not any(weighing):
            weighing = _weights(lines, rest, Basis.COUNT)
            instead[f"No line has a {charge.basis.value}, so the {charge.label} was shared by count."] = None
        for index, share in zip(rest, allocate(amount, weighing), strict=True):
            table[index][column] += share
    return Sharing(tuple(map(tuple, table)), (*_by_hand_note(by_hand), *instead), tuple(instead))


def share_cost(total: Decimal, lines: Sequence[ShareLine], basis: Basis) -> Sharing:
    """Share one amount; see share_charges."""
    return share_charges([ToShare(total, basis)], lines)


def weights_of(lines: Sequence[ShareLine], basis: Basis) -> tuple[Decimal, ...]:
    """What each line weighs on a basis; 0 where that is not known."""
    if basis is Basis.WEIGHT:
        return tuple((line.weight_kg or ZERO) * line.quantity for line in lines)
    return tuple((line.net_value or ZERO) if basis is Basis.VALUE else Decimal(line.quantity) for line in lines)


def _weights(lines: Sequence[ShareLine], rest: Sequence[int], basis: Basis) -> tuple[Decimal, ...]:
    if basis is Basis.WEIGHT:
        for index in rest:
            if lines[index].weight_kg is None:
                raise ShareError(f"Line {index + 1} has no weight. Weigh it, or share on another basis.", index)
    unsaid = [index for index in rest if lines[index].net_value is None]
    if basis is Basis.VALUE and 0 < len(unsaid) < len(rest):
        raise ShareError(f"Line {unsaid[0] + 1} has no worth. Say it, or share on another basis.", unsaid[0])
    return weights_of([lines[index] for index in rest], basis)


def _give_by_hand(index: int, line: ShareLine, row: list[Decimal], left: list[Decimal]) -> None:
    """Fill one row up to its fixed amount from what is left of each charge, in proportion to that."""
    wanted = (line.fixed or ZERO) - sum(row, ZERO)
    if wanted < 0:
        raise ShareError(f"Line {index + 1} carries {sum(row, ZERO)} already with what left; it can’t be less.", index)
    there = [max(ZERO, amount) for amount in left]
    if wanted > sum(there, ZERO):
        raise ShareError(f"Line {index + 1}: only {sum(there, ZERO)} is left for it.", index)
    if wanted:
        for column, share in enumerate(allocate(wanted, there)):
            row[column] += share
            left[column] -= share


def _by_hand_note(by_hand: Sequence[int]) -> tuple[str, ...]:
    if not by_hand:
        return ()
    return (f"{len(by_hand)} {'line' if len(by_hand) == 1 else 'lines'} by hand, the rest shared.",)
