"""What the buying pages read. Query counts don't grow with lots or lines."""

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from decimal import Decimal

from django.db.models import Count, F, Sum

from core.books.earnings import Earnings, earnings
from core.buying.odds import OUTCOMES, Learned
from stations.buying.models import Claim, Lot, LotLine, Supplier, TurnedOut
from stations.buying.plans import odds_for
from stations.ledger.selectors import lots_by_kind


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
        return self.money.cost - self.lot.landed_total


def lots():
    """All lots, newest first, with supplier, pieces and how many are still to be received."""
    return (
        Lot.objects.select_related("supplier")
        .annotate(
            pieces=Sum("lines__quantity"),
            line_count=Count("lines"),
            to_receive=Sum(F("lines__quantity") - F("lines__received")),
        )
        .order_by("-number")
    )


def with_money(lots: list[Lot]) -> list[LotRow]:
    """One query for the sums of all of them."""
    sums = lots_by_kind([lot.pk for lot in lots])
    return [LotRow(lot, earnings(sums[lot.pk])) for lot in lots]


def lines_with_shares(lines: Iterable[LotLine], sharing) -> list[tuple]:
    """Each line with its share and weight in `sharing` (None when there is none): one query."""
    lines = list(lines)
    shares = {share.line_id: share for share in sharing.shares.filter(line__in=lines)} if sharing else {}
    return [(line, shares.get(line.pk)) for line in lines]


@dataclass(frozen=True)
class ClaimRecord:
    """What a claim of a supplier came to: how many were tested, how they turned out, and the odds we use."""

    claim: str
    counts: tuple[int, ...]
    learned: Learned


def suppliers():
    """All suppliers with how many lots and pieces came from them."""
    counted = Supplier.objects.annotate(lot_count=Count("lots", distinct=True), pieces=Sum("lots__lines__quantity"))
    return counted.order_by("name")


def claims_of(supplier: Supplier) -> list[ClaimRecord]:
    """Claim by claim, what this supplier said and what was true: one query, and one more for each claim made."""
    rows = TurnedOut.objects.filter(line__lot__supplier=supplier).values_list("line__claim", "outcome")
    counted: dict[str, dict[str, int]] = defaultdict(dict)
    for claim, outcome, n in rows.annotate(n=Count("id")).order_by():
        counted[claim][outcome] = n
    return [
        ClaimRecord(
            str(Claim(claim).label),
            tuple(counts.get(outcome.value, 0) for outcome in OUTCOMES),
            odds_for(supplier, claim),
        )
        for claim, counts in sorted(counted.items())
    ]
