"""What parts cost wherever they go: in drawers by moving weighted average, by themselves at their own cost.

IAS 2 paragraphs 23 to 27: specific cost for what is told apart, weighted average for what is interchangeable.
"""

from decimal import Decimal

from core.money import ZERO, to_cent


def issue_cost(held: Decimal | int, value: Decimal, wanted: Decimal | int, unpriced: Decimal | int = 0) -> Decimal:
    """The cost of `wanted` out of `held`, worth `value` in all: moving weighted average. `unpriced` of what is held
    cost nobody knows what yet: the rest goes first, and alone carries the value.

    Whoever takes the last that is priced takes what is left, so that nothing stays behind on an empty drawer. Raises
    ValueError when more is wanted than is held at a known cost, or nothing.
    """
    if wanted <= 0:
        raise ValueError("Issue more than nothing.")
    priced = held - unpriced
    if wanted > priced:
        raise ValueError(f"Only {priced} in the drawer at a known cost, {wanted} wanted.")
    return value if wanted == priced else to_cent(value * Decimal(wanted) / Decimal(priced))


def average_cost(held: Decimal, value: Decimal, unpriced: Decimal | int = 0) -> Decimal | None:
    """What one of `held` costs on average, unrounded; None where there is none of which that is known."""
    priced = held - unpriced
    return value / priced if priced > 0 else None


def leaving_cost(carried: Decimal, worth: Decimal, whole: Decimal, came_with: Decimal | None = None) -> Decimal:
    """What a part takes along when it leaves a machine that carries `carried` (base currency).

    What was fitted here leaves at the cost it `came_with`. Of any other it is its part by relative value: `worth` of
    the part out of `whole`, all that is in the machine with it, before it leaves. Nothing where the machine carries
    nothing. ValueError where a worth is below 0, the whole is not above 0, or the part is worth more than it.
    """
    if came_with is not None:
        return came_with
    if worth < 0 or whole <= 0:
        raise ValueError("What it is worth may not be below 0, and all that is in the machine is worth something.")
    if worth > whole:
        raise ValueError("It can’t be worth more than the machine with all that is in it.")
    if carried <= 0:
        return ZERO
    return carried if worth == whole else to_cent(carried * worth / whole)


def counted_cost(held: Decimal, value: Decimal, counted: Decimal, unpriced: Decimal | int = 0) -> Decimal:
    """What a count takes out of the books: the cost of what is not there, at the average; 0 where more was found.

    What is found is there at no cost of its own: the average falls. ValueError for a count below 0, or below what of it
    is `unpriced`.
    """
    if counted < 0:
        raise ValueError("A count may not be below 0.")
    return issue_cost(held, value, held - counted, unpriced) if counted < held else ZERO
