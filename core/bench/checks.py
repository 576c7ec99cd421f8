"""What a check is, and what it needs to know of a machine. The checks themselves stand in check_library.py."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from decimal import Decimal
from enum import StrEnum
from typing import Any

from core.bench.conditions import holds
from core.machine.supply import Battery, Supply
from core.safety import HEAVY, Hazard, said


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


class CheckKind(StrEnum):
    """What is done at a step, and so what it takes to record it."""

    LOOK = "look"
    DO = "do"
    MEASURE = "measure"
    LOAD = "load"
    TIMED = "timed"
    PART = "part"
    CELLS = "cells"
    BLEED = "bleed"
    LISTEN = "listen"

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
            "listen": "listen, and keep the sound",
        }[self.value]


# Shapes that run by themselves, that show a picture of their own, and that can hold a CRT.
MACHINES = frozenset({"keyboard", "desktop", "tower", "all_in_one", "laptop", "luggable", "terminal"})
OPENED = MACHINES | {"monitor", "cabinet"}
WITH_TUBE = frozenset({"all_in_one", "luggable", "terminal", "monitor"})
# Parts that take their power from what they sit in.
FED = frozenset({"board", "card", "chip", "drive"})
# Things that have no cell of their own.
NO_CELL = frozenset({"monitor", "drive", "chip", "cabinet", "adapter"})


@dataclass(frozen=True)
class BenchFacts:
    """What the plan needs to know of one thing on the bench, as it is now; None is not known.

    `drives`: how many are in it. `adapter_volts`: what the plate of the adapter says, or the model wants.
    `missing`: names of things that should be there and are not, in small letters.
    """

    supply: Supply = Supply.UNKNOWN
    battery: Battery = Battery.UNKNOWN
    picture_tube: bool | None = None
    drives: int | None = None
    keyboard: bool | None = None
    mains_known: bool = False
    adapter_volts: Decimal | None = None
    leak_found: bool = False
    rework_found: bool = False
    swollen_found: bool = False
    cell_found: bool = False
    form_factor: str = "desktop"
    approach: str = ""
    model: str = ""
    needs_cell: bool = False
    missing: tuple[str, ...] = ()

    @property
    def is_adapter(self) -> bool:
        return self.form_factor == "adapter"

    @property
    def machine(self) -> bool:
        """Runs by itself, rather than being a part of something."""
        return self.form_factor in MACHINES

    @property
    def tube(self) -> bool:
        """Whether a CRT is in it, or may be: what is not known is treated as if it were there."""
        return self.picture_tube if self.picture_tube is not None else self.form_factor in WITH_TUBE

    @property
    def supply_here(self) -> Supply:
        """The supply; a bare part has none of its own unless somebody recorded one."""
        fed = self.supply is Supply.UNKNOWN and self.form_factor in FED
        return Supply.NONE if fed else self.supply

    @property
    def battery_here(self) -> Battery:
        """The battery; a thing that never has one has none unless somebody recorded one."""
        never = self.battery is Battery.UNKNOWN and self.form_factor in NO_CELL
        return Battery.NONE if never else self.battery

    @property
    def named(self) -> dict[str, object]:
        """The facts by the names that conditions use."""
        return {
            "supply": self.supply_here.value,
            "battery": self.battery_here.value,
            "mains": "known" if self.mains_known else "unknown",
            "form": self.form_factor,
            "approach": self.approach,
            "machine": self.machine,
            "opens": self.form_factor in OPENED,
            "shows": self.machine or self.form_factor == "monitor",
            "tube": self.tube,
            "drives": self.machine and self.drives != 0,
            "keyboard": self.machine and self.keyboard is not False,
            "leak": self.leak_found,
            "rework": self.rework_found,
            "swollen": self.swollen_found,
            "cell": self.cell_found,
            "heavy": self.form_factor in HEAVY,
            "needscell": self.needs_cell,
        }


@dataclass(frozen=True)
class Limits:
    """From `low` to `high` in `unit`, both allowed; `nominal` is what it should be.

    A low of 0 is no limit of its own: a reading is then judged by its size, whichever way round the leads are.
    """

    low: Decimal
    high: Decimal
    unit: str
    nominal: Decimal | None = None

    @property
    def by_size(self) -> bool:
        return self.low == 0


class Plate(StrEnum):
    """Limits that follow from the plate of an adapter: its output open, and under its rated load."""

    OPEN = "open"
    LOADED = "loaded"


# Of the plate's volts: an unregulated adapter reads up to 45 % high unloaded, and within -10 and +15 % under its
# rated load; a regulated one stays at the low end of both (common practice, no source).
_PLATE_SHARES = {
    Plate.OPEN: (Decimal("0.95"), Decimal("1.45")),
    Plate.LOADED: (Decimal("0.90"), Decimal("1.15")),
}


def plate_limits(plate: Plate, volts: Decimal) -> Limits:
    """Limits for an adapter whose plate says `volts` (above 0), to a tenth of a volt."""
    low, high = (round(volts * share, 1) for share in _PLATE_SHARES[plate])
    return Limits(low, high, "V", volts)


class Known(StrEnum):
    """What must have been recorded before a step can be passed."""

    BATTERY = "battery"
    MAINS = "mains"
    ADAPTER = "adapter"
    ADAPTER_WHOLE = "adapter_whole"

    @property
    def words(self) -> str:
        return {
            "battery": "Which battery is in it is not recorded. Look, and say first what you found.",
            "mains": "Which mains it wants is not recorded. Read plate and selector, and say what they say first.",
            "adapter": "What the plate of the adapter says is not recorded. Record its volts at intake first.",
            "adapter_whole": "Of the adapter it wants, AC or DC, volts, amperes and the poles of a DC plug must all be "
            "recorded. Record them at intake first.",
        }[self.value]


@dataclass(frozen=True)
class Check:
    """One check. `gate`: later steps stay locked until it is passed; `safety`: its failure is a hold.

    `when` says for which machines it is wanted (see core/bench/conditions.py), `for_model` binds it to one model
    by its name. Minutes are hands-on, `alone_minutes` those in which it runs by itself. `hazards` bring their
    cautions along, `caution` is its own. `known` and `plate`: what must be recorded first, and limits that follow
    from it. `alternating`: volts are read as AC. `starts`: it is a start of the machine too, `cold` or `closed` up;
    `first_power`: its very first. `discharges`: what has no charge left once it passed, "supply" or "tube".
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
    kind: CheckKind | None = None
    hazards: tuple[Hazard, ...] = ()
    known: Known | None = None
    plate: Plate | None = None
    alternating: bool = False
    starts: bool = False
    first_power: bool = False
    discharges: str = ""
    cold: bool = False
    closed: bool = False
    for_model: str = ""

    @property
    def cautions(self) -> tuple[str, ...]:
        """What to take care of at this step: its own caution, then those of its hazards."""
        return (*filter(None, [self.caution]), *said(self.hazards))

    @property
    def does(self) -> CheckKind:
        """The kind of step, by what it has when nothing is said."""
        if self.kind:
            return self.kind
        if self.limits or self.plate:
            return CheckKind.MEASURE
        return CheckKind.TIMED if self.alone_minutes else CheckKind.LOOK if self.group is Group.LOOK else CheckKind.DO

    @property
    def asks(self) -> bool:
        """Whether something is to be typed: a reading, or what an answer is worked out from."""
        return self.limits is not None or self.does in {CheckKind.PART, CheckKind.CELLS, CheckKind.BLEED}

    @property
    def about_adapter(self) -> bool:
        """Whether what the plate of an adapter says must be known first."""
        return self.known in {Known.ADAPTER, Known.ADAPTER_WHOLE}

    @property
    def about_mains(self) -> bool:
        return self.known is Known.MAINS

    @property
    def listens(self) -> bool:
        """Whether a sound is kept with it."""
        return self.does is CheckKind.LISTEN

    @property
    def under_load(self) -> bool:
        """Whether what is typed are pairs of amperes and volts."""
        return self.does is CheckKind.LOAD

    @property
    def powered(self) -> bool:
        """Whether the thing has power during this step, on the mains or from a fixture."""
        return self.group in {Group.SUPPLY, Group.POWER, Group.FUNCTION, Group.SOAK, Group.CLOSED}

    @property
    def hands_in(self) -> bool:
        """Whether hands or probes go where charge may be left: it wants a discharge since the last power."""
        return self.group is Group.COLD

    def wanted(self, facts: BenchFacts) -> bool:
        return self.for_model in {"", facts.model} and holds(self.when, facts.named)

    def filled(self, facts: BenchFacts) -> "Check":
        """With the limits that follow from this very thing's adapter; unchanged while its plate is not recorded."""
        if self.plate is None or facts.adapter_volts is None:
            return self
        return replace(self, limits=plate_limits(self.plate, facts.adapter_volts))


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
        "hazards": [hazard.value for hazard in check.hazards],
        "known": check.known.value if check.known else None,
        "plate": check.plate.value if check.plate else None,
        "alternating": check.alternating,
        "starts": check.starts,
        "first_power": check.first_power,
        "discharges": check.discharges,
        "cold": check.cold,
        "closed": check.closed,
        "for_model": check.for_model,
    }


def from_data(data: Mapping[str, Any]) -> Check:
    """The check that as_data wrote down, or an earlier version of it that knew less."""
    limits = data["limits"]
    return Check(
        **{
            **data,
            "group": Group(data["group"]),
            "kind": CheckKind(data["kind"]),
            "limits": None
            if limits is None
            else Limits(
                Decimal(limits[0]), Decimal(limits[1]), limits[2], None if limits[3] is None else Decimal(limits[3])
            ),
            "hazards": tuple(Hazard(name) for name in data.get("hazards", ())),
            "known": Known(data["known"]) if data.get("known") else None,
            "plate": Plate(data["plate"]) if data.get("plate") else None,
        }
    )


def check_limits(low: str, nominal: str, high: str, unit: str = "V") -> Limits:
    """Limits written as text, so that they stay exact."""
    return Limits(Decimal(low), Decimal(high), unit, Decimal(nominal))
