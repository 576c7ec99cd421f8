"""The check library: every check the shop knows, and for which machines it is wanted.

The order follows the gates: look, make safe, measure cold, supply alone, first power, functions, soak.
Limits: switching supplies +-5 % on +5 V and +12 V, +-10 % on -12 V (ATX12V design guide); boards of
74-series logic 4.75 to 5.25 V (74-series data sheets). Everything else: common practice, no source.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from decimal import Decimal
from enum import StrEnum
from typing import Any

from core.bench.conditions import holds


class Supply(StrEnum):
    LINEAR = "linear"
    SWITCHING = "switching"
    EXTERNAL_DC = "external_dc"
    EXTERNAL_AC = "external_ac"
    NONE = "none"

    @property
    def label(self) -> str:
        return _SUPPLY_LABELS[self]


_SUPPLY_LABELS = {
    Supply.LINEAR: "linear, inside",
    Supply.SWITCHING: "switching, inside",
    Supply.EXTERNAL_DC: "external adapter, DC out",
    Supply.EXTERNAL_AC: "external adapter, AC out",
    Supply.NONE: "none: part of another machine",
}


class Battery(StrEnum):
    NONE = "none"
    NICD = "nicd"
    LITHIUM = "lithium"
    ALKALINE = "alkaline"

    @property
    def label(self) -> str:
        return {
            "none": "none",
            "nicd": "rechargeable (NiCd or NiMH)",
            "lithium": "lithium cell",
            "alkaline": "alkaline",
        }[self.value]


class Group(StrEnum):
    LOOK = "look"
    SAFE = "safe"
    COLD = "cold"
    SUPPLY = "supply"
    POWER = "power"
    FUNCTION = "function"
    SOAK = "soak"
    CLOSED = "closed"

    @property
    def label(self) -> str:
        return {
            "look": "Look",
            "safe": "Make safe",
            "cold": "Cold measurements",
            "supply": "Supply alone",
            "power": "First power",
            "function": "Functions",
            "soak": "Soak",
            "closed": "Closed up",
        }[self.value]


class Kind(StrEnum):
    """What is done at a step, and so what it takes to record it."""

    LOOK = "look"
    DO = "do"
    MEASURE = "measure"
    LOAD = "load"
    TIMED = "timed"
    PART = "part"
    CELLS = "cells"
    BLEED = "bleed"

    @property
    def label(self) -> str:
        return {
            "look": "look",
            "do": "do",
            "measure": "measure, one reading",
            "load": "measure under steps of load",
            "timed": "let it run, with a timer",
            "part": "measure a part against its marking",
            "cells": "make up a battery",
            "bleed": "work out how long to wait",
        }[self.value]


@dataclass(frozen=True)
class BenchFacts:
    """What the plan needs to know of one machine. `drives`: how many; `mains`: rated volts in words."""

    supply: Supply
    battery: Battery = Battery.NONE
    picture_tube: bool = False
    drives: int = 0
    keyboard: bool = True
    mains: str = "230 V"
    leak_found: bool = False
    rework_found: bool = False
    swollen_found: bool = False
    form_factor: str = "desktop"
    approach: str = ""

    @property
    def named(self) -> dict[str, object]:
        """The facts by the names that conditions use."""
        return {
            "supply": self.supply.value,
            "battery": self.battery.value,
            "form": self.form_factor,
            "approach": self.approach,
            "tube": self.picture_tube,
            "drives": self.drives > 0,
            "keyboard": self.keyboard,
            "leak": self.leak_found,
            "rework": self.rework_found,
            "swollen": self.swollen_found,
        }


@dataclass(frozen=True)
class Limits:
    """From `low` to `high` in `unit`, both allowed; `nominal` is what it should be."""

    low: Decimal
    high: Decimal
    unit: str
    nominal: Decimal | None = None


@dataclass(frozen=True)
class Check:
    """One check. `gate`: later steps stay locked until it is passed; `safety`: its failure is a hold.

    `when` says for which machines it is wanted (see core/bench/conditions.py). Minutes are hands-on,
    `alone_minutes` those in which it runs by itself.
    """

    code: str
    group: Group
    title: str
    instruction: str
    when: str = ""
    caution: str = ""
    limits: Limits | None = None
    gate: bool = False
    safety: bool = False
    minutes: int = 3
    alone_minutes: int = 0
    why: str = ""
    needs: str = ""
    kind: Kind | None = None

    @property
    def does(self) -> Kind:
        """The kind of step, by what it has when nothing is said."""
        if self.kind:
            return self.kind
        if self.limits:
            return Kind.MEASURE
        return Kind.TIMED if self.alone_minutes else Kind.LOOK if self.group is Group.LOOK else Kind.DO

    @property
    def asks(self) -> bool:
        """Whether something is to be typed: a reading, or what an answer is worked out from."""
        return self.limits is not None or self.does in {Kind.PART, Kind.CELLS, Kind.BLEED}

    def wanted(self, facts: BenchFacts) -> bool:
        return holds(self.when, facts.named)


def as_data(check: Check) -> dict[str, object]:
    """A check as plain data, for the record of a run: what was asked then, whatever the library says later."""
    limits = check.limits
    return {
        "code": check.code,
        "group": check.group.value,
        "title": check.title,
        "instruction": check.instruction,
        "when": check.when,
        "caution": check.caution,
        "limits": None
        if limits is None
        else [str(limits.low), str(limits.high), limits.unit, None if limits.nominal is None else str(limits.nominal)],
        "gate": check.gate,
        "safety": check.safety,
        "minutes": check.minutes,
        "alone_minutes": check.alone_minutes,
        "why": check.why,
        "needs": check.needs,
        "kind": check.does.value,
    }


def from_data(data: Mapping[str, Any]) -> Check:
    """The check that as_data wrote down."""
    limits = data["limits"]
    return Check(
        **{
            **data,
            "group": Group(data["group"]),
            "kind": Kind(data["kind"]),
            "limits": None
            if limits is None
            else Limits(
                Decimal(limits[0]), Decimal(limits[1]), limits[2], None if limits[3] is None else Decimal(limits[3])
            ),
        }
    )


def check_limits(low: str, nominal: str, high: str, unit: str = "V") -> Limits:
    """Limits written as text, so that they stay exact."""
    return Limits(Decimal(low), Decimal(high), unit, Decimal(nominal))


LIBRARY: tuple[Check, ...] = (
    Check(
        "look-case",
        Group.LOOK,
        "Look inside, unplugged",
        "Open the case. Look for burns, swollen or leaking capacitors, loose plugs and things that rattle. Seat every socketed chip and board.",
        caution="Unplugged is not discharged. Keep one hand away from the supply until it has been made safe.",
        minutes=5,
    ),
    Check(
        "look-battery",
        Group.LOOK,
        "Battery has not leaked",
        "Find the battery. Look for white or green crust on it, under it and along the tracks. Take a leaking one out before anything else.",
        when="battery!=none",
        caution="Leaked cells are corrosive: gloves and goggles. Lithium cells: never short, crush or charge.",
        gate=True,
        safety=True,
    ),
    Check(
        "look-caps",
        Group.LOOK,
        "Swollen capacitors are out",
        "Take out every capacitor that bulges or leaks before power. Note value and volts as marked.",
        when="swollen",
        caution="Unplugged is not discharged. What leaked burns the skin: gloves.",
        why="A swollen one fails under power, and may take the supply along.",
        gate=True,
        minutes=10,
    ),
    Check(
        "look-rework",
        Group.LOOK,
        "Earlier work is understood",
        "Trace every jumper wire, tape joint and odd-coloured wire. Check that no plug was put back reversed.",
        when="rework",
        minutes=8,
    ),
    Check(
        "safe-tube",
        Group.SAFE,
        "Discharge the picture tube",
        "Two people. Earthed probe under the anode cap, hold for ten seconds, wait five minutes, do it again. Measure: nothing left.",
        when="tube",
        caution="A picture tube holds a dangerous charge with the plug out, and implodes when knocked. Only for people trained to do it, under your local rules.",
        gate=True,
        safety=True,
        minutes=12,
    ),
    Check(
        "safe-supply",
        Group.SAFE,
        "Discharge the supply",
        "Unplugged. Wait for the bleeder, then measure the large capacitor with the meter on its highest DC range. Go on only below 60 V.",
        when="supply=switching",
        caution="The large capacitor of a switching supply stands at over 300 V and keeps it. Discharge with the proper tool, never with a screwdriver.",
        limits=check_limits("0", "0", "60"),
        gate=True,
        safety=True,
        minutes=4,
    ),
    Check(
        "safe-earth",
        Group.SAFE,
        "Mains lead, fuse and earth are sound",
        "Look along the whole lead and at the plug. Fuse of the marked value. Earth pin to bare metal of the case under 0.5 Ω.",
        when="supply=linear|switching",
        caution="Mains work is for competent people under your local rules. If earth is not sound, the machine is not plugged in.",
        limits=check_limits("0", "0.1", "0.5", "Ω"),
        gate=True,
        safety=True,
        minutes=5,
    ),
    Check(
        "safe-adapter",
        Group.SAFE,
        "The adapter is the right kind",
        "Read the plate of the adapter and of the machine: AC or DC, volts, current, polarity of the plug. All four must agree.",
        when="supply=external_dc|external_ac",
        caution="An AC adapter must never be swapped for a DC one of the same voltage, or the reverse.",
        gate=True,
        safety=True,
    ),
    Check(
        "cold-5v",
        Group.COLD,
        "+5 V rail to ground, cold",
        "Meter on ohms, black on ground, red on +5 V, power off. Wait until it settles. Close to zero is a short: stop and find it.",
        limits=check_limits("10", "60", "5000", "Ω"),
        gate=True,
        minutes=3,
    ),
    Check(
        "supply-ac",
        Group.SUPPLY,
        "Adapter output, alternating",
        "Adapter alone, meter on AC volts. An unloaded adapter reads high: up to a third over its plate.",
        when="supply=external_ac",
        limits=check_limits("9", "10", "13"),
        gate=True,
    ),
    Check(
        "supply-5v",
        Group.SUPPLY,
        "+5 V under load, supply alone",
        "Board unplugged, load on the +5 V output. Hold the probes on the supply’s own output pins. Wait for the reading to settle.",
        when="supply!=none|external_ac",
        caution="First time on mains: isolated and current-limited, one hand behind your back, nobody alone in the room.",
        limits=check_limits("4.75", "5.00", "5.25"),
        gate=True,
        minutes=6,
    ),
    Check(
        "supply-12v",
        Group.SUPPLY,
        "+12 V under load, supply alone",
        "Load on the +12 V output as well. A drive motor wants it steady.",
        when="supply=switching",
        limits=check_limits("11.4", "12.0", "12.6"),
        minutes=4,
    ),
    Check(
        "supply-load",
        Group.SUPPLY,
        "+5 V under steps of load",
        "Load on the +5 V output. Take the volts at no load, at a half and at the load on its plate. The line tells the output resistance.",
        when="supply=switching|linear",
        caution="The regulator and its tab are hot within a minute. Keep gloves and leads off it.",
        why="A supply that is right unloaded may sag when the drives start.",
        limits=check_limits("4.75", "5.00", "5.25"),
        kind=Kind.LOAD,
        needs="electronic load",
        minutes=8,
    ),
    Check(
        "supply-ripple",
        Group.SUPPLY,
        "Ripple on +5 V under load",
        "Scope on the +5 V output under load, short ground lead, 20 MHz limit. Peak to peak.",
        when="supply=switching",
        caution="Never ground a scope to the mains side.",
        limits=Limits(Decimal(0), Decimal("0.05"), "V", Decimal("0.02")),
        needs="scope",
        minutes=5,
    ),
    Check(
        "power-first",
        Group.POWER,
        "First power of the whole",
        "Only what is needed: board, supply, screen. Finger on the switch. Listen for the fan, smell, look for smoke. Off at once if anything is wrong.",
        caution="Stand clear of the screen and the supply. Capacitors can vent. Extinguisher for electrical fires in reach.",
        gate=True,
        minutes=4,
    ),
    Check(
        "run-5v",
        Group.POWER,
        "+5 V at the board, running",
        "Probe the supply pin of a logic chip far from the plug. What the supply gives and what arrives are not the same.",
        limits=check_limits("4.75", "5.00", "5.25"),
        minutes=3,
    ),
    Check(
        "fn-picture",
        Group.FUNCTION,
        "Picture",
        "Steady, whole, right colours. The right cable, standard and monitor first, before the machine is called faulty.",
        minutes=4,
    ),
    Check(
        "fn-tube",
        Group.FUNCTION,
        "Tube: focus, size, burn-in",
        "Full white page, then text in the corners. Note burnt-in shapes on the condition map.",
        when="tube",
        minutes=4,
    ),
    Check(
        "fn-keyboard",
        Group.FUNCTION,
        "Every key, once",
        "Press every key once and watch it arrive. Note the ones that need force, repeat or stay silent.",
        when="keyboard",
        minutes=5,
    ),
    Check(
        "fn-drives",
        Group.FUNCTION,
        "Drives read, write and read elsewhere",
        "Format a scrap disk, write, read back, then read it in another machine. Never try a drive with a disk you care about.",
        when="drives",
        minutes=8,
    ),
    Check(
        "fn-ports",
        Group.FUNCTION,
        "Ports and sound",
        "Try each port with something known to be good. Sound: a clean tone, no hum.",
        minutes=6,
    ),
    Check(
        "fn-memory",
        Group.FUNCTION,
        "Memory test, one full pass",
        "Run the memory test to the end. One error is a failure.",
        minutes=3,
        alone_minutes=20,
    ),
    Check(
        "fn-clock",
        Group.FUNCTION,
        "Clock keeps time unplugged",
        "Set the clock, switch off, unplug for ten minutes, look again.",
        when="battery!=none",
        minutes=2,
        alone_minutes=10,
    ),
    Check(
        "soak",
        Group.SOAK,
        "Soak: four hours on, then a cold start",
        "Leave it running four hours on the test loop. Off until cold. It must start and pass the loop once more.",
        minutes=5,
        alone_minutes=240,
    ),
    Check(
        "closed-up",
        Group.CLOSED,
        "The same short set, closed up",
        "Shields, covers and cards back in place, every screw in. Start it, picture, keyboard, one read from each drive.",
        when="form!=board|drive",
        why="Assembly can bring a fault back: a shield that touches, a cable that is pinched, heat that stays in.",
        minutes=12,
    ),
)
