"""In which order assemblies come off and go on: the smallest set that opens a way, and orders that no rule forbids.

Exact, by CP-SAT where there are alternatives; where there are none, the closure of what stands before.
"""

from collections.abc import Callable, Collection, Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from ortools.sat.python import cp_model

from core import solving
from core.catalogue.assemblies import AssemblyError, StripDown, find_ring, waits_for

SECONDS = 5.0
# Of what may come next the least comes; it is given the name and what came before.
Prefer = Callable[[str, list[str]], tuple[Any, ...]]
Choices = Mapping[str, list[frozenset[str]]]
Chosen = dict[tuple[str, int], cp_model.IntVar]


@dataclass(frozen=True)
class Opening:
    """What comes off to reach something, and by which of its ways each does."""

    off: frozenset[str]
    ways: Mapping[str, frozenset[str]]


def cheapest(
    strip: StripDown, targets: Iterable[str], cost: Callable[[str], int], off: Collection[str] = ()
) -> Opening:
    """The set to take off that reaches all targets at the least sum of `cost` (whole numbers, 0 or more).

    What is `off` already costs nothing and is not in it. Equal sums: fewer assemblies. KeyError for an unknown target,
    AssemblyError when no way was found in time.
    """
    already = frozenset(off)
    wanted = {name for name in targets if name not in already}
    concerned = _behind(strip, wanted, already)
    choices = {name: _ways(strip, name, already) for name in concerned}
    if all(len(ways) <= 1 for ways in choices.values()):
        return Opening(frozenset(concerned), {name: ways[0] for name, ways in choices.items() if ways})
    model = cp_model.CpModel()
    names = sorted(concerned)
    taken = {name: model.new_bool_var(name) for name in names}
    place = {name: model.new_int_var(0, len(names), f"place of {name}") for name in names}
    chosen = _choose(model, choices, taken, place, before=True)
    for name in wanted:
        model.add(taken[name] == 1)
    model.minimize(sum(taken[name] * (cost(name) * (len(names) + 1) + 1) for name in names))
    found = _solve(model)
    result = frozenset(name for name in names if found.value(taken[name]))
    return Opening(result, _chosen(found, choices, chosen, result))


def off_order(opening: Opening, prefer: Prefer = lambda name, done: (name,)) -> list[str]:
    """An order to take it off: nothing before what its way asks for; of what may come next the least by `prefer`,
    which is given the name and what came before it."""
    waits = {name: set(opening.ways.get(name, ())) & opening.off for name in opening.off}
    return _in_order(waits, prefer)


def on_order(strip: StripDown, off: Collection[str], prefer: Prefer = lambda name, done: (name,)) -> list[str]:
    """An order to put back all that is off: a thing goes on while a way to it is open, after what its rules ask for.

    Raises AssemblyError naming the ring when no order does.
    """
    here = frozenset(off)
    ways = _open_ways(strip, here)
    waits: dict[str, set[str]] = {name: set(strip[name].on_after) & here for name in here}
    for name, way in ways.items():
        for cover in way & here:
            waits[cover].add(name)
    return _in_order(waits, prefer)


def check(strip: StripDown) -> StripDown:
    """The same, when with all of it off an order puts all of it back; AssemblyError names the ring that does not."""
    on_order(strip, set(strip.assemblies))
    return strip


def _open_ways(strip: StripDown, off: frozenset[str]) -> dict[str, frozenset[str]]:
    """By which way each thing that is off goes back, so that no rule stands against another if that can be."""
    # A way is open while all of it is off; whatever of it is on already can't be waited for.
    choices = {name: [way for way in strip[name].ways if way <= off] for name in off}
    if all(len(ways) <= 1 for ways in choices.values()):
        return {name: ways[0] for name, ways in choices.items() if ways}
    model = cp_model.CpModel()
    place = {name: model.new_int_var(0, len(off), f"place of {name}") for name in sorted(off)}
    taken = {name: model.new_constant(1) for name in off}
    chosen = _choose(model, choices, taken, place, before=False)
    for name in off:
        for other in strip[name].on_after & off:
            model.add(place[name] >= place[other] + 1)
    try:
        found = _solve(model)
    except solving.NoAnswer:
        # By whichever of its ways: the ring that stands in the way is named when they are put in order.
        return {name: ways[0] for name, ways in choices.items() if ways}
    return _chosen(found, choices, chosen, off)


def _choose(
    model: cp_model.CpModel,
    choices: Choices,
    taken: Mapping[str, cp_model.IntVar],
    place: Mapping[str, cp_model.IntVar],
    *,
    before: bool,
) -> Chosen:
    """What is taken goes by exactly one of its ways, and stands after (`before`) or before all that is in it."""
    chosen = {}
    for name in sorted(choices):
        ways = choices[name]
        for number, way in enumerate(ways):
            by = model.new_bool_var(f"{name} by {number}")
            chosen[name, number] = by
            for other in sorted(way & set(place)):
                model.add_implication(by, taken[other])
                first, then = (other, name) if before else (name, other)
                model.add(place[then] >= place[first] + 1).only_enforce_if(by)
        if ways:
            model.add(sum(chosen[name, number] for number in range(len(ways))) == taken[name])
    return chosen


def _chosen(
    found: solving.Solved, choices: Choices, chosen: Chosen, names: Collection[str]
) -> dict[str, frozenset[str]]:
    return {
        name: way for name in names for number, way in enumerate(choices[name]) if found.value(chosen[name, number])
    }


def _solve(model: cp_model.CpModel) -> solving.Solved:
    try:
        return solving.solve(model, SECONDS, "way")
    except solving.NotInTime as problem:
        raise AssemblyError(str(problem)) from problem


def _ways(strip: StripDown, name: str, off: frozenset[str]) -> list[frozenset[str]]:
    """What is still to come off by each of its ways, shortest first; none when one of them is open already."""
    ways = {way - off for way in strip[name].ways}
    return [] if frozenset() in ways else sorted(ways, key=lambda way: (len(way), sorted(way)))


def _behind(strip: StripDown, targets: Iterable[str], off: frozenset[str]) -> set[str]:
    """The targets and all that any of their ways leads over."""
    found: set[str] = set()
    left = set(targets)
    while left:
        name = left.pop()
        found.add(name)
        left |= {other for way in _ways(strip, name, off) for other in way} - found
    return found


def _in_order(waits: Mapping[str, set[str]], prefer: Prefer) -> list[str]:
    done: list[str] = []
    left = set(waits)
    while left:
        ready = [name for name in left if not waits[name] & left]
        if not ready:
            ring = find_ring({name: waits[name] & left for name in left})
            raise AssemblyError(f"Nothing can be put back: {waits_for(ring)}.", "on_after", ring)
        name = min(ready, key=lambda name: (*prefer(name, done), name))
        done.append(name)
        left.remove(name)
    return done
