"""What the buying pages read. Query counts don't grow with lots or lines."""

from collections import defaultdict
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from django.db.models import Count, F, Sum

from core.books.earnings import Earnings, ToCome, day_even, earnings
from core.buying.odds import Learned
from core.money import ZERO, to_cent
from stations.buying.models import Claim, Lot, LotLine, PlanLine, Supplier
from stations.buying.record import Record
from stations.buying.sharing import share_line
from stations.buying.taxed import tax_of_pieces
from stations.common.registry import Registry
from stations.ledger.models import LedgerEntry
from stations.ledger.selectors import RESULT_ACCOUNTS, lots_by_kind


@dataclass(frozen=True)
class LotRow:
    """A lot with what the books say of it: `out` paid and spent, `back` what came in."""

    lot: Lot
    money: Earnings

    @property
    def paid(self) -> Decimal:
        return self.lot.landed_total

    @property
    def since(self) -> Decimal:
        """What was spent on it since it was paid, whatever left it with parts."""
        return self.money.cost - self.lot.landed_total + self.as_parts

    @property
    def as_parts(self) -> Decimal:
        """What left it with parts that were taken out, or went into drawers, more than came in with others."""
        return self.money.as_parts


def lots():
    """All lots, newest first, with supplier, pieces and how many are still to be received."""
    return (
        Lot.objects.select_related("supplier")
        .annotate(
            pieces=Sum("lines__quantity"),
            line_count=Count("lines"),
            here=Sum("lines__received"),
            to_receive=Sum(F("lines__quantity") - F("lines__received") - F("lines__not_come")),
        )
        .order_by("-number")
    )


def with_money(lots: list[Lot]) -> list[LotRow]:
    """One query for the sums of all of them."""
    sums = lots_by_kind([lot.pk for lot in lots])
    return [LotRow(lot, earnings(sums[lot.pk])) for lot in lots]


def lines_with_shares(lines: Iterable[LotLine], sharing) -> list[tuple]:
    """Each line with its share in `sharing` and what a piece carries of it (None when there is none): one query."""
    lines = list(lines)
    shares = {share.line_id: share for share in sharing.shares.filter(line__in=lines)} if sharing else {}
    return [
        (line, share, share.amount / line.pieces if share and line.pieces else None)
        for line, share in ((line, shares.get(line.pk)) for line in lines)
    ]


# What units that were received may still bring, net, piece by piece, None where nobody said: by lot. Whoever sells them
# answers, of lots, given what tells the tax within the price of a piece of a line.
TaxOf = Callable[[int, Decimal], Decimal]
received_worth: Registry[Callable[[list[int], TaxOf], Mapping[int, list[Decimal | None]]]] = Registry(
    "what units may still bring"
)


def still_to_receive(lots: Iterable[Lot]) -> list[LotLine]:
    """Lines of which pieces are still to come in: one query for all."""
    return list(LotLine.objects.to_come().filter(lot_id__in=[lot.pk for lot in lots]))


def still_to_come(lots: Iterable[Lot], outstanding: Iterable[LotLine]) -> dict[int, ToCome]:
    """By lot, what each piece that is ours may still bring, net of the cost to finish and sell it and of tax: those
    that are here, and those to be received (`outstanding`, their lines). The one figure of what a lot is expected to
    bring. A fixed number of queries for all."""
    ours = [lot.pk for lot in lots if not lot.in_custody]
    found: dict[int, list[Decimal | None]] = {lot.pk: [] for lot in lots}
    tax_of = tax_of_pieces(ours)
    for line in outstanding:
        if line.lot_id in ours:
            one = share_line(line, line.pieces - 1)
            worth, net = one.expected_worth, one.net_value
            left = None if worth is None or net is None else max(ZERO, to_cent(net) - tax_of(line.pk, worth))
            found[line.lot_id] += [left] * line.outstanding
    for asked in received_worth.values():
        for lot_id, amounts in asked(ours, tax_of).items():
            found[lot_id] += amounts
    return {lot_id: ToCome(tuple(pieces)) for lot_id, pieces in found.items()}


@dataclass(frozen=True)
class ClaimRecord:
    """What a claim of a supplier came to: how many were tested, how they turned out, and the odds we use."""

    claim: str
    counts: tuple[int, ...]
    start: tuple[float, ...]
    learned: Learned

    @property
    def seen(self) -> int:
        return sum(self.counts)

    @property
    def worked(self) -> int:
        return self.counts[0]


def suppliers():
    """All suppliers with how many lots and pieces were bought from them, and how many of those do not come."""
    counted = Supplier.objects.annotate(
        lot_count=Count("lots", distinct=True),
        pieces=Sum("lots__lines__quantity"),
        missing=Sum("lots__lines__not_come"),
    )
    return counted.order_by("name")


def claims_of(supplier: Supplier | None) -> list[ClaimRecord]:
    """Claim by claim, what this supplier (None: anybody) said and what was true, and what is thought of a line like it
    now: of this supplier, or of one of whom we never bought. Three queries."""
    record = Record(supplier)
    lines = [(PlanLine(claim=claim), counts) for claim, counts in record.claims().items()]
    return [
        ClaimRecord(str(Claim(line.claim).label), counts, record.start(line), record.odds(line))
        for line, counts in lines
    ]


@dataclass(frozen=True)
class LotAhead(LotRow):
    """A lot with what its pieces may still bring (`ahead`), net of the cost to finish and sell them."""

    ahead: ToCome

    @property
    def to_come(self) -> Decimal:
        """What those bring that have a worth."""
        return self.ahead.known

    @property
    def likely(self) -> Decimal | None:
        """The expected result; None while nobody said what a piece is worth, or what was paid."""
        return self.ahead.expected(self.money.margin) if self.lot.priced else None


@dataclass(frozen=True)
class LotStatus(LotAhead):
    """Where a lot stands. `even_on` is the day since which it has been in the black, None while it is not."""

    even_on: date | None

    @property
    def pieces_left(self) -> int:
        return len(self.ahead.pieces)

    @property
    def to_go(self) -> Decimal:
        """What must still come back; 0 or less when it is even."""
        return -self.money.margin

    @property
    def pieces_to_even(self) -> int | None:
        return self.ahead.pieces_to_even(self.to_go)


def lot_status(row: LotRow) -> LotStatus:
    """What is still to come of the lot, and when it is (or was) even."""
    ahead = still_to_come([row.lot], still_to_receive([row.lot]))[row.lot.pk]
    return LotStatus(row.lot, row.money, ahead, _even_on(row.lot) if row.money.margin >= 0 and row.money.sale else None)


def _even_on(lot: Lot) -> date | None:
    """The day on which what came in last overtook what went out."""
    days: dict[date, Decimal] = defaultdict(Decimal)
    entries = LedgerEntry.objects.filter(lot_id=lot.pk, account__in=RESULT_ACCOUNTS)
    for day, amount in entries.values_list("happened_on", "amount"):
        days[day] -= amount
    return day_even(sorted(days.items()))


def units_by_line(lot: Lot, lines: Iterable[LotLine]) -> dict[int, list]:
    """The units that were received of these lines, the first few hundred: one query."""
    found: dict[int, list] = defaultdict(list)
    # With its lot: a row that is asked for through the lot reads it at once where it is left out.
    rows = lot.units.filter(line__in=list(lines)).only("number", "stage", "line_id", "lot_id")
    for unit in rows.order_by("number")[:400]:
        found[unit.line_id].append(unit)
    return found
