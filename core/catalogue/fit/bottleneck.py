"""What limits a machine for a use, with the numbers compared."""

from dataclasses import dataclass
from decimal import Decimal

from core.catalogue.fit.kinds import bus_rate
from core.catalogue.fit.machine import Machine
from core.catalogue.fit.schema import plain, write_size
from core.catalogue.fit.within import clock_in, display_in, memory_in


@dataclass(frozen=True)
class Purpose:
    """What a use asks for: MHz of a processor of its time, memory and display memory in bytes, MB/s of its drive."""

    name: str
    processor: Decimal
    memory: int
    drive: Decimal
    display: int


# Common practice, no source: what such work was comfortable with.
PURPOSES = tuple(
    Purpose(name, Decimal(processor), memory * 2**20, Decimal(drive), display * 1024)
    for name, processor, memory, drive, display in (
        ("period work", 12, 2, "0.5", 64),
        ("period games", 33, 4, "1", 512),
        ("daily tinkering", 25, 8, "1.5", 512),
        ("network and long compiles", 66, 16, "3", 512),
    )
)


@dataclass(frozen=True)
class Limit:
    """One thing compared: what it has of what is wanted; `share` is their ratio, None where it is not known."""

    what: str
    has: str
    wants: str
    share: float | None
    words: str = ""


def compared(machine: Machine, purpose: Purpose) -> list[Limit]:
    """Everything that can limit it, the tightest first, what is not known last."""
    found = [_processor(machine, purpose), _memory(machine, purpose), _drive(machine, purpose)]
    display = display_in(machine)
    found.append(
        Limit(
            "display memory",
            write_size(display) if display is not None else "not known",
            write_size(purpose.display),
            display / purpose.display if display is not None else None,
        )
    )
    return sorted(found, key=lambda limit: (limit.share is None, limit.share or 0))


def sentence(limits: list[Limit]) -> str:
    """What limits it, in a sentence. What is not known may limit it more, and is said."""
    known = [limit for limit in limits if limit.share is not None]
    unknown = [limit.what for limit in limits if limit.share is None]
    more = f" Not known: {', '.join(unknown)}." if unknown else ""
    if not known:
        return f"Nothing of it is known.{more}"
    first = known[0]
    if first.share is not None and first.share >= 1:
        return f"Nothing that is known limits it.{more}"
    return f"The {first.what}: {first.has} of {first.wants}{'; ' + first.words if first.words else ''}.{more}"


def _processor(machine: Machine, purpose: Purpose) -> Limit:
    wants, runs = f"{plain(purpose.processor)} MHz", clock_in(machine)
    _, processor = machine.processor_in
    if runs is None or processor is None:
        return Limit("processor", "not known", wants, None)
    clock, speed = runs
    words = ""
    if processor.most and speed < processor.most:
        words = f"the bus of {plain(clock)} MHz holds it, it could run at {plain(processor.most)}"
    return Limit("processor", f"{plain(speed)} MHz", wants, float(speed / purpose.processor), words)


def _memory(machine: Machine, purpose: Purpose) -> Limit:
    board, total = machine.board, memory_in(machine)
    wants = write_size(purpose.memory)
    if total is None:
        return Limit("memory", "not known", wants, None)
    words = ""
    if board and board.most is not None and board.most < purpose.memory:
        words = f"it takes {write_size(board.most)} at most"
    return Limit("memory", write_size(total), wants, total / purpose.memory, words)


def _drive(machine: Machine, purpose: Purpose) -> Limit:
    """The fastest drive, held by its bus: the port's own rate, or the slot its controller sits in."""
    wants = f"{plain(purpose.drive)} MB/s"
    rates = []
    for fitted, drive in machine.drives_in:
        bus = next(
            (
                one
                for one in machine.offers.buses or ()
                if one.name.lower() == fitted.at.lower() or one.interface is drive.interface
            ),
            None,
        )
        if drive.rate is None:
            continue
        held = bus.rate if bus else None
        if held is not None and held < drive.rate:
            rates.append((held, f"a faster drive adds nothing: the bus gives {plain(held)} MB/s"))
        else:
            rates.append((drive.rate, ""))
    if not rates:
        return Limit("drive", "not known", wants, None)
    rate, words = max(rates)
    return Limit("drive", f"{plain(rate)} MB/s", wants, float(rate / purpose.drive), words)


def slot_rates(machine: Machine) -> list[tuple[str, float | None]]:
    """What each slot carries at most, in MB/s; None where its clock is not known."""
    return [
        (
            slot.name,
            bus_rate(slot.bus, float(slot.clock) if slot.clock else None, slot.lanes, slot.generation)
            if slot.bus
            else None,
        )
        for slot in machine.offers.slots or ()
    ]
