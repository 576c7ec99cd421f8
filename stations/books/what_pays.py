"""What kinds of lots pay, out of what was sold or written off of each lot."""

from collections import defaultdict
from collections.abc import Callable
from dataclasses import dataclass
from decimal import Decimal
from enum import StrEnum

from django.db.models import Sum

from core.books.pays import Pays, Put, pays, season, size
from core.books.statement import OF_SELLING
from core.flow.stage import Stage
from core.money import ZERO
from stations.buying.models import Lot, LotLine
from stations.ledger.models import Account, EntryKind, LedgerEntry
from stations.units.costs import COST_UNKNOWN
from stations.units.models import Unit
from stations.workshop.models import LabourEntry


class By(StrEnum):
    """What makes a kind."""

    SOURCE = "source"
    SUPPLIER = "supplier"
    CLAIM = "claim"
    KIND = "kind"
    MODEL = "model"
    SIZE = "size"
    SEASON = "season"

    @property
    def words(self) -> str:
        return {
            "source": "where it was bought",
            "supplier": "supplier",
            "claim": "what was claimed of it",
            "kind": "kind of thing",
            "model": "model",
            "size": "size of the lot",
            "season": "season of buying",
        }[self.value]


class Per(StrEnum):
    """What it is reckoned for."""

    EURO = "money"
    HOUR = "hour"


@dataclass(frozen=True)
class Gone:
    """One unit that was sold or written off: what it earned with our own labour as a cost, what it had cost, and the
    labour in it as money and minutes."""

    unit: Unit
    earned: Decimal
    cost: Decimal
    labour: Decimal
    minutes: int


def gone() -> list[Gone]:
    """All of them of which the cost is known, of lots that are ours: four queries."""
    rows = Unit.objects.filter(stage__in=[Stage.SOLD, Stage.SENT, Stage.CLOSED, Stage.SCRAPPED])
    rows = rows.filter(holding=Unit.Holding.OWNED).exclude(lot__in=Lot.objects.filter(COST_UNKNOWN))
    units = list(rows.select_related("lot__supplier", "line", "model").order_by("number"))
    ids = [unit.pk for unit in units]
    sums: dict[int, dict[str, Decimal]] = defaultdict(dict)
    entries = LedgerEntry.objects.filter(account=Account.UNIT, account_id__in=ids).order_by()
    for pk, kind, amount in entries.values_list("account_id", "kind").annotate(sum=Sum("amount")):
        sums[pk][kind] = amount
    logged = LabourEntry.objects.filter(job__unit__in=ids).order_by().values_list("job__unit")
    minutes = dict(logged.annotate(sum=Sum("minutes")))
    found = []
    for unit in units:
        of = sums[unit.pk]
        lost = -of.get(EntryKind.WRITE_OFF, ZERO)
        cost = sum((amount for kind, amount in of.items() if kind not in OF_SELLING), ZERO) + lost
        earned = -sum(of.values(), ZERO) - lost
        found.append(Gone(unit, earned, cost, of.get(EntryKind.LABOUR, ZERO), minutes.get(unit.pk, 0)))
    return found


def _named(by: By) -> Callable[[Unit], str]:
    """How the kind of a unit is called."""
    if by is By.SIZE:
        pieces = dict(LotLine.objects.order_by().values_list("lot").annotate(sum=Sum("quantity")))
        return lambda unit: size(pieces[unit.lot_id])
    return {
        By.SOURCE: lambda unit: unit.lot.get_source_kind_display(),
        By.SUPPLIER: lambda unit: unit.lot.supplier.name,
        By.CLAIM: lambda unit: unit.line.get_claim_display(),
        By.KIND: lambda unit: unit.line.get_kind_display(),
        By.MODEL: lambda unit: str(unit.model) if unit.model else "no model recorded",
        By.SEASON: lambda unit: season(unit.lot.bought_on),
    }[by]


@dataclass(frozen=True)
class Kind:
    """One kind: its units, what was put into them and what they earned; `pays` judges it for each euro or hour, None
    where nothing was put in."""

    name: str
    units: int
    put: Decimal
    earned: Decimal
    pays: Pays | None


def kinds(by: By, per: Per) -> list[Kind]:
    """The kinds, what pays best first; what nothing can be said of comes last. Six queries at most."""
    name = _named(by)
    lots: dict[str, dict[int, list[Gone]]] = defaultdict(lambda: defaultdict(list))
    for row in gone():
        lots[name(row.unit)][row.unit.lot_id].append(row)
    puts = {kind: [put for some in of.values() if (put := _put(some, per))] for kind, of in lots.items()}
    judged = pays({kind: some for kind, some in puts.items() if some})
    found = []
    for kind, of in lots.items():
        rows = [row for some in of.values() for row in some]
        sums = _amounts(rows, per)
        found.append(Kind(kind, len(rows), *sums, judged.get(kind)))
    return sorted(found, key=_best_first)


def _amounts(rows: list[Gone], per: Per) -> tuple[Decimal, Decimal]:
    """What was put in, and what it earned: for an hour before our own labour, of what has minutes on record."""
    if per is Per.EURO:
        return sum((row.cost for row in rows), ZERO), sum((row.earned for row in rows), ZERO)
    timed = [row for row in rows if row.minutes]
    hours = Decimal(sum(row.minutes for row in timed)) / 60
    return hours, sum((row.earned + row.labour for row in timed), ZERO)


def _put(rows: list[Gone], per: Per) -> Put | None:
    put, earned = _amounts(rows, per)
    return Put(float(earned), float(put)) if put > 0 else None


def _best_first(kind: Kind) -> tuple[float, str]:
    if kind.pays is None:
        return float("inf"), kind.name
    return -(kind.pays.likely.at if kind.pays.likely else kind.pays.was), kind.name
