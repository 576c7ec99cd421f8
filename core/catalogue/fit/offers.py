"""What a machine offers, as typed records. None is not known everywhere; a group that is () has nothing of its kind."""

from dataclasses import dataclass
from decimal import Decimal

from core.catalogue.fit import schema as s
from core.catalogue.fit.kinds import CONNECTOR_RAILS, BaySize, Bus, Feed, Interface, Memory, Signal, Sync
from core.catalogue.fit.schema import Block, FitError, Span, Version


@dataclass(frozen=True)
class Slot:
    """Room for a card. `shares`: the slot whose card then has no room; `follows`: its clock is the processor's bus."""

    name: str
    bus: Bus | None = s.choice(Bus, "which bus it is")
    called: str | None = s.text("what its maker calls the bus", "disk card")
    clock: Decimal | None = s.amount("its clock, MHz", "MHz", "0.1", "1000")
    length: Decimal | None = s.amount("how long a card may be, mm", "mm", "1", "1000", "340")
    height: Decimal | None = s.amount("how high a card may be, mm", "mm", "1", "400", "107")
    generation: int | None = s.whole("which generation", 1, 6)
    lanes: int | None = s.whole("how many lanes", 1, 32, "4")
    open_end: bool | None = s.yes("whether its end is open")
    shares: str | None = s.text("which slot shares its opening", "4")
    follows: bool | None = s.yes("whether it runs at the processor’s bus clock")


@dataclass(frozen=True)
class Socket:
    """Where a processor or another chip sits."""

    name: str
    kind: str | None = s.text("which socket it is", "168-pin")
    volts: Span | None = s.span("which core volts it gives", "V", "2.0 to 3.3")
    bus: tuple[Decimal, ...] | None = s.amounts("which bus clocks it can be set to, MHz", "MHz", "33, 40, 50")
    bus_now: Decimal | None = s.amount("at which bus clock it runs now, MHz", "MHz", "1", "1000", "66.67")
    multipliers: tuple[Decimal, ...] | None = s.amounts("which multipliers it can be set to", "", "1, 2, 3")
    watts: Decimal | None = s.amount("how many watts it carries away", "W", "0", "500", "12")
    clear: Decimal | None = s.amount("how much room is above it, mm", "mm", "0", "400", "22")


@dataclass(frozen=True)
class Firmware:
    """A chip of it, with its version and what it knows."""

    name: str
    version: Version | None = s.version("which version it is")
    knows: tuple[str, ...] | None = s.names("which processors it knows", "step B, step C")
    largest_disk: int | None = s.size("how large a disk it sees", "504 MiB")


@dataclass(frozen=True)
class Board:
    """Memory on the board, and what all of it must keep to."""

    name: str
    soldered: int | None = s.size("how much memory is soldered in", "1 MiB")
    most: int | None = s.size("how much memory it takes in all", "16 MiB")
    group: int | None = s.whole("how many modules go in together", 1, 8)
    matched: bool | None = s.yes("whether a group must be of the same make")
    volts: Decimal | None = s.amount("volts of its modules", "V", "1", "12", "5")
    slowest: Decimal | None = s.amount("how slow a module may be, ns", "ns", "1", "500", "70")
    parity: bool | None = s.yes("whether it wants parity")
    display: int | None = s.size("how much display memory it has", "256 KiB")
    display_most: int | None = s.size("how much display memory it takes", "1 MiB")


@dataclass(frozen=True)
class Module:
    """A socket for a memory module. `bank` are those that are filled together, in the order of `turn`."""

    name: str
    kind: Memory | None = s.choice(Memory, "which modules it takes")
    bank: str | None = s.text("which bank it is in", "A")
    turn: int | None = s.whole("when its bank is filled", 1, 32, "1")
    largest: int | None = s.size("how large a module it takes", "4 MiB")
    clear: Decimal | None = s.amount("how high a module may be, mm", "mm", "1", "200", "30")


@dataclass(frozen=True)
class DriveBus:
    """Where drives are connected. `units` are ids or positions that can be had; `ends`: both ends want terminating."""

    name: str
    interface: Interface | None = s.choice(Interface, "which interface it is")
    called: str | None = s.text("what its maker calls it", "disk port")
    plug: str | None = s.text("which plug its cable has", "40-way")
    units: int | None = s.whole("how many drives it takes", 0, 15)
    bootable: bool | None = s.yes("whether it starts from it")
    largest: int | None = s.size("how large a disk it sees", "504 MiB")
    ends: bool | None = s.yes("whether its ends are terminated")
    rate: Decimal | None = s.amount("how much it carries at most, MB/s", "MB/s", "0", "5000", "3.3")


@dataclass(frozen=True)
class Bay:
    name: str
    size: BaySize | None = s.choice(BaySize, "which drives it holds")
    height: Decimal | None = s.amount("how high a drive may be, mm", "mm", "1", "200", "41.3")
    length: Decimal | None = s.amount("how deep a drive may be, mm", "mm", "1", "500", "203")
    rails: bool | None = s.yes("whether its rails are there")


def rail_volts(name: str, at: str = "rails") -> Decimal:
    """The volts of a rail by its name: +5, -12. FitError for one that is called otherwise."""
    try:
        volts = Decimal(name.removeprefix("+").replace("−", "-").removesuffix("V").strip())
    except ArithmeticError as problem:
        raise FitError(f"“{name}”: a rail is called by its volts: +5, -12", at) from problem
    if not volts.is_finite():
        raise FitError(f"“{name}”: a rail is called by its volts: +5, -12", at)
    return volts


@dataclass(frozen=True)
class Rail:
    """An output of the supply, by its volts: +5, -12."""

    name: str
    amps: Decimal | None = s.amount("how much it gives, A", "A", "0", "100", "8")
    least: Decimal | None = s.amount("how much it must be loaded with, A", "A", "0", "100", "0.5")
    board: Decimal | None = s.amount("what the board draws of it, A", "A", "0", "100", "0.9")

    @property
    def volts(self) -> Decimal:
        return rail_volts(self.name)


@dataclass(frozen=True)
class Supply:
    """The supply as a whole."""

    name: str
    watts: Decimal | None = s.amount("how many watts it gives in all", "W", "1", "5000", "200")
    feed: Feed | None = s.choice(Feed, "whether it is fed with AC or DC")
    volts: Span | None = s.span("which volts it is fed with", "V", "220 to 240")


@dataclass(frozen=True)
class Connector:
    """A connector of the supply, by its name: drive, small drive, board."""

    name: str
    count: int | None = s.whole("how many of it there are", 0, 40)


@dataclass(frozen=True)
class Port:
    """What something outside is plugged into."""

    name: str
    protocol: str | None = s.text("what it speaks", "keyboard XT")
    plug: str | None = s.text("which plug it takes", "5-pin DIN")


@dataclass(frozen=True)
class Picture:
    """A picture it puts out."""

    name: str
    plug: str | None = s.text("which plug it has", "9-pin D")
    signal: Signal | None = s.choice(Signal, "which signal it is")
    sync: Sync | None = s.choice(Sync, "how it is synchronised")
    line: Decimal | None = s.amount("its line rate, kHz", "kHz", "1", "200", "15.734")
    field: Decimal | None = s.amount("its field rate, Hz", "Hz", "1", "200", "59.94")

    @property
    def end(self) -> str | None:
        """Its plug and its signal, as converters call them."""
        return f"{self.plug}/{self.signal}" if self.plug and self.signal else None


@dataclass(frozen=True)
class Device:
    """What is built in and takes an interrupt, a DMA channel or addresses."""

    name: str
    irq: int | None = s.whole("which interrupt it takes", 0, 15, "6")
    dma: int | None = s.whole("which DMA channel it takes", 0, 7)
    io: tuple[Block, ...] | None = s.blocks("which addresses it takes", "3F0-3F7")
    shared: bool | None = s.yes("whether it shares its interrupt")


@dataclass(frozen=True)
class Removal:
    """Something that has to come out before something goes in; by its name, and where it sits."""

    name: str
    sits: str | None = s.text("where it sits", "cache slot")
    into: str | None = s.text("before what goes in: card, processor, memory module, drive", "processor")
    stays: bool | None = s.yes("whether it can’t be taken out")


@dataclass(frozen=True)
class Exchange:
    """Disks of other machines of its kind: what it reads and writes as they come."""

    name: str
    formats: tuple[str, ...] | None = s.names("which disks its system starts from or exchanges", "360K, 720K")


@dataclass(frozen=True)
class Offers:
    """What a machine of a model offers."""

    slots: tuple[Slot, ...] | None = s.group(Slot, "slots")
    sockets: tuple[Socket, ...] | None = s.group(Socket, "sockets")
    firmware: tuple[Firmware, ...] | None = s.group(Firmware, "firmware")
    board: tuple[Board, ...] | None = s.group(Board, "memory on the board")
    modules: tuple[Module, ...] | None = s.group(Module, "memory sockets")
    buses: tuple[DriveBus, ...] | None = s.group(DriveBus, "drive buses")
    bays: tuple[Bay, ...] | None = s.group(Bay, "drive bays")
    rails: tuple[Rail, ...] | None = s.group(Rail, "rails")
    supply: tuple[Supply, ...] | None = s.group(Supply, "supply")
    connectors: tuple[Connector, ...] | None = s.group(Connector, "connectors of the supply")
    ports: tuple[Port, ...] | None = s.group(Port, "ports")
    pictures: tuple[Picture, ...] | None = s.group(Picture, "picture")
    devices: tuple[Device, ...] | None = s.group(Device, "built in")
    removals: tuple[Removal, ...] | None = s.group(Removal, "must come out first")
    disks: tuple[Exchange, ...] | None = s.group(Exchange, "disks")


def checked_offers(offers: Offers) -> Offers:
    """The same when it does not contradict itself. FitError names the group and what stands against what."""
    slots = {slot.name for slot in offers.slots or ()}
    for slot in offers.slots or ():
        if slot.shares is not None and (slot.shares not in slots or slot.shares == slot.name):
            raise FitError(f"Slot {slot.name} shares its opening with {slot.shares}, which is no other slot", "slots")
    for rail in offers.rails or ():
        if rail.least is not None and rail.amps is not None and rail.least > rail.amps:
            raise FitError(f"{rail.name}: it must be loaded with more than it gives", "rails")
    volts = [rail.volts for rail in offers.rails or ()]
    if len(set(volts)) < len(volts):
        raise FitError("The same rail stands there twice", "rails")
    _carried(offers, volts)
    for at in ("board", "supply"):
        if len(getattr(offers, at) or ()) > 1:
            raise FitError("One line: there is one of it", at)
    board = next(iter(offers.board or ()), None)
    if board and board.group and offers.modules:
        banks: dict[str, int] = {}
        for module in offers.modules:
            if module.bank:
                banks[module.bank] = banks.get(module.bank, 0) + 1
        if odd := [bank for bank, count in banks.items() if count % board.group]:
            raise FitError(f"Bank {odd[0]} can’t be filled by {board.group}: count its sockets", "modules")
    if board and board.soldered is not None and board.most is not None and board.soldered > board.most:
        raise FitError("More is soldered in than it takes in all", "board")
    for socket in offers.sockets or ():
        if socket.bus_now is not None and socket.bus and socket.bus_now not in socket.bus:
            raise FitError(f"{socket.name}: it runs at a bus clock it can’t be set to", "sockets")
    _no_clash(offers.devices or ())
    return offers


def _carried(offers: Offers, volts: list[Decimal]) -> None:
    """A connector of the usual kind carries rails: each of them has to be there, once the rails are said."""
    for one in offers.connectors or ():
        lacking = [v for v in CONNECTOR_RAILS.get(one.name.lower(), ()) if Decimal(v) not in volts]
        if lacking and one.count and offers.rails is not None:
            carries = " and ".join(f"{Decimal(v):+f}" for v in sorted(lacking, key=Decimal))
            raise FitError(f"A {one.name} connector carries {carries} V: there is no such rail", "connectors")


def _no_clash(devices: tuple[Device, ...]) -> None:
    for place, one in enumerate(devices):
        for other in devices[:place]:
            both = f"{other.name} and {one.name}"
            if one.irq is not None and one.irq == other.irq and not (one.shared and other.shared):
                raise FitError(f"{both} both take interrupt {one.irq}", "devices")
            if one.dma is not None and one.dma == other.dma:
                raise FitError(f"{both} both take DMA {one.dma}", "devices")
            if any(a.meets(b) for a in one.io or () for b in other.io or ()):
                raise FitError(f"The addresses of {both} overlap", "devices")
