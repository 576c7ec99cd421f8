"""The drawing of a day: rails of people, blocks of work on them, what runs alone beside them, the sun, and now.

One layout along the day; laid across the page on a desk, down it on a phone.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from core.flow.dayplan.reasons import clock
from core.workshop.care.daylight import Place, heights
from stations.common.templatetags.figures import duration
from stations.day.gather import moment_of
from stations.day.selectors import DayView, Row, State
from stations.people import shop_settings

# On a desk: the drawing, its margins, a rail with its block, a row of what runs alone.
WIDE, LEFT, RIGHT, TOP = 800.0, 74.0, 14.0, 40.0
# How wide a letter of the words on it is about.
LETTER = 6.2
BLOCK, LANE, GAP = 28.0, 22.0, 26.0
# On a phone: a minute, a person's column.
PHONE_WIDE, PHONE_MINUTE = 358.0, 1.1
SUN = 40.0
# Rows of what runs alone under a rail; what is more shares the last.
MOST_LANES = 4
LEAST = 4.0


@dataclass(frozen=True)
class Block:
    """Hands-on work on a rail."""

    x: float
    y: float
    w: float
    h: float
    row: Row

    @property
    def style(self) -> str:
        return {State.DONE: "is-done", State.HAND: "is-hand", State.COMES: "is-come"}[self.row.state]

    @property
    def label(self) -> str:
        """Number and tag, the number alone where there is little room, nothing where there is none."""
        room = max(self.w, 0)
        if room >= 58:
            return f"{self.row.number}  {self.row.unit.number:04}"
        return str(self.row.number) if room >= 18 else ""

    @property
    def above(self) -> bool:
        return self.w < 18

    @property
    def words(self) -> str:
        row = self.row
        when = f"{clock(row.start)} to {clock(row.until)}"
        return f"{row.number} {row.unit.number:04}: {row.title}, {row.person.name}, {when}"


@dataclass(frozen=True)
class Alone:
    """What runs by itself: a bar beside the rail, with the line that leaves the rail and comes back."""

    x: float
    y: float
    w: float
    h: float
    done: float
    words: str
    path: str


@dataclass(frozen=True)
class Mark:
    x: float
    y: float
    words: str
    x2: float = 0.0
    late: bool = False
    # Its words stand left of it, as they would run out of the drawing.
    before: bool = False


@dataclass(frozen=True)
class Rail:
    name: str
    words: str
    y: float
    x1: float
    x2: float
    blocks: tuple[Block, ...]
    alone: tuple[Alone, ...]
    more: str = ""
    more_y: float = 0.0


@dataclass(frozen=True)
class Drawn:
    wide: float
    high: float
    hours: tuple[tuple[float, str], ...]
    rails: tuple[Rail, ...]
    now: Mark | None
    past: float
    arrivals: tuple[Mark, ...]
    promises: tuple[Mark, ...]
    sun: str
    sun_words: Mark | None
    foot: float


def drawn(view: DayView, wide: float = WIDE) -> Drawn | None:
    """The day across the page; None where nobody works and nothing ran."""
    if not view.people and not view.rows:
        return None
    first, last = _ends(view)
    scale = (wide - LEFT - RIGHT) / (last - first)

    def at(minute: float) -> float:
        return round(LEFT + (min(max(minute, first), last) - first) * scale, 1)

    rails = []
    y = TOP + 30
    for person, spans in _people(view):
        rows = [row for row in view.rows if row.person.pk == person.pk]
        lanes, more = _lanes(rows)
        blocks = tuple(
            Block(at(row.start), y - BLOCK / 2, max(LEAST, at(row.until) - at(row.start)), BLOCK, row) for row in rows
        )
        alone = tuple(_alone(row, lane, y, at, view) for row, lane in lanes)
        words = f"in until {clock(spans[-1][1])}" if spans else "not in"
        deepest = max((lane for _, lane in lanes), default=-1) + 1
        rails.append(
            Rail(
                person.first_name or person.name,
                words,
                y,
                at(spans[0][0]) if spans else at(first),
                at(spans[-1][1]) if spans else at(last),
                blocks,
                alone,
                f"{more} more alone" if more else "",
                y + BLOCK / 2 + 8 + deepest * LANE + 12,
            )
        )
        y += BLOCK / 2 + 8 + (deepest + bool(more)) * LANE + GAP + BLOCK / 2
    foot = y - BLOCK / 2 + 4
    sun, sun_words = _sun(view, at, foot + SUN, first, last)
    return Drawn(
        wide,
        foot + (SUN + 4 if sun else 0),
        tuple((at(hour * 60), str(hour)) for hour in range(-(-first // 60), last // 60 + 1)),
        tuple(rails),
        Mark(at(view.now), 18, f"now {clock(view.now)}")
        if view.now is not None and first <= view.now <= last
        else None,
        at(view.now) - LEFT if view.now is not None else 0.0,
        tuple(
            Mark(
                at(one.at.hour * 60 + one.at.minute),
                TOP + 2,
                f"{clock(one.at.hour * 60 + one.at.minute)} {one.words}" + (", here" if one.came_at else ""),
            )
            for one in view.arrivals
        ),
        _promises(view, at, {rail.name: rail.y for rail in rails}, wide),
        sun,
        sun_words,
        foot,
    )


def _ends(view: DayView) -> tuple[int, int]:
    """From the first to the last hour that is drawn."""
    begins = [spans[0][0] for _, spans in view.people] + [row.start for row in view.rows]
    ends = [spans[-1][1] for _, spans in view.people] + [row.until for row in view.rows]
    first, last = max(0, min(begins) // 60 * 60), min(24 * 60, -(-max(ends) // 60) * 60)
    return first, max(last, first + 60)


def _people(view: DayView):
    """Those who work, then those who did something without being said to work."""
    there = {person.pk for person, _ in view.people}
    others = {row.person.pk: row.person for row in view.rows if row.person.pk not in there}
    return [*view.people, *((person, ()) for person in others.values())]


def _lanes(rows: Sequence[Row]) -> tuple[list[tuple[Row, int]], int]:
    """What runs alone, each in the lowest lane that is free; and how many found none."""
    taken: list[int] = []
    found, more = [], 0
    for row in rows:
        if not row.alone:
            continue
        lane = next((place for place, until in enumerate(taken) if until <= row.start), len(taken))
        if lane >= MOST_LANES:
            more += 1
            continue
        if lane == len(taken):
            taken.append(0)
        taken[lane] = row.end
        found.append((row, lane))
    return found, more


def _alone(row: Row, lane: int, y: float, at, view: DayView) -> Alone:
    begin, end = at(row.until), at(row.end)
    top = y + BLOCK / 2 + 8 + lane * LANE
    middle = top + 7
    follower = next((other for other in view.rows if row.code in other.needs and other.start >= row.end), None)
    back = ""
    if follower is not None and follower.person.pk == row.person.pk:
        x = at(follower.start) + 4
        back = f"M{end} {middle}H{max(end, x - 4):.1f}Q{x:.1f} {middle} {x:.1f} {middle - 4}V{y + BLOCK / 2}"
    leave = f"M{begin - 4:.1f} {y + BLOCK / 2}V{middle - 4}Q{begin - 4:.1f} {middle} {begin:.1f} {middle}"
    ran = begin if view.now is None else min(end, max(begin, at(view.now)))
    words = f"{row.unit.number:04} {row.title}"
    room = int(max(0.0, end - begin) / LETTER)
    return Alone(
        begin,
        top,
        max(LEAST, end - begin),
        14,
        round(ran - begin, 1),
        words if len(words) <= room else f"{row.unit.number:04}" if room >= 5 else "",
        leave + back,
    )


def _promises(view: DayView, at, rails: dict[str, float], wide: float) -> tuple[Mark, ...]:
    found = []
    for row in view.rows:
        if row.promised is None:
            continue
        y = rails.get(row.person.first_name or row.person.name)
        if y is not None:
            spare = row.promised - row.end
            words = (
                f"{clock(row.promised)}: {f'{duration(spare)} to spare' if spare >= 0 else f'{duration(-spare)} late'}"
            )
            x = at(row.promised)
            found.append(Mark(x, y - BLOCK / 2 - 9, words, at(row.end), row.late, x + 9 + LETTER * len(words) > wide))
    return tuple(found)


def _sun(view: DayView, at, foot: float, first: int, last: int) -> tuple[str, Mark | None]:
    """The real height of the sun, to scale of its highest on any day there."""
    settings = shop_settings.settings()
    if view.sun is None or settings.latitude is None or settings.longitude is None:
        return "", None
    place = Place(float(settings.latitude), float(settings.longitude))
    begin = moment_of(first, view.day)
    step = 15
    up = [
        (first + step * place_, max(0.0, height))
        for place_, height in enumerate(heights(place, begin, last - first, step))
    ]
    points = " ".join(f"L{at(minute)} {foot - height / 62 * SUN:.1f}" for minute, height in up)
    path = f"M{at(first)} {foot}{points}L{at(last)} {foot}Z"
    return path, Mark(at(view.sun[1]), foot - 6, f"daylight ends {clock(view.sun[1])}")


@dataclass(frozen=True)
class Down:
    """The day down a phone: columns of people, hours as rows."""

    wide: float
    high: float
    hours: tuple[tuple[float, str], ...]
    columns: tuple[tuple[float, str, tuple[Block, ...]], ...]
    alone: tuple[tuple[float, float, float, str], ...]
    now: Mark | None


def drawn_down(view: DayView) -> Down | None:
    """Time runs downwards, people left and right, what runs alone between; None as `drawn`."""
    if not view.people and not view.rows:
        return None
    first, last = _ends(view)
    people = _people(view)
    left = 28.0
    each = (PHONE_WIDE - left) / len(people)
    block = min(52.0, each * 0.6)

    def at(minute: float) -> float:
        return round(26 + (min(max(minute, first), last) - first) * PHONE_MINUTE, 1)

    columns, alone = [], []
    for place, (person, _) in enumerate(people):
        x = left + place * each
        rows = [row for row in view.rows if row.person.pk == person.pk]
        blocks = tuple(Block(x, at(row.start), block, max(LEAST, at(row.until) - at(row.start)), row) for row in rows)
        columns.append((x, person.first_name or person.name, blocks))
        lanes, _ = _lanes(rows)
        room = int(max(1.0, (each - block - 6) // 16))
        for row, lane in lanes:
            if lane < room:
                alone.append(
                    (x + block + 4 + lane * 16, at(row.until), max(LEAST, at(row.end) - at(row.until)), row.title)
                )
    now = (
        Mark(0, at(view.now), f"now {clock(view.now)}") if view.now is not None and first <= view.now <= last else None
    )
    return Down(
        PHONE_WIDE,
        at(last) + 10,
        tuple((at(hour * 60), str(hour)) for hour in range(-(-first // 60), last // 60 + 1)),
        tuple(columns),
        tuple(alone),
        now,
    )
