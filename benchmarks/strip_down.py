"""Ways in and back as multiples of networkx’s topological order of the same machine.

.venv/bin/python -m benchmarks.strip_down
"""

import random
import time
from collections.abc import Callable

import networkx as nx

from core.catalogue.assemblies import Assembly, StripDown
from core.workshop.stripdown.way_back import way_back
from core.workshop.stripdown.way_in import WaysIn, way_in, while_in_there


def machine(count: int, alternatives: int, seed: int = 5) -> StripDown:
    """A machine in layers of eight; so many assemblies can be reached by two ways."""
    dice = random.Random(seed)
    made: list[Assembly] = []
    for number in range(count):
        above = [a.name for a in made if a.layer == number // 8 - 1]
        ways = [frozenset(dice.sample(above, min(2, len(above))))] if above else []
        made.append(
            Assembly(
                f"a{number}", number // 8, 50 * (number % 8), 50 * (number % 8) + 45, dice.randint(1, 8), 3, tuple(ways)
            )
        )
    for number in dice.sample(range(count // 2, count), alternatives):
        above = [a.name for a in made if a.layer < made[number].layer]
        other = frozenset(dice.sample(above, 2))
        one = made[number]
        made[number] = Assembly(
            one.name, one.layer, one.x_from, one.x_to, one.minutes_off, one.minutes_on, (*one.ways, other)
        )
    return StripDown({one.name: one for one in made})


def seconds(act: Callable[[], object], times: int) -> float:
    """The quickest of several goes."""
    best = float("inf")
    for _ in range(times):
        begun = time.perf_counter()
        act()
        best = min(best, time.perf_counter() - begun)
    return best


def main() -> None:
    strip = machine(60, 10)
    deep = [f"a{number}" for number in (52, 55, 59)]
    graph = nx.DiGraph((need, n) for n, a in strip.assemblies.items() for way in a.ways[:1] for need in way)
    graph.add_nodes_from(strip.assemblies)
    plain = seconds(lambda: list(nx.topological_sort(graph)), 50)
    all_off = set(strip.assemblies)
    in_and_back = seconds(lambda: (way_in(strip, deep), way_back(strip, all_off)), 9)
    print(f"60 assemblies, 10 with two ways; networkx topological order: {plain * 1e3:.2f} ms")
    print(f"way in and way back: {in_and_back / plain:8.0f} × that, {in_and_back * 1e3:.0f} ms (wanted: within 200)")
    places = [f"a{number}" for number in range(24, 60, 3)]
    also = seconds(lambda: while_in_there(strip, deep, places), 3)
    print(f"what 12 other places cost now and later: {also / plain:8.0f} ×, {also * 1e3:.0f} ms")
    ways = WaysIn(strip)
    ways.to(deep)
    print(f"asked again: {seconds(lambda: ways.to(deep), 50) / plain:8.2f} ×")


if __name__ == "__main__":
    main()
