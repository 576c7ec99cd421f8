"""Where the money is now: what stands in units and drawers, at cost and at what it will bring."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import timedelta
from decimal import Decimal

from django.db.models import Max, Q, Sum

from core.books.statement import OF_SELLING
from core.books.valuation import HeldTogether, HeldUnit, together
from core.flow.stage import GONE, Station
from core.money import ZERO
from stations.buying.taxed import tax_of_pieces
from stations.common import clock
from stations.common.paging import First
from stations.ledger.models import Account, EntryKind, LedgerEntry
from stations.selling.to_come import each_to_come
from stations.stock.models import StockItem
from stations.units.costs import not_shared
from stations.units.models import Unit

# Nothing was taken from it for so many days (common practice, no source).
IDLE = 180
_SHOWN = 12


@dataclass(frozen=True)
class Row:
    unit: Unit
    held: HeldUnit


def units_held() -> list[Row]:
    """Every unit that is ours to sell and was not: those first that cost more than they bring, then the longest here.
    A fixed number of queries."""
    here = Unit.objects.exclude(stage__in=GONE).exclude(holding=Unit.Holding.CUSTODY)
    units = list(here.select_related("lot").order_by("number"))
    lots = sorted({unit.lot_id for unit in units})
    brings = {one.unit: one.amount for one in each_to_come(lots, tax_of_pieces(lots))}
    entries = LedgerEntry.objects.filter(account=Account.UNIT, account_id__in=[unit.pk for unit in units])
    sums = entries.exclude(kind__in=OF_SELLING).order_by().values_list("account_id").annotate(sum=Sum("amount"))
    cost, unknown, today = dict(sums), not_shared(units), clock.today()
    rows = [
        Row(
            unit,
            HeldUnit(
                None if unit.pk in unknown else cost.get(unit.pk, ZERO),
                brings.get(unit.pk),
                (today - clock.day_of(unit.here_since)).days,
            ),
        )
        for unit in units
    ]
    return sorted(rows, key=lambda row: (-row.held.too_much, -row.held.days, row.unit.number))


@dataclass(frozen=True)
class AtStation:
    """What stands at one, and of the money in a drawing `full` wide the parts that it will and will not bring back."""

    station: Station
    held: HeldTogether
    brought: float
    too_much: float


def by_station(rows: Sequence[Row], full: float = 300.0) -> list[AtStation]:
    """Where they stand, in the order of the work; stations at which none does are left out."""
    at = {station: [row.held for row in rows if row.unit.station == station] for station in Station}
    held = {station: together(units) for station, units in at.items() if units}
    most = max((one.cost for one in held.values()), default=ZERO)
    scale = full / float(most) if most > 0 else 0.0
    return [
        AtStation(station, one, round(float(one.at_lower) * scale, 1), round(float(one.too_much) * scale, 1))
        for station, one in held.items()
    ]


@dataclass(frozen=True)
class IdleDrawer:
    """A drawer of which nothing was taken for long, or ever: what lies there and what it cost."""

    item: StockItem
    worth: Decimal


def idle_drawers() -> tuple[First[IdleDrawer], Decimal]:
    """Those that hold money and of which nothing came or went for IDLE days, the dearest first, and what all of them
    hold. Two queries."""
    before = clock.today() - timedelta(days=IDLE)
    entries = LedgerEntry.objects.filter(account=Account.STOCK)
    taken = Q(kind=EntryKind.PART_ISSUED) | Q(kind=EntryKind.TRANSFER, amount__lt=0)
    moved = Max("happened_on", filter=Q(amount__gt=0) | taken)
    quiet = entries.values_list("account_id").annotate(worth=Sum("amount"), moved=moved)
    quiet = quiet.filter(worth__gt=0, moved__lte=before).order_by("-worth", "account_id")
    found = [(pk, worth) for pk, worth, _ in quiet]
    items = StockItem.objects.in_bulk([pk for pk, _ in found[:_SHOWN]])
    shown = [IdleDrawer(items[pk], worth) for pk, worth in found[:_SHOWN] if pk in items]
    return First(shown, len(found)), sum((worth for _, worth in found), ZERO)
