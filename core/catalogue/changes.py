"""What follows when an assembly is called something else, or is not in the machine after all."""

from collections.abc import Iterable
from dataclasses import replace

from core.catalogue.assemblies import Assembly, StripDown


def renamed(assembly: Assembly, was: str, name: str) -> Assembly:
    """The same, where it names the one that was called `was`."""

    def follow(names: Iterable[str]) -> frozenset[str]:
        return frozenset(name if other == was else other for other in names)

    return replace(assembly, ways=tuple(map(follow, assembly.ways)), on_after=follow(assembly.on_after))


def without(strip: StripDown, name: str) -> StripDown:
    """The machine without one assembly; what stood on it stands on what it stood on."""
    gone = strip[name]
    kept = {}
    for other in strip.assemblies.values():
        if other.name == name:
            continue
        ways = tuple(
            dict.fromkeys(
                way - {name} | instead
                for way in other.ways
                for instead in ((gone.ways or (frozenset(),)) if name in way else (frozenset(),))
            )
        )
        free = frozenset() in ways
        kept[other.name] = replace(other, ways=() if free else ways, on_after=other.on_after - {name})
    return StripDown(kept)
