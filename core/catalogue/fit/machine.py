"""A machine as the rules see it: what it offers, what is in it, and what became of it."""

from collections.abc import Iterator
from dataclasses import dataclass, field
from datetime import date
from decimal import Decimal
from functools import cached_property

from core.catalogue.fit.answers import Ask, Side
from core.catalogue.fit.needs import Drive, MemoryModule, Needs, Processor
from core.catalogue.fit.offers import Board, Offers, Slot, Socket, Supply
from core.catalogue.fit.paths import NO_WAYS, Ways
from core.machine.approach import Approach


@dataclass(frozen=True)
class Fitted:
    """A part in the machine: what it is (Needs() when nobody said), and in which slot, socket or bay it sits.
    `several`: others in it are called the same."""

    name: str
    needs: Needs
    at: str = ""
    several: bool = False

    @property
    def label(self) -> str:
        """What it is called among those that are in the machine."""
        return f"{self.name} in {self.at}" if self.several and self.at else self.name


@dataclass(frozen=True)
class Tried:
    """Somebody tried this part in such a machine: evidence, with who and when, never silently a fact. `region`: mains
    and picture standard where it was tried."""

    runs: bool
    version: str
    who: str
    on: date
    region: str = ""
    words: str = ""


@dataclass(frozen=True)
class Machine:
    """`whole`: all that is in it is among `fitted`, None while nobody said so. `stretched`: sockets in which a board
    with thicker pins has sat; `ways`: the converters one has or can get."""

    offers: Offers
    fitted: tuple[Fitted, ...] = ()
    whole: bool | None = None
    approach: Approach | None = None
    stretched: frozenset[str] = frozenset()
    tried: tuple[Tried, ...] = ()
    region: str = ""
    ways: Ways = field(default=NO_WAYS, compare=False)

    @cached_property
    def at(self) -> dict[str, Fitted]:
        """What sits where, by the place in small letters."""
        return {fitted.at.lower(): fitted for fitted in self.fitted if fitted.at}

    def in_place(self, name: str) -> Fitted | None:
        return self.at.get(name.lower())

    @cached_property
    def free_slots(self) -> list[Slot]:
        return [slot for slot in self.offers.slots or () if self.in_place(slot.name) is None]

    @cached_property
    def board(self) -> Board | None:
        return next(iter(self.offers.board or ()), None)

    @cached_property
    def supply(self) -> Supply | None:
        return next(iter(self.offers.supply or ()), None)

    @cached_property
    def modules_in(self) -> list[tuple[Fitted, MemoryModule]]:
        return [(fitted, module) for fitted in self.fitted for module in fitted.needs.modules or ()]

    @cached_property
    def drives_in(self) -> list[tuple[Fitted, Drive]]:
        return [(fitted, drive) for fitted in self.fitted for drive in fitted.needs.drives or ()]

    @cached_property
    def processor_in(self) -> tuple[Socket | None, Processor | None]:
        """The socket of the processor and what is in it; None for what nobody said."""
        sockets = self.offers.sockets or ()
        for fitted in self.fitted:
            for processor in fitted.needs.processors or ():
                socket = next((one for one in sockets if one.name.lower() == fitted.at.lower()), None)
                return socket or next(iter(sockets), None), processor
        return next(iter(sockets), None), None

    @cached_property
    def loads(self) -> "dict[Decimal, Load]":
        """What is drawn of each rail now."""
        found: dict[Decimal, Load] = {}
        for rail in self.offers.rails or ():
            load = found.setdefault(rail.volts, Load())
            if rail.board is None:
                load.asks.append(
                    Ask(Side.MACHINE, "rails", rail.name, "board", f"what the board draws of {rail.name} V")
                )
            else:
                load.running += rail.board
        for fitted in self.fitted:
            if fitted.needs.draws is None:
                for load in found.values():
                    load.asks.append(Ask(Side.FITTED, "draws", "", "", f"what {fitted.name} draws", fitted.name))
                continue
            for volts, draw in ((draw.volts, draw) for draw in fitted.needs.draws):
                load = found.setdefault(volts, Load())
                if draw.amps is None:
                    what = f"what {fitted.name} draws of {draw.name} V"
                    load.asks.append(Ask(Side.FITTED, "draws", draw.name, "amps", what, fitted.name))
                else:
                    load.running += draw.amps
                    load.more_at_start += draw.more_at_start or Decimal(0)
        return found

    def taken(self, kind: str) -> Iterator[tuple[str, str, bool]]:
        """Interrupts or DMA channels that are taken: the number as typed, by what, and whether it shares it."""
        for device in self.offers.devices or ():
            number = getattr(device, kind)
            if number is not None:
                yield str(number), device.name, bool(device.shared)
        for fitted in self.fitted:
            for use in fitted.needs.uses or ():
                if getattr(use, kind) is not None and use.now is not None:
                    yield use.now, fitted.label, bool(use.shared)


@dataclass
class Load:
    """Of one rail: amperes running, and so many more at the start; `asks` what of it nobody knows."""

    running: Decimal = Decimal(0)
    more_at_start: Decimal = Decimal(0)
    asks: list[Ask] = field(default_factory=list)
