"""What buyers look for in a machine or shy away from, and whether a machine has it. None is not known."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from decimal import Decimal
from enum import StrEnum

from core.catalogue.fit.machine import Machine
from core.catalogue.fit.needs import Change, Needs
from core.catalogue.fit.schema import FitError, read_size
from core.catalogue.fit.within import clock_in, disk_in, display_in, memory_in
from core.machine.quantities import Mark, QuantityError, read_number

LONGEST = 40


class FeatureError(ValueError):
    """What was written is no feature; in words."""


class Measure(StrEnum):
    """What is measured rather than named."""

    MEMORY = "memory"
    DISPLAY = "display memory"
    DISK = "disk"
    PROCESSOR = "processor"


def _speed(machine: Machine) -> Decimal | None:
    clock = clock_in(machine)
    return clock[1] if clock else None


# What a machine has of each, in bytes or MHz.
_LEVELS: Mapping[Measure, Callable[[Machine], Decimal | int | None]] = {
    Measure.MEMORY: memory_in,
    Measure.DISPLAY: display_in,
    Measure.DISK: disk_in,
    Measure.PROCESSOR: _speed,
}

# What follows from what fitting a part changes, rather than from its name.
MODERN, FOR_GOOD = "modern part", "changed for good"
FROM_CHANGES: Mapping[str, Callable[[Change], bool | None]] = {
    MODERN: lambda change: change.modern,
    FOR_GOOD: lambda change: None if change.reversible is None else not change.reversible,
}


@dataclass(frozen=True)
class Feature:
    """A feature by its name in small letters; with a measure, at least so much of it (bytes, MHz). `written`: as it was
    typed."""

    name: str
    measure: Measure | None = None
    least: Decimal = Decimal(0)
    written: str = field(default="", compare=False)

    def __str__(self) -> str:
        return self.written or self.name


def read_feature(typed: str) -> Feature:
    """A feature as it is written: "sound", or a measure with the least of it: "memory 8 MiB", "processor 33 MHz".

    Raises FeatureError.
    """
    written = " ".join(typed.split())
    name = written.lower()
    if not name or len(name) > LONGEST:
        raise FeatureError(f"“{typed[:20]}”: a name of 1 to {LONGEST} characters")
    for measure in sorted(Measure, key=len, reverse=True):
        if name == measure:
            return Feature(name, measure, Decimal(1), written)
        if name.startswith(f"{measure} ") and name[len(measure) + 1].isdigit():
            return Feature(name, measure, _least(measure, name[len(measure) + 1 :]), written)
    return Feature(name, written=written)


def _least(measure: Measure, typed: str) -> Decimal:
    try:
        if measure is not Measure.PROCESSOR:
            return Decimal(read_size(typed))
        least = read_number(typed.removesuffix("mhz").strip(), Mark.DECIMAL)
    except (FitError, QuantityError) as problem:
        example = "33 MHz" if measure is Measure.PROCESSOR else "8 MiB"
        raise FeatureError(f"“{measure} {typed}”: say how much, such as {measure} {example}") from problem
    if not 0 < least < 100_000:
        raise FeatureError(f"“{measure} {typed}”: MHz from above 0")
    return least


def has(machine: Machine, feature: Feature) -> bool | None:
    """Whether a machine has it: None while that is not known. It has none of what is named once all that is in it is
    written down, and of each it is said what it brings."""
    if feature.measure:
        return reaches(feature, _LEVELS[feature.measure](machine))
    known = [brought(fitted.needs, feature) for fitted in machine.fitted]
    if True in known:
        return True
    return False if machine.whole and None not in known else None


def reaches(feature: Feature, level: Decimal | int | None) -> bool | None:
    """Whether so much is enough."""
    return None if level is None else level >= feature.least


def brought(needs: Needs, feature: Feature) -> bool | None:
    """Whether a part brings a feature that is named."""
    if said := FROM_CHANGES.get(feature.name):
        if needs.changes is None:
            return None
        known = [said(change) for change in needs.changes]
        return True if True in known else None if None in known else False
    if needs.brings is None:
        return None
    return any(one.name.lower() == feature.name for one in needs.brings)
