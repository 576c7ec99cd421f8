"""The kinds of bus, memory, drive interface, bay and signal that rules compare."""

from dataclasses import dataclass
from enum import StrEnum


class Bus(StrEnum):
    """What a slot or a card is for. OWN is one maker's own: two of those fit when they have the same `called`."""

    BIT8 = "8-bit"
    BIT16 = "16-bit"
    BIT32 = "32-bit extended"
    LOCAL = "local bus"
    PCI32 = "PCI 32"
    PCI64 = "PCI 64"
    PCIX = "PCI-X"
    PCIE = "PCI Express"
    GRAPHICS_33 = "graphics 3.3 V"
    GRAPHICS_15 = "graphics 1.5 V"
    GRAPHICS_ANY = "graphics universal"
    OWN = "own"


# Which cards go into a slot beside its own kind, from memory: the edge of an 8-bit card is the first part of the
# 16-bit one's (IEEE P996 draft); the extended and the local-bus slot carry the 16-bit one; 64-bit and PCI-X slots
# take 32-bit cards, and a card longer than its slot stands over at the end (PCI Local Bus Specification 2.2 and PCI-X
# addendum); a universal graphics slot has no key and takes both voltages.
_TAKES: dict[Bus, frozenset[Bus]] = {
    Bus.BIT16: frozenset({Bus.BIT8}),
    Bus.BIT32: frozenset({Bus.BIT8, Bus.BIT16}),
    Bus.LOCAL: frozenset({Bus.BIT8, Bus.BIT16}),
    Bus.PCI64: frozenset({Bus.PCI32}),
    Bus.PCIX: frozenset({Bus.PCI32, Bus.PCI64}),
    Bus.PCI32: frozenset({Bus.PCI64, Bus.PCIX}),
    Bus.GRAPHICS_ANY: frozenset({Bus.GRAPHICS_33, Bus.GRAPHICS_15}),
    Bus.GRAPHICS_33: frozenset({Bus.GRAPHICS_ANY}),
    Bus.GRAPHICS_15: frozenset({Bus.GRAPHICS_ANY}),
}


def takes(slot: Bus, card: Bus) -> bool:
    """Whether a card of that kind goes into a slot of this kind."""
    return slot is card or card in _TAKES.get(slot, ())


# Megabytes a second a bus can carry at most: width in bytes times clock in MHz, two clocks a transfer on the first two
# (so 8 MHz × 2 bytes ÷ 2 = 8 MB/s); PCI Express 250, 500, 985 a lane by generation (published rates).
_BYTES_A_CLOCK = {
    Bus.BIT8: "0.5",
    Bus.BIT16: "1",
    Bus.BIT32: "4",
    Bus.LOCAL: "4",
    Bus.PCI32: "4",
    Bus.PCI64: "8",
    Bus.PCIX: "8",
}
BYTES_A_CLOCK = {bus: float(share) for bus, share in _BYTES_A_CLOCK.items()}
EXPRESS_LANE = {1: 250.0, 2: 500.0, 3: 985.0}


def bus_rate(
    bus: Bus, clock_mhz: float | None, lanes: int | None = None, generation: int | None = None
) -> float | None:
    """What a bus carries at most, in MB/s; None where what it takes is not known."""
    if bus is Bus.PCIE:
        return EXPRESS_LANE.get(generation or 0, 0) * (lanes or 0) or None
    share = BYTES_A_CLOCK.get(bus)
    return None if share is None or clock_mhz is None else share * clock_mhz


class Memory(StrEnum):
    CHIPS = "chips"
    PINS30 = "30-pin"
    PINS72 = "72-pin"
    PINS168 = "168-pin"
    PINS144 = "144-pin"
    PINS184 = "184-pin"
    OWN = "own"


class Interface(StrEnum):
    FLOPPY = "floppy"
    ST506 = "ST-506"
    ESDI = "ESDI"
    ATA8 = "ATA 8-bit"
    ATA16 = "ATA 16-bit"
    SCSI8 = "SCSI 8-bit"
    SCSI16 = "SCSI 16-bit"
    SATA = "SATA"
    OWN = "own"


# The same plug, and yet it does not run: said to whoever finds one beside the other (common practice, no source).
LOOK_ALIKES: dict[frozenset[Interface], str] = {
    frozenset({Interface.ATA8, Interface.ATA16}): "40 pins both, but the one has 8 bits and the other 16",
    frozenset({Interface.ST506, Interface.ESDI}): "34 and 20 pins both, but the signals are others",
    frozenset({Interface.FLOPPY, Interface.ST506}): "34 pins both, but the signals are others",
}


class BaySize(StrEnum):
    """By the nominal width of the drive; the height is a figure of its own."""

    IN525 = "5.25 inch"
    IN35 = "3.5 inch"
    IN25 = "2.5 inch"
    IN8 = "8 inch"
    OWN = "own"


class Sync(StrEnum):
    COMPOSITE = "composite"
    SEPARATE = "separate"
    ON_GREEN = "on green"


class Signal(StrEnum):
    COMPOSITE = "composite"
    LUMA_CHROMA = "luma and chroma"
    RGBI = "RGBI"
    ANALOGUE = "analogue RGB"
    MONO = "mono TTL"
    AERIAL = "aerial"
    DIGITAL = "digital"


class Origin(StrEnum):
    """Where something stands to the machine it serves."""

    ORIGINAL = "original"
    PERIOD = "of its time"
    MODERN = "modern"
    MADE = "made"


class Feed(StrEnum):
    AC = "AC"
    DC = "DC"


@dataclass(frozen=True)
class Format:
    """How a disk is laid out."""

    name: str
    tracks: int
    sides: int
    sectors: int
    bytes_a_sector: int

    @property
    def size(self) -> int:
        return self.tracks * self.sides * self.sectors * self.bytes_a_sector


# Of ECMA-70, ECMA-125, ECMA-99, ISO 9529 and ECMA-54 (single density, 8 inch), from memory.
FORMATS = {
    one.name: one
    for one in (
        Format("160K", 40, 1, 8, 512),
        Format("180K", 40, 1, 9, 512),
        Format("320K", 40, 2, 8, 512),
        Format("360K", 40, 2, 9, 512),
        Format("720K", 80, 2, 9, 512),
        Format("1.2M", 80, 2, 15, 512),
        Format("1.44M", 80, 2, 18, 512),
        Format("2.88M", 80, 2, 36, 512),
        Format("8 inch SD", 77, 1, 26, 128),
    )
}
# Written by the first on a disk for the second, a drive of the second's own kind may not read it: the track of the
# 80-track drive is half as wide (common practice, no source).
NARROW_TRACKS = {("1.2M", "360K"), ("1.2M", "320K"), ("1.2M", "180K"), ("1.2M", "160K")}

# What the usual connectors of a supply carry, in volts, ground left out: ATX12V Power Supply Design Guide 1.1 (board,
# peripheral and floppy drive connectors) and Serial ATA 1.0 (power segment of 15 contacts), from memory.
CONNECTOR_RAILS: dict[str, frozenset[str]] = {
    "drive": frozenset({"5", "12"}),
    "small drive": frozenset({"5", "12"}),
    "serial drive": frozenset({"3.3", "5", "12"}),
    "board, 20 pins": frozenset({"3.3", "5", "12", "-5", "-12"}),
    "processor, 4 pins": frozenset({"12"}),
}


class Region(StrEnum):
    """Mains and picture standard where something was tried."""

    V230_50 = "230 V, 50 Hz"
    V115_60 = "115 V, 60 Hz"
    V100 = "100 V, 50 or 60 Hz"
