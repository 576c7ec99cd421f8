"""What feeds a machine, and the cells in it."""

from enum import StrEnum


class Supply(StrEnum):
    UNKNOWN = "unknown"
    LINEAR = "linear"
    SWITCHING = "switching"
    EXTERNAL_DC = "external_dc"
    EXTERNAL_AC = "external_ac"
    NONE = "none"

    @property
    def label(self) -> str:
        return _SUPPLY_LABELS[self]

    @property
    def external(self) -> bool:
        return self in {Supply.EXTERNAL_DC, Supply.EXTERNAL_AC}


_SUPPLY_LABELS = {
    Supply.UNKNOWN: "not known",
    Supply.LINEAR: "linear, inside",
    Supply.SWITCHING: "switching, inside",
    Supply.EXTERNAL_DC: "external adapter, DC out",
    Supply.EXTERNAL_AC: "external adapter, AC out",
    Supply.NONE: "none: part of another machine",
}


class Battery(StrEnum):
    UNKNOWN = "unknown"
    NONE = "none"
    OUT = "out"
    NICD = "nicd"
    LITHIUM = "lithium"
    ALKALINE = "alkaline"
    # A portable with a pack to run from, and a cell that keeps its clock.
    BOTH = "both"

    @property
    def is_in(self) -> bool:
        return self not in {Battery.UNKNOWN, Battery.NONE, Battery.OUT}

    @property
    def has_lithium(self) -> bool:
        return self in {Battery.LITHIUM, Battery.BOTH}

    @property
    def leaks(self) -> bool:
        return self in {Battery.NICD, Battery.ALKALINE, Battery.BOTH}

    @property
    def label(self) -> str:
        return {
            "unknown": "not known",
            "none": "none",
            "out": "taken out",
            "nicd": "rechargeable (NiCd or NiMH)",
            "lithium": "lithium cell",
            "alkaline": "alkaline",
            "both": "rechargeable pack and a lithium cell",
        }[self.value]
