"""What a machine is put together from: assemblies, what holds each, and what must be off before it.

The shape that the model bank keeps, the unit starts from and the way in is found by.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field
from decimal import Decimal
from enum import StrEnum
from functools import cached_property

import networkx as nx

from core.machine.names import as_seen
from core.safety import Hazard

MOST_ASSEMBLIES = 80
MOST_MINUTES = 600
MOST_MM = 3000
MOST_FASTENERS = 400
LONGEST_SCREW_MM = 200


class AssemblyError(ValueError):
    """What is wrong with an assembly, in words, and at which field; `ring` names those that wait for each other."""

    def __init__(self, message: str, at: str = "", ring: tuple[str, ...] = ()) -> None:
        super().__init__(message)
        self.at, self.ring = at, ring


class Key(StrEnum):
    """What tells which way round a plug goes in."""

    SHAPE = "shape"
    PIN_1 = "pin_1"
    STRIPE = "stripe"
    COLOURS = "colours"
    NONE = "none"

    @property
    def label(self) -> str:
        return {
            Key.SHAPE: "fits one way only",
            Key.PIN_1: "pin 1 to pin 1",
            Key.STRIPE: "stripe to pin 1",
            Key.COLOURS: "colours together",
            Key.NONE: "not keyed: mark it first",
        }[self]


class StoredCharge(StrEnum):
    """What in an assembly holds charge with the plug out."""

    NOTHING = ""
    SUPPLY = "supply"
    TUBE = "tube"

    @property
    def label(self) -> str:
        return {"": "nothing", "supply": "a supply: measured", "tube": "a CRT"}[self.value]

    @property
    def is_supply(self) -> bool:
        return self is StoredCharge.SUPPLY


@dataclass(frozen=True)
class Fastener:
    """A group of like fasteners. `length_mm` is None when nobody measured it; `thread` as stamped ("M3", "6-32")."""

    count: int
    thread: str = ""
    length_mm: int | None = None
    head: str = ""

    def __post_init__(self) -> None:
        if not 1 <= self.count <= MOST_FASTENERS:
            raise AssemblyError(f"From 1 to {MOST_FASTENERS} of a kind, not {self.count}.", "fasteners")
        if self.length_mm is not None and not 1 <= self.length_mm <= LONGEST_SCREW_MM:
            raise AssemblyError(f"A screw is 1 to {LONGEST_SCREW_MM} mm long, not {self.length_mm}.", "fasteners")

    @property
    def kind(self) -> str:
        """What it is without how many: "M3 × 6 cross"."""
        size = self.thread + (f" × {self.length_mm}" if self.length_mm else "")
        return " ".join(filter(None, (size, self.head))) or "screw"

    def __str__(self) -> str:
        return f"{self.count} × {self.kind}"


@dataclass(frozen=True)
class Plug:
    """A plug: its name, where it goes, what tells which way round, its wires by colour in order; `tied` when its lead
    hangs on a lid or cover and tears when that is lifted away."""

    name: str
    to: str = ""
    key: Key = Key.NONE
    wires: tuple[str, ...] = ()
    tied: bool = False

    def __post_init__(self) -> None:
        if not self.name:
            raise AssemblyError("A plug has a name.", "plugs")


@dataclass(frozen=True)
class Assembly:
    """One thing that comes off, or is made safe (`stays`): x in mm from the left, `layer` from 0 outside.

    `ways` are the alternatives: what must be off first is all of one of them; none when it is free.
    `on_after` are putting-on rules: what must be on again before this goes on, besides what it stood on.
    `minutes_off` and `minutes_on` are hands-on. `test` names what has to be passed before anything goes over it.
    `worth` is what it costs to replace, None when nobody said; `must_be_in`: an earth strap, an insulator, a fuse.
    """

    name: str
    layer: int
    x_from: int
    x_to: int
    minutes_off: int
    minutes_on: int
    ways: tuple[frozenset[str], ...] = ()
    fasteners: tuple[Fastener, ...] = ()
    plugs: tuple[Plug, ...] = ()
    clips: int = 0
    brittle: bool = False
    hazards: tuple[Hazard, ...] = ()
    two_people: bool = False
    on_after: frozenset[str] = frozenset()
    charge: StoredCharge = StoredCharge.NOTHING
    stays: bool = False
    must_be_in: bool = False
    board: bool = False
    side: str = ""
    worth: Decimal | None = None
    how_off: str = ""
    how_on: str = ""
    test: str = ""

    def __post_init__(self) -> None:
        if not as_seen(self.name) or len(self.name) > 40:
            raise AssemblyError("A name of 1 to 40 characters.", "name")
        if not 0 <= self.layer <= 20:
            raise AssemblyError("A layer from 0 (outside) to 20.", "layer")
        if not 0 <= self.x_from < self.x_to <= MOST_MM:
            raise AssemblyError(f"From left to right in mm, within 0 to {MOST_MM}.", "x_to")
        for name, minutes in (("minutes_off", self.minutes_off), ("minutes_on", self.minutes_on)):
            if not 0 <= minutes <= MOST_MINUTES:
                raise AssemblyError(f"From 0 to {MOST_MINUTES} minutes.", name)
        if not 0 <= self.clips <= 100:
            raise AssemblyError("From 0 to 100 clips.", "clips")

    @property
    def minutes(self) -> int:
        """Off and on again."""
        return self.minutes_off + self.minutes_on

    @property
    def fastener_count(self) -> int:
        return sum(group.count for group in self.fasteners)


@dataclass(frozen=True)
class StripDown:
    """A machine as assemblies by name. Raises AssemblyError when the data can't be: a name twice or unknown, what no
    way reaches. Putting-on rules are proved by `orders.check`."""

    assemblies: Mapping[str, Assembly] = field(default_factory=dict)

    def __post_init__(self) -> None:
        if len(self.assemblies) > MOST_ASSEMBLIES:
            raise AssemblyError(f"At most {MOST_ASSEMBLIES} assemblies.")
        for name, assembly in self.assemblies.items():
            for at, others in (("ways", frozenset().union(*assembly.ways)), ("on_after", assembly.on_after)):
                if name in others:
                    raise AssemblyError(f"{name} can’t wait for itself.", at, (name,))
                if unknown := sorted(others - set(self.assemblies)):
                    raise AssemblyError(f"{name}: there is no {unknown[0]}.", at)
        if ring := self._ring_off():
            raise AssemblyError(f"No way gets there: {waits_for(ring)}.", "ways", ring)

    def __len__(self) -> int:
        return len(self.assemblies)

    def __getitem__(self, name: str) -> Assembly:
        return self.assemblies[name]

    @cached_property
    def layers(self) -> tuple[int, ...]:
        return tuple(sorted({assembly.layer for assembly in self.assemblies.values()}))

    def reachable(self) -> tuple[str, ...]:
        """What can come off at all, in an order that can be."""
        off: set[str] = set()
        order: list[str] = []
        while True:
            found = [
                name
                for name, a in self.assemblies.items()
                if name not in off and (not a.ways or any(way <= off for way in a.ways))
            ]
            if not found:
                return tuple(order)
            off |= set(found)
            order += found

    def under(self, name: str) -> frozenset[str]:
        """What can be reached only once this is off: what is shut in when it goes on."""
        without = {n: a for n, a in self.assemblies.items() if n != name}
        off: set[str] = set()
        while found := {
            n for n, a in without.items() if n not in off and (not a.ways or any(w <= off for w in a.ways))
        }:
            off |= found
        return frozenset(set(without) - off)

    def _ring_off(self) -> tuple[str, ...]:
        stuck = set(self.assemblies) - set(self.reachable())
        return find_ring({name: {n for way in self[name].ways for n in way & stuck} for name in stuck})


def find_ring(waits: Mapping[str, set[str]]) -> tuple[str, ...]:
    """Names that wait for each other in a ring, in order; empty when there is none."""
    if not waits:
        return ()
    graph = nx.DiGraph((name, other) for name, others in waits.items() for other in sorted(others))
    graph.add_nodes_from(waits)
    try:
        return tuple(edge[0] for edge in nx.find_cycle(graph))
    except nx.NetworkXNoCycle:
        return tuple(sorted(waits))


def waits_for(ring: tuple[str, ...]) -> str:
    return " waits for ".join([*ring, ring[0]])
