"""How long a price band and a plan of prices take, as multiples of plain work on the same machine.

    python -m benchmarks.market

A band from 5,000 comparables of seven grades and four channels, beside one least-squares fit of numpy’s on as many rows
of 16; a plan of 26 weeks over 60 prices, beside 26 times 60 plain sums.
"""

import random
import time
from collections.abc import Callable
from decimal import Decimal

import numpy as np

from core.selling.grade import Grade
from core.selling.market import Comparable, Market, Subject
from core.selling.waiting import Pace, ending, markdown, price_grid


def best_of(act: Callable[[], object], times: int = 7) -> float:
    taken = []
    for _ in range(times):
        begun = time.perf_counter()
        act()
        taken.append(time.perf_counter() - begun)
    return min(taken)


def made_up(count: int) -> list[Comparable]:
    dice, found = random.Random(5), []
    for _ in range(count):
        price = Decimal(repr(round(150 * dice.lognormvariate(0, 0.2), 2)))
        grade, channel = dice.choice(list(Grade)), dice.choice("abcd")
        had = frozenset(name for name in ("sound", "network") if dice.random() < 0.4)
        age, complete = dice.randrange(700), dice.randrange(50, 101)
        found.append(Comparable(price, age, grade, complete, False, channel, None, None, had))
    return found


def main() -> None:
    sales = made_up(5000)
    rows = np.random.default_rng(1).normal(size=(5000, 16))
    plain = best_of(lambda: np.linalg.lstsq(rows, rows[:, 0], rcond=None))
    band = best_of(lambda: Market(sales).band(Subject(Grade.B, 90)))
    print(f"a band from 5,000 comparables {band * 1000:.1f} ms, {band / plain:.1f} times a plain least-squares fit")
    prices = price_grid(Decimal(40), Decimal(160), ending("whole"))
    plan = best_of(lambda: markdown(Decimal(100), prices, lambda price: price * 9 / 10, Pace()))
    sums = best_of(lambda: [price * 9 / 10 + 1 for _ in range(26) for price in prices])
    print(f"a plan of 26 weeks × {len(prices)} prices {plan * 1000:.1f} ms, {plan / sums:.1f} times as many plain sums")


if __name__ == "__main__":
    main()
