"""What the floor reads: one query for each block, however many units there are."""

from collections import defaultdict
from dataclasses import dataclass, replace
from datetime import datetime

from django.db.models import BooleanField, Count, Exists, ExpressionWrapper, F, OuterRef, Q, Sum, Window
from django.db.models.functions import RowNumber
from django.utils import timezone

from core.flow.next_up import Candidate, Ranked, next_up
from core.flow.stage import State, Station
from core.flow.task import Task
from stations.books.selectors import LotResult, lot_results
from stations.buying.models import TO_COME, Lot, LotLine
from stations.buying.money_bar import MoneyBar, money_bars
from stations.buying.sharing import TO_SHARE
from stations.common import clock
from stations.common.currency import before_amounts
from stations.floor.rails import MOST, Rail, lay_out
from stations.people import shop_settings
from stations.people.models import ShopSettings
from stations.selling.to_come import worth_to_us
from stations.units.models import Unit
from stations.units.selectors import TO_SETTLE, strongest
from stations.units.tasks import tasks_of

# Stations at which a unit is still worked on; what is done for good stands at Books and only ever grows.
AT_WORK = [station.value for station in Station if station is not Station.BOOKS]


# Out of how many units the next steps are chosen.
FROM = 50


@dataclass(frozen=True)
class LotRail:
    result: LotResult
    rail: Rail
    bar: MoneyBar


def open_lots():
    """Lots with something to receive or a unit not finished, oldest first; `to_share` while their cost is."""
    outstanding = LotLine.objects.to_come().filter(lot=OuterRef("pk"))
    unfinished = Unit.objects.filter(lot=OuterRef("pk"), station__in=AT_WORK)
    rows = Lot.objects.filter(Exists(outstanding) | Exists(unfinished)).select_related("supplier")
    return rows.annotate(to_share=ExpressionWrapper(TO_SHARE, BooleanField())).order_by("number")


def rails(lots: list[Lot]) -> list[LotRail]:
    """The rails of these lots: units windowed to the few that are drawn."""
    ids = [lot.pk for lot in lots]
    counts: dict[int, dict[tuple[str, str], int]] = defaultdict(dict)
    rows = (
        Unit.objects.filter(lot_id__in=ids).values_list("lot_id", "station", "state").annotate(n=Count("id")).order_by()
    )
    for lot_id, station, state, n in rows:
        counts[lot_id][station, state] = n
    drawn: dict[int, list[Unit]] = defaultdict(list)
    in_group = Window(RowNumber(), partition_by=[F("lot_id"), F("station"), F("state")], order_by=[F("number").asc()])
    shown = Unit.objects.filter(lot_id__in=ids).only(
        "lot_id", "number", "title", "form_factor", "station", "state", "stage_reason"
    )
    for unit in shown.annotate(in_group=in_group).filter(in_group__lte=2 * MOST).order_by("number"):
        drawn[unit.lot_id].append(unit)
    to_receive = dict(LotLine.objects.filter(lot_id__in=ids).values_list("lot_id").annotate(n=Sum(TO_COME)).order_by())
    results = lot_results(lots)
    bars = money_bars(results)
    return [
        LotRail(r, lay_out(drawn[r.lot.pk], counts[r.lot.pk], to_receive.get(r.lot.pk) or 0), bars[r.lot.pk])
        for r in results
    ]


@dataclass(frozen=True)
class NextUp:
    ranked: Ranked
    unit: Unit


def next_steps(*, most: int = 4, station: str = "", shop: ShopSettings | None = None) -> list[NextUp]:
    """The steps to take next, out of the strongest candidates that an index finds; of one station, or of all. `shop`
    where its settings were read already.

    What runs by itself until later is left out: it comes back when that is over.
    """
    rows = Unit.objects.filter(station=station) if station else Unit.objects.all()
    rows = rows.select_related("lot", "line", "listing", "model")
    found = strongest(rows.annotate(worth=worth_to_us()), FROM)
    found.sort(key=lambda unit: (unit.state != State.HOLD, -(unit.pull or 0), unit.number))
    units = {unit.number: unit for unit in found[:FROM]}
    told, now = tasks_of(units.values()), clock.now()
    candidates = []
    for u in units.values():
        chain = told.get(u.pk, ())
        # What no station has a task for is done as the unit itself says.
        first = chain[0] if chain else Task(u.number, u.next_kind, u.next_step, u.next_minutes)
        if first.ready is not None and first.ready > now:
            continue
        first = replace(first, unlocks=u.worth)  # type: ignore[attr-defined]
        candidates.append(
            Candidate(first, State(u.state), max(0, (now - u.stage_since).days), u.next_minutes + u.minutes_ahead)
        )
    ranked = next_up(candidates, most=most, currency=before_amounts(), minutes_left=_minutes_left(now, shop))
    return [NextUp(one, units[one.candidate.task.unit]) for one in ranked]


def _minutes_left(now: datetime, shop: ShopSettings | None) -> int | None:
    """Until the shop closes; None where nobody said when."""
    closes = (shop or shop_settings.settings()).closes_at
    if closes is None:
        return None
    at = timezone.localtime(now)
    return closes.hour * 60 + closes.minute - at.hour * 60 - at.minute


@dataclass(frozen=True)
class Stop:
    """One station on the line in the bar."""

    station: Station
    count: int
    held_up: int

    @property
    def counts(self) -> str:
        """What its number counts."""
        return {Station.BUYING: "to receive", Station.BOOKS: "to settle"}.get(self.station, "units")

    @property
    def aside(self) -> str:
        """What stands under its name: how many are to receive, to settle or held up."""
        if self.station in {Station.BUYING, Station.BOOKS}:
            return f"{self.count} {self.counts}"
        return f"{self.held_up} held up" if self.held_up else ""


def line() -> list[Stop]:
    """How many units stand at each station, and how many of them are held up; at Books those still to settle.

    Three queries over what is in hand; what was closed long ago is not counted again on every page.
    """
    rows = (
        Unit.objects.filter(station__in=AT_WORK)
        .values_list("station")
        .annotate(n=Count("id"), held=Count("id", filter=Q(state__in=["stuck", "hold"])))
    )
    there = {station: (n, held) for station, n, held in rows.order_by()}
    to_come = LotLine.objects.to_come().aggregate(n=Sum(TO_COME))["n"] or 0
    there[Station.BUYING.value] = (to_come, 0)
    there[Station.BOOKS.value] = (Unit.objects.filter(TO_SETTLE).count(), 0)
    return [Stop(station, *there.get(station.value, (0, 0))) for station in Station]
