"""What the days from one to another earned, and where that is: a statement out of sums of the ledger.

A unit carries its own cost (specific identification, IAS 2 ¶23), which is an expense of the day on which it is sold
(¶34); one that comes back from its buyer is stock again. Own labour is told apart: whether it is a cost differs by
country and by who did it; ask an accountant.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from decimal import Decimal
from enum import StrEnum

from core.books.earnings import INCOME, TAKEN_BY_SELLING
from core.money import ZERO

# What stands on a unit and is no cost of having it: it came in, or selling took it.
OF_SELLING = (*INCOME, *TAKEN_BY_SELLING, "payout")


class Place(StrEnum):
    """Where cost lies that is not sold."""

    LOTS = "lots"
    OURS = "owned"
    ON_COMMISSION = "consigned"
    IN_CUSTODY = "custody"
    DRAWERS = "drawers"
    PARTS = "parts"

    @property
    def words(self) -> str:
        return {
            "lots": "lots, on no unit yet",
            "owned": "units of ours",
            "consigned": "work at units on commission",
            "custody": "work at units in custody",
            "drawers": "drawers",
            "parts": "parts with a tag of their own",
        }[self.value]


class Line(StrEnum):
    """A line of the statement that is a sum of entries: those of `accounts`, of these `kinds` (all, where it names
    none), times `sign`."""

    BOUGHT = "bought"
    LABOUR = "labour"
    LOST = "lost"
    SALES = "sales"
    REFUNDS = "refunds"
    CLAIMS = "claims"
    FEES = "fees"
    POSTAGE = "postage"
    TAX = "tax"
    OWNERS = "owners"
    CASH = "cash"
    BUYERS = "buyers"
    DUE_TO_OWNERS = "due_to_owners"
    TAX_DUE = "tax_due"

    @property
    def _as_booked(self) -> tuple[str, tuple[str, ...], tuple[str, ...], int]:
        return {
            "bought": ("lots and parts bought", ("cash",), ("purchase", "charge"), -1),
            "labour": ("own labour put in", ("own_labour",), (), -1),
            "lost": ("written off or missing", ("loss",), ("write_off",), 1),
            "sales": ("sales", ("unit",), ("sale",), -1),
            "refunds": ("refunds", ("unit",), ("refund",), 1),
            "claims": ("paid by carriers for damage", ("unit",), ("claim",), -1),
            "fees": ("fees", ("unit",), ("fee",), 1),
            "postage": ("postage", ("unit",), ("postage",), 1),
            "tax": ("tax", ("unit", "loss"), ("tax",), 1),
            "owners": ("due to owners of what was on commission", ("unit",), ("payout",), 1),
            "cash": ("money in less money out", ("cash",), (), 1),
            "buyers": ("what buyers owe", ("buyer_owes",), (), 1),
            "due_to_owners": ("what owners are due", ("owner_owed",), (), -1),
            "tax_due": ("tax booked as due", ("tax_owed",), (), -1),
        }[self.value]

    @property
    def words(self) -> str:
        return self._as_booked[0]

    @property
    def accounts(self) -> tuple[str, ...]:
        return self._as_booked[1]

    @property
    def kinds(self) -> tuple[str, ...]:
        return self._as_booked[2]

    @property
    def sign(self) -> int:
        return self._as_booked[3]

    def holds(self, account: str, kind: str) -> bool:
        return account in self.accounts and (not self.kinds or kind in self.kinds)


@dataclass(frozen=True)
class Stood:
    """Cost as it stood when a day began, base currency: `held` by where it lies, `sold` of all that was sold by then
    and not taken back; `labour_gone` is the own labour that was booked on what was sold or written off."""

    held: Mapping[Place, Decimal]
    sold: Decimal
    labour_gone: Decimal

    @property
    def stock(self) -> Decimal:
        return sum(self.held.values(), ZERO)


@dataclass(frozen=True)
class Statement:
    """`opening` and `closing` are how cost stood when the period began and when it was over, `moved` the sums of its
    entries by account and kind, signed as in the book: above 0 is cost coming to stand, or cash coming in."""

    opening: Stood
    closing: Stood
    moved: Mapping[tuple[str, str], Decimal]

    def sum_of(self, line: Line) -> Decimal:
        return sum((amount for at, amount in self.moved.items() if line.holds(*at)), ZERO) * line.sign

    @property
    def cost_of_sold(self) -> Decimal:
        return self.closing.sold - self.opening.sold

    @property
    def stock_grew(self) -> Decimal:
        return self.closing.stock - self.opening.stock

    @property
    def grew(self) -> Decimal:
        """By how much it is another, either way."""
        return abs(self.stock_grew)

    @property
    def off(self) -> Decimal:
        """What the stock can’t account for: 0 in every book that adds up."""
        came = self.sum_of(Line.BOUGHT) + self.sum_of(Line.LABOUR)
        return came - self.sum_of(Line.LOST) - self.cost_of_sold - self.stock_grew

    @property
    def earned(self) -> Decimal:
        """With own labour as a cost of what was sold and of what was lost."""
        return sum((amount for _, amount in self.result), ZERO)

    @property
    def labour_gone(self) -> Decimal:
        """What of the cost of what was sold, or written off, is own labour."""
        return self.closing.labour_gone - self.opening.labour_gone

    @property
    def before_labour(self) -> Decimal:
        return self.earned + self.labour_gone

    @property
    def result(self) -> list[tuple[Line | None, Decimal]]:
        """The terms that `earned` is the sum of, signed, None for the cost of what was sold; those of 0 are left out
        but for sales."""
        out: list[Line | None] = [Line.REFUNDS, None, Line.FEES, Line.POSTAGE, Line.TAX, Line.OWNERS, Line.LOST]
        terms: list[tuple[Line | None, Decimal]] = [(Line.CLAIMS, self.sum_of(Line.CLAIMS))]
        terms += [(line, -(self.sum_of(line) if line else self.cost_of_sold)) for line in out]
        return [(Line.SALES, self.sum_of(Line.SALES)), *((line, amount) for line, amount in terms if amount)]

    @property
    def of_units(self) -> Decimal:
        """What the units earned together that were sold or of which selling took something."""
        return self.earned + sum((amount for (on, _), amount in self.moved.items() if on == "loss"), ZERO)

    @property
    def stands(self) -> list[tuple[Line | None, Decimal]]:
        """Where it is: terms that are what was earned, with own labour that nobody was paid; None for the stock."""
        terms: list[tuple[Line | None, Decimal]] = [(None, self.stock_grew)]
        terms += [(line, self.sum_of(line)) for line in (Line.CASH, Line.BUYERS)]
        terms += [(line, -self.sum_of(line)) for line in (Line.DUE_TO_OWNERS, Line.TAX_DUE, Line.LABOUR)]
        return [(line, amount) for line, amount in terms if amount]

    @property
    def stock_moved(self) -> list[tuple[Line | None, Decimal]]:
        """From the stock with which it began to that with which it ended; None for what was sold of it."""
        terms: list[tuple[Line | None, Decimal]] = [(line, self.sum_of(line)) for line in (Line.BOUGHT, Line.LABOUR)]
        return [*terms, (None, -self.cost_of_sold), (Line.LOST, -self.sum_of(Line.LOST))]

    @property
    def places(self) -> list[tuple[Place, Decimal, Decimal]]:
        """What stood where when it began and when it was over; places where nothing did are left out."""
        stood = ((place, self.opening.held.get(place, ZERO), self.closing.held.get(place, ZERO)) for place in Place)
        return [row for row in stood if row[1] or row[2]]
