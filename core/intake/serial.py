"""What a serial number says, by makers' rules that the shop adds as data."""

import re
from dataclasses import dataclass
from datetime import date

from core.intake.datecode import DateCodeError, Years, fit, week_of

FIELDS = ("plant", "year", "week", "sequence", "model")
_DIGITS = {"year", "week", "sequence"}
_PART = re.compile(r"\{([a-z]+):([1-9])\}|([0-9A-Z]|-|/|\.| )")


class PatternError(ValueError):
    """A pattern that can't be read; the message says what is wrong with it."""


@dataclass(frozen=True)
class SerialReading:
    """What the pattern found: the fields as they stand, and each year (with week, if there is one) they may mean.

    `readings` are (year, Monday of the week or None, distance to the model's years or None, why), best first.
    """

    fields: dict[str, str]
    readings: tuple[tuple[int, date | None, int | None, str], ...]


def compile_pattern(pattern: str) -> re.Pattern[str]:
    """A pattern such as "{plant:1}{year:1}{week:2}-{sequence:5}" as a regular expression.

    Fields are plant, year (1, 2 or 4 digits), week (2), sequence and model, each with its length and at most
    once; everything else stands for itself. Lengths are fixed, so matching takes no time to speak of.
    Raises PatternError.
    """
    expression, place, seen = "", 0, set()
    while place < len(pattern):
        part = _PART.match(pattern, place)
        if not part:
            raise PatternError(f"“{pattern[place:][:12]}” can’t be read. Fields look like {{year:2}}.")
        place = part.end()
        name, length = part[1], part[2]
        if not name:
            expression += re.escape(part[3])
            continue
        if name not in FIELDS or name in seen:
            raise PatternError(f"“{name}” is no field, or stands there twice. Fields: {', '.join(FIELDS)}.")
        if (name == "year" and length not in "124") or (name == "week" and length != "2"):
            raise PatternError("A year has 1, 2 or 4 digits, a week 2.")
        seen.add(name)
        expression += f"(?P<{name}>[{'0-9' if name in _DIGITS else '0-9A-Z'}]{{{length}}})"
    if not seen:
        raise PatternError("A pattern has at least one field, such as {year:2}.")
    return re.compile(expression)


def read_serial(
    pattern: str, serial: str, made: Years = (None, None), today: int | None = None
) -> SerialReading | None:
    """What `serial` says by this pattern; None when it is not of that form, or says an impossible week.

    A year of one or two digits may mean several; those nearest to the years the model was made in come first.
    """
    match = compile_pattern(pattern).fullmatch(serial.strip().upper())
    if not match:
        return None
    fields = match.groupdict()
    if "year" not in fields:
        return SerialReading(fields, ())
    last, digits = today or date.today().year, fields["year"]
    step = 10 ** len(digits)
    readings = []
    for year in range(last, 1960, -1):
        if year % step != int(digits):
            continue
        try:
            monday = week_of(year, int(fields["week"]))[0] if "week" in fields else None
        except DateCodeError:
            continue
        off, why = fit(year, made)
        readings.append((year, monday, off, why))
    if not readings:
        return None
    return SerialReading(fields, tuple(sorted(readings, key=lambda r: (r[2] or 0, -r[0]))))
