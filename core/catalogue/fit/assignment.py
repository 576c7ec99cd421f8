"""Which interrupt, DMA channel and addresses every card is set to, so that nothing clashes and fewest jumpers move."""

from collections.abc import Sequence
from dataclasses import dataclass

from ortools.sat.python import cp_model

from core import solving
from core.catalogue.fit.machine import Machine
from core.catalogue.fit.needs import MOST_CHOICES, Needs, Use, use_choices
from core.catalogue.fit.schema import block_of

THIS = "this part"


class Impossible(solving.NoAnswer):
    """However they are set, two of them clash."""


@dataclass(frozen=True)
class Placed:
    """A use of a card (`of` its name), and what it is set to."""

    of: str
    use: Use
    to: str

    @property
    def moved(self) -> bool:
        return self.to != self.use.now


def uses_of(machine: Machine, part: Needs | None = None, name: str = THIS) -> list[tuple[str, Use]]:
    """Everything that can be set: of the fitted cards, and of the part."""
    fitted = [(one.label, use) for one in machine.fitted for use in one.needs.uses or ()]
    found = [*fitted, *((name, use) for use in (part.uses if part else None) or ())]
    return [(of, use) for of, use in found if use.kind]


def clash(one: Use, at: str, other: Use, there: str) -> bool:
    """Whether two uses set so stand in each other's way."""
    if one.io is not None and other.io is not None:
        return block_of(at).meets(block_of(there))
    return one.kind == other.kind and at == there and not (one.shared and other.shared)


def fixed(machine: Machine, use: Use, at: str) -> bool:
    """Whether what is built in stands in the way."""
    for device in machine.offers.devices or ():
        if use.io is not None and any(block_of(at).meets(block) for block in device.io or ()):
            return True
        if use.irq is not None and str(device.irq) == at and not (use.shared and device.shared):
            return True
        if use.dma is not None and str(device.dma) == at:
            return True
    return False


def assign(machine: Machine, uses: Sequence[tuple[str, Use]], seconds: float = 2.0) -> list[Placed]:
    """Set all of them with fewest moved, proven (CP-SAT). What nobody knows the setting of counts as moved. Of sets
    with as few moved the one that moves the cards outside first (those that stand last), then the first choices. Raises
    Impossible, and solving.NotInTime."""
    model = cp_model.CpModel()
    picks = [
        {at: model.new_bool_var(f"{place}:{at}") for at in use_choices(use) if not fixed(machine, use, at)}
        for place, (_, use) in enumerate(uses)
    ]
    if not all(picks):
        raise Impossible("Something can only be set to what is built in.")
    for place, ((_, use), options) in enumerate(zip(uses, picks, strict=True)):
        model.add_exactly_one(options.values())
        for before in range(place):
            for at, here in options.items():
                for there, other in picks[before].items():
                    if clash(use, at, uses[before][1], there):
                        model.add_bool_or(here.Not(), other.Not())
    late = len(uses) * MOST_CHOICES
    stays = sum(
        options[use.now] * (late * len(uses) * 2 + (len(uses) - place) * MOST_CHOICES)
        for place, ((_, use), options) in enumerate(zip(uses, picks, strict=True))
        if use.now in options
    )
    later = sum(var * place for options in picks for place, var in enumerate(options.values()))
    model.maximize(stays - later)
    try:
        found = solving.solve(model, seconds, "set of jumpers")
    except solving.NoAnswer as problem:
        raise Impossible("However they are set, two of them clash.") from problem
    return [
        Placed(of, use, next(at for at, var in options.items() if found.value(var)))
        for (of, use), options in zip(uses, picks, strict=True)
    ]
