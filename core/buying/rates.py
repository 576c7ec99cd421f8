"""Exchange rates as a daily list against the euro: read as published, and crossed for any two currencies."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, timedelta
from decimal import Decimal, InvalidOperation
from xml.etree import ElementTree

MOST_BYTES = 1024 * 1024
# Nothing is published at week-ends and on holidays; the last rate before serves for so long.
SERVES_FOR = timedelta(days=10)
# What a rate is kept with, behind the point.
MOST_PLACES = 12


class RatesError(ValueError):
    """The list can't be read; the message says why."""


@dataclass(frozen=True)
class DayRates:
    """What one euro cost on a day: units of each currency, by its ISO 4217 code."""

    on: date
    per_euro: Mapping[str, Decimal]


def read_rates(data: bytes) -> tuple[DayRates, ...]:
    """Rates from nested Cube elements: a day under `time`, and in it `currency` and `rate`.

    That is the form in which euro reference rates are published every working day (from memory). Anything
    that is no such list raises RatesError; a document type is refused, so that no entity is ever expanded.
    """
    if len(data) > MOST_BYTES or b"<!DOCTYPE" in data:
        raise RatesError("The source answered with something that is no list of rates.")
    try:
        root = ElementTree.fromstring(data)  # noqa: S314 - no document type, so no entities
    except ElementTree.ParseError as problem:
        raise RatesError("The source answered with something that is no list of rates.") from problem
    days = []
    for day in (cube for cube in root.iter() if "time" in cube.attrib):
        rates = {
            cube.attrib["currency"]: _rate(cube.attrib.get("rate", "")) for cube in day if "currency" in cube.attrib
        }
        try:
            days.append(DayRates(date.fromisoformat(day.attrib["time"]), rates))
        except ValueError as problem:
            raise RatesError(f"“{day.attrib['time']}” is no date.") from problem
    if not any(day.per_euro for day in days):
        raise RatesError("There are no rates in what the source answered.")
    return tuple(days)


def _rate(text: str) -> Decimal:
    try:
        rate = Decimal(text)
    except InvalidOperation as problem:
        raise RatesError(f"“{text}” is no rate.") from problem
    if not rate.is_finite() or rate <= 0:
        raise RatesError(f"“{text}” is no rate.")
    return rate


def cross_rate(per_euro: Mapping[str, Decimal], currency: str, base: str) -> Decimal | None:
    """What one unit of `currency` costs in `base`; None when either is not on the list.

    To six places, and for a weak currency to six significant figures, so that a large price converts to the cent.
    """
    known = {"EUR": Decimal(1), **per_euro}
    if currency not in known or base not in known:
        return None
    rate = known[base] / known[currency]
    places = max(6, 5 - rate.adjusted())
    return rate.quantize(Decimal(1).scaleb(-min(places, MOST_PLACES)))
