"""From one plug to another through converters: the cheapest way, the one with fewest, or only with what is here.

An end is "plug/signal" ("9-pin D/RGBI"); a drive's or a keyboard's is its plug alone.
"""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from decimal import Decimal
from enum import StrEnum
from itertools import islice, pairwise

import networkx as nx

from core.catalogue.fit.needs import Convert


class Wish(StrEnum):
    CHEAPEST = "cheapest"
    FEWEST = "fewest"
    HERE = "here"

    @property
    def label(self) -> str:
        return {"cheapest": "cheapest", "fewest": "fewest converters", "here": "with what is in stock"}[self.value]


@dataclass(frozen=True)
class Converter:
    """A converter with one of its ways. `price`: what it costs to get, 0 for one that is here; None for not known.
    `from_where`: the drawer or the seller; `firmware`: its version against the newest known, in words."""

    part: str
    way: Convert
    price: Decimal | None
    here: bool
    from_where: str = ""
    firmware: str = ""

    @property
    def ends(self) -> tuple[str, str]:
        return end(self.way.goes_in or ""), end(self.way.comes_out or "")


def end(name: str) -> str:
    """An end as it is compared."""
    return " ".join(name.lower().split())


@dataclass(frozen=True)
class Rates:
    """Line rate in kHz and field rate in Hz; None for what nobody knows."""

    line: Decimal | None
    field: Decimal | None

    def after(self, way: Convert) -> "Rates":
        """What comes out of a converter that is given these."""
        return Rates(way.line_out or self.line, way.field_out or self.field)


ANY = Rates(None, None)


def all_of(rates: Rates) -> bool:
    """Takes whatever comes."""
    return True


@dataclass(frozen=True)
class Path:
    """Converters in their order, and the rates that come in."""

    steps: tuple[Converter, ...]
    given: Rates = ANY

    @property
    def gives(self) -> Rates:
        """What comes out at its end."""
        return self.rates(self.given)

    @property
    def price(self) -> Decimal | None:
        """What has to be bought for it; None where a price is not known."""
        prices = [step.price for step in self.steps]
        return None if None in prices else sum((price for price in prices if price is not None), Decimal(0))

    @property
    def losses(self) -> list[str]:
        return [step.way.loss for step in self.steps if step.way.loss]

    @property
    def delay(self) -> Decimal:
        return sum((step.way.delay or Decimal(0) for step in self.steps), Decimal(0))

    def rates(self, given: Rates) -> Rates:
        """What comes out at its end when these come in."""
        for step in self.steps:
            given = given.after(step.way)
        return given

    @property
    def words(self) -> str:
        return ", then ".join(step.part for step in self.steps)


# A price nobody knows is reckoned dearer than any that is known, so that such a way is the last one offered.
_NOT_KNOWN = Decimal(10**6)
# A way is cheaper by the cent first, then by the count of converters.
_EACH = Decimal("0.000001")
MOST_PATHS = 3
_Node = tuple[str, Rates]


class Ways:
    """All converters. A way through them is looked for among ends with the rates that come there, so that a converter
    which does not take what it is given is no way."""

    def __init__(self, converters: Iterable[Converter] = ()) -> None:
        self.converters = tuple(converters)
        self._from: dict[str, list[Converter]] = {}
        for one in self.converters:
            self._from.setdefault(one.ends[0], []).append(one)

    def find(
        self,
        start: str,
        goal: str,
        wish: Wish = Wish.CHEAPEST,
        given: Rates = ANY,
        takes: Callable[[Rates], bool] = all_of,
    ) -> Path | None:
        """The best way; None where there is none."""
        return next(iter(self.several(start, goal, wish, given, takes, 1)), None)

    def several(
        self,
        start: str,
        goal: str,
        wish: Wish = Wish.CHEAPEST,
        given: Rates = ANY,
        takes: Callable[[Rates], bool] = all_of,
        most: int = MOST_PATHS,
    ) -> list[Path]:
        """The best ways, the best first (Yen's, of networkx). `given` comes in at the start; what comes out at the goal
        must be what `takes` wants."""
        graph, first = self._reached(start, wish, given)
        goals = [node for node in graph if node[0] == end(goal) and takes(node[1])]
        if not goals:
            return []
        there = ("", ANY)
        graph.add_weighted_edges_from((node, there, Decimal(0)) for node in goals)
        found = []
        for nodes in islice(nx.shortest_simple_paths(graph, first, there, weight="weight"), most):
            steps = pairwise(nodes[:-1])
            found.append(Path(tuple(graph.edges[step]["converter"] for step in steps), given))
        return found

    def _reached(self, start: str, wish: Wish, given: Rates) -> "tuple[nx.DiGraph[_Node], _Node]":
        first: _Node = (end(start), given)
        graph: nx.DiGraph[_Node] = nx.DiGraph()
        graph.add_node(first)
        queue = [first]
        while queue:
            node = queue.pop()
            for one in self._from.get(node[0], ()):
                wants = one.way.line_in
                if wish is Wish.HERE and not one.here:
                    continue
                if wants is not None and node[1].line is not None and not wants.holds(node[1].line):
                    continue
                goal = (one.ends[1], node[1].after(one.way))
                weight = _weight(one, wish)
                if goal not in graph:
                    queue.append(goal)
                held = graph.get_edge_data(node, goal)
                if goal != node and (held is None or weight < held["weight"]):
                    graph.add_edge(node, goal, weight=weight, converter=one)
        return graph, first


def _weight(one: Converter, wish: Wish) -> Decimal:
    price = _NOT_KNOWN if one.price is None else one.price
    return Decimal(1) + price * _EACH / 1000 if wish is Wish.FEWEST else price + _EACH


NO_WAYS = Ways()
