"""What opening a machine costs for every set of places at once: each alternative of the ways is gone through once."""

import math
from collections.abc import Callable, Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import reduce
from itertools import product
from operator import or_

import numpy as np
from numpy.typing import NDArray

from core.catalogue.assemblies import StripDown
from core.workshop.stripdown.way_in import Costs, way_in

MOST_PLACES = 12
# More combinations of alternatives than this are not gone through; ten forks make 1024.
MOST_COMBINATIONS = 1024
_WORD = 16


@dataclass(frozen=True)
class OpeningSets:
    """By set of places as bits, place 0 the lowest: minutes in and back over what is off already, the weight (minutes
    and breakage, hundredths of a minute). `exact` is False where each place was taken by its own cheapest way."""

    minutes: NDArray[np.int64]
    weight: NDArray[np.int64]
    exact: bool = True


def opening_sets(
    strip: StripDown, places: Sequence[str], costs: Costs, off: Collection[str] = (), targets: Collection[str] = ()
) -> OpeningSets:
    """For each of the 2^n sets of `places` (at most 12; ValueError otherwise): what it adds to an opening that reaches
    `targets`, with `off` off already. The way of least weight, over all alternatives."""
    if len(places) > MOST_PLACES:
        raise ValueError(f"At most {MOST_PLACES} places at once.")
    names = sorted(strip.assemblies)
    bit = {name: number for number, name in enumerate(names)}
    minutes = _tables(np.array([strip[name].minutes for name in names], dtype=np.int64))
    weight = _tables(np.array([costs.weight(strip, name) for name in names], dtype=np.int64))
    already = frozenset(off)
    wanted = [*(frozenset({place}) - already for place in places), frozenset(targets) - already]
    found = _ways(strip, wanted, already, bit)
    exact = found is not None
    if found is None:
        steps = (way_in(strip, one, costs, already).steps for one in wanted)
        found = iter([[sum(1 << bit[name] for name in names) for names in steps]])
    best = np.full(1 << len(places), np.iinfo(np.int64).max)
    minutes_of = np.zeros_like(best)
    for closures in found:
        sets = _unions(np.array([_words(closure, len(names)) for closure in closures], dtype=np.uint16))
        now = _sums(sets, weight)
        if (better := now < best).any():
            best = np.where(better, now, best)
            minutes_of = np.where(better, _sums(sets, minutes), minutes_of)
    return OpeningSets(minutes_of - minutes_of[0], best - best[0], exact)


def of_each_way(
    strip: StripDown, places: Sequence[str], costs: Costs, off: Collection[str] = (), targets: Collection[str] = ()
) -> Callable[[int], tuple[int, int]]:
    """(minutes, weight) of a set of places by bits, however many there are: exact up to twelve, beyond that with each
    place reached by its own cheapest way."""
    if len(places) <= MOST_PLACES:
        sets = opening_sets(strip, places, costs, off, targets)
        return lambda bits: (int(sets.minutes[bits]), int(sets.weight[bits]))
    base = frozenset(way_in(strip, targets, costs, off).steps)
    steps = [frozenset(way_in(strip, {place}, costs, off).steps) - base for place in places]

    def together(bits: int) -> tuple[int, int]:
        off_too = frozenset().union(*(one for place, one in enumerate(steps) if bits >> place & 1))
        return sum(strip[name].minutes for name in off_too), sum(costs.weight(strip, name) for name in off_too)

    return together


def _ways(
    strip: StripDown, wanted: Sequence[frozenset[str]], off: frozenset[str], bit: Mapping[str, int]
) -> Iterator[list[int]] | None:
    """For each way to choose among alternatives: what has to come off for each of `wanted`, as bits; None when there
    are too many. Choices that wait for each other are left out: for every set, one that does not is as good."""
    left = set().union(*wanted)
    choices: dict[str, list[frozenset[str]]] = {}
    while left:
        name = left.pop()
        ways = {way - off for way in strip[name].ways}
        choices[name] = [] if frozenset() in ways else sorted(ways, key=sorted)
        left |= {other for way in choices[name] for other in way} - choices.keys()
    forks = sorted(name for name, ways in choices.items() if len(ways) > 1)
    if math.prod(len(choices[name]) for name in forks) > MOST_COMBINATIONS:
        return None

    # In the order in which they can come off, few choices have to be looked at twice.
    order = [name for name in strip.reachable() if name in choices]

    def each() -> Iterator[list[int]]:
        seen = set()
        by = {name: ways[0] if ways else frozenset() for name, ways in choices.items()}
        for chosen in product(*(choices[name] for name in forks)):
            by.update(zip(forks, chosen, strict=True))
            behind = _behind(order, by, bit)
            if behind is None:
                continue
            closures = [reduce(or_, (behind[name] for name in one), 0) for one in wanted]
            if (key := tuple(closures)) not in seen:
                seen.add(key)
                yield closures

    return each()


def _behind(order: Sequence[str], by: Mapping[str, frozenset[str]], bit: Mapping[str, int]) -> dict[str, int] | None:
    """What comes off for each, itself among it, as bits; None when the ways chosen wait for each other."""
    done: dict[str, int] = {}
    left = order
    while left:
        later = []
        for name in left:
            bits = 1 << bit[name]
            for other in by[name]:
                if other not in done:
                    later.append(name)
                    break
                bits |= done[other]
            else:
                done[name] = bits
        if len(later) == len(left):
            return None
        left = later
    return done


def _words(closure: int, count: int) -> list[int]:
    """The bits in words of 16, for so many names."""
    return [closure >> place & 0xFFFF for place in range(0, count, _WORD)]


def _unions(words: NDArray[np.uint16]) -> NDArray[np.uint16]:
    """The union for every set of the rows but the last, which is in all of them."""
    sets = np.empty((1 << len(words) - 1, words.shape[1]), dtype=np.uint16)
    sets[0] = words[-1]
    for place, row in enumerate(words[:-1]):
        np.bitwise_or(sets[: 1 << place], row, out=sets[1 << place : 2 << place])
    return sets


def _tables(of: NDArray[np.int64]) -> list[NDArray[np.int64]]:
    """For each word of 16 bits: the sum of `of` over its bits, for every value it can have."""
    tables = []
    for place in range(0, len(of), _WORD):
        table = np.zeros(1, dtype=np.int64)
        for value in of[place : place + _WORD]:
            table = np.concatenate([table, table + value])
        tables.append(table)
    return tables


def _sums(sets: NDArray[np.uint16], tables: Sequence[NDArray[np.int64]]) -> NDArray[np.int64]:
    whole = np.zeros(len(sets), dtype=np.int64)
    for word, table in enumerate(tables):
        whole += table[sets[:, word]]
    return whole
