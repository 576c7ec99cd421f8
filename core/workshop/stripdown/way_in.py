"""The way in: what to take off to reach something, in which order, and what else lies on the way."""

from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from decimal import Decimal
from typing import Any

from core.catalogue.assemblies import StripDown
from core.catalogue.orders import Prefer, cheapest, off_order
from core.money import ZERO, allocate, to_cent

# Chance of breaking something brittle when it is opened, before anybody has counted: 1 in 50, a Beta(1, 49).
# Common practice, no source.
BREAKS, HOLDS = 1, 49


@dataclass(frozen=True)
class Record:
    """How often an assembly was opened, and how often something of it broke."""

    opened: int = 0
    broken: int = 0

    def __post_init__(self) -> None:
        if not 0 <= self.broken <= self.opened:
            raise ValueError("Nothing breaks more often than it is opened.")

    @property
    def chance(self) -> float:
        """Of breaking next time: the mean of Beta(1 + broken, 49 + held)."""
        return (BREAKS + self.broken) / (BREAKS + HOLDS + self.opened)


@dataclass(frozen=True)
class Costs:
    """What a minute of hands costs (base currency an hour, 0 or more), and what was recorded of breaking."""

    hourly: Decimal = Decimal(0)
    records: Mapping[str, Record] = field(default_factory=dict)

    def breakage(self, strip: StripDown, name: str) -> Decimal:
        """Expected loss by breaking when it is opened once: for what is brittle or broke before, and has a worth."""
        assembly, record = strip[name], self.records.get(name, Record())
        if assembly.worth is None or not (assembly.brittle or record.broken):
            return ZERO
        return to_cent(Decimal(record.chance) * assembly.worth)

    def weight(self, strip: StripDown, name: str) -> int:
        """Minutes off and on, and breakage as the minutes it would pay for, in hundredths of a minute."""
        lost = self.breakage(strip, name)
        if lost and not self.hourly:
            return strip[name].minutes * 100
        return strip[name].minutes * 100 + (round(lost * 6000 / self.hourly) if lost else 0)


@dataclass(frozen=True)
class WayIn:
    """`steps` come off in this order; minutes of hands off, on again, and the expected breakage in base currency."""

    targets: frozenset[str]
    steps: tuple[str, ...]
    ways: Mapping[str, frozenset[str]]
    minutes_off: int
    minutes_on: int
    breakage: Decimal

    @property
    def minutes(self) -> int:
        """In and closed again."""
        return self.minutes_off + self.minutes_on


def way_in(strip: StripDown, targets: Iterable[str], costs: Costs | None = None, off: Collection[str] = ()) -> WayIn:
    """The way that costs least, exactly, over all alternatives; what is `off` already costs nothing any more."""
    costs = costs or Costs()
    wanted = frozenset(targets)
    opening = cheapest(strip, wanted, lambda name: costs.weight(strip, name), off)
    steps = tuple(off_order(opening, at_one_side(strip)))
    return WayIn(
        wanted,
        steps,
        opening.ways,
        sum(strip[name].minutes_off for name in steps),
        sum(strip[name].minutes_on for name in steps),
        sum((costs.breakage(strip, name) for name in steps), ZERO),
    )


def at_one_side(strip: StripDown, *, inside_first: bool = False) -> Prefer:
    """Of what may come next: what two people do while two are there, then the side one works at, then outside first
    (on the way back inside first), then the nearest."""

    def prefer(name: str, done: list[str]) -> tuple[Any, ...]:
        a = strip[name]
        layer = -a.layer if inside_first else a.layer
        if not done:
            return (False, False, layer, a.x_from)
        last = strip[done[-1]]
        away = abs(a.x_from + a.x_to - last.x_from - last.x_to)
        return (a.two_people != last.two_people, a.side != last.side, layer, away)

    return prefer


class WaysIn:
    """Ways into one machine by what one wants to reach, each worked out once."""

    def __init__(self, strip: StripDown, costs: Costs | None = None, off: Collection[str] = ()) -> None:
        self.strip, self.costs, self.off = strip, costs or Costs(), frozenset(off)
        self._found: dict[frozenset[str], WayIn] = {}

    def to(self, targets: Iterable[str]) -> WayIn:
        wanted = frozenset(targets) - self.off
        if wanted not in self._found:
            self._found[wanted] = way_in(self.strip, wanted, self.costs, self.off)
        return self._found[wanted]


@dataclass(frozen=True)
class Also:
    """Something one could do while it is open: minutes to get there now, and from closed later (its own work aside)."""

    at: str
    now: int
    later: int

    @property
    def saved(self) -> int:
        return self.later - self.now


def while_in_there(
    strip: StripDown,
    targets: Iterable[str],
    places: Iterable[str],
    costs: Costs | None = None,
    off: Collection[str] = (),
) -> list[Also]:
    """For each place with work on it: what it adds to the opening to `targets`, and what it costs later by itself.

    What saves most first. `off` is off already; later begins and ends with all of it on.
    """
    wanted = frozenset(targets)
    here, closed = WaysIn(strip, costs, off), WaysIn(strip, costs)
    base = here.to(wanted).minutes
    found = [
        Also(place, max(0, here.to(wanted | {place}).minutes - base), closed.to({place}).minutes)
        for place in dict.fromkeys(places)
    ]
    return sorted(found, key=lambda also: (-also.saved, also.at))


def shares_of_an_opening(ways: WaysIn, places: Sequence[str]) -> list[int]:
    """Minutes in and back of one opening for several jobs, at these places, divided by what each would have cost by
    itself; whole minutes that sum to the whole. Where none costs anything, they are divided evenly."""
    if not places:
        return []
    whole = ways.to(set(places)).minutes
    alone = [Decimal(ways.to({place}).minutes) for place in places]
    shares = allocate(Decimal(whole) / 100, alone if any(alone) else [Decimal(1)] * len(places))
    return [int(share * 100) for share in shares]
