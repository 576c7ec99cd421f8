"""Date codes on chips, boards and plates: every reading that is possible, the likelier ones first."""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from enum import StrEnum

# Nobody put week codes on parts before the first integrated circuits (common practice, no source).
FIRST_YEAR = 1961
# A machine is built from parts up to a year older than itself (common practice, no source).
SHELF_YEARS = 1

Years = tuple[int | None, int | None]
# Makers print their own letters before a code, and a plant or lot letter behind it.
_CODE = re.compile(r"[A-Za-z]{0,4}[ -]?(\d{3,4})[ -]?[A-Za-z]{0,2}", re.ASCII)


class DateCodeError(ValueError):
    """No reading of the code is possible; the message says why."""


class Form(StrEnum):
    YEAR = "year"
    YYWW = "YYWW"
    WWYY = "WWYY"
    YWW = "YWW"


@dataclass(frozen=True)
class DateReading:
    """One way to read a code: an ISO 8601 week with its Monday and Sunday, and how it fits the model's years.

    A plain year has no week; its days are the first and the last of the year. `off` is the distance in years
    from the years the model was made in, 0 when it fits; None when they are not known.
    """

    form: str
    year: int
    week: int | None
    monday: date
    sunday: date
    off: int | None
    why: str

    @property
    def words(self) -> str:
        return f"week {self.week} of {self.year}" if self.week is not None else f"the year {self.year}"


def week_of(year: int, week: int) -> tuple[date, date]:
    """Monday and Sunday of an ISO week. Raises DateCodeError for week 0, 54 and a 53 that the year has not."""
    try:
        return date.fromisocalendar(year, week, 1), date.fromisocalendar(year, week, 7)
    except ValueError as problem:
        raise DateCodeError(f"{year} has no week {week}.") from problem


def read_date_code(code: str, made: Years = (None, None), today: int | None = None) -> tuple[DateReading, ...]:
    """Every possible reading of a three- or four-digit code, best first; letters around it are passed over.

    `made` is the years the model was made in, `today` the last year that can be meant. Readings that fit
    the model come first, then those nearest to its years; among equals a plain year, the usual YYWW, then WWYY.
    Raises DateCodeError when there is none.
    """
    match = _CODE.fullmatch(code.strip())
    if not match:
        raise DateCodeError("A date code has three or four digits, for example 9221 or NT9221.")
    digits = match[1]
    last = today or date.today().year
    found: list[DateReading] = []
    refused: list[str] = []
    if FIRST_YEAR <= int(digits) <= last:
        off, why = fit(int(digits), made)
        found.append(
            DateReading(
                Form.YEAR.value, int(digits), None, date(int(digits), 1, 1), date(int(digits), 12, 31), off, why
            )
        )
    for form, year_digits, week in _cuts(digits):
        for year in _years(year_digits, last):
            try:
                monday, sunday = week_of(year, week)
            except DateCodeError as problem:
                refused.append(str(problem))
                continue
            off, why = fit(year, made)
            found.append(DateReading(form.value, year, week, monday, sunday, off, why))
    if not found:
        raise DateCodeError(f"{digits} is no date code: {' '.join(dict.fromkeys(refused)) or 'no such year.'}")
    order = list(Form)
    return tuple(sorted(found, key=lambda r: (r.off or 0, order.index(Form(r.form)), -r.year)))


def _cuts(digits: str) -> list[tuple[Form, str, int]]:
    if len(digits) == 3:
        return [(Form.YWW, digits[0], int(digits[1:]))]
    return [(Form.YYWW, digits[:2], int(digits[2:])), (Form.WWYY, digits[2:], int(digits[:2]))]


def _years(digits: str, last: int) -> list[int]:
    """The years from FIRST_YEAR to `last` that end in these digits, newest first."""
    step = 10 ** len(digits)
    return [year for year in range(last, FIRST_YEAR - 1, -1) if year % step == int(digits)]


def fit(year: int, made: Years) -> tuple[int | None, str]:
    """How far a year is from the years of making, and in words."""
    first, last = made[0], made[1] or made[0]
    if first is None or last is None:
        return None, "the model’s years are not known"
    if first - SHELF_YEARS <= year <= last:
        return 0, f"fits: made {first}–{last}" if first != last else f"fits: made {first}"
    if year > last:
        return year - last, f"{year - last} years after the last were made"
    return first - SHELF_YEARS - year, f"{first - year} years before the first were made"


class Place(StrEnum):
    """How a part's date stands to its machine's."""

    FITS = "fits"
    LATER = "later"
    OLD = "old"


@dataclass(frozen=True)
class PartDate:
    name: str
    monday: date
    repair: bool = False


@dataclass(frozen=True)
class OutOfPlace:
    part: PartDate
    place: Place
    why: str

    @property
    def doubtful(self) -> bool:
        return self.place is not Place.FITS


# A part this much older than its machine is old stock or a swap (the design's rule; common practice, no source).
OLD_DAYS = 2 * 365


def board_date(parts: Sequence[PartDate]) -> date | None:
    """When a board was made: the youngest chip on it, later repairs left out; None when nothing is dated."""
    return max((part.monday for part in parts if not part.repair), default=None)


def out_of_place(parts: Sequence[PartDate], machine: date) -> tuple[OutOfPlace, ...]:
    """Each dated part against the machine's own date (its serial or plate), those that don't fit with the reason."""
    found = []
    for part in parts:
        days = (part.monday - machine).days
        if days > 0:
            place, why = Place.LATER, "dated later than the machine: a later replacement"
        elif days < -OLD_DAYS:
            place, why = Place.OLD, f"{-days // 365} years older than the machine: old stock, or a swap"
        else:
            place, why = Place.FITS, "of the machine’s time"
        found.append(OutOfPlace(part, place, why))
    return tuple(found)
