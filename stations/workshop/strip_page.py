"""What the strip-down page shows: the machine as it stands, the step in hand, the trays, what else lies on the way."""

import re
from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta

from django.urls import reverse
from django.utils import timezone

from core.catalogue.assemblies import Assembly, AssemblyError, Fastener, StripDown
from core.workshop.stripdown.fasteners import Lying, Tally, where_the_like_are
from core.workshop.stripdown.step import Kind, count_of, things_off, things_on
from core.workshop.stripdown.way_back import Unsettled, minutes_if_closed_too_soon
from core.workshop.stripdown.way_in import Also, Costs, WayIn, WaysIn, shares_of_an_opening, way_in, while_in_there
from stations.catalogue.section import DESK, PHONE, Look, Mark, Section, draw
from stations.common import clock
from stations.stock.models import StockItem
from stations.units.models import Unit
from stations.workshop import in_hand, learned, openings, strip_downs
from stations.workshop.inside import jobs_inside
from stations.workshop.models import Job, OpenedAssembly, Opening

LETTERS = "abcdefgh"
MANY = 8  # trays
_THREAD = re.compile(r"\b(M\d(?:\.\d)?|\d+-\d+)\s*[x×]\s*(\d{1,3})\b")


@dataclass(frozen=True)
class Group:
    """A group of like fasteners in a tray: what belongs, and how it stands."""

    tally: Tally
    now: bool

    @property
    def drawn(self) -> list[str]:
        """Each fastener as it is drawn in the tray, up to eight: here, to come, or short."""
        t = self.tally
        states = ["here"] * t.in_tray + ["back"] * min(t.back, t.out) + ["to come"] * (t.found - t.out)
        return (states + ["short"] * t.short_at_arrival)[:8]

    @property
    def many(self) -> bool:
        return self.tally.group.count > 8


@dataclass(frozen=True)
class Tray:
    """The tray of an assembly: its number, the groups in it, and how the step stands."""

    number: int
    assembly: Assembly
    row: OpenedAssembly | None
    groups: tuple[Group, ...]
    state: str  # "to come", "now", "full", "empty"
    folded: bool = False

    @property
    def short(self) -> int:
        return sum(group.tally.short_at_arrival for group in self.groups)

    @property
    def out(self) -> int:
        return sum(group.tally.in_tray for group in self.groups)

    @property
    def belong(self) -> int:
        return self.assembly.fastener_count


@dataclass(frozen=True)
class Work:
    """Work that lies on the way: its letter, the job or want, what reaching it adds now and costs later."""

    letter: str
    job: Job
    also: Also
    in_reach: bool
    share: int | None = None  # of the minutes in and back, when it is part of this opening


@dataclass(frozen=True)
class Bar:
    """Minutes: done, to reach what is wanted, to close again; with the clock when each would be."""

    done: int
    to_reach: int
    to_close: int
    now: datetime

    @property
    def reached(self) -> datetime:
        return self.now + timedelta(minutes=self.to_reach)

    @property
    def closed(self) -> datetime:
        return self.now + timedelta(minutes=self.to_reach + self.to_close)

    @property
    def whole(self) -> int:
        return max(1, self.done + self.to_reach + self.to_close)

    @property
    def shares(self) -> tuple[float, float, float]:
        """Of a line 100 long."""
        return tuple(100 * part / self.whole for part in (self.done, self.to_reach, self.to_close))  # type: ignore[return-value]


@dataclass(frozen=True)
class StripPage:
    """Everything the page shows of a machine that is open; `last` names what “Back one” takes back."""

    opening: Opening
    strip: StripDown
    hand: in_hand.InHand | None
    number: int
    steps: int
    trays: tuple[Tray, ...]
    work: tuple[Work, ...]
    unsettled: tuple[Unsettled, ...]
    too_soon: int
    shut: str
    bar: Bar
    desk: Section
    phone: Section
    likes: tuple[Lying, ...]
    tests: tuple[str, ...]
    lifts: tuple[str, ...]
    spread: str
    last: str

    @property
    def out(self) -> int:
        return sum(tray.out for tray in self.trays)

    @property
    def short(self) -> int:
        return sum(tray.short for tray in self.trays)

    @property
    def safety(self) -> bool:
        return any(one.safety for one in self.unsettled)

    @property
    def held(self) -> bool:
        """Something speaks against closing, and nobody said why it is closed over."""
        row = self.hand.row if self.hand else None
        return bool(self.unsettled) and (self.safety or not (row and row.closed_over))

    @property
    def tray(self) -> Tray | None:
        """The tray of the step in hand."""
        return next((t for t in self.trays if self.hand and t.assembly.name == self.hand.assembly.name), None)


def strip_page(opening: Opening, unfold: Collection[str] = ()) -> StripPage:
    """A fixed number of queries, whatever the size of the machine; `unfold` names what is not to be folded."""
    unit, known = opening.unit, strip_downs.strip_down_of(opening.unit)
    by = learned.known(unit, known)
    strip = by.strip
    rows = in_hand.rows_of(opening, strip)
    hand = in_hand.in_hand(strip, opening, rows)
    order = _order(strip, opening, rows)
    done = [name for name in order if _is_done(opening, rows, name)]
    unsettled: Sequence[Unsettled] = ()
    if opening.going_back and hand:
        unsettled = openings.speaks_against_closing(opening, strip, rows, hand.assembly.name)
    trays = _trays(strip, opening, rows, hand, order)
    work = _work(strip, opening, rows, by.costs)
    marks = _marks(strip, opening, rows, hand, order, work, bool(unsettled))
    return StripPage(
        opening,
        strip,
        hand,
        len(done) + (hand is not None),
        len(order),
        trays,
        work,
        tuple(unsettled),
        minutes_if_closed_too_soon(strip, unsettled),
        in_hand.shut_by_charge(unit, hand.assembly) if hand else "",
        _bar(strip, opening, rows, order),
        draw(strip, marks, order, DESK, back=opening.going_back, unfold=unfold),
        draw(strip, marks, order, PHONE, back=opening.going_back, unfold=unfold),
        tuple(_likes(hand, rows)),
        tuple(n for n, row in rows.items() if n in strip.assemblies and strip[n].test and _may_be_tested(row)),
        tuple(plug.name for plug in hand.assembly.plugs if plug.tied) if hand and not opening.going_back else (),
        _spread(known[hand.assembly.name], by.before, opening.going_back) if hand else "",
        in_hand.mark_of_last(opening, rows.values()),
    )


def _spread(assembly: Assembly, before: Sequence[OpenedAssembly], back: bool) -> str:
    """Between how many minutes 8 in 10 take it, and from how many times that is known."""
    found = learned.took(assembly, before, back)
    if found is None or not found.count:
        return ""
    estimate = assembly.minutes_on if back else assembly.minutes_off
    times = f"{found.count} {'time' if found.count == 1 else 'times'}"
    return f"8 in 10 take {max(1, round(estimate * found.low))} to {round(estimate * found.high)}, from {times}"


def _may_be_tested(row: OpenedAssembly) -> bool:
    return row.on_at is not None and row.tested_at is None


def _order(strip: StripDown, opening: Opening, rows: dict[str, OpenedAssembly]) -> list[str]:
    """The names in the order of the way one is on: what is done first, then what is to come."""
    known = [row for name, row in rows.items() if name in strip.assemblies]
    if opening.going_back:
        on = sorted((row for row in known if row.on_at), key=lambda row: row.on_at or opening.opened_at)
        return [row.name for row in on] + in_hand.back_order(strip, rows)
    off = sorted((row for row in known if row.is_off), key=lambda row: row.off_at or opening.opened_at)
    gone = [row.name for row in off]
    return gone + [name for name in opening.steps if name in strip.assemblies and name not in gone]


def _is_done(opening: Opening, rows: dict[str, OpenedAssembly], name: str) -> bool:
    row = rows.get(name)
    return row is not None and (row.on_at is not None if opening.going_back else row.is_off)


def _trays(
    strip: StripDown,
    opening: Opening,
    rows: dict[str, OpenedAssembly],
    hand: in_hand.InHand | None,
    order: Sequence[str],
) -> tuple[Tray, ...]:
    """In the order they are used: as they come on the way in, as they empty on the way back."""
    free = max((row.tray for row in rows.values()), default=0)
    made = []
    for name in order:
        row, assembly = rows.get(name), strip[name]
        if row is None:
            free += 1
        now = hand is not None and hand.assembly.name == name
        state = "now" if now else _tray_state(row)
        groups = tuple(Group(_tally(assembly, index, row, opening), now) for index in range(len(assembly.fasteners)))
        made.append(Tray(row.tray if row else free, assembly, row, groups, state))
    return tuple(_folded(made))


def _folded(trays: Sequence[Tray]) -> list[Tray]:
    """With many, those that are done with or far off take one line each; the three before and after what is in hand
    and any that is short stay."""
    if len(trays) <= MANY:
        return list(trays)
    done = [tray for tray in trays if tray.state in {"full", "empty"}]
    to_come = [tray for tray in trays if tray.state == "to come"]
    fold = {id(tray) for tray in (*done[:-3], *to_come[3:]) if not tray.short}
    return [replace(tray, folded=id(tray) in fold) for tray in trays]


def _tray_state(row: OpenedAssembly | None) -> str:
    if row is None or row.off_at is None:
        return "to come"
    return "empty" if row.on_at else "full"


def _tally(assembly: Assembly, index: int, row: OpenedAssembly | None, opening: Opening) -> Tally:
    group = assembly.fasteners[index]
    if row is None:
        return Tally(group, group.count)
    out = count_of(things_off(assembly, row.found), row.off_done, Kind.FASTENER, index)
    back = count_of(things_on(assembly, in_hand.there(row)), row.on_done, Kind.FASTENER, index)
    return Tally(group, row.found[index], out, back)


def _work(strip: StripDown, opening: Opening, rows: dict[str, OpenedAssembly], costs: Costs) -> tuple[Work, ...]:
    """Open jobs inside, each with what reaching it now adds; what saves most first, at most eight."""
    jobs = {name: found for name, found in jobs_inside(opening.unit).items() if name in strip.assemblies}
    off = [name for name, row in rows.items() if row.is_off and name in strip.assemblies]
    targets = [name for name in opening.targets if name in strip.assemblies]
    try:
        found = while_in_there(strip, targets, jobs, costs, off)
    except AssemblyError:
        return ()
    pairs = [(also, job) for also in found for job in jobs[also.at]]
    taken_in = [job.pk for also, job in pairs if also.at in targets or also.at in off]
    places = [also.at for also, job in pairs if job.pk in taken_in]
    share = dict(zip(taken_in, shares_of_an_opening(WaysIn(strip, costs), places), strict=True))
    return tuple(
        Work(letter, job, also, job.pk in share, share.get(job.pk))
        for letter, (also, job) in zip(LETTERS, pairs, strict=False)
    )


def _marks(
    strip: StripDown,
    opening: Opening,
    rows: dict[str, OpenedAssembly],
    hand: in_hand.InHand | None,
    order: Sequence[str],
    work: Sequence[Work],
    gate: bool,
) -> dict[str, Mark]:
    marks = {}
    for name, assembly in strip.assemblies.items():
        row, step = rows.get(name), order.index(name) + 1 if name in order else 0
        now = hand is not None and hand.assembly.name == name
        look, words = _look(opening, assembly, row, now, bool(step), gate)
        marks[name] = Mark(
            look,
            words,
            step,
            _is_done(opening, rows, name),
            tuple(one.letter for one in work if one.job.assembly == name),
            _out(assembly, row),
            sum(in_hand.counts(assembly)) - sum(row.found) if row else 0,
            "do not close yet" if now and gate else "",
        )
    return marks


def _out(assembly: Assembly, row: OpenedAssembly | None) -> int:
    if row is None or row.on_at:
        return 0
    out = count_of(things_off(assembly, row.found), row.off_done, Kind.FASTENER)
    return max(0, out - count_of(things_on(assembly, in_hand.there(row)), row.on_done, Kind.FASTENER))


def _look(
    opening: Opening, assembly: Assembly, row: OpenedAssembly | None, now: bool, on_way: bool, gate: bool
) -> tuple[Look, str]:
    if row is not None and row.is_off and not now:
        at = f"{timezone.localtime(row.off_at):%H:%M}" if row.off_at else ""
        if assembly.stays:
            return Look.SAFE, f"made safe {at}"
        return Look.OFF, f"off {at}, tray {row.tray}"
    if now and opening.going_back:
        return (Look.HELD, "do not close yet") if gate else (Look.NOW, f"goes in, {assembly.minutes_on} min")
    if now:
        return Look.NOW, _holds(assembly, assembly.minutes_off)
    if on_way and not opening.going_back:
        look = Look.GOAL if assembly.name in opening.targets else Look.NEXT
        return look, _holds(assembly, assembly.minutes_off)
    if row is not None and row.on_at:
        return Look.STAYS, f"in again {timezone.localtime(row.on_at):%H:%M}"
    return Look.STAYS, ""


def _holds(assembly: Assembly, minutes: int) -> str:
    """What holds it, and its minutes: "4 × M3 × 8, 6 min"."""
    group = assembly.fasteners[0] if len(assembly.fasteners) == 1 else None
    size = f"{group.count} × {group.thread} × {group.length_mm}" if group and group.thread and group.length_mm else ""
    count = assembly.fastener_count
    held = size or (f"{count} screws" if count else f"{assembly.clips} clips" if assembly.clips else "")
    return ", ".join(filter(None, (held, f"{minutes} min")))


def _bar(strip: StripDown, opening: Opening, rows: dict[str, OpenedAssembly], order: Sequence[str]) -> Bar:
    done = [name for name in order if _is_done(opening, rows, name)]
    left = [name for name in order if name not in done]
    if opening.going_back:
        return Bar(sum(strip[n].minutes_on for n in done), 0, sum(strip[n].minutes_on for n in left), clock.now())
    return Bar(
        sum(strip[n].minutes_off for n in done),
        sum(strip[n].minutes_off for n in left),
        sum(strip[n].minutes_on for n in order),
        clock.now(),
    )


def _likes(hand: in_hand.InHand | None, rows: dict[str, OpenedAssembly]) -> list[Lying]:
    """Where fasteners lie that do for those the step in hand is short of."""
    if hand is None or hand.row is None:
        return []
    belong = in_hand.counts(hand.assembly)
    short = [
        group
        for group, found, added, most in zip(
            hand.assembly.fasteners, hand.row.found, hand.row.added, belong, strict=True
        )
        if found + added < most
    ]
    if not short:
        return []
    lying = [*_in_drawers(), *_in_other_trays(hand.row)]
    return [one for group in short for one in where_the_like_are(group, lying, hand.assembly.board)][:3]


def _in_drawers() -> list[Lying]:
    """Screws in drawers whose name says thread and length."""
    found = []
    for name, drawer, quantity in StockItem.objects.filter(
        quantity__gte=1, name__iregex=r"[0-9] ?[x×] ?[0-9]"
    ).values_list("name", "drawer", "quantity")[:200]:
        if match := _THREAD.search(name):
            fastener = Fastener(min(int(quantity), 400), match[1], int(match[2]))
            found.append(Lying(f"{int(quantity)} {name} in drawer {drawer or '–'}", fastener))
    return found


def _in_other_trays(row: OpenedAssembly) -> list[Lying]:
    """Screws in the trays of other machines that stand open: one query."""
    rows = OpenedAssembly.objects.filter(opening__closed_at=None, off_at__isnull=False, on_at=None)
    rows = rows.exclude(opening=row.opening_id).select_related(
        "opening__unit__strip_down", "opening__unit__model__strip_down"
    )
    return [
        Lying(f"{count} {group.kind} in {other.opening.unit.tag}, tray {other.tray}", replace(group, count=count))
        for other in rows[:60]
        if (assembly := strip_downs.strip_down_as_read(other.opening.unit).assemblies.get(other.name))
        for group, count in zip(assembly.fasteners, other.found, strict=False)
        if count
    ]


def preview(unit: Unit, strip: StripDown, targets: Sequence[str]) -> tuple[Section, Section, WayIn]:
    """The closed machine with what is to be reached, for a desk and for a phone, and the way in."""
    known = [name for name in targets if name in strip.assemblies]
    by = learned.known(unit, strip)
    strip, way = by.strip, way_in(by.strip, known, by.costs)
    jobs = jobs_inside(unit)
    marks = {
        name: Mark(
            Look.GOAL if name in known else Look.NEXT if name in way.steps else Look.STAYS,
            _holds(assembly, assembly.minutes_off) if name in way.steps else "",
            way.steps.index(name) + 1 if name in way.steps else 0,
            letters=tuple("!" for _ in jobs.get(name, ())[:1]),
        )
        for name, assembly in strip.assemblies.items()
    }
    return draw(strip, marks, way.steps, DESK), draw(strip, marks, way.steps, PHONE), way


def as_it_stands(unit: Unit) -> dict[str, object]:
    """For the unit’s own page: its section with the work on it, and the opening if it stands open."""
    one = reverse("workshop:strip-edit-one", args=[unit.number])
    opening = Opening.objects.filter(open_for=unit).select_related("unit__model__strip_down", "opened_by").first()
    if opening is not None:
        page = strip_page(opening)
        return {"opening": opening, "page": page, "desk": page.desk, "phone": page.phone, "one": one}
    strip = strip_downs.strip_down_as_read(unit)
    if not len(strip):
        return {}
    desk, phone, _ = preview(unit, strip, ())
    return {"desk": desk, "phone": phone, "one": one}
