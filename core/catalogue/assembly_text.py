"""Assemblies as people type them and as files keep them.

Typed: ways "lid or left panel + bracket"; fasteners "4 × M3 × 6 cross; 2 × M4"; plugs "P8 to main board, colours: bk bk
rd rd; lamp, tied". Files: JSON, one object an assembly. What is read can be written, and reads again the same.
"""

import re
from collections.abc import Iterable, Mapping
from decimal import Decimal, InvalidOperation
from typing import Any

from core.catalogue.assemblies import Assembly, AssemblyError, Fastener, Key, Plug, StoredCharge, StripDown
from core.machine.names import as_seen
from core.safety import Hazard

HEADS = ("cross", "slot", "hex", "star", "thumb", "nut", "rivet")
# Two letters a colour, as stamped on drawings: IEC 60757, from memory.
COLOURS = {
    "bk": "black",
    "bn": "brown",
    "rd": "red",
    "og": "orange",
    "ye": "yellow",
    "gn": "green",
    "bu": "blue",
    "vt": "violet",
    "gy": "grey",
    "wh": "white",
    "pk": "pink",
    "tq": "turquoise",
}
_FASTENER = re.compile(
    r"(?P<count>\d{1,4})\s*(?:[x×*]\s*)?(?P<thread>(?!\d+\s*$)[A-Za-z#]?[\w/.#-]*?)"
    r"(?:\s*[x×*]\s*(?P<length>\d{1,4})(?:\s*mm)?)?(?:\s+(?P<head>[a-z]+))?",
    re.IGNORECASE,
)
_KEYS = {Key.SHAPE: "one way", Key.PIN_1: "pin 1", Key.STRIPE: "stripe", Key.COLOURS: "colours", Key.NONE: "not keyed"}


def _parts(text: str) -> list[str]:
    return [part.strip() for part in re.split(r"[;\n]", text) if part.strip()]


def read_names(text: str, known: Iterable[str], at: str) -> frozenset[str]:
    """Names with "+" between them, as those known are written. AssemblyError for one that is not known."""
    by_sight = {as_seen(name): name for name in known}
    found = set()
    for typed in filter(None, (word.strip() for word in text.split("+"))):
        if as_seen(typed) not in by_sight:
            raise AssemblyError(f"There is no “{typed}” here yet.", at)
        found.add(by_sight[as_seen(typed)])
    return frozenset(found)


def read_ways(text: str, known: Iterable[str]) -> tuple[frozenset[str], ...]:
    """Alternatives with "or" or a semicolon between them; in each, names with "+"."""
    known = list(known)
    ways = [read_names(part, known, "ways") for part in re.split(r";|\n|\bor\b", text) if part.strip()]
    return tuple(dict.fromkeys(ways))


def write_ways(ways: Iterable[frozenset[str]]) -> str:
    return " or ".join(write_names(way) for way in ways)


def write_names(names: Iterable[str]) -> str:
    return " + ".join(sorted(names))


def read_fasteners(text: str) -> tuple[Fastener, ...]:
    found = []
    for part in _parts(text):
        match = _FASTENER.fullmatch(part)
        head = (match["head"] or "").lower() if match else ""
        if not match or (head and head not in HEADS):
            raise AssemblyError(
                f"“{part}”: how many, thread, length in mm, head: 4 × M3 × 6 cross. Heads: {', '.join(HEADS)}.",
                "fasteners",
            )
        length = int(match["length"]) if match["length"] else None
        found.append(Fastener(int(match["count"]), match["thread"] or "", length, head))
    return tuple(found)


def write_fasteners(fasteners: Iterable[Fastener]) -> str:
    return "; ".join(f"{f.count} × {f.kind}" if f.kind != "screw" else str(f.count) for f in fasteners)


def read_plugs(text: str) -> tuple[Plug, ...]:
    """Each: its name, where to, then after commas how it is keyed, "tied", and wires by colour after a colon."""
    return tuple(_plug(part) for part in _parts(text))


def _plug(part: str) -> Plug:
    words, _, wires = part.partition(":")
    first, *rest = [word.strip() for word in words.split(",")]
    name, _, to = first.partition(" to ")
    key, tied = Key.NONE, False
    for word in rest:
        if word == "tied":
            tied = True
        elif word in _KEYS.values():
            key = next(k for k, said in _KEYS.items() if said == word)
        else:
            raise AssemblyError(f"“{word}”: say one of {', '.join(_KEYS.values())}, or tied.", "plugs")
    colours = tuple(wires.split())
    if odd := [colour for colour in colours if colour not in COLOURS]:
        raise AssemblyError(f"“{odd[0]}” is no colour: {', '.join(COLOURS)}.", "plugs")
    return Plug(name.strip(), to.strip(), key, colours, tied)


def write_plugs(plugs: Iterable[Plug]) -> str:
    return "; ".join(
        (f"{p.name} to {p.to}" if p.to else p.name)
        + ("" if p.key is Key.NONE else f", {_KEYS[p.key]}")
        + (", tied" if p.tied else "")
        + (f": {' '.join(p.wires)}" if p.wires else "")
        for p in plugs
    )


def as_data(strip: StripDown) -> list[dict[str, object]]:
    """For a file: one object an assembly, in the order they stand in; what is empty is left out."""
    return [_row(assembly) for assembly in strip.assemblies.values()]


def _row(a: Assembly) -> dict[str, object]:
    row: dict[str, object] = {
        "name": a.name,
        "layer": a.layer,
        "x": [a.x_from, a.x_to],
        "minutes": [a.minutes_off, a.minutes_on],
        "ways": [sorted(way) for way in a.ways],
        "fasteners": write_fasteners(a.fasteners),
        "plugs": write_plugs(a.plugs),
        "clips": a.clips,
        "hazards": [hazard.value for hazard in a.hazards],
        "on_after": sorted(a.on_after),
        "charge": a.charge.value,
        "worth": None if a.worth is None else str(a.worth),
    }
    row |= {name: getattr(a, name) for name in ("brittle", "two_people", "stays", "must_be_in", "board")}
    row |= {name: getattr(a, name) for name in ("side", "how_off", "how_on", "test")}
    return {name: value for name, value in row.items() if value or name in {"layer", "minutes"}}


def from_data(rows: object) -> StripDown:
    """What `as_data` gave, or what somebody wrote like it. AssemblyError in words for anything else."""
    if not isinstance(rows, list) or not all(isinstance(row, Mapping) for row in rows):
        raise AssemblyError("A strip-down is a list of assemblies.")
    found: dict[str, Assembly] = {}
    seen: set[str] = set()
    for number, row in enumerate(rows, 1):
        try:
            assembly = _assembly(row)
        except AssemblyError as problem:
            raise AssemblyError(f"Assembly {number}: {problem}", problem.at) from problem
        except (TypeError, ValueError, KeyError, InvalidOperation) as problem:
            raise AssemblyError(f"Assembly {number} can’t be read: {type(problem).__name__} {problem}.") from problem
        if as_seen(assembly.name) in seen:
            raise AssemblyError(f"{assembly.name} stands there twice.", "name")
        seen.add(as_seen(assembly.name))
        found[assembly.name] = assembly
    return StripDown(found)


def _assembly(row: Mapping[str, Any]) -> Assembly:
    x, minutes = row.get("x") or [0, 1], row["minutes"]
    return Assembly(
        name=_text(row["name"], 40),
        layer=_whole(row["layer"]),
        x_from=_whole(x[0]),
        x_to=_whole(x[1]),
        minutes_off=_whole(minutes[0]),
        minutes_on=_whole(minutes[1]),
        ways=tuple(frozenset(_text(name, 40) for name in way) for way in row.get("ways", ())),
        fasteners=read_fasteners(_text(row.get("fasteners", ""), 400)),
        plugs=read_plugs(_text(row.get("plugs", ""), 600)),
        clips=_whole(row.get("clips", 0)),
        brittle=row.get("brittle") is True,
        hazards=tuple(Hazard(name) for name in row.get("hazards", ())),
        two_people=row.get("two_people") is True,
        on_after=frozenset(_text(name, 40) for name in row.get("on_after", ())),
        charge=StoredCharge(row.get("charge", "")),
        stays=row.get("stays") is True,
        must_be_in=row.get("must_be_in") is True,
        board=row.get("board") is True,
        side=_text(row.get("side", ""), 12),
        worth=None if row.get("worth") is None else read_worth(str(row["worth"])),
        how_off=_text(row.get("how_off", ""), 300),
        how_on=_text(row.get("how_on", ""), 300),
        test=_text(row.get("test", ""), 80),
    )


def read_worth(text: str) -> Decimal:
    worth = Decimal(text)
    if not (worth.is_finite() and 0 <= worth < 10**6):
        raise AssemblyError("What it costs to replace is from 0 to 999,999.", "worth")
    return worth


def _whole(value: object) -> int:
    if isinstance(value, bool) or not isinstance(value, int):
        raise AssemblyError(f"A whole number, not {str(value)[:40]!r}.")
    return value


def _text(value: object, most: int) -> str:
    if not isinstance(value, str):
        raise AssemblyError(f"Words, not {str(value)[:40]!r}.")
    if len(value) > most:
        raise AssemblyError(f"At most {most} characters: “{value[:40]}…” has {len(value)}.")
    return value.strip()
