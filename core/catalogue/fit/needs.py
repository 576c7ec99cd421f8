"""What a part is and needs, as typed records. None is not known; a group that is () has nothing of its kind."""

from dataclasses import dataclass
from decimal import Decimal

from core.catalogue.fit import schema as s
from core.catalogue.fit.kinds import BaySize, Bus, Feed, Interface, Memory, Origin
from core.catalogue.fit.offers import Connector, DriveBus, Port, Slot, rail_volts
from core.catalogue.fit.schema import Block, FitError, Span, Version


@dataclass(frozen=True)
class Card:
    """A card. `fastest`: the bus clock it runs at at most. `wide`: it covers the opening beside it as well."""

    name: str
    bus: Bus | None = s.choice(Bus, "which bus it is for")
    called: str | None = s.text("what its maker calls the bus", "disk card")
    length: Decimal | None = s.amount("how long it is, mm", "mm", "1", "1000", "162")
    height: Decimal | None = s.amount("how high it is, mm", "mm", "1", "400", "99")
    fastest: Decimal | None = s.amount("the fastest bus clock it runs at, MHz", "MHz", "0.1", "1000")
    generation: int | None = s.whole("which generation it needs", 1, 6)
    lanes: int | None = s.whole("how many lanes it has", 1, 32)
    wide: bool | None = s.yes("whether it covers the next opening too")
    display: int | None = s.size("how much display memory is on it", "512 KiB")


@dataclass(frozen=True)
class MemoryModule:
    name: str
    kind: Memory | None = s.choice(Memory, "which module it is")
    size: int | None = s.size("how large it is", "4 MiB")
    speed: Decimal | None = s.amount("how fast it is, ns", "ns", "1", "500", "70")
    parity: bool | None = s.yes("whether it has parity")
    volts: Decimal | None = s.amount("its volts", "V", "1", "12", "5")
    height: Decimal | None = s.amount("how high it is, mm", "mm", "1", "200", "25")
    make: str | None = s.text("its part number", "K4-70")


@dataclass(frozen=True)
class Processor:
    name: str
    kind: str | None = s.text("which socket it needs", "168-pin")
    step: str | None = s.text("as what firmware knows it", "step C")
    volts: Decimal | None = s.amount("its core volts", "V", "0.5", "12", "3.3")
    bus: tuple[Decimal, ...] | None = s.amounts("which bus clocks it runs at, MHz", "MHz", "33, 50")
    multiplier: Decimal | None = s.amount("its multiplier", "", "0.5", "30", "2")
    most: Decimal | None = s.amount("how fast it runs at most, MHz", "MHz", "1", "5000", "100")
    watts: Decimal | None = s.amount("how many watts it makes", "W", "0", "500", "6")
    height: Decimal | None = s.amount("how high it is with its cooler, mm", "mm", "0", "400", "19")
    thick_pins: bool | None = s.yes("whether its pins are thicker than the socket’s")


@dataclass(frozen=True)
class Drive:
    """A drive. What it draws at the start, spinning up, stands with what it draws."""

    name: str
    interface: Interface | None = s.choice(Interface, "which interface it has")
    called: str | None = s.text("what its maker calls it", "disk port")
    plug: str | None = s.text("which plug it has", "68-way")
    bay: BaySize | None = s.choice(BaySize, "which bay it needs")
    height: Decimal | None = s.amount("how high it is, mm", "mm", "1", "200", "41.3")
    length: Decimal | None = s.amount("how deep it is, mm", "mm", "1", "500", "146")
    size: int | None = s.size("how much it holds", "40 MB")
    reads: tuple[str, ...] | None = s.names("which disks it reads", "360K, 1.2M")
    writes: tuple[str, ...] | None = s.names("which disks it writes so that others read them", "1.2M")
    start: bool | None = s.yes("whether the machine is to start from it")
    terminated: bool | None = s.yes("whether its terminator is in")
    id: int | None = s.whole("which id or position it is set to", 0, 15)
    rate: Decimal | None = s.amount("how much it gives at most, MB/s", "MB/s", "0", "5000", "1.5")


@dataclass(frozen=True)
class Draw:
    """What it draws of a rail, running and more at the start."""

    name: str
    amps: Decimal | None = s.amount("what it draws, A", "A", "0", "100", "0.9")
    more_at_start: Decimal | None = s.amount("how much more it draws at the start, A", "A", "0", "100", "1.1")

    @property
    def volts(self) -> Decimal:
        return rail_volts(self.name, "draws")


@dataclass(frozen=True)
class Takes:
    """A connector of the supply it takes, by its name."""

    name: str
    count: int | None = s.whole("how many of it it takes", 0, 40, "1")


@dataclass(frozen=True)
class Gives:
    """An adapter or a supply: what it feeds the machine with."""

    name: str
    feed: Feed | None = s.choice(Feed, "whether it gives AC or DC")
    volts: Decimal | None = s.amount("which volts it gives", "V", "0", "1000", "9")


@dataclass(frozen=True)
class Use:
    """An interrupt, a DMA channel or addresses it takes: what can be chosen, what it is set to, and by which jumper."""

    name: str
    irq: tuple[Decimal, ...] | None = s.amounts("which interrupts it can be set to", "", "9, 10, 11")
    dma: tuple[Decimal, ...] | None = s.amounts("which DMA channels it can be set to", "", "1, 3")
    io: tuple[Block, ...] | None = s.blocks("which addresses it can be set to", "330-333, 340-343")
    now: str | None = s.text("what it is set to", "10")
    shared: bool | None = s.yes("whether it shares its interrupt")

    @property
    def kind(self) -> str:
        """What it takes: irq, dma or io; empty while nobody said what it can be set to."""
        return next((kind for kind in ("irq", "dma", "io") if getattr(self, kind) is not None), "")


@dataclass(frozen=True)
class Wire:
    """Something outside that is plugged in: keyboard, mouse, serial line, network."""

    name: str
    protocol: str | None = s.text("what it speaks", "keyboard AT")
    plug: str | None = s.text("which plug it has", "6-pin mini DIN")


@dataclass(frozen=True)
class Screen:
    """A screen, and what it may be fed with. `fixed`: outside its line rates it can be destroyed."""

    name: str
    plug: str | None = s.text("which plug it takes", "9-pin D")
    signals: tuple[str, ...] | None = s.names("which signals it takes", "RGBI, composite")
    line: Span | None = s.span("which line rates it locks to, kHz", "kHz")
    field: Span | None = s.span("which field rates it locks to, Hz", "Hz", "50 to 60")
    fixed: bool | None = s.yes("whether it has one line rate only, and no guard against others")


@dataclass(frozen=True)
class Mode:
    """What a display is to show."""

    name: str
    width: int | None = s.whole("how many points wide", 1, 10_000, "640")
    height: int | None = s.whole("how many points high", 1, 10_000, "480")
    bits: int | None = s.whole("how many bits a point has", 1, 32, "4")

    @property
    def memory(self) -> int | None:
        """Bytes a picture takes."""
        if self.width is None or self.height is None or self.bits is None:
            return None
        return -(-self.width * self.height * self.bits // 8)


@dataclass(frozen=True)
class OwnFirmware:
    """Firmware of the part itself: below `wants` it does less, in words."""

    name: str
    version: Version | None = s.version("which version it has")
    wants: Version | None = s.version("from which version it does all")
    less: str | None = s.text("what it does below that", "sees only the first 1 GiB")
    newest: Version | None = s.version("the newest version that is known")
    newest_on: str | None = s.text("since when", "March 1994")


@dataclass(frozen=True)
class Change:
    """What fitting it does to the machine."""

    name: str
    reversible: bool | None = s.yes("whether the machine can be put back as it was")
    modern: bool | None = s.yes("whether it is of a later time than the machine")
    replaces: str | None = s.text("what of the machine’s own it replaces", "its own disk")
    minutes: int | None = s.whole("how many minutes fitting it takes", 1, 2000, "15")
    wants: str | None = s.text("another part it does nothing without", "SCSI host card, 16-bit")


@dataclass(frozen=True)
class Brings:
    """Something buyers look for or shy away from, by its name: sound, network, its own disk."""

    name: str
    words: str | None = s.text("what it is in words", "speech and music")


@dataclass(frozen=True)
class Serves:
    """It does the work of something that belongs with a machine, by the name that has on its list."""

    name: str
    origin: Origin | None = s.choice(Origin, "whether it is the original, of its time, modern or made")


@dataclass(frozen=True)
class Convert:
    """A way through it: what goes in, what comes out, and what is lost. Ends are written as "plug/signal"."""

    name: str
    goes_in: str | None = s.text("what goes in", "9-pin D/RGBI")
    comes_out: str | None = s.text("what comes out", "15-pin D/analogue RGB")
    loss: str | None = s.text("what is lost on the way", "16 colours become 4 greys")
    delay: Decimal | None = s.amount("how long it delays, ms", "ms", "0", "10000", "33")
    line_in: Span | None = s.span("which line rates it takes, kHz", "kHz")
    line_out: Decimal | None = s.amount("the line rate it gives, kHz", "kHz", "1", "200", "31.469")
    field_out: Decimal | None = s.amount("the field rate it gives, Hz", "Hz", "1", "200", "60")


@dataclass(frozen=True)
class Needs:
    """What a part of a name is and needs. A group nobody filled in is not known; a part has at least one."""

    cards: tuple[Card, ...] | None = s.group(Card, "card")
    modules: tuple[MemoryModule, ...] | None = s.group(MemoryModule, "memory module")
    processors: tuple[Processor, ...] | None = s.group(Processor, "processor")
    drives: tuple[Drive, ...] | None = s.group(Drive, "drive")
    draws: tuple[Draw, ...] | None = s.group(Draw, "draws")
    takes: tuple[Takes, ...] | None = s.group(Takes, "connectors it takes")
    gives: tuple[Gives, ...] | None = s.group(Gives, "feeds")
    uses: tuple[Use, ...] | None = s.group(Use, "interrupts, DMA and addresses")
    wires: tuple[Wire, ...] | None = s.group(Wire, "plugs in")
    screens: tuple[Screen, ...] | None = s.group(Screen, "screen")
    modes: tuple[Mode, ...] | None = s.group(Mode, "shows")
    firmware: tuple[OwnFirmware, ...] | None = s.group(OwnFirmware, "its firmware")
    changes: tuple[Change, ...] | None = s.group(Change, "what it changes")
    converts: tuple[Convert, ...] | None = s.group(Convert, "converts")
    brings: tuple[Brings, ...] | None = s.group(Brings, "brings a buyer")
    serves: tuple[Serves, ...] | None = s.group(Serves, "serves as")
    slots: tuple[Slot, ...] | None = s.group(Slot, "slots it adds")
    buses: tuple[DriveBus, ...] | None = s.group(DriveBus, "drive buses it adds")
    ports: tuple[Port, ...] | None = s.group(Port, "ports it adds")
    connectors: tuple[Connector, ...] | None = s.group(Connector, "connectors of the supply it adds")

    @property
    def wants(self) -> tuple[str, ...]:
        """Other parts it does nothing without, by name."""
        return tuple(change.wants for change in self.changes or () if change.wants)

    @property
    def nothing_known(self) -> bool:
        return all(getattr(self, name) is None for name in s.groups_of(Needs))


MOST_CHOICES = 64


def checked_needs(needs: Needs, name: str = "") -> Needs:
    """The same when it does not contradict itself. FitError names the group. `name`: of the part."""
    if name and name.lower() in {other.lower() for other in needs.wants}:
        raise FitError(f"{name} can’t want itself: name another part", "changes")
    for at in ("cards", "modules", "processors", "drives", "screens", "gives"):
        if len(getattr(needs, at) or ()) > 1:
            raise FitError("One line: a part is one of it", at)
    for use in needs.uses or ():
        given = [name for name in ("irq", "dma", "io") if getattr(use, name) is not None]
        if len(given) != 1:
            raise FitError(f"{use.name}: say one of irq, dma and io", "uses")
        if len(use_choices(use)) > MOST_CHOICES:
            raise FitError(f"{use.name}: {MOST_CHOICES} choices at most", "uses")
        if use.now is not None and use.now not in use_choices(use):
            raise FitError(f"{use.name}: it is set to {use.now}, which it can’t be set to", "uses")
        if (use.dma and max(use.dma) > 7) or (use.irq and max(use.irq) > 15):
            raise FitError(f"{use.name}: interrupts go from 0 to 15, DMA from 0 to 7", "uses")
    for way in needs.converts or ():
        if way.goes_in is None or way.comes_out is None:
            raise FitError(f"{way.name}: say what goes in and what comes out: a way has two ends", "converts")
        if way.goes_in.lower() == way.comes_out.lower() and way.line_out is None and way.field_out is None:
            raise FitError(f"{way.name}: the same goes in and comes out", "converts")
    for draw in needs.draws or ():
        rail_volts(draw.name, "draws")
    return needs


def use_choices(use: Use) -> list[str]:
    """Everything it can be set to, as it is typed."""
    if use.io is not None:
        return [str(block) for block in use.io]
    return [str(int(value)) for value in (use.irq if use.irq is not None else use.dma or ())]
