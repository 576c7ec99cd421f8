"""Printing a figure with its target."""

import sys
from collections.abc import Mapping


def say(words: str) -> None:
    sys.stdout.write(words + "\n")


def left_of_the_best(sums: Mapping[str, float], count: int, wanted: float) -> bool:
    """Print what each way leaves on average, and whether the advised one reaches so much in 100 of the best."""
    for name, total in sums.items():
        say(f"    {name:24} {total / count:7.2f}")
    share = 100 * sums["advised"] / sums["the best"]
    say(f"    that is {share:.2f} in 100{unmet(share >= wanted)}")
    return share >= wanted


def unmet(met: bool) -> str:
    return "" if met else "   <- not met"
