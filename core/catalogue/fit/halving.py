"""Which module is bad: legal fillings one after another that find it with fewest starts, for the worst case.

It is taken that exactly one of them is bad, and that a filling with the bad one in it shows it.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cache
from itertools import product

from core.catalogue.fit.filling import Alike, alike, groups
from core.catalogue.fit.needs import MemoryModule
from core.catalogue.fit.offers import Board, Module

Counts = tuple[int, ...]


@dataclass(frozen=True)
class Try:
    """Start with these in, by their keys, those that go in together side by side; what is left of the suspects when it
    passes, and when it fails. Nothing to put in: `suspects` is what is left, one unless no legal filling parts them."""

    put_in: tuple[str, ...]
    suspects: tuple[str, ...]
    passes: "Try | None" = None
    fails: "Try | None" = None

    @property
    def starts(self) -> int:
        """Starts in the worst case."""
        return 1 + max(self.passes.starts, self.fails.starts) if self.passes and self.fails else 0


def find_bad(
    board: Board, sockets: Sequence[Module], suspects: Mapping[str, MemoryModule], good: Mapping[str, MemoryModule]
) -> Try:
    """The whole tree. `good`: modules that are known to be good and may fill up a group. Raises CannotFill."""
    size, matched = board.group or 1, bool(board.matched)
    together = groups(board, sockets)
    kinds: list[Alike] = sorted({alike(one, matched) for one in (*suspects.values(), *good.values())}, key=str)
    room = tuple(
        size
        * sum(
            all(socket.kind is kind[0] and kind[1] <= (socket.largest or 0) for socket in group) for group in together
        )
        for kind in kinds
    )
    soldered, most, places = board.soldered or 0, board.most, size * len(together)
    by_kind = [[key for key, one in suspects.items() if alike(one, matched) == kind] for kind in kinds]
    known = [[key for key, one in good.items() if alike(one, matched) == kind] for kind in kinds]
    first = tuple(map(len, by_kind))
    goods = tuple(map(len, known))

    def filled_up(taken: Counts, left: Counts) -> Counts | None:
        """How many good ones it takes beside `taken` suspects; None where that is no legal filling."""
        beside = tuple(-count % size for count in taken)
        in_all = tuple(a + b for a, b in zip(taken, beside, strict=True))
        cleared = tuple(g + f - now for g, f, now in zip(goods, first, left, strict=True))
        fits = all(a <= b for a, b in zip(in_all, room, strict=True)) and 0 < sum(in_all) <= places
        memory = soldered + sum(count * kind[1] for count, kind in zip(in_all, kinds, strict=True))
        enough = all(a <= b for a, b in zip(beside, cleared, strict=True))
        return beside if fits and enough and (most is None or memory <= most) else None

    @cache
    def best(left: Counts) -> tuple[tuple[int, int], Counts | None]:
        """How many suspects can't be parted and how many starts it takes, both at worst; and what to put in first."""
        if sum(left) == 1:
            return (1, 0), None
        found: tuple[tuple[int, int], Counts | None] = ((sum(left), 0), None)
        for taken in product(*(range(count + 1) for count in left)):
            if not 0 < sum(taken) < sum(left) or filled_up(taken, left) is None:
                continue
            rest = tuple(a - b for a, b in zip(left, taken, strict=True))
            ends = (best(rest)[0], best(taken)[0])
            worst = (max(e[0] for e in ends), 1 + max(e[1] for e in ends))
            if worst < found[0]:
                found = (worst, taken)
        return found

    def tree(left: list[list[str]], cleared: list[list[str]]) -> Try:
        counts = tuple(map(len, left))
        taken = best(counts)[1]
        names = tuple(key for keys in left for key in keys)
        beside = filled_up(taken, counts) if taken is not None else None
        if taken is None or beside is None:
            return Try((), names)
        put = [keys[:count] for keys, count in zip(left, taken, strict=True)]
        rest = [keys[count:] for keys, count in zip(left, taken, strict=True)]
        fill = [keys[:count] for keys, count in zip(cleared, beside, strict=True)]
        keys_in = tuple(key for alike_ones in zip(put, fill, strict=True) for keys in alike_ones for key in keys)
        with_put, with_rest = ([a + b for a, b in zip(cleared, more, strict=True)] for more in (put, rest))
        return Try(keys_in, names, tree(rest, with_put), tree(put, with_rest))

    return tree(by_kind, known)
