"""How long it takes to choose a box out of 40 sizes, as a multiple of trying every box and every turn.

Wanted: within 5 ms, for one box and for two.
"""

import itertools
import random
import sys
from time import perf_counter

from core.selling.packing import GAP_MM, INNER_GAP_MM, Box, Size, choose_box

COUNT, TIMES = 40, 60


def boxes(dice: random.Random) -> list[Box]:
    found = []
    for number in range(COUNT):
        edges = [dice.randrange(150, 1100) for _ in range(3)]
        found.append(Box(str(number), Size(*edges), Size(*(edge + 10 for edge in edges)), 500))
    return found


def _goes(need: tuple[int, ...], room: Size) -> bool:
    return any(all(a <= b for a, b in zip(way, room.edges, strict=True)) for way in itertools.permutations(need))


def try_all(thing: Size, rows: list[Box], double: bool) -> int | None:
    """The least outer volume, by trying all."""
    if not double:
        return min((b.outer.volume for b in rows if _goes(thing.with_gap(GAP_MM), b.inner)), default=None)
    inner = [b for b in rows if _goes(thing.with_gap(INNER_GAP_MM), b.inner)]
    pairs = (o.outer.volume for i in inner for o in rows if _goes(i.outer.with_gap(GAP_MM), o.inner))
    return min(pairs, default=None)


def main() -> None:
    dice = random.Random(21)
    rows = boxes(dice)
    things = [Size(*(dice.randrange(80, 600) for _ in range(3))) for _ in range(TIMES)]
    for double in (False, True):
        begin = perf_counter()
        chosen = [choose_box(thing, rows, double=double) for thing in things]
        ours = perf_counter() - begin
        begin = perf_counter()
        tried = [try_all(thing, rows, double) for thing in things]
        plain = perf_counter() - begin
        assert [one.outer.outer.volume if one else None for one in chosen] == tried
        words = "two boxes" if double else "one box"
        sys.stdout.write(f"{words}: {1000 * ours / TIMES:.2f} ms, {ours / plain:.2f} of trying all\n")


if __name__ == "__main__":
    main()
