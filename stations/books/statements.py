"""What a period earned, and what was sold in it: read from the book, in a fixed number of queries."""

from collections import defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from itertools import islice

from django.db.models import Exists, OuterRef, Q, QuerySet, Subquery, Sum

from core.books.earnings import INCOME
from core.books.statement import OF_SELLING, Line, Place, Statement, Stood
from core.books.tax import Period
from core.money import ZERO
from stations.buying.models import Lot
from stations.common import clock
from stations.ledger.models import Account, EntryKind, LedgerEntry
from stations.people import history
from stations.selling.models import Sale
from stations.units.costs import COST_UNKNOWN
from stations.units.models import Unit

# So many entries are read at once where all go out.
_BATCH = 500

# Where cost lies that stands on no unit.
PLACES = {
    Account.LOT: Place.LOTS,
    Account.LINE: Place.LOTS,
    Account.STOCK: Place.DRAWERS,
    Account.PART: Place.PARTS,
}

# Every day of the book.
EVER = Period(date(1970, 1, 1), date(2300, 1, 1))


def statement(period: Period) -> Statement:
    """Five queries, however much was sold."""
    entries = _in(period).order_by().values_list("account", "kind").annotate(sum=Sum("amount"))
    moved = {(account, kind): amount for account, kind, amount in entries}
    return Statement(stood(period.first), stood(period.after), moved)


def _in(period: Period) -> "QuerySet[LedgerEntry]":
    return LedgerEntry.objects.filter(happened_on__gte=period.first, happened_on__lt=period.after)


def sold_by(day: date, unit: str) -> Exists:
    """Whether what `unit` names was sold before a day began, and not taken back by then."""
    begins = clock.begin_of(day)
    return Exists(
        Sale.objects.filter(Q(ended_at=None) | Q(ended_at__gte=begins), unit_id=OuterRef(unit), sold_at__lt=begins)
    )


def stood(day: date) -> Stood:
    """How cost stood when a day began: two queries."""
    before = LedgerEntry.objects.filter(happened_on__lt=day).order_by()
    held: dict[Place, Decimal] = defaultdict(lambda: ZERO)
    rows = before.filter(account__in=PLACES).values_list("account").annotate(sum=Sum("amount"))
    for account, amount in rows:
        held[PLACES[Account(account)]] += amount
    written_off = (
        before.filter(account=Account.LOSS, account_id__gt=0)
        .values_list("account_id")
        .annotate(sum=Sum("amount"))
        .exclude(sum=0)
    )
    units = (
        before.filter(account=Account.UNIT)
        .exclude(kind__in=OF_SELLING)
        .annotate(
            sold=sold_by(day, "account_id"),
            holding=Subquery(Unit.objects.filter(pk=OuterRef("account_id")).values("holding")),
            scrapped=Q(account_id__in=written_off.values("account_id")),
        )
        .values_list("sold", "scrapped", "holding", "kind")
        .annotate(sum=Sum("amount"))
    )
    sold = labour_gone = ZERO
    for is_sold, scrapped, holding, kind, amount in units:
        if is_sold:
            sold += amount
        else:
            # One that was no unit after all is no longer there: what stood on it then was ours.
            held[Place(holding or Place.OURS)] += amount
        if kind == EntryKind.LABOUR and (is_sold or scrapped):
            labour_gone += amount
    return Stood(held, sold, labour_gone)


def entries_of(period: Period, line: Line | None = None) -> "QuerySet[LedgerEntry]":
    """The entries of a period, or those that a line of its statement is the sum of, in the order of their days."""
    rows = _in(period)
    if line:
        rows = rows.filter(account__in=line.accounts)
        rows = rows.filter(kind__in=line.kinds) if line.kinds else rows
    return rows.order_by("happened_on", "pk")


def sum_of(period: Period, line: Line) -> Decimal:
    return (entries_of(period, line).aggregate(sum=Sum("amount"))["sum"] or ZERO) * line.sign


# Of whom an account tells, by the subjects that have a page; of a lot’s line it is the lot.
_SUBJECTS = {Account.UNIT: "unit", Account.STOCK: "stock", Account.PART: "part"}


def places_of(entries: Sequence[LedgerEntry]) -> dict[int, history.Place]:
    """By entry, what its money stands at and where that is looked at, if it is anywhere: a query a kind of account."""
    sales = {entry.account_id for entry in entries if entry.account == Account.BUYER_OWES}
    unit_of = dict(Sale.objects.filter(pk__in=sales).values_list("pk", "unit_id")) if sales else {}
    at: dict[int, tuple[str, int]] = {}
    for entry in entries:
        if entry.account in {Account.LOT, Account.LINE} and entry.lot_id:
            at[entry.pk] = "lot", entry.lot_id
        elif entry.account == Account.BUYER_OWES and entry.account_id in unit_of:
            at[entry.pk] = "unit", unit_of[entry.account_id]
        elif entry.account == Account.LOSS and entry.account_id:
            at[entry.pk] = "unit", entry.account_id
        elif subject := _SUBJECTS.get(Account(entry.account)):
            at[entry.pk] = subject, entry.account_id
    keys: dict[str, set[int]] = defaultdict(set)
    for subject, key in at.values():
        keys[subject].add(key)
    found = {subject: history.places[subject](some) for subject, some in keys.items()}
    return {pk: place for pk, (subject, key) in at.items() if (place := found[subject].get(key))}


ENTRY_FIELDS = ("posting", "day", "written", "who", "document", "reverses", "account", "at", "lot", "kind", "amount")


def entry_rows(period: Period, line: Line | None) -> Iterator[tuple[object, ...]]:
    """The cells of each entry, in batches, so that a long book fits into memory."""
    rows = entries_of(period, line).select_related("posting__who").iterator(_BATCH)
    while batch := list(islice(rows, _BATCH)):
        places = places_of(batch)
        lots = dict(Lot.objects.filter(pk__in={entry.lot_id for entry in batch}).values_list("pk", "number"))
        for entry in batch:
            posting, place = entry.posting, places.get(entry.pk)
            yield (
                entry.posting_id,
                entry.happened_on,
                posting.when.isoformat(timespec="seconds"),
                posting.who.name,
                posting.document,
                posting.reverses_id or "",
                entry.account,
                place.name if place else "",
                f"L-{lots[entry.lot_id]:03d}" if entry.lot_id in lots else "",
                entry.kind,
                entry.amount,
            )


def cost_lacking(period: Period) -> "QuerySet[Lot]":
    """Lots of which nobody knows what a unit of them cost: it is lacking in what they earned, and in the stock."""
    return Lot.objects.filter(COST_UNKNOWN, bought_on__lt=period.after)


def concerned(period: Period) -> "QuerySet[Unit]":
    """The units that were sold in it or came back, or of which selling took or brought something, the newest first."""
    begins, ends = clock.begin_of(period.first), clock.begin_of(period.after)
    sales = Sale.objects.filter(
        Q(sold_at__gte=begins, sold_at__lt=ends) | Q(ended_at__gte=begins, ended_at__lt=ends), unit=OuterRef("pk")
    )
    entries = _in(period).filter(account=Account.UNIT, account_id=OuterRef("pk"))
    later = Exists(entries.exclude(kind__in=OF_SELLING)) & sold_by(period.first, "pk")
    return Unit.objects.filter(Exists(sales) | Exists(entries.filter(kind__in=OF_SELLING)) | later).order_by("-number")


@dataclass(frozen=True)
class Part:
    """What of a period’s result is of one unit: what came in, what selling took, what of its cost was an expense."""

    unit: Unit
    came: Decimal
    taken: Decimal
    cost: Decimal

    @property
    def earned(self) -> Decimal:
        return self.came - self.taken - self.cost


def parts_of(period: Period, units: Sequence[Unit]) -> list[Part]:
    """Three queries for all."""
    ids = [unit.pk for unit in units]
    rows = _in(period).filter(account=Account.UNIT, account_id__in=ids, kind__in=OF_SELLING).order_by()
    came: dict[int, Decimal] = defaultdict(lambda: ZERO)
    taken: dict[int, Decimal] = defaultdict(lambda: ZERO)
    for pk, kind, amount in rows.values_list("account_id", "kind").annotate(sum=Sum("amount")):
        if kind in INCOME:
            came[pk] -= amount
        else:
            taken[pk] += amount
    opening, closing = _cost_sold(period.first, ids), _cost_sold(period.after, ids)
    return [Part(unit, came[unit.pk], taken[unit.pk], closing[unit.pk] - opening[unit.pk]) for unit in units]


def _cost_sold(day: date, ids: Sequence[int]) -> dict[int, Decimal]:
    """What each unit had cost, as far as it was sold when a day began: one query."""
    rows = LedgerEntry.objects.filter(happened_on__lt=day, account=Account.UNIT, account_id__in=ids)
    rows = rows.exclude(kind__in=OF_SELLING).filter(sold_by(day, "account_id")).order_by()
    found: dict[int, Decimal] = defaultdict(lambda: ZERO)
    found.update(rows.values_list("account_id").annotate(sum=Sum("amount")))
    return found
