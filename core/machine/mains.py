"""Mains and supply variants, and adapters that must not be mixed up."""

import re
from collections.abc import Mapping
from dataclasses import dataclass
from decimal import Decimal
from enum import StrEnum

from core.machine.measures import AMPS_WORDS, MOST_ADAPTER_AMPS, MOST_ADAPTER_VOLTS, VOLTS_WORDS


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
            "unknown": "not known",
            "v100_120": "100–120 V",
            "v220_240": "220–240 V",
            "switchable": "switchable 115/230 V",
            "auto": "auto-ranging",
            "adapter_dc": "external adapter, DC",
            "adapter_ac": "external adapter, AC",
            "none": "none of its own",
        }[self.value]


class Polarity(StrEnum):
    """How the plug of an adapter is poled; of alternating current it has none."""

    UNKNOWN = "unknown"
    CENTRE_PLUS = "centre_plus"
    CENTRE_MINUS = "centre_minus"
    NONE = "none"

    @property
    def label(self) -> str:
        return {
            "unknown": "not known",
            "centre_plus": "centre plus",
            "centre_minus": "centre minus",
            "none": "alternating: has none",
        }[self.value]


@dataclass(frozen=True)
class Adapter:
    """What an adapter gives or a machine wants: volts, amperes, AC or DC, and how the plug is poled."""

    volts: Decimal
    amps: Decimal
    alternating: bool
    polarity: Polarity = Polarity.UNKNOWN

    @property
    def words(self) -> str:
        poles = "" if self.alternating else f", {self.polarity.label if self.poled else 'poles not known'}"
        return f"{self.volts.normalize():f} V {'AC' if self.alternating else 'DC'}, {self.amps.normalize():f} A{poles}"

    @property
    def whole(self) -> bool:
        """Whether all that must agree was stated: for direct current the poles of the plug too."""
        return self.alternating or self.poled

    @property
    def poled(self) -> bool:
        """Whether the poles of a DC plug were stated."""
        return self.polarity in {Polarity.CENTRE_PLUS, Polarity.CENTRE_MINUS}


@dataclass(frozen=True)
class AdapterVerdict:
    """`may` is True only when everything that matters was stated and agrees; None while something is not known."""

    may: bool | None
    words: str


def compare_adapters(wanted: Adapter, offered: Adapter) -> AdapterVerdict:
    """Whether an adapter may be used for a machine, with the reason.

    The same kind of current always; poles as wanted for DC, stated on both; volts within 5 %; at least the
    amperes (common practice, no source).
    """
    if wanted.alternating != offered.alternating:
        gives, wants = ("AC", "DC") if offered.alternating else ("DC", "AC")
        return AdapterVerdict(
            False, f"It gives {gives}, the machine wants {wants}: never swap them, even at one voltage."
        )
    if not wanted.alternating and wanted.poled and offered.poled and wanted.polarity is not offered.polarity:
        return AdapterVerdict(
            False, f"The plug is {offered.polarity.label}, the machine wants {wanted.polarity.label}."
        )
    if abs(offered.volts - wanted.volts) > wanted.volts * Decimal("0.05"):
        return AdapterVerdict(False, f"It gives {offered.volts} V, the machine wants {wanted.volts} V.")
    if offered.amps < wanted.amps:
        return AdapterVerdict(False, f"It gives {offered.amps} A at most, the machine wants {wanted.amps} A.")
    if wanted.alternating:
        return AdapterVerdict(True, "AC on both, volts agree, amperes are enough.")
    if not (wanted.poled and offered.poled):
        whose = "of the machine" if not wanted.poled else "of the adapter"
        return AdapterVerdict(None, f"The poles {whose} are not known: read the plate or measure the plug first.")
    return AdapterVerdict(True, "DC on both, poles and volts agree, amperes are enough.")


_NUMBER = r"\d{1,3}(?:[.,]\d{1,3})?"
_PLATE = re.compile(
    rf"(?P<volts>{_NUMBER}) ?v ?(?P<kind>ac|dc|~|=)?[ ,;]*"
    rf"(?P<amps>\d{{1,4}}(?:[.,]\d{{1,3}})?) ?(?P<milli>m)?a(?: ?(?P<late>ac|dc))?[ ,;]*"
    r"(?P<pole>cent(?:re|er) ?(?:plus|minus|positive|negative|\+|-|−))?"
)


def read_plate(text: str) -> Adapter:
    """An adapter as its plate says: "9 V DC 1 A centre minus", "9V~ 850mA". ValueError in words for anything else."""
    said = _PLATE.fullmatch(" ".join(text.lower().split()))
    if not said or not (said["kind"] or said["late"]):
        raise ValueError("Type what the plate says: 9 V DC 1 A centre minus.")
    volts, amps = (Decimal(said[name].replace(",", ".")) for name in ("volts", "amps"))
    amps = amps / 1000 if said["milli"] else amps
    if not volts or not amps:
        raise ValueError("Volts and amperes are above 0.")
    if volts > MOST_ADAPTER_VOLTS:
        raise ValueError(VOLTS_WORDS)
    if amps > MOST_ADAPTER_AMPS:
        raise ValueError(AMPS_WORDS)
    alternating = (said["kind"] or said["late"]) in {"ac", "~"}
    pole = said["pole"] or ""
    if alternating:
        return Adapter(volts, amps, True, Polarity.NONE)
    if not pole:
        return Adapter(volts, amps, False, Polarity.UNKNOWN)
    plus = pole.endswith(("plus", "positive", "+"))
    return Adapter(volts, amps, False, Polarity.CENTRE_PLUS if plus else Polarity.CENTRE_MINUS)


def mains_words(variant: Mains, typed: str) -> str:
    """What is known of the mains a machine wants, in words; "not known" when nobody recorded it.

    The one source for every page, report and listing: what intake chose, then what it typed besides.
    """
    if variant is Mains.UNKNOWN:
        return typed or "not known"
    return f"{variant.label}, {typed}" if typed and typed != variant.label else variant.label


def mains_known(variant: Mains, typed: str) -> bool:
    return variant is not Mains.UNKNOWN or bool(typed)


@dataclass(frozen=True)
class SuffixRule:
    """A maker's way to number variants: a base number, and what each step above it stands for."""

    base: int
    variants: Mapping[int, Mains]


def variant_by_number(rule: SuffixRule, number: int) -> Mains | None:
    """The variant a model number stands for by a rule; None when the rule says nothing about it."""
    return rule.variants.get(number - rule.base)
