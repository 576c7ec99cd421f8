"""Fasteners: what came out, what went back, what is short, and where the like of it lie."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from core.catalogue.assemblies import Fastener


@dataclass(frozen=True)
class Tally:
    """One group of like fasteners: what belongs there, what was there when it was opened, out, and in again."""

    group: Fastener
    found: int
    out: int = 0
    back: int = 0

    def __post_init__(self) -> None:
        if self.found < 0 or not 0 <= self.out <= self.found:
            raise ValueError("More came out than was in.")
        if self.back < 0:
            raise ValueError("Less than none can’t go in.")

    @property
    def short_at_arrival(self) -> int:
        """Not there when it was opened; never blamed on who opened it."""
        return max(0, self.group.count - self.found)

    @property
    def in_tray(self) -> int:
        return max(0, self.out - self.back)


def is_like(wanted: Fastener, have: Fastener, board_beneath: bool) -> bool:
    """Whether `have` does in the place of `wanted`: the same thread, no longer where a board lies beneath, and
    elsewhere the same length. What nobody measured is not like anything."""
    if not wanted.thread or wanted.thread.casefold() != have.thread.casefold():
        return False
    if wanted.length_mm is None or have.length_mm is None:
        return False
    if board_beneath:
        return have.length_mm <= wanted.length_mm
    return have.length_mm == wanted.length_mm


@dataclass(frozen=True)
class Lying:
    """Fasteners somewhere: in a tray of a machine or in a drawer, in words."""

    where: str
    fastener: Fastener


def where_the_like_are(wanted: Fastener, lying: Iterable[Lying], board_beneath: bool) -> list[Lying]:
    """Where some like it lie: the same length first, then the most."""
    found = [one for one in lying if is_like(wanted, one.fastener, board_beneath)]
    return sorted(found, key=lambda one: (one.fastener.length_mm != wanted.length_mm, -one.fastener.count, one.where))


def tray_for(fasteners: Sequence[Fastener], taken: Mapping[int, Sequence[Fastener]], have: int) -> int:
    """The tray for these fasteners when those `taken` hold what they hold, and the shop has so many (at least 1): one
    of its own while there are enough, then the first it may share, and one more than there are if it may share none."""
    if have < 1:
        raise ValueError("At least one tray.")
    free = max(taken, default=0) + 1
    if free <= have:
        return free
    return next((number for number in sorted(taken) if may_share(taken[number], fasteners)), free)


def may_share(inside: Sequence[Fastener], more: Sequence[Fastener]) -> bool:
    """Whether nobody can mix them up: look-alikes of another length never share a tray."""
    return not any(_look_alike(one, other) for one in inside for other in more)


def _look_alike(one: Fastener, other: Fastener) -> bool:
    """The same thread, or one not known, and not surely the same length."""
    same_thread = not one.thread or not other.thread or one.thread.casefold() == other.thread.casefold()
    return same_thread and (one.length_mm is None or one.length_mm != other.length_mm)
