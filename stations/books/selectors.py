"""What a unit and a lot cost and earned, and the proof that every cent stands somewhere."""

from collections import defaultdict
from dataclasses import dataclass
from decimal import Decimal

from django.db.models import Count, F, Q, QuerySet, Sum

from core.books.earnings import LOT_SHARE, PARTS, TAKEN_BY_SELLING, Earnings, earnings
from core.books.forecast import Difference, Piece, difference, planned_case
from core.buying.landed import ChargeKind
from core.buying.margin_tax import shares
from core.buying.odds import OUTCOMES
from core.flow.stage import BOUGHT, GONE, Stage
from core.money import ZERO
from stations.books.statements import EVER, statement
from stations.buying.forecasts import bid_line, terms_of
from stations.buying.models import BidPlan, Lot, LotCharge, LotLine, TurnedOut
from stations.buying.selectors import LotAhead, still_to_come, still_to_receive
from stations.ledger.documents import Complaint, disagreements
from stations.ledger.models import Account, LedgerEntry, Posting
from stations.ledger.selectors import balance, balances, by_kind, lots_by_kind
from stations.selling.models import Sale
from stations.stock.models import StockItem
from stations.units.models import Part, Unit
from stations.units.selectors import TO_SETTLE
from stations.workshop.models import Job, LabourEntry


@dataclass(frozen=True)
class ToSettle:
    """Sold units that are not settled: how many are here still, how many on their way, and how many back from their
    buyers."""

    here: int
    sent: int
    back: int

    @property
    def all(self) -> int:
        return self.here + self.sent + self.back


def to_settle() -> ToSettle:
    """What the bar counts at Books: one query."""
    rows = Unit.objects.filter(TO_SETTLE).order_by().values_list("stage")
    found = dict(rows.annotate(n=Count("id")))
    return ToSettle(*(found.get(stage, 0) for stage in (Stage.SOLD, Stage.SENT, Stage.BACK)))


def units_earnings(units: list[Unit]) -> dict[int, Earnings]:
    """The waterfall of each unit: one query for all."""
    sums = by_kind(Account.UNIT, [unit.pk for unit in units])
    return {unit.pk: earnings(sums[unit.pk]) for unit in units}


def minutes_on(jobs: QuerySet[Job]) -> int:
    """All minutes on record on these jobs: one query."""
    return LabourEntry.objects.filter(job__in=jobs).aggregate(sum=Sum("minutes"))["sum"] or 0


@dataclass(frozen=True)
class LotResult(LotAhead):
    """A lot in the books: how many of it are here or were, how many of them sold, and whether all are gone for good."""

    units: int
    sold: int
    finished: bool


def lot_results(lots: list[Lot]) -> list[LotResult]:
    """What each lot has cost and earned and may still bring: five queries for all."""
    ids, waiting = [lot.pk for lot in lots], still_to_receive(lots)
    sums, ahead = lots_by_kind(ids), still_to_come(lots, waiting)
    rows = (
        Unit.objects.filter(lot_id__in=ids)
        .values_list("lot_id")
        .annotate(
            units=Count("id"),
            sold=Count("id", filter=Q(stage__in=BOUGHT)),
            finished=Count("id", filter=Q(stage__in=GONE)),
        )
        .order_by()
    )
    counted = {lot_id: figures for lot_id, *figures in rows}
    outstanding = {line.lot_id for line in waiting}
    results = []
    for lot in lots:
        units, sold, finished = counted.get(lot.pk, (0, 0, 0))
        came_to_nothing = not units and lot.priced and (lot.lost > 0 or not lot.landed_total)
        closed = (units > 0 or came_to_nothing) and finished == units and lot.pk not in outstanding
        results.append(LotResult(lot, earnings(sums[lot.pk]), ahead[lot.pk], units, sold, closed))
    return results


def against_plan(lot: Lot) -> Difference | None:
    """How a lot that was planned compares with its plan; None without a plan, and while nobody knows what was paid.

    Units that are not sold count as 0 so far; lines added after the plan are no part of the comparison.
    """
    plan = BidPlan.objects.filter(lot=lot).first()
    if plan is None or not lot.priced:
        return None
    terms = terms_of(plan)
    lines = [bid_line(line) for line in plan.lines.prefetch_related("cases")]
    paid = lot.charges.filter(replaced_at=None, kind__in=terms.tax.counted).aggregate(paid=Sum("base"))["paid"] or ZERO
    carried = [paid * Decimal(str(share)) for share in shares(lines, terms)[1]]
    planned = {
        position: tuple(planned_case(case, terms, carried[position - 1]) for case in line.cases)
        for position, line in enumerate(lines, 1)
    }
    units = list(lot.units.filter(line__position__in=planned).select_related("line"))
    sums = by_kind(Account.UNIT, [unit.pk for unit in units])
    known = dict(TurnedOut.objects.filter(line__lot=lot).values_list("unit_number", "outcome"))
    order = [outcome.value for outcome in OUTCOMES]
    pieces = []
    for unit in units:
        money = sums[unit.pk]
        taken = sum((money.get(kind, ZERO) for kind in PARTS + TAKEN_BY_SELLING), ZERO)
        case = order.index(known[unit.number]) if unit.number in known else None
        sale = -money.get("sale", ZERO) - money.get("refund", ZERO)
        pieces.append(Piece(planned[unit.line.position], case, sale, taken, money.get("labour", ZERO)))
    for line in lot.lines.filter(received__lt=F("quantity"), position__in=planned):
        # What does not come was planned as well.
        pieces += [Piece(planned[line.position], None, ZERO, ZERO, ZERO)] * (line.quantity - line.received)
    return difference(pieces, plan.forecast_landed or ZERO, lot.landed_total)


def complaints() -> list[Complaint]:
    """Everything in the books that does not add up; empty when every cent paid stands somewhere.

    Checked: every posting sums to nothing, on one day; what was paid for a lot equals what its charges say, what the
    lot caches, and what stands on the lot, its lines, units and losses; a line of which nothing is to come carries
    nothing; every document agrees with what it posted; stock holds no value without pieces, a part none of its own in a
    machine; a buyer owes what is not paid; the stock is what was bought and worked, less what was sold and lost.
    """
    found: list[Complaint] = []
    odd = Posting.objects.annotate(total=Sum("entries__amount"), legs=Count("entries")).exclude(total=0)
    found += [Complaint(f"posting {p.pk}", f"“{p.document}” is off by {p.total}") for p in odd[:100]]
    other_day = Posting.objects.filter(~Q(entries__happened_on=F("happened_on")), entries__isnull=False).distinct()
    found += [Complaint(f"posting {p.pk}", f"“{p.document}” has entries of another day") for p in other_day[:100]]
    found += _lots_off() + _lines_off() + disagreements() + _stock_off() + _sales_off()
    if off := statement(EVER).off:
        found.append(Complaint("the statement", f"{off} of the stock came from nowhere, or went nowhere"))
    return found


def _lots_off() -> list[Complaint]:
    found = []
    held = Q(charges__replaced_at=None)
    paid = dict(Lot.objects.values_list("pk").annotate(total=Sum("charges__base", filter=held)))
    priced = set(LotCharge.objects.filter(replaced_at=None, kind=ChargeKind.PRICE).values_list("lot_id", flat=True))
    moved = defaultdict(lambda: ZERO)
    rows = LedgerEntry.objects.filter(lot_id__isnull=False, kind__in=LOT_SHARE).exclude(account=Account.CASH)
    for lot_id, total in rows.values_list("lot_id").annotate(total=Sum("amount")):
        moved[lot_id] = total
    for lot in Lot.objects.all():
        billed = paid.get(lot.pk) or ZERO
        if billed != lot.landed_total:
            found.append(Complaint(lot.code, f"charges sum to {billed}, the lot says {lot.landed_total}"))
        if lot.priced != (lot.pk in priced or not lot.has_a_price):
            said = "" if lot.priced else "not "
            found.append(Complaint(lot.code, f"its price is {said}recorded, says the lot; its charges say otherwise"))
        if moved[lot.pk] != billed:
            found.append(Complaint(lot.code, f"{billed} was paid, {moved[lot.pk]} stands in the books"))
    return found


def _lines_off() -> list[Complaint]:
    """Lines of which nothing is to come any more, and that carry cost all the same: their pieces should."""
    lines = list(LotLine.objects.filter(quantity__lte=F("received") + F("not_come")).select_related("lot"))
    stands = balances(Account.LINE, [line.pk for line in lines])
    return [
        Complaint(f"line {line.position} of {line.lot.code}", f"{stands[line.pk]} is carried by none of its pieces")
        for line in lines
        if stands[line.pk]
    ]


def _stock_off() -> list[Complaint]:
    items = list(StockItem.objects.all())
    worth = balances(Account.STOCK, [item.pk for item in items])
    found = [
        Complaint(f"stock: {item}", f"{item.amount}{' pieces' if item.in_pieces else ''} worth {worth[item.pk]}")
        for item in items
        if worth[item.pk] < 0 or (item.quantity == 0 and worth[item.pk] != 0)
    ]
    parts = list(Part.objects.all())
    own = balances(Account.PART, [part.pk for part in parts])
    found += [
        Complaint(f"part {part}", f"{own[part.pk]} on its own account")
        for part in parts
        if own[part.pk] < 0 or (own[part.pk] and not part.in_stock)
    ]
    return found


def _sales_off() -> list[Complaint]:
    """Sales whose buyer owes something else than the book says, and what owners are owed in all."""
    sales = list(Sale.objects.filter(on_account=True).select_related("unit"))
    owed = balances(Account.BUYER_OWES, [sale.pk for sale in sales])
    found = [
        Complaint(f"sale of {sale.unit.tag}", f"{sale.owed} is open, the book says {owed[sale.pk]}")
        for sale in sales
        if sale.owed != owed[sale.pk]
    ]
    due = Sale.objects.aggregate(sum=Sum(F("owners_part") - F("owner_back") - F("owner_paid")))["sum"] or ZERO
    if due != -(booked := balance(Account.OWNER_OWED, 0)):
        found.append(Complaint("owners", f"{due} is due to them, the book says {-booked}"))
    return found
