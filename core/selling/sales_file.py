"""Sales elsewhere, from a file: the columns as they come, every line good or told with its number and what is wrong."""

import re
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, datetime
from decimal import Decimal
from enum import StrEnum

from core.buying.manifest import BadLine, Table, read_claim
from core.machine.quantities import Mark, QuantityError, TwoMeanings, read_number
from core.selling.grade import Grade

MOST_PRICE = Decimal(10**7)


class SalesColumn(StrEnum):
    """What a column may hold for us."""

    SOLD_ON = "sold_on"
    PRICE = "price"
    CURRENCY = "currency"
    MODEL = "model"
    STATE = "state"
    COMPLETE = "complete"
    POSTAGE = "postage"
    CHANNEL = "channel"
    HOW = "how"
    FEATURES = "features"

    @property
    def label(self) -> str:
        return {
            "sold_on": "sold on",
            "price": "price",
            "currency": "currency",
            "model": "model",
            "state": "state or grade",
            "complete": "complete, %",
            "postage": "postage on top",
            "channel": "where",
            "how": "auction or fixed",
            "features": "what it had",
        }[self.value]


HEADS: Mapping[SalesColumn, tuple[str, ...]] = {
    SalesColumn.SOLD_ON: ("sold on", "date", "datum", "ended", "day"),
    SalesColumn.POSTAGE: ("postage", "shipping", "versand", "porto", "frakt"),
    SalesColumn.PRICE: ("price", "sold for", "amount", "preis", "pris", "betrag"),
    SalesColumn.CURRENCY: ("currency", "währung", "valuta"),
    SalesColumn.MODEL: ("model", "item", "title", "bezeichnung", "modell", "what"),
    SalesColumn.COMPLETE: ("complete", "vollständig", "komplett"),
    SalesColumn.STATE: ("state", "condition", "grade", "zustand", "skick"),
    SalesColumn.CHANNEL: ("where", "channel", "place", "seller", "wo"),
    SalesColumn.HOW: ("auction", "how", "type", "art", "auktion"),
    SalesColumn.FEATURES: ("features", "with", "extras", "ausstattung"),
}
# What a claim of working and the like is worth as a grade; what only powers on was not tested.
_CLAIMED = {
    "working": Grade.B,
    "powers_on": Grade.UNTESTED,
    "untested": Grade.UNTESTED,
    "faulty": Grade.PARTS,
    "dead": Grade.PARTS,
    "parts": Grade.PARTS,
}
_AUCTIONS = {"auction": True, "bid": True, "auktion": True, "fixed": False, "buy now": False, "festpreis": False}
_AUCTIONS |= {"fast pris": False, "yes": True, "no": False, "ja": True, "nein": False, "nej": False}


class DayOrder(StrEnum):
    """What 3/11/2026 means in a file."""

    ASK = "ask"
    DAY_FIRST = "day"
    MONTH_FIRST = "month"

    @property
    def label(self) -> str:
        return {"ask": "ask me", "day": "3 November", "month": "11 March"}[self.value]


@dataclass(frozen=True)
class SaleLine:
    """A sale as its line tells it; None and empty where the file says nothing. `words` are its own for the state."""

    number: int
    sold_on: date
    price: Decimal
    currency: str
    model: str
    grade: Grade
    words: str
    completeness: int | None
    postage: Decimal | None
    channel: str
    auction: bool | None
    features: str


def read_sales(
    table: Table,
    columns: Mapping[SalesColumn, int],
    today: date,
    *,
    mark: Mark = Mark.ASK,
    order: DayOrder = DayOrder.ASK,
) -> tuple[list[SaleLine], list[BadLine]]:
    """Every row as a sale, or as a bad line with its number in the file and what is wrong with it."""
    good: list[SaleLine] = []
    bad: list[BadLine] = []
    for row, number in zip(table.rows, table.numbers, strict=True):
        cells = {column: row[index] if index < len(row) else "" for column, index in columns.items()}
        try:
            good.append(_line(number, cells, today, mark, order))
        except ValueError as problem:
            bad.append(BadLine(number, str(problem)))
    return good, bad


def _line(number: int, cells: Mapping[SalesColumn, str], today: date, mark: Mark, order: DayOrder) -> SaleLine:
    def cell(column: SalesColumn) -> str:
        return cells.get(column, "").strip()

    day = read_day(cell(SalesColumn.SOLD_ON), order)
    if day > today:
        raise ValueError(f"{day:%d %B %Y} is still to come")
    if day.year < 1990:
        raise ValueError(f"{day:%d %B %Y} is too long ago to tell a price of today")
    price, sign = read_price(cell(SalesColumn.PRICE), "price", mark)
    if price <= 0:
        raise ValueError("a sale has a price above 0")
    postage = None
    if cell(SalesColumn.POSTAGE):
        postage, _ = read_price(cell(SalesColumn.POSTAGE), "postage", mark)
    currency = cell(SalesColumn.CURRENCY).upper() or sign
    if currency and not re.fullmatch("[A-Z]{3}", currency):
        raise ValueError(f"“{currency}” is no currency: three letters, such as EUR")
    words = _whole(cell(SalesColumn.STATE), 400, "of its state")
    return SaleLine(
        number,
        day,
        price,
        currency,
        cell(SalesColumn.MODEL),
        read_state(words),
        words,
        _percent(cell(SalesColumn.COMPLETE)),
        postage,
        _whole(cell(SalesColumn.CHANNEL), 60, "of where it was sold"),
        _auction(cell(SalesColumn.HOW)),
        cell(SalesColumn.FEATURES),
    )


def _whole(text: str, most: int, of: str) -> str:
    """The text as it is: refused, never cut, when it is longer than what is kept."""
    if len(text) > most:
        raise ValueError(f"what it says {of} has {len(text)} characters, {most} at most")
    return text


def read_day(text: str, order: DayOrder = DayOrder.ASK) -> date:
    """2026-11-03, 3.11.2026 and, by `order`, 3/11/2026. Raises ValueError, in words."""
    if not text:
        raise ValueError("nothing says when it was sold")
    for form in ("%Y-%m-%d", "%Y/%m/%d", "%d.%m.%Y", "%d %b %Y", "%d %B %Y"):
        try:
            return datetime.strptime(text, form).date()
        except ValueError:
            continue
    parts = re.fullmatch(r"(\d{1,2})[/-](\d{1,2})[/-](\d{4})", text)
    if not parts:
        raise ValueError(f"“{text}” is no date, such as 2026-11-03")
    one, two, year = (int(part) for part in parts.groups())
    if one > 12 or (order is DayOrder.DAY_FIRST and two <= 12):
        day, month = one, two
    elif two > 12 or order is DayOrder.MONTH_FIRST:
        day, month = two, one
    elif one == two:
        day = month = one
    else:
        raise ValueError(f"“{text}” can be two days: say above which comes first")
    try:
        return date(year, month, day)
    except ValueError as problem:
        raise ValueError(f"there is no day “{text}”") from problem


_SIGNS = {"€": "EUR", "£": "GBP", "$": "USD"}


def read_price(text: str, what: str, mark: Mark = Mark.ASK) -> tuple[Decimal, str]:
    """An amount, and the currency that its sign or letters say; empty where there is none."""
    if not text:
        raise ValueError(f"nothing says the {what}")
    found = re.search(r"[€£$]|\b[A-Za-z]{3}\b", text)
    bare = text.replace(found[0], "") if found else text
    try:
        amount = read_number(bare.replace("\u00a0", "").strip(), mark)
    except TwoMeanings as problem:
        raise ValueError(f"{what}: {problem}") from problem
    except QuantityError as problem:
        raise ValueError(f"“{text}” is no {what}") from problem
    if not 0 <= amount < MOST_PRICE:
        raise ValueError(f"“{text}” is no {what} from 0 to under {MOST_PRICE:,}")
    return round(amount, 2), _SIGNS.get(found[0], found[0].upper()) if found else ""


def read_state(words: str) -> Grade:
    """The grade that words come down to: one of our own letters, or what the claim in them is worth."""
    letter = words.strip().upper().removeprefix("GRADE ").strip()
    if letter in {"A", "B", "C", "D", "E"}:
        return Grade(letter)
    claim = read_claim(words)
    if claim not in _CLAIMED:
        raise ValueError(f"“{words}” says nothing of the state" if words else "nothing says in what state it was")
    return _CLAIMED[claim]


def _percent(text: str) -> int | None:
    bare = text.rstrip("% ")
    if not bare:
        return None
    if not bare.isdecimal() or int(bare) > 100:
        raise ValueError(f"“{text}” is no share from 0 to 100 %")
    return int(bare)


def _auction(text: str) -> bool | None:
    said = text.lower()
    if not said:
        return None
    found = next((by for word, by in _AUCTIONS.items() if word in said), None)
    if found is None:
        raise ValueError(f"“{text}” is neither auction nor fixed price")
    return found
