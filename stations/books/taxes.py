"""Global accounting: what a period sold and bought, closed once in its order, its tax on what it sold.

Everything is counted from the beginning up to a day, less what closed periods counted: a lot that is corrected, a sale
that is taken back, a unit that is taken out changes the period that is open then, never one that was closed.
"""

from dataclasses import dataclass
from datetime import date, timedelta
from decimal import Decimal

from django.db import transaction
from django.db.models import F, Min, Q, Sum

from core.books.tax import Period, PeriodLength, PeriodTax, Turnover, global_accounting, periods
from core.buying.landed import ChargeKind
from core.money import ZERO, allocate
from stations.books.models import TakenOutOfGlobal, TaxPeriod
from stations.buying.models import LotCharge
from stations.common import clock
from stations.common.locking import lock_row
from stations.common.refusals import Refused, within
from stations.dispatch.models import Refund
from stations.dispatch.terms import terms
from stations.ledger.models import Account, EntryKind, LedgerEntry
from stations.ledger.services import Leg, post
from stations.people import history, shop_settings
from stations.people.models import HistoryEntry, Person, ShopSettings, TaxScheme
from stations.people.permissions import require
from stations.selling.models import Sale
from stations.units.costs import purchase_of
from stations.units.models import Unit


def begins_on() -> date | None:
    """The first day that counts: as the terms say, else that of the first sale under it; None before there is one."""
    agreed = terms()
    if agreed.global_since:
        return agreed.global_since
    first = Sale.objects.filter(tax_scheme=TaxScheme.GLOBAL).aggregate(first=Min("sold_at"))["first"]
    return clock.day_of(first) if first else None


@dataclass(frozen=True)
class OpenPeriod:
    """A period that was not closed yet, as it stands; `ended`: its days are over."""

    period: Period
    figures: PeriodTax
    percent: Decimal
    ended: bool

    @property
    def mark(self) -> str:
        """What is closed with it: another as soon as something else counts in it."""
        figures = self.figures
        return f"{figures.sales} {figures.purchases} {figures.carried_in} {self.percent}"


def open_periods(today: date | None = None) -> list[OpenPeriod]:
    """From the first that was not closed to the one that runs: five queries a period."""
    today, began = today or clock.today(), begins_on()
    if began is None:
        return []
    last = TaxPeriod.objects.order_by("-first").first()
    settings = shop_settings.settings()
    # A period ends where the rate does, and the next begins where the last that was closed ended, however long it was.
    cuts = [one.turn for one in settings.earlier_taxes]
    if last:
        cuts.append(last.after)
    found = [
        one
        for one in periods(began, today, PeriodLength(terms().period), cuts)
        if one.first <= today and (last is None or one.first >= last.after)
    ]
    closed = TaxPeriod.objects.aggregate(sales=Sum("sales"), purchases=Sum("purchases"))
    counted = Turnover(closed["sales"] or ZERO, closed["purchases"] or ZERO)
    carried, standing = last.carried_out if last else ZERO, []
    for one in found:
        up_to = _until(began, one.after)
        turnover = Turnover(up_to.sales - counted.sales, up_to.purchases - counted.purchases)
        counted, percent = up_to, settings.tax_on(one.first).percent
        (figures,) = global_accounting([turnover], percent, carried)
        carried = figures.carried_out
        standing.append(OpenPeriod(one, figures, percent, one.after <= today))
    return standing


def _until(began: date, after: date) -> Turnover:
    """All that was sold and bought since the beginning, before a day."""
    start, end = clock.begin_of(began), clock.begin_of(after)
    sales = Sale.objects.filter(tax_scheme=TaxScheme.GLOBAL, sold_at__gte=start, sold_at__lt=end)
    sold = sales.aggregate(sum=Sum(F("price") - F("owners_part")))["sum"] or ZERO
    refunds = Refund.objects.standing().filter(sale__tax_scheme=TaxScheme.GLOBAL, when__gte=start, when__lt=end)
    back = refunds.aggregate(sum=Sum(F("amount") - F("owner_back")))["sum"] or ZERO
    charges = LotCharge.objects.filter(replaced_at=None, lot__bought_on__gte=began, lot__bought_on__lt=after)
    counts = [ChargeKind.PRICE, *([ChargeKind.PREMIUM] if shop_settings.settings().premium_counts else [])]
    bought = charges.filter(kind__in=counts).aggregate(sum=Sum("base"))["sum"] or ZERO
    out = TakenOutOfGlobal.objects.filter(when__lt=end).aggregate(sum=Sum("purchase"))["sum"] or ZERO
    return Turnover(sold - back, bought - out)


@transaction.atomic
def close_period(person: Person, first: date, seen: str | None = None) -> TaxPeriod:
    """Close the oldest open period, once its days are over; its tax stands on what was sold in it, by price. `seen` is
    the mark of what the person saw: refused when something else counts in it by now."""
    require(person, "close a tax period")
    _one_at_a_time()
    found = open_periods()
    if not found or found[0].period.first != first:
        raise Refused("Close the oldest one first.")
    one = found[0]
    if not one.ended:
        raise Refused(f"It runs until {one.period.after:%d %B %Y}: what is sold until then belongs into it.")
    figures = one.figures
    if seen is not None and seen != one.mark:
        raise Refused(f"Its tax comes to {figures.tax} by now, by something recorded meanwhile. Look, then close it.")
    row = TaxPeriod.objects.create(
        first=one.period.first,
        after=one.period.after,
        sales=figures.sales,
        purchases=figures.purchases,
        carried_in=figures.carried_in,
        margin=figures.margin,
        percent=one.percent,
        tax=figures.tax,
        carried_out=figures.carried_out,
        closed_at=clock.now(),
        closed_by=person,
    )
    # It is of the period, whenever that is closed.
    row.posting = post(person, f"tax, {one.period.words}", _legs(one), one.period.after - timedelta(days=1))
    row.save(update_fields=["posting"])
    subject = HistoryEntry.Subject.PERSON
    history.record(person, "books.close_period", subject, person.pk, f"Closed {one.period.words}: tax {figures.tax}")
    return row


def _legs(one: OpenPeriod) -> list[Leg]:
    """The tax of a period on the units that it sold, in parts by price, with those that were sold in a closed one and
    recorded later; it is above 0 only where something was sold."""
    start, end = clock.begin_of(one.period.first), clock.begin_of(one.period.after)
    counted = Q(sold_at__gte=start)
    if last := TaxPeriod.objects.filter(first__lt=one.period.first).order_by("-first").first():
        counted |= Q(posting__when__gt=last.closed_at)
    rows = Sale.objects.filter(counted, tax_scheme=TaxScheme.GLOBAL, sold_at__lt=end).order_by("pk")
    sold = list(rows.values_list("unit_id", "unit__lot_id", "price"))
    if not one.figures.tax:
        return []
    if not sold:
        # What was bought was less than nothing (a unit taken out): the loss account bears it.
        return [
            Leg(Account.LOSS, 0, EntryKind.TAX, one.figures.tax),
            Leg(Account.TAX_OWED, 0, EntryKind.TAX, -one.figures.tax),
        ]
    parts = allocate(one.figures.tax, [price for _, _, price in sold])
    legs = [Leg(Account.UNIT, unit, EntryKind.TAX, part, lot) for (unit, lot, _), part in zip(sold, parts, strict=True)]
    return [*legs, Leg(Account.TAX_OWED, 0, EntryKind.TAX, -one.figures.tax)]


def _one_at_a_time() -> None:
    lock_row(ShopSettings.objects.all(), shop_settings.settings())


@transaction.atomic
def take_out(person: Person, unit: Unit, why: str) -> TakenOutOfGlobal:
    """Tax a unit by itself: its purchase comes off the period that runs. What was sold already stays where it is."""
    require(person, "take a unit out of global accounting")
    unit, why = lock_row(Unit.objects.all(), unit), within(why.strip(), 200, "why")
    if shop_settings.settings().tax.scheme != TaxScheme.GLOBAL:
        raise Refused("Global accounting is not the scheme of this shop (see its settings).")
    if not why:
        raise Refused("Say why: it stands beside the figures.", "why")
    if TakenOutOfGlobal.objects.filter(unit=unit).exists():
        raise Refused(f"{unit.tag} was taken out already.", "unit")
    if Sale.objects.filter(open_for=unit).exists():
        raise Refused(f"{unit.tag} was sold under it: its sale counts there.", "unit")
    began = begins_on()
    if began is None or unit.lot.bought_on < began:
        raise Refused(f"{unit.tag} was bought before global accounting began: its purchase never counted.", "unit")
    _one_at_a_time()
    row = TakenOutOfGlobal.objects.create(
        unit=unit, purchase=purchase_of([unit])[unit.pk], why=why, when=clock.now(), who=person
    )
    words = f"Taken out of global accounting: {why}"
    history.record(person, "books.take_out", HistoryEntry.Subject.UNIT, unit.pk, words, purchase=row.purchase)
    return row


def posted_by_period(some: list[Period]) -> list[Decimal]:
    """The tax that stands in the book for each period, whatever the scheme: one query."""
    if not some:
        return []
    rows = LedgerEntry.objects.filter(account=Account.TAX_OWED, kind=EntryKind.TAX)
    rows = rows.filter(happened_on__gte=min(one.first for one in some), happened_on__lt=max(one.after for one in some))
    by_day = rows.order_by().values_list("happened_on").annotate(sum=Sum("amount"))
    taxed = list(by_day)
    return [-sum((tax for day, tax in taxed if one.first <= day < one.after), ZERO) for one in some]
