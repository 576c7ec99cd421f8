"""The journal of a period as text, out of the book."""

from collections import defaultdict
from collections.abc import Iterator
from datetime import date, timedelta
from decimal import Decimal
from heapq import merge
from itertools import groupby

from django.conf import settings
from django.db.models import Sum

from core.books.journal import Away, Booking, Leg, is_sold, journal, moved, turns
from core.books.statement import OF_SELLING
from core.books.tax import Period
from core.machine.tags import Tag
from core.money import ZERO
from stations.books.statements import PLACES, cost_lacking, entries_of, statement
from stations.buying.models import Lot
from stations.common import clock
from stations.common.snapshot import one_moment
from stations.ledger.models import Account, LedgerEntry
from stations.selling.models import Sale
from stations.units.models import Part, Unit

# What stands somewhere from one period to the next.
_STANDING = (*PLACES, Account.UNIT, Account.CASH, Account.BUYER_OWES, Account.TAX_OWED, Account.OWNER_OWED)


def journal_of(period: Period) -> str:
    """The whole text, of one moment: thirteen queries, however much was booked."""
    with one_moment():
        names, sales = _Names(), _sales()
        opening = _opening(period.first, names, sales)
        bookings = merge(_posted(period, names, sales), _moved(period, names, sales), key=lambda one: one.day)
        said = statement(period)
        lines = journal(
            period.first, period.after, settings.BASE_CURRENCY, opening, bookings, said, list(_remarks(period))
        )
        return "\n".join((*lines, ""))


def _remarks(period: Period) -> Iterator[str]:
    yield f"What was booked from {period.first} to {period.last}. Our own labour is a cost, put in by ourselves."
    if lacking := cost_lacking(period):
        yield f"What units cost is not known, and lacks here, of {', '.join(lot.code for lot in lacking)}."


class _Names:
    """What things are called by which an account tells of them; of one that is no more, nothing."""

    def __init__(self) -> None:
        self.units = {pk: str(Tag(number)) for pk, number in Unit.objects.order_by().values_list("pk", "number")}
        self.lots = {lot.pk: lot.code for lot in Lot.objects.only("number").order_by()}
        self.parts = {part.pk: part.code for part in Part.objects.only("number").order_by()}

    def name(self, account: str, key: int, lot: int | None) -> str:
        if account in {Account.LOT, Account.LINE}:
            return self.lots.get(lot or 0, "")
        named = {Account.UNIT: self.units, Account.LOSS: self.units, Account.PART: self.parts}
        return named.get(Account(account), {}).get(key, "")


def _sales() -> dict[int, list[Away]]:
    """Of every unit that was ever sold, from which day to which."""
    found: dict[int, list[Away]] = defaultdict(list)
    for unit, sold, ended in Sale.objects.order_by("sold_at").values_list("unit_id", "sold_at", "ended_at"):
        found[unit].append(Away(clock.day_of(sold), clock.day_of(ended) if ended else None))
    return found


def _opening(day: date, names: _Names, sales: dict[int, list[Away]]) -> Iterator[Leg]:
    """What stood where when the day began."""
    rows = LedgerEntry.objects.filter(happened_on__lt=day, account__in=_STANDING).order_by()
    rows = rows.exclude(account=Account.UNIT, kind__in=OF_SELLING)
    for account, key, lot, amount in rows.values_list("account", "account_id", "lot_id").annotate(sum=Sum("amount")):
        if account != Account.UNIT or not is_sold(sales.get(key, ()), day - timedelta(days=1)):
            yield Leg(account, "", amount, names.name(account, key, lot))


def _posted(period: Period, names: _Names, sales: dict[int, list[Away]]) -> Iterator[Booking]:
    """What was booked in the period, in the order of its days."""
    rows = entries_of(period).select_related("posting__who").order_by("happened_on", "posting_id", "pk")
    for posting, entries in groupby(rows.iterator(2000), key=lambda entry: entry.posting):
        day = posting.happened_on
        legs = [
            Leg(
                entry.account,
                entry.kind,
                entry.amount,
                names.name(entry.account, entry.account_id, entry.lot_id),
                sold=entry.account == Account.UNIT and is_sold(sales.get(entry.account_id, ()), day),
            )
            for entry in entries
        ]
        written = {"posting": str(posting.pk), "written": posting.when.isoformat(timespec="seconds")}
        if posting.reverses_id:
            written["reverses"] = str(posting.reverses_id)
        yield Booking(day, posting.who.name, posting.document, legs, written)


def _moved(period: Period, names: _Names, sales: dict[int, list[Away]]) -> Iterator[Booking]:
    """What had stood on units until the day on which they were sold, or came back, in the order of those days."""
    days = {unit: found for unit, some in sales.items() if (found := turns(some, period.first, period.last))}
    costs: dict[int, list[tuple[date, Decimal]]] = defaultdict(list)
    rows = LedgerEntry.objects.filter(account=Account.UNIT, account_id__in=days, happened_on__lt=period.after)
    rows = rows.exclude(kind__in=OF_SELLING).order_by()
    for unit, day, amount in rows.values_list("account_id", "happened_on").annotate(sum=Sum("amount")):
        costs[unit].append((day, amount))
    for day, unit, out in sorted((day, unit, out) for unit, some in days.items() for day, out in some):
        cost = sum((amount for booked, amount in costs[unit] if booked < day), ZERO)
        yield moved(day, names.name(Account.UNIT, unit, None), cost, out=out)
