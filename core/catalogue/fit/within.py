"""A part put into a machine: what the machine then offers more, and what it then has of memory, speed and storage."""

from dataclasses import replace
from decimal import Decimal

from core.catalogue.fit.machine import Fitted, Machine
from core.catalogue.fit.needs import Needs
from core.catalogue.fit.offers import Connector, Offers
from core.catalogue.fit.rules.processors import mhz, settable

# What a part can bring for other parts to use, beside connectors, which are counted by kind.
_ADDED = ("slots", "buses", "ports")


def with_added(offers: Offers, name: str, needs: Needs) -> Offers:
    """What is offered once a part of this name is in. What is not known of the machine stays not known."""
    changes: dict[str, object] = {}
    for group in _ADDED:
        there, added = getattr(offers, group), getattr(needs, group)
        if there is not None and added:
            taken = {one.name.lower() for one in there}
            more = [replace(one, name=_other(one.name, name)) if one.name.lower() in taken else one for one in added]
            changes[group] = (*there, *more)
    if offers.connectors is not None and needs.connectors:
        changes["connectors"] = _counted(offers.connectors, needs.connectors)
    return replace(offers, **changes) if changes else offers  # type: ignore[arg-type]


def _other(name: str, part: str) -> str:
    return f"{name} of {part}"[:40]


def _counted(there: tuple[Connector, ...], more: tuple[Connector, ...]) -> tuple[Connector, ...]:
    """Connectors of a kind together; a kind that is not counted on one side is not counted."""
    found = {one.name.lower(): one for one in there}
    for one in more:
        before = found.get(one.name.lower())
        if before is None:
            found[one.name.lower()] = one
        else:
            counts = (before.count, one.count)
            both = None if None in counts else sum(count or 0 for count in counts)
            found[one.name.lower()] = replace(before, count=both)
    return tuple(found.values())


def put_in(machine: Machine, fitted: Fitted) -> Machine:
    """The machine with one more part in it, and what that brings."""
    offers = with_added(machine.offers, fitted.name, fitted.needs)
    return replace(machine, offers=offers, fitted=(*machine.fitted, fitted))


def memory_in(machine: Machine) -> int | None:
    """Bytes of memory in it; None where some of it is not known. Sockets with nothing written down may be filled,
    until somebody said that all that is in it is."""
    board = machine.board
    sizes = [board.soldered if board else None, *(module.size for _, module in machine.modules_in)]
    empty = machine.offers.modules and not machine.modules_in and not machine.whole
    return None if None in sizes or empty else sum(size for size in sizes if size is not None)


def display_in(machine: Machine) -> int | None:
    """Bytes of the largest display memory in it; None where none is known."""
    board = machine.board
    on_cards = [card.display for fitted in machine.fitted for card in fitted.needs.cards or ()]
    return max((size for size in (board.display if board else None, *on_cards) if size is not None), default=None)


def clock_in(machine: Machine) -> tuple[Decimal, Decimal] | None:
    """The bus clock it can run its processor at and what that makes, both MHz; None where that is not known. A
    processor that is to run at another clock than now is set to the fastest both can be set to."""
    socket, processor = machine.processor_in
    if socket is None or processor is None or processor.multiplier is None:
        return None
    clock = socket.bus_now
    if processor.bus is not None and clock not in processor.bus:
        clock = max(settable(socket, None, processor.bus), default=None)
    return None if clock is None else (clock, mhz(clock, processor.multiplier))


def disk_in(machine: Machine) -> int | None:
    """Bytes of the largest disk in it, 0 where it has none; None where that is not known. A drive for diskettes is
    none."""
    disks = [drive.size for _, drive in machine.drives_in if drive.reads is None and drive.writes is None]
    if None in disks or (not disks and not machine.whole):
        return None
    return max((size for size in disks if size is not None), default=0)
