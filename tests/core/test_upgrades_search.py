"""The best set of upgrades against an independent search over every subset, slot by slot and interrupt by interrupt."""

import unittest
from decimal import Decimal
from itertools import combinations, product

from hypothesis import given, settings
from hypothesis import strategies as st

from core.workshop.upgrades.best import Limits, UpgradeSet
from tests.core.test_upgrades import buyer, card, disk, part, worth

_TAGS = tuple("abcdefgh")
_SLOTS = {"1": ("8-bit", 340), "2": ("16-bit", 340), "3": ("16-bit", 160)}


@st.composite
def problems(draw, most: int = 8):
    """Parts by what matters of them, as plain tuples, and as sheets."""
    plain, parts = [], []
    for number in range(draw(st.integers(1, most))):
        tag = draw(st.sampled_from((*_TAGS, "none")))
        each, amps = draw(st.integers(0, 12)), draw(st.sampled_from(("0.5", "1.5", "2.5")))
        name = f"P{number}"
        if draw(st.integers(0, 3)):
            bus, length = draw(st.sampled_from(("8-bit", "16-bit"))), draw(st.sampled_from((150, 300)))
            irqs = draw(st.sampled_from(("", "5", "5, 7", "8", "7, 8")))
            plain.append(("card", tag, each, amps, bus, length, irqs, 15))
            what = card(amps, irqs, tag, bus, length)
        else:
            plain.append(("disk", tag, each, "0.4", "", 0, "", 25))
            what = disk("10 MB", tag)
        parts.append(part(name, what, str(each)))
    effects = {tag: draw(st.integers(-10, 30)) for tag in _TAGS}
    budget = draw(st.one_of(st.none(), st.none(), st.integers(0, 40)))
    minutes = draw(st.one_of(st.none(), st.none(), st.integers(0, 90)))
    return plain, parts, effects, budget, minutes


def fits(chosen) -> bool:
    """Whether plain parts go in together: every slot and every interrupt tried."""
    cards = [one for one in chosen if one[0] == "card"]
    disks = [one for one in chosen if one[0] == "disk"]
    if len(disks) > 2:
        return False
    amps = 3 + sum(Decimal(one[3]) for one in chosen)
    if amps > 8 or Decimal("0.5") + Decimal("0.4") * len(disks) > Decimal("3.2"):
        return False
    if (
        Decimal("0.5") + Decimal("1.4") * len(disks) > 4
        or 5 * amps + 12 * (Decimal("0.5") + len(disks) * Decimal("0.4")) > 150
    ):
        return False

    def seated(place: int, taken: frozenset[str]) -> bool:
        if place == len(cards):
            return True
        _, _, _, _, bus, length, _, _ = cards[place]
        return any(
            seated(place + 1, taken | {name})
            for name, (kind, room) in _SLOTS.items()
            if name not in taken and length <= room and not (bus == "16-bit" and kind == "8-bit")
        )

    choices = [[irq for irq in one[6].split(", ") if irq != "8"] for one in cards if one[6]]
    clear = any(len(set(pick)) == len(pick) for pick in product(*choices)) if choices else True
    return seated(0, frozenset()) and clear


def left_of(chosen, effects) -> Decimal:
    adds = sum(Decimal(2 * effects[tag]) for tag in {one[1] for one in chosen} if tag != "none")
    return adds - sum(Decimal(one[2]) for one in chosen) - sum(Decimal(one[7]) * 12 / 60 for one in chosen)


def legal(plain, budget, minutes):
    """Every set that may be chosen."""
    for size in range(len(plain) + 1):
        for chosen in combinations(plain, size):
            spends, takes = sum(one[2] for one in chosen), sum(one[7] for one in chosen)
            if (budget is None or spends <= budget) and (minutes is None or takes <= minutes) and fits(chosen):
                yield chosen


def solved(problem, budget="same") -> UpgradeSet:
    _, parts, effects, own, minutes = problem
    budget = own if budget == "same" else budget
    limits = Limits(None if budget is None else Decimal(budget), minutes)
    some = buyer(*(f"{tag}: {percent} %" for tag, percent in effects.items()))
    return worth(parts, hourly="12").best(some, limits)


class AgainstASearch(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(problems())
    def test_no_set_that_fits_leaves_more(self, problem):
        plain, _, effects, budget, minutes = problem
        found = solved(problem)
        best = max(left_of(chosen, effects) for chosen in legal(plain, budget, minutes))
        self.assertEqual(found.left, best)
        self.assertTrue(found.proven)

    @settings(max_examples=30, deadline=None)
    @given(problems())
    def test_the_set_itself_fits_and_is_never_worse_than_its_legal_subsets(self, problem):
        plain, _, effects, *_ = problem
        found = solved(problem)
        chosen = tuple(plain[int(key[1:])] for key in found.keys)
        self.assertTrue(fits(chosen))
        self.assertEqual(found.left, left_of(chosen, effects))
        for size in range(len(chosen)):
            for some in combinations(chosen, size):
                if fits(some):
                    self.assertGreaterEqual(found.left, left_of(some, effects))

    @settings(max_examples=30, deadline=None)
    @given(problems(), st.integers(0, 60), st.integers(0, 60))
    def test_a_larger_budget_never_leaves_less(self, problem, low, more):
        self.assertLessEqual(solved(problem, low).left, solved(problem, low + more).left)

    def test_twelve_parts(self):
        plain = [("card", _TAGS[n % 4], 3 + 5 * n, "0.5", "8-bit", 150, ("5, 7", "", "7")[n % 3], 15) for n in range(9)]
        plain += [("disk", _TAGS[n], 4 + n, "0.4", "", 0, "", 25) for n in range(3)]
        parts = [
            part(
                f"P{n}",
                card(one[3], one[6], one[1], one[4], one[5]) if one[0] == "card" else disk("10 MB", one[1]),
                str(one[2]),
            )
            for n, one in enumerate(plain)
        ]
        problem = (plain, parts, {"a": 22, "b": 15, "c": 9, "d": 30}, 60, None)
        best = max(left_of(chosen, problem[2]) for chosen in legal(plain, 60, None))
        self.assertEqual(solved(problem).left, best)
