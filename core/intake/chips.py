"""Memory by the chips that are fitted, and what display memory allows."""

import re
from collections.abc import Sequence
from dataclasses import dataclass

KIB, MIB = 1024, 1024 * 1024
GIB = 1024 * MIB
_UNITS = {"": 1, "k": KIB, "m": MIB, "g": GIB}
_CHIP = re.compile(r"(\d{1,3}) ?[x×*] ?(\d{1,5}) ?([kmg]?)(?:bit)? ?[x×*] ?(\d{1,3})", re.IGNORECASE)
_MODULE = re.compile(r"(?:(\d{1,3}) ?[x×*] ?)?(\d{1,5}) ?(k|m|g)(?:i?b)?", re.IGNORECASE)


class ChipsError(ValueError):
    """What was typed is no count of chips or modules."""


@dataclass(frozen=True)
class Chips:
    """`count` chips of `depth` words of `width` bits."""

    count: int
    depth: int
    width: int

    @property
    def bits(self) -> int:
        return self.count * self.depth * self.width


@dataclass(frozen=True)
class MemoryReading:
    """So many bytes of memory, with or without a parity bit for each; `why` says what speaks for it."""

    size: int
    parity: bool
    why: str


def read_chips(text: str) -> tuple[Chips, ...]:
    """Chips as people count them: "16 x 256K x 4 + 4 x 256K x 1". Raises ChipsError."""
    found = []
    for part in re.split(r"[+,;]", text):
        match = _CHIP.fullmatch(part.strip())
        if not match or not int(match[1]) or not int(match[2]) or not int(match[4]):
            raise ChipsError("Count them like this: 16 x 256K x 4 (how many, how deep, how many bits wide).")
        found.append(Chips(int(match[1]), int(match[2]) * _UNITS[match[3].lower()], int(match[4])))
    return tuple(found)


def memory_of(chips: Sequence[Chips]) -> tuple[MemoryReading, ...]:
    """How many bytes these chips hold: every reading, the likelier first.

    Chips of one depth stand side by side; a width that is a multiple of nine bits may carry parity, one bit
    a byte. Where it is a multiple of eight too, both readings are given.
    """
    widths: dict[int, int] = {}
    for group in chips:
        widths[group.depth] = widths.get(group.depth, 0) + group.count * group.width
    plain = all(width % 8 == 0 for width in widths.values())
    nine = all(width % 9 == 0 for width in widths.values())
    bits = sum(depth * width for depth, width in widths.items())
    without = MemoryReading(bits // 8, False, "the width is a multiple of 8 bits")
    with_parity = MemoryReading(bits // 9, True, "the width is a multiple of 9 bits: one in nine is parity")
    if plain and nine:
        # Nine chips side by side, or modules nine (or 18, 36, 72) bits wide: made so for the parity bit.
        nines = all(group.count % 9 == 0 or group.width % 9 == 0 for group in chips)
        first = with_parity if nines else without
        return (first, without if first is with_parity else with_parity)
    if nine:
        return (with_parity,)
    if plain:
        return (without,)
    return (MemoryReading(bits // 8, False, "the width is no multiple of 8 or 9: count them again"),)


def read_modules(text: str) -> int:
    """Bytes in a sum of modules: "8M + 4 x 32M" is 136 MiB. Raises ChipsError."""
    total = 0
    for part in re.split(r"[+,;]", text):
        match = _MODULE.fullmatch(part.strip())
        if not match:
            raise ChipsError("Add them up like this: 8M + 4 x 32M.")
        total += int(match[1] or 1) * int(match[2]) * _UNITS[match[3].lower()]
    return total


def size_words(size: int) -> str:
    """Bytes in whole KiB or MiB where they are whole, else in bytes."""
    for unit, name in ((GIB, "GiB"), (MIB, "MiB"), (KIB, "KiB")):
        if size >= unit and size % unit == 0:
            return f"{size // unit:,} {name}"
    return f"{size:,} bytes"


# Pictures that display adapters of the time showed: across, down (common practice, no source).
PICTURES = ((320, 200), (640, 200), (640, 350), (640, 400), (640, 480), (800, 600), (1024, 768), (1280, 1024))
DEPTHS = (1, 2, 4, 8, 16, 24)


@dataclass(frozen=True)
class DisplayMode:
    width: int
    height: int
    bits: int
    fits: bool

    @property
    def needs(self) -> int:
        return display_bytes(self.width, self.height, self.bits)


def display_bytes(width: int, height: int, bits: int) -> int:
    """Bytes one picture needs: width x height x bits, rounded up. All above 0 (ValueError)."""
    if min(width, height, bits) <= 0:
        raise ValueError("Width, height and bits are above 0.")
    return -(-width * height * bits // 8)


def display_modes(memory: int) -> tuple[DisplayMode, ...]:
    """Every usual picture at every depth, and whether `memory` bytes hold it."""
    return tuple(
        DisplayMode(width, height, bits, display_bytes(width, height, bits) <= memory)
        for width, height in PICTURES
        for bits in DEPTHS
    )
