"""Ways in and back, and the best set of jobs, as multiples of networkx’s topological order of the same machine and of
a plain loop over all sets.

.venv/bin/python -m benchmarks.strip_down
"""

import random
import time
from collections.abc import Callable
from decimal import Decimal

import networkx as nx

from core.catalogue.assemblies import Assembly, StripDown
from core.intake.condition import FindingKind, Mark
from core.machine.casing import Face
from core.selling.appraisal import UnitAppraisal
from core.selling.grade import Grade, GradeEvidence
from core.selling.market import Comparable
from core.workshop.proposals import Proposal, best_set, opening_for
from core.workshop.stripdown.way_back import way_back
from core.workshop.stripdown.way_in import Costs, WaysIn, way_in, while_in_there
from core.workshop.worth import Changes


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


def jobs(strip: StripDown, count: int = 12, seed: int = 3) -> tuple[list[Proposal], UnitAppraisal]:
    """Jobs all over a machine, and a market of 400 sales for it."""
    dice = random.Random(seed)
    sold = [
        Comparable(Decimal(dice.randint(60, 200)), dice.randint(1, 500), dice.choice(list(Grade)), 100)
        for _ in range(400)
    ]
    findings = {n: Mark(FindingKind.SCRATCH, dice.choice(list(Face)), dice.randint(1, 4), 0.2) for n in range(count)}
    places = sorted(strip.assemblies, key=lambda name: int(name[1:]))[24:][:: 36 // count]
    proposals = [
        Proposal(f"f{n}", f"F{n}", dice.randint(5, 30), Changes(findings=frozenset({n})), Decimal(1), 0.9, places[n])
        for n in findings
    ]
    evidence = GradeEvidence(20, 20, 0, True, True, 60, 100, works_tried=10)
    return proposals, UnitAppraisal(evidence, {}, findings, frozenset(), sold)


def plain_loop(proposals: list[Proposal], strip: StripDown, costs: Costs) -> int:
    """What it takes to ask for the way in of each set as it comes, here of every 64th."""
    every = range(0, 1 << len(proposals), 64)
    return sum(
        way_in(strip, [p.place for n, p in enumerate(proposals) if bits >> n & 1], costs).minutes for bits in every
    )


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
    hourly = Costs(Decimal(24))
    proposals, _ = jobs(strip)

    def best() -> object:
        # A market of its own each time: nothing is remembered from the one before.
        return best_set(proposals, jobs(strip)[1], hourly.hourly, opening_for(proposals, strip, hourly))

    took = seconds(best, 3)
    loop = 64 * seconds(lambda: plain_loop(proposals, strip, hourly), 1)
    print(f"12 proposals with their best set: {took / plain:8.0f} ×, {took * 1e3:.0f} ms (wanted: within 500)")
    print(f"a plain loop over all sets, for the ways in alone: {loop / took:8.0f} × as long")
    ways = WaysIn(strip)
    ways.to(deep)
    print(f"asked again: {seconds(lambda: ways.to(deep), 50) / plain:8.2f} ×")


if __name__ == "__main__":
    main()
