"""The rails: every open lot with its units at their stations, laid out for drawing."""

from collections import defaultdict
from dataclasses import dataclass, field

from core.flow.stage import State, Station
from stations.units.models import Unit

COLUMN = 112.0
STEP = 35.0
MAIN_Y, SIDING_Y = 33.0, 80.0
MOST = 3
STATIONS = list(Station)


@dataclass(frozen=True)
class Token:
    unit: Unit
    x: float
    y: float

    @property
    def words(self) -> str:
        return f"{self.unit.tag.short}, {State(self.unit.state).label}. {self.unit.title}: {self.unit.stage_reason}"

    @property
    def glyph(self) -> str:
        return {"wait": "clock", "stuck": "stuck", "hold": "hold", "sold": "sold"}.get(self.unit.state, "")


@dataclass(frozen=True)
class More:
    x: float
    y: float
    count: int
    station: str


@dataclass(frozen=True)
class Siding:
    x: float
    end: float


@dataclass
class Rail:
    """One lot's drawing. `span` is from the rearmost to the foremost piece; None for an empty lot."""

    tokens: list[Token] = field(default_factory=list)
    more: list[More] = field(default_factory=list)
    sidings: list[Siding] = field(default_factory=list)
    second: bool = False
    span: tuple[float, float] | None = None
    to_receive: int = 0
    stops: tuple[int, ...] = tuple(round(index * COLUMN) for index in range(len(STATIONS)))
    by_station: list[tuple[str, int, int]] = field(default_factory=list)


def lay_out(units: list[Unit], counts: dict[tuple[str, str], int], to_receive: int) -> Rail:
    """Lay out one lot. `units` holds the first few of each station and state, `counts` how many there are."""
    rail = Rail(to_receive=to_receive)
    groups: dict[tuple[str, bool], list[Unit]] = defaultdict(list)
    totals: dict[tuple[str, bool], int] = defaultdict(int)
    for (station, state), count in counts.items():
        totals[station, _on_rail(state)] += count
    for unit in units:
        groups[unit.station, _on_rail(unit.state)].append(unit)
    reached = [0.0, COLUMN] if to_receive else []
    for index, station in enumerate(STATIONS):
        left = index * COLUMN
        for on_rail in (True, False):
            total = totals.get((station.value, on_rail), 0)
            if not total:
                continue
            shown = groups[station.value, on_rail]
            siding_free = not totals.get((station.value, False))
            if station is Station.BOOKS and on_rail and total > MOST and siding_free:
                # What is done may fold onto a second track before it is counted only.
                rail.second = True
                _place(rail, shown[:MOST], MOST, left + 4, MAIN_Y, station)
                _place(rail, shown[MOST:], total - MOST, left + 7, SIDING_Y, station)
            else:
                offset, y = (4.0, MAIN_Y) if on_rail else (7.0, SIDING_Y)
                _place(rail, shown, total, left + offset, y, station)
                if not on_rail:
                    rail.sidings.append(Siding(left - 16 if index else left, left + offset + min(total, MOST) * STEP))
            reached += [left, left + 4 + min(total, MOST) * STEP]
        here = totals.get((station.value, True), 0) + totals.get((station.value, False), 0)
        rail.by_station.append((station.label, here, totals.get((station.value, False), 0)))
    if reached:
        rail.span = (max(0.0, min(reached) - 16 if min(reached) else 0.0), max(reached))
    return rail


def _on_rail(state: str) -> bool:
    return state in {State.MOVING, State.SOLD}


def _place(rail: Rail, units: list[Unit], total: int, left: float, y: float, station: Station) -> None:
    fits = MOST if total <= MOST else MOST - 1
    for place, unit in enumerate(units[:fits]):
        rail.tokens.append(Token(unit, left + place * STEP, y))
    if total > MOST:
        rail.more.append(More(left + fits * STEP + 17, y, total - fits, station.value))
