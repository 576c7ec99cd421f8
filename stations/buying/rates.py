"""Exchange rates: fetched from the source when somebody asks for them, and looked up by day."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from urllib.error import URLError
from urllib.request import urlopen

from django.conf import settings
from django.db import transaction

from core.buying.rates import MOST_BYTES, SERVES_FOR, DayRates, RatesError, cross_rate, read_rates
from stations.buying.models import ExchangeRate
from stations.common.currency import base_currency
from stations.common.refusals import Refused
from stations.people.models import Person
from stations.people.permissions import require

PATIENCE = 5  # seconds


@dataclass(frozen=True)
class Known:
    """One unit of a currency in ours, as published on a day; `on` None: it is our own."""

    rate: Decimal
    on: date | None


def fetch(person: Person) -> int:
    """Ask the source for its list and keep it; answers how many rates it had. What is typed needs no source."""
    require(person, "fetch exchange rates")
    if not settings.RATES_URL:
        raise Refused("No source of exchange rates is set up. Type the rate.")
    try:
        with urlopen(settings.RATES_URL, timeout=PATIENCE) as answer:  # noqa: S310 - the owner's own setting
            days = read_rates(answer.read(MOST_BYTES + 1))
    except (URLError, OSError, ValueError) as problem:
        reason = str(problem) if isinstance(problem, RatesError) else "It does not answer."
        raise Refused(f"No rates from the source: {reason} Type the rate, or try again later.") from problem
    return keep(days)


@transaction.atomic
def keep(days: Iterable[DayRates]) -> int:
    """Store a list; a rate that is there already is put right. Answers how many there were."""
    rows = [ExchangeRate(currency=c, on=day.on, per_euro=rate) for day in days for c, rate in day.per_euro.items()]
    ExchangeRate.objects.bulk_create(rows, update_conflicts=True, update_fields=["per_euro"], batch_size=1000)
    return len(rows)


def published(rows: Sequence[ExchangeRate]) -> list[tuple[ExchangeRate, Decimal | None]]:
    """Each with what one unit cost in ours on its own day, None where that list has not ours: one query."""
    base = base_currency()
    ours = dict(
        ExchangeRate.objects.filter(currency=base, on__in={row.on for row in rows}).values_list("on", "per_euro")
    )
    found = []
    for row in rows:
        of_the_day = {row.currency: row.per_euro} | ({base: ours[row.on]} if row.on in ours else {})
        found.append((row, cross_rate(of_the_day, row.currency, base)))
    return found


def known_rate(currency: str, day: date) -> Known | None:
    """What one unit of `currency` cost in ours on that day, or on the last day before with a list."""
    base = base_currency()
    if currency == base:
        return Known(Decimal(1), None)
    listed = ExchangeRate.objects.filter(on__lte=day, on__gte=day - SERVES_FOR)
    last = listed.order_by("-on").values_list("on", flat=True).first()
    if last is None:
        return None
    rate = cross_rate(dict(listed.filter(on=last).values_list("currency", "per_euro")), currency, base)
    return Known(rate, last) if rate else None
