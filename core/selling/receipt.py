"""What stands on a receipt: its number, its lines, and what it says of tax by the scheme that the sale was under."""

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from enum import StrEnum

from core.money import ZERO


class ReceiptKind(StrEnum):
    RECEIPT = "receipt"
    INVOICE = "invoice"
    CREDIT = "credit"

    @property
    def label(self) -> str:
        return {"receipt": "receipt", "invoice": "invoice", "credit": "credit note"}[self.value]


@dataclass(frozen=True)
class Line:
    """One thing on a receipt, tax within its price; a credit note has amounts below 0."""

    words: str
    amount: Decimal


@dataclass(frozen=True)
class TaxLine:
    """The tax that is shown: rate in %, tax and net amount, which sum to what was paid."""

    percent: Decimal
    net: Decimal
    tax: Decimal


def number_words(year: int, number: int) -> str:
    """As it is printed: the year, then the number within it, without gaps."""
    return f"{year}-{number:04}"


def tax_line(scheme: str, percent: Decimal, total: Decimal, tax: Decimal) -> TaxLine | None:
    """The tax to show. Under a margin scheme, by the item or by the period, none is shown: the buyer must not be able
    to work out the margin (common rule of such schemes; they differ by country)."""
    if scheme != "standard" or not percent:
        return None
    return TaxLine(percent, total - tax, tax)


def total_of(lines: Sequence[Line]) -> Decimal:
    return sum((line.amount for line in lines), ZERO)
