"""One assembly in hand: the very next thing to do with it, plug by plug and screw by screw."""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from core.catalogue.assemblies import Assembly

ORDINALS = ("first", "second", "third", "fourth", "fifth", "sixth", "seventh", "eighth", "ninth", "tenth")


class Kind(StrEnum):
    PLUG = "plug"
    FASTENER = "fastener"
    CLIPS = "clips"
    WHOLE = "whole"


@dataclass(frozen=True)
class Thing:
    """One press: what it is, of which group or plug (`index`), which of how many, and what the press says."""

    kind: Kind
    index: int
    number: int
    of: int
    said: str


def things_off(assembly: Assembly, found: Sequence[int]) -> tuple[Thing, ...]:
    """What is done to take it off, in order: plugs, then fasteners (as many of each group as were `found`), then
    clips; the last press ends the step. What has none of them is lifted out, or made safe, by one press."""
    plugs = [Thing(Kind.PLUG, i, 1, 1, f"{plug.name} is out") for i, plug in enumerate(assembly.plugs)]
    clips = [Thing(Kind.CLIPS, 0, 1, 1, _clips(assembly.clips, "open"))] if assembly.clips else []
    made = [*plugs, *_fasteners(found, "out"), *clips]
    return tuple(made or [Thing(Kind.WHOLE, 0, 1, 1, _whole(assembly, off=True))])


def things_on(assembly: Assembly, there: Sequence[int]) -> tuple[Thing, ...]:
    """What is done to put it back: it goes in, clips, fasteners (as many of each group as `there` are), then plugs."""
    first = Thing(Kind.WHOLE, 0, 1, 1, _whole(assembly, off=False))
    clips = [Thing(Kind.CLIPS, 0, 1, 1, _clips(assembly.clips, "shut"))] if assembly.clips else []
    plugs = [Thing(Kind.PLUG, i, 1, 1, f"{plug.name} is in") for i, plug in enumerate(assembly.plugs)]
    return (first, *clips, *_fasteners(there, "in"), *plugs)


def _fasteners(counts: Sequence[int], where: str) -> list[Thing]:
    whole, made, number = sum(counts), [], 0
    for index, count in enumerate(counts):
        for _ in range(count):
            number += 1
            made.append(Thing(Kind.FASTENER, index, number, whole, _nth(number, whole, where)))
    return made


def _nth(number: int, whole: int, where: str) -> str:
    if whole == 1:
        return f"The screw is {where}"
    name = ORDINALS[number - 1].capitalize() if number <= len(ORDINALS) else f"Number {number}"
    return f"{name} is {where}" + (f", all {whole}" if number == whole and whole > 2 else "")


def _clips(count: int, how: str) -> str:
    return f"The clip is {how}" if count == 1 else f"All {count} clips are {how}"


def _whole(assembly: Assembly, *, off: bool) -> str:
    if assembly.stays:
        return f"{assembly.name}: made safe" if off else f"{assembly.name}: connected again"
    return f"{assembly.name} is {'off' if off else 'in'}"


def count_of(things: Sequence[Thing], done: int, kind: Kind, index: int | None = None) -> int:
    """How many of a kind are done, when `done` of the things are."""
    return sum(thing.kind is kind and (index is None or thing.index == index) for thing in things[:done])
