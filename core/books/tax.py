"""Tax on the margin over a period, where things are bought in lots and sold one by one (global accounting).

Rules differ by country: rate, scheme and period are settings; ask an accountant.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, timedelta
from decimal import Decimal
from enum import StrEnum

from core.money import ZERO, to_cent


class PeriodLength(StrEnum):
    MONTH = "month"
    QUARTER = "quarter"
    YEAR = "year"

    @property
    def months(self) -> int:
        return {"month": 1, "quarter": 3, "year": 12}[self.value]


@dataclass(frozen=True)
class Period:
    """Days from `first` to before `after`."""

    first: date
    after: date

    @property
    def last(self) -> date:
        """Its last day."""
        return self.after - timedelta(days=1)

    def before(self, length: PeriodLength) -> "Period":
        """That of the calendar that ended when this one began."""
        return period_of(self.first - timedelta(days=1), length)

    @property
    def words(self) -> str:
        for length in PeriodLength:
            if self == period_of(self.first, length):
                return {
                    PeriodLength.MONTH: f"{self.first:%B %Y}",
                    PeriodLength.QUARTER: f"{self.first.year}, quarter {(self.first.month + 2) // 3}",
                    PeriodLength.YEAR: f"{self.first.year}",
                }[length]
        year = "" if self.first.year == self.last.year else f" {self.first.year}"
        return f"{self.first:%-d %B}{year} to {self.last:%-d %B %Y}"

    def words_on(self, today: date) -> str:
        """The same; of a month, quarter or year that runs on past today, the shortest, that it does."""
        for length in PeriodLength:
            runs = period_of(self.first, length)
            if runs.first == self.first and self.last == today and runs.after > self.after:
                return f"{runs.words} so far"
        return self.words

    def cut_at(self, day: date) -> list["Period"]:
        """Itself, or the two parts of it where a day within it begins the second."""
        return [Period(self.first, day), Period(day, self.after)] if self.first < day < self.after else [self]


def period_of(day: date, length: PeriodLength) -> Period:
    """The period of the calendar that a day lies in."""
    begin = day.month - (day.month - 1) % length.months
    end = day.year * 12 + begin - 1 + length.months
    return Period(date(day.year, begin, 1), date(end // 12, end % 12 + 1, 1))


def periods(first: date, last: date, length: PeriodLength, cuts: Iterable[date] = ()) -> list[Period]:
    """From the one that `first` lies in to that of `last`, in order; one that a day of `cuts` lies in is two, the
    second of which begins on that day."""
    found = [period_of(first, length)]
    while found[-1].after <= last:
        found.append(period_of(found[-1].after, length))
    for cut in cuts:
        found = [part for one in found for part in one.cut_at(cut)]
    return found


@dataclass(frozen=True)
class Turnover:
    """What was sold and bought in a period, base currency, tax within; refunds and what was taken out again are taken
    off already, so that either may be below 0."""

    sales: Decimal
    purchases: Decimal


@dataclass(frozen=True)
class PeriodTax:
    """`carried_in` is what earlier periods left below 0 (0 or less), `margin` what is taxed or carried on,
    `carried_out` what goes on to the next."""

    sales: Decimal
    purchases: Decimal
    carried_in: Decimal
    margin: Decimal
    tax: Decimal
    carried_out: Decimal


def global_accounting(turnovers: Iterable[Turnover], percent: Decimal, carried: Decimal = ZERO) -> list[PeriodTax]:
    """Period by period: (sales − purchases + what was carried in) × r ÷ (1 + r), half to even at the cent, once a
    period; a margin below 0 is carried on and never paid back.

    8,000 − 5,000 at 20 % is 500.00; then 4,000 − 6,000 is 0, carrying −2,000; then 5,000 − 1,000 − 2,000 is 333.33
    (worked by hand). `percent` from 0 to 100; `carried` 0 or less.
    """
    found = []
    for one in turnovers:
        margin = one.sales - one.purchases + carried
        tax = to_cent(margin * percent / (100 + percent)) if margin > 0 else ZERO
        out = min(ZERO, margin)
        found.append(PeriodTax(one.sales, one.purchases, carried, margin, tax, out))
        carried = out
    return found
