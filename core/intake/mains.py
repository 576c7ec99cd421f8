"""Mains and supply variants, and adapters that must not be mixed up."""

import re
from collections.abc import Mapping
from dataclasses import dataclass
from decimal import Decimal
from enum import StrEnum


class Mains(StrEnum):
    """What a machine may be plugged into."""

    UNKNOWN = "unknown"
    V100_120 = "v100_120"
    V220_240 = "v220_240"
    SWITCHABLE = "switchable"
    AUTO = "auto"
    ADAPTER_DC = "adapter_dc"
    ADAPTER_AC = "adapter_ac"
    NONE = "none"

    @property
    def label(self) -> str:
        return {
            "unknown": "not known yet",
            "v100_120": "100–120 V",
            "v220_240": "220–240 V",
            "switchable": "switchable 115/230 V",
            "auto": "auto-ranging",
            "adapter_dc": "external adapter, DC",
            "adapter_ac": "external adapter, AC",
            "none": "none of its own",
        }[self.value]


class Polarity(StrEnum):
    CENTRE_PLUS = "centre_plus"
    CENTRE_MINUS = "centre_minus"
    NONE = "none"

    @property
    def label(self) -> str:
        return {"centre_plus": "centre plus", "centre_minus": "centre minus", "none": "does not matter"}[self.value]


@dataclass(frozen=True)
class Adapter:
    """What an adapter gives or a machine wants: volts, amperes, AC or DC, and how the plug is poled."""

    volts: Decimal
    amps: Decimal
    alternating: bool
    polarity: Polarity = Polarity.NONE


def why_not(wanted: Adapter, offered: Adapter) -> str:
    """Why an adapter must not be used, in words; empty when nothing speaks against it.

    The same kind of current always; poles as wanted for DC; volts within 5 %; at least the amperes
    (common practice, no source).
    """
    if wanted.alternating != offered.alternating:
        kinds = ("AC", "DC") if offered.alternating else ("DC", "AC")
        return f"It gives {kinds[0]}, the machine wants {kinds[1]}: never swap them, even at the same voltage."
    if not wanted.alternating and wanted.polarity is not offered.polarity:
        return f"The plug is {offered.polarity.label}, the machine wants {wanted.polarity.label}."
    if abs(offered.volts - wanted.volts) > wanted.volts * Decimal("0.05"):
        return f"It gives {offered.volts} V, the machine wants {wanted.volts} V."
    if offered.amps < wanted.amps:
        return f"It gives {offered.amps} A at most, the machine wants {wanted.amps} A."
    return ""


_PLATE = re.compile(
    r"(?P<volts>\d{1,3}(?:[.,]\d{1,2})?) ?v ?(?P<kind>ac|dc|~|=)?[ ,;]*"
    r"(?P<amps>\d{1,4}(?:[.,]\d{1,2})?) ?(?P<milli>m)?a(?: ?(?P<late>ac|dc))?[ ,;]*"
    r"(?P<pole>cent(?:re|er) ?(?:plus|minus|\+|-))?"
)


def read_plate(text: str) -> Adapter:
    """An adapter as its plate says: "9 V DC 1 A centre minus", "9V~ 850mA". ValueError in words for anything else."""
    said = _PLATE.fullmatch(" ".join(text.lower().split()))
    if not said or not (said["kind"] or said["late"]):
        raise ValueError("Type what the plate says: 9 V DC 1 A centre minus.")
    amps = Decimal(said["amps"].replace(",", ".")) / (1000 if said["milli"] else 1)
    pole = said["pole"] or ""
    polarity = Polarity.NONE
    if pole:
        polarity = Polarity.CENTRE_PLUS if pole.endswith(("plus", "+")) else Polarity.CENTRE_MINUS
    alternating = (said["kind"] or said["late"]) in {"ac", "~"}
    return Adapter(Decimal(said["volts"].replace(",", ".")), amps, alternating, polarity)


@dataclass(frozen=True)
class SuffixRule:
    """A maker's way to number variants: a base number, and what each step above it stands for."""

    base: int
    variants: Mapping[int, Mains]


def variant_by_number(rule: SuffixRule, number: int) -> Mains | None:
    """The variant a model number stands for by a rule; None when the rule says nothing about it."""
    return rule.variants.get(number - rule.base)
