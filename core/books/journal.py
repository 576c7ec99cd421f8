"""The book of some days as plain text with double entry, in the syntax of Beancount 3 (its published Language Syntax):
accounts, bookings, and at the end what must stand where, which the program that reads it checks to the cent.

What a unit had cost becomes an expense on the day on which it is sold, as in core/books/statement.py; the book itself
leaves it where it stood. Pages and file are two ways to the same figures.
"""

from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, timedelta
from decimal import Decimal

from core.books.statement import OF_SELLING, Line, Statement
from core.money import ZERO

STOCK, COST_OF_SOLD, OPENING = "Assets:Stock", "Expenses:CostOfSold", "Equity:Opening"
# By the accounts of the book.
_NAMES = {
    "lot": f"{STOCK}:Lots",
    "line": f"{STOCK}:Lots",
    "unit": f"{STOCK}:Units",
    "stock": f"{STOCK}:Drawers",
    "part": f"{STOCK}:Parts",
    "loss": "Expenses:Lost",
    "cash": "Assets:Money",
    "own_labour": "Equity:OwnLabour",
    "tax_owed": "Liabilities:TaxDue",
    "owner_owed": "Liabilities:DueToOwners",
    "buyer_owes": "Assets:Buyers",
}
# What stands on a unit and is no cost of it, and what no thing is the place of, by its kind.
_BY_KIND = {
    "sale": "Income:Sales",
    "refund": "Income:Refunds",
    "claim": "Income:Claims",
    "fee": "Expenses:Fees",
    "postage": "Expenses:Postage",
    "tax": "Expenses:Tax",
    "payout": "Expenses:DueToOwners",
}
# What the statement says moved in these days, and the account that must have moved by as much, with its sign.
_BY_LINE = {
    Line.SALES: ("Income:Sales", -1),
    Line.REFUNDS: ("Income:Refunds", 1),
    Line.CLAIMS: ("Income:Claims", -1),
    Line.FEES: ("Expenses:Fees", 1),
    Line.POSTAGE: ("Expenses:Postage", 1),
    Line.TAX: ("Expenses:Tax", 1),
    Line.OWNERS: ("Expenses:DueToOwners", 1),
    Line.LOST: ("Expenses:Lost", 1),
    Line.CASH: ("Assets:Money", 1),
    Line.BUYERS: ("Assets:Buyers", 1),
    Line.TAX_DUE: ("Liabilities:TaxDue", -1),
    Line.DUE_TO_OWNERS: ("Liabilities:DueToOwners", -1),
    Line.LABOUR: ("Equity:OwnLabour", -1),
}


@dataclass(frozen=True)
class Leg:
    """One side of a booking: `account` and `kind` as the book has them; `thing` is the tag of what it stands at, empty
    where that has none; `sold`: it is booked on a unit that is sold by the end of that day."""

    account: str
    kind: str
    amount: Decimal
    thing: str = ""
    sold: bool = False

    @property
    def name(self) -> str:
        """The account as the text has it."""
        if self.account in {"unit", "loss"} and self.kind in OF_SELLING:
            return _BY_KIND[self.kind]
        if self.sold:
            return COST_OF_SOLD
        return ":".join(filter(None, (_NAMES[self.account], self.thing)))


@dataclass(frozen=True)
class Booking:
    """What was booked on a day; the legs come to 0. `written` says what else is known of it, by name."""

    day: date
    who: str
    words: str
    legs: Sequence[Leg]
    written: Mapping[str, str] = field(default_factory=dict)


@dataclass(frozen=True)
class Away:
    """One sale of a unit: from the day on which it was sold to that on which it was taken back, None if it was not."""

    sold: date
    back: date | None

    def on(self, day: date) -> bool:
        """Whether it is sold when that day is over."""
        return self.sold <= day and (self.back is None or self.back > day)


def is_sold(sales: Iterable[Away], day: date) -> bool:
    """Whether a unit is sold when the day is over."""
    return any(sale.on(day) for sale in sales)


def turns(sales: Iterable[Away], first: date, last: date) -> list[tuple[date, bool]]:
    """The days, from the first to the last, on which a unit came to be sold (True) or stock again."""
    sales = list(sales)
    days = {day for sale in sales for day in (sale.sold, sale.back) if day and first <= day <= last}
    found = []
    for day in sorted(days):
        now = is_sold(sales, day)
        if now != is_sold(sales, day - timedelta(days=1)):
            found.append((day, now))
    return found


def moved(day: date, unit: str, cost: Decimal, *, out: bool) -> Booking:
    """What a unit had cost until a day, which becomes an expense of it, or stock again."""
    expense = cost if out else -cost
    legs = Leg("unit", "transfer", -expense, unit), Leg("unit", "transfer", expense, unit, sold=True)
    return Booking(day, unit, "cost of what is sold" if out else "stock again", legs)


def journal(
    first: date,
    after: date,
    currency: str,
    opening: Iterable[Leg],
    bookings: Iterable[Booking],
    said: Statement,
    remarks: Sequence[str] = (),
) -> Iterator[str]:
    """The lines of the text, from the day `first` to before the day `after`, amounts in `currency` (ISO 4217).

    `opening` is what stood where when the days began; `bookings` are in the order of their days; `said` is their
    statement, against which whoever reads the text checks it; `remarks` stand at its head.
    """
    yield from (f"; {_plain(remark)}" for remark in remarks)
    yield f'option "title" "{first} to {after - timedelta(days=1)}"'
    yield f'option "operating_currency" "{currency}"'
    text = _Text(first, currency)
    yield from text.booked(Booking(first, "", "what stood where", list(opening)), rest=OPENING)
    began = dict(text.stood)
    for booking in bookings:
        yield from text.booked(booking)
    yield ""
    yield from text.checked(after, STOCK, said.closing.stock)
    yield from text.checked(after, COST_OF_SOLD, said.cost_of_sold)
    for line, (name, sign) in _BY_LINE.items():
        yield from text.checked(after, name, began.get(name, ZERO) + said.sum_of(line) * sign)


class _Text:
    """A text as it grows: every account is opened before it is used."""

    def __init__(self, first: date, currency: str) -> None:
        self.first, self.currency = first, currency
        self.stood: dict[str, Decimal] = defaultdict(lambda: ZERO)

    def booked(self, booking: Booking, rest: str = "") -> Iterator[str]:
        """What does not come to 0 is booked on the account `rest`, where there is one. Nothing is told of nothing."""
        sums: dict[str, Decimal] = defaultdict(lambda: ZERO)
        for leg in booking.legs:
            sums[leg.name] += leg.amount
        if rest:
            sums[rest] -= sum(sums.values(), ZERO)
        sums = {name: amount for name, amount in sums.items() if amount}
        if not sums:
            return
        for name in sums:
            yield from self._opened(name)
        yield ""
        yield f'{booking.day} * "{_plain(booking.who)}" "{_plain(booking.words)}"'
        yield from (f'  {name}: "{_plain(value)}"' for name, value in booking.written.items())
        for name, amount in sums.items():
            self.stood[name] += amount
            yield f"  {name}  {amount:.2f} {self.currency}"

    def checked(self, day: date, name: str, amount: Decimal) -> Iterator[str]:
        """What must stand there when a day begins, with all below it; not a cent more or less."""
        yield from self._opened(name)
        yield f"{day} balance {name}  {amount:.2f} ~ 0 {self.currency}"

    def _opened(self, name: str) -> Iterator[str]:
        if name not in self.stood:
            self.stood[name] = ZERO
            yield f"{self.first} open {name}"


def _plain(words: str) -> str:
    """In one line, with what would end a string told to be a part of it."""
    return " ".join(words.split()).replace("\\", "\\\\").replace('"', '\\"')
