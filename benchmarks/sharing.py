"""Sharing a cost over many lines: is it quick, and does it grow in a straight line?

.venv/bin/python -m benchmarks.sharing
"""

import random
import statistics
import time
from decimal import Decimal

from core.buying.share import Basis, ShareLine, share_cost


def lines(count: int) -> list[ShareLine]:
    dice = random.Random(count)
    return [
        ShareLine(
            dice.randrange(1, 9), Decimal(dice.randrange(1, 2000)) / 100, *[Decimal(dice.randrange(1, 40000)) / 100] * 3
        )
        for _ in range(count)
    ]


def seconds(count: int) -> float:
    some, taken = lines(count), []
    for _ in range(3):
        start = time.perf_counter()
        share_cost(Decimal("123456.78"), some, Basis.VALUE)
        taken.append(time.perf_counter() - start)
    return statistics.median(taken)


def main() -> None:
    small = seconds(1_000)
    for count in (1_000, 3_000, 10_000):
        taken = seconds(count)
        times = taken / small
        print(f"{count:6} lines: {taken:.3f} s, {times:5.1f} times the first for {count // 1000} times the lines")


if __name__ == "__main__":
    main()
