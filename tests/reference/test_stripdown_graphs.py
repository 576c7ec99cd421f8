"""Ways in and back against networkx’s own graph algorithms and against trying everything."""

import random
import unittest
from itertools import combinations, permutations

import networkx as nx

from core.catalogue.assemblies import Assembly, AssemblyError, StripDown
from core.catalogue.orders import cheapest, on_order
from core.workshop.stripdown.way_in import way_in


def at_random(dice: random.Random, count: int, ways: int, rules: int = 0) -> StripDown:
    made = []
    for number in range(count):
        before = [one.name for one in made]
        chosen = tuple(
            frozenset(dice.sample(before, min(len(before), dice.randint(1, 3))))
            for _ in range(dice.randint(0, ways) if before else 0)
        )
        after = frozenset(dice.sample(before, min(len(before), dice.randint(0, rules))))
        minutes = dice.randint(0, 9), dice.randint(0, 9)
        made.append(Assembly(f"a{number}", number % 7, 0, 9, *minutes, chosen, on_after=after))
    return StripDown({one.name: one for one in made})


class AgainstNetworkx(unittest.TestCase):
    def test_plain_precedence_is_the_closure_of_ancestors_in_topological_order(self):
        for seed in range(30):
            dice = random.Random(seed)
            strip = at_random(dice, 40, 1)
            graph = nx.DiGraph((need, n) for n, a in strip.assemblies.items() for way in a.ways for need in way)
            graph.add_nodes_from(strip.assemblies)
            target = dice.choice(sorted(strip.assemblies))
            way = way_in(strip, {target})
            self.assertEqual(set(way.steps), nx.ancestors(graph, target) | {target})
            place = {name: number for number, name in enumerate(way.steps)}
            self.assertTrue(all(place[u] < place[v] for u, v in graph.subgraph(way.steps).edges))
            # What networkx puts into one generation never waits for each other here either.
            for generation in nx.topological_generations(graph.subgraph(way.steps)):
                self.assertFalse(any(graph.has_edge(u, v) for u, v in combinations(generation, 2)))


class AgainstTryingEverything(unittest.TestCase):
    def test_the_cheapest_set_of_all_subsets(self):
        for seed in range(40):
            dice = random.Random(1000 + seed)
            strip = at_random(dice, 11, 3)
            targets = set(dice.sample(sorted(strip.assemblies), 2))
            found = cheapest(strip, targets, lambda name, strip=strip: strip[name].minutes)
            least = min(
                sum(strip[name].minutes for name in off)
                for size in range(len(targets), len(strip) + 1)
                for others in combinations(sorted(set(strip.assemblies) - targets), size - len(targets))
                if self.can(strip, off := targets | set(others))
            )
            self.assertEqual(sum(strip[name].minutes for name in found.off), least, seed)
            self.assertTrue(self.can(strip, set(found.off)))

    def can(self, strip: StripDown, off: set[str]) -> bool:
        """By taking off whatever comes, until nothing does."""
        gone: set[str] = set()
        while more := {n for n in off - gone if not strip[n].ways or any(way <= gone for way in strip[n].ways)}:
            gone |= more
        return gone == off

    def test_an_order_back_is_found_whenever_there_is_one(self):
        refused = 0
        for seed in range(60):
            strip = at_random(random.Random(2000 + seed), 6, 2, rules=2)
            there_is = any(self.goes_on(strip, order) for order in permutations(strip.assemblies))
            try:
                self.assertTrue(self.goes_on(strip, on_order(strip, strip.assemblies)))
                self.assertTrue(there_is)
            except AssemblyError:
                refused += 1
                self.assertFalse(there_is, seed)
        self.assertTrue(0 < refused < 60)

    def goes_on(self, strip: StripDown, order) -> bool:
        off = set(strip.assemblies)
        for name in order:
            off.remove(name)
            if strip[name].on_after & off or (strip[name].ways and not any(w <= off for w in strip[name].ways)):
                return False
        return True
