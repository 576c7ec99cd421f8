"""How long the rules of what fits take, and the proposals, as multiples of plain work on the same machine.

    python -m benchmarks.fit

One part on a machine, 500 parts on a machine, ways among 200 converters, a filling of 16 modules, settings of 12 cards.
Beside each its multiple of networkx's shortest path through a graph of 200 ends, which any machine can do.
"""

import random
import statistics
import time
from collections.abc import Callable
from decimal import Decimal

import networkx as nx

from core.catalogue.fit.assignment import assign, uses_of
from core.catalogue.fit.filling import Stick, fill
from core.catalogue.fit.halving import find_bad
from core.catalogue.fit.kinds import Memory
from core.catalogue.fit.machine import Fitted, Machine
from core.catalogue.fit.needs import Convert, MemoryModule, Needs, Use
from core.catalogue.fit.offers import Board, Module, Offers
from core.catalogue.fit.paths import Converter, Rates, Ways
from core.catalogue.fit.rules import judge
from core.catalogue.fit.schema import read_sheet, sheet_data, sheet_from
from demo.sheets import OFFERS, PARTS


def seconds(act: Callable[[], object], times: int = 9) -> float:
    """The median of several runs, the first left out."""
    taken = []
    for turn in range(times + 1):
        start = time.perf_counter()
        act()
        if turn:
            taken.append(time.perf_counter() - start)
    return statistics.median(taken)


def main() -> None:
    dice = random.Random(5)
    offers = {name: read_sheet(Offers, text) for name, text in OFFERS.items()}
    needs = [read_sheet(Needs, text) for text in PARTS.values()]
    desk = offers["Orrin Desk 16"]
    inside = [needs[2], needs[1], needs[4], needs[3]]
    fitted = tuple(Fitted(f"card {n}", one, str(n + 1)) for n, one in enumerate(inside))
    machines = [Machine(one, fitted if one is desk else (), True) for one in offers.values()]
    kept = [sheet_data(one) for one in needs] * (500 // len(needs) + 1)
    converters = [
        Converter(
            f"c{n}",
            Convert("w", f"e{dice.randrange(80)}", f"e{dice.randrange(80)}", "loss"),
            Decimal(dice.randrange(50)),
            n % 3 == 0,
        )
        for n in range(200)
    ]
    ways = Ways(converters)
    graph = nx.gnm_random_graph(200, 800, seed=4, directed=True)
    sockets = [Module(f"S{n}", Memory.PINS72, f"B{n // 4}", n // 4, 2**24) for n in range(16)]
    board = Board("board", soldered=0, most=2**30, group=2, matched=True)
    modules = [
        MemoryModule(f"m{n}", Memory.PINS72, 2**22, make="M7" if n in {1, 4, 10, 15} else "K4") for n in range(16)
    ]
    sticks = [Stick(one.name, one, socket.name) for one, socket in zip(modules, sockets, strict=True)]
    cards = tuple(
        Fitted(f"card {n}", Needs(uses=(Use("J1", irq=tuple(map(Decimal, dice.sample(range(16), 6))), now=None),)))
        for n in range(12)
    )
    crowded = Machine(Offers(devices=()), cards, True)
    plain = seconds(lambda: nx.shortest_path(graph, 0, 199), 50)
    worst = max(seconds(lambda m=machine, p=part: judge(m, p), 3) for machine in machines for part in needs)
    rows = {
        "all rules, one part, the slowest of all": worst,
        "500 parts read and judged": seconds(
            lambda: [judge(machines[0], sheet_from(Needs, one)) for one in kept[:500]]
        ),
        "a way among 200 converters": seconds(lambda: Ways(converters).several("e1", "e2", given=Rates(None, None))),
        "the same, all 80 ends from one": seconds(lambda: [ways.find("e1", f"e{n}") for n in range(80)]) / 80,
        "16 modules filled": seconds(lambda: fill(board, sockets, sticks)),
        "the bad one of 16": seconds(lambda: find_bad(board, sockets, {one.name: one for one in modules}, {})),
        "12 cards set": seconds(lambda: assign(crowded, uses_of(crowded))),
    }
    print(f"networkx shortest path {plain * 1e6:.0f} µs")
    for name, taken in rows.items():
        print(f"{name:42} {taken * 1000:8.2f} ms {taken / plain:10.0f} ×")


if __name__ == "__main__":
    main()
