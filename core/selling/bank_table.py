"""What a bank says of an account as CSV: every bank its own columns, read whole or not at all.

Where the head stands, what each column holds and how days and numbers are written is guessed, and can be said. Nothing
of it is a published form: common practice, no source.
"""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from enum import StrEnum
from hashlib import sha256

from stdnum import iban

from core.buying.manifest import BadLine, Table, guess_columns, read_table
from core.machine.quantities import Mark, QuantityError, TwoMeanings, read_number
from core.money import ZERO
from core.selling.bank_file import BankEntry
from core.selling.sales_file import DayOrder, read_day

MOST = Decimal(10**9)
# Lines above the head that tell of which account it is.
MOST_BEFORE = 20


class BankColumn(StrEnum):
    """What a column may hold for us. An amount has its sign, or a column that says which way; or one column for each
    way."""

    DAY = "day"
    AMOUNT = "amount"
    WAY = "way"
    CAME_IN = "came_in"
    WENT_OUT = "went_out"
    CURRENCY = "currency"
    WHO = "who"
    WORDS = "words"
    BALANCE = "balance"

    @property
    def label(self) -> str:
        return {
            "day": "booked on",
            "amount": "amount",
            "way": "in or out, as a word",
            "came_in": "came in",
            "went_out": "went out",
            "currency": "currency",
            "who": "who paid or was paid",
            "words": "what was said with it",
            "balance": "balance after it",
        }[self.value]


# In the order in which they are looked for: “credit” alone is what came in, “debit/credit” says which way.
HEADS: Mapping[BankColumn, tuple[str, ...]] = {
    BankColumn.DAY: ("booking date", "booked", "buchungstag", "buchungsdatum", "bokförd", "date", "datum", "day"),
    BankColumn.WAY: ("debit/credit", "credit/debit", "soll/haben", "indicator", "kennzeichen", "direction"),
    BankColumn.CAME_IN: ("paid in", "money in", "credit", "haben", "gutschrift", "insättning"),
    BankColumn.WENT_OUT: ("paid out", "money out", "debit", "soll", "lastschrift", "uttag"),
    BankColumn.AMOUNT: ("amount", "betrag", "umsatz", "belopp", "sum"),
    BankColumn.CURRENCY: ("currency", "währung", "waehrung"),
    BankColumn.BALANCE: ("balance", "saldo", "kontostand"),
    BankColumn.WHO: (
        "payer", "counterparty", "beguenstigter", "begünstigter", "auftraggeber", "zahlungspflichtiger", "name",
        "avsändare", "mottagare",
    ),
    BankColumn.WORDS: (
        "reference", "verwendungszweck", "remittance", "description", "details", "narrative", "meddelande", "text",
        "memo",
    ),
}  # fmt: skip
_IN = {"h", "haben", "c", "cr", "crdt", "credit", "in", "+"}
_OUT = {"s", "soll", "d", "dr", "dbit", "debit", "out", "-"}


@dataclass(frozen=True)
class BankRows:
    """What was read: `entries` with the number of the line of each, `empty` how many lines were of no entry. `proven`
    says whether balances show that none is missing; None where the file has none, or one line."""

    entries: tuple[tuple[int, BankEntry], ...]
    bad: tuple[BadLine, ...]
    empty: int = 0
    proven: bool | None = None


def find_table(text: str) -> Table:
    """The table in a file, wherever among its first lines the head stands: the first that names a day and an amount,
    else the first there is. ManifestError as `read_table` says."""
    before = _before(text)
    found = read_table("".join(text.splitlines(keepends=True)[before:]))
    return Table(found.head, found.rows, tuple(number + before for number in found.numbers))


def _before(text: str) -> int:
    """How many lines stand above the head."""
    for before, line in enumerate(text.splitlines()[:MOST_BEFORE]):
        # Cells of a head are short: whatever parts them, its words are found.
        head = [cell for cell in re.split("[;,\t]", line) if cell.strip()]
        if len(head) > 1 and _tells_enough(guess_columns(head, HEADS)):
            return before
    return 0


def account_in(text: str) -> str:
    """The account that a file names above its table: an IBAN whose check holds (ISO 13616); empty where none does."""
    for line in text.splitlines()[: _before(text)]:
        for found in _IBAN.finditer(line):
            bare = "".join(found[0].split())
            if iban.is_valid(bare):
                return bare
    return ""


_IBAN = re.compile(r"\b[A-Z]{2}[0-9]{2}(?: ?[A-Z0-9]){11,30}\b")


def _tells_enough(columns: Mapping[BankColumn, int]) -> bool:
    return BankColumn.DAY in columns and not columns.keys().isdisjoint(
        {BankColumn.AMOUNT, BankColumn.CAME_IN, BankColumn.WENT_OUT}
    )


def read_bank_table(
    table: Table,
    columns: Mapping[BankColumn, int],
    currency: str,
    today: date,
    *,
    mark: Mark = Mark.ASK,
    order: DayOrder = DayOrder.ASK,
) -> BankRows:
    """Every row as an entry, or as a bad line with its number in the file and what is wrong with it.

    A row without day and amount is none: banks put sums and remarks under a table. Where there is a column of balances,
    each has to follow from the one before it, in the order of the file or against it.
    """
    good: list[tuple[int, BankEntry]] = []
    bad: list[BadLine] = []
    balances: list[Decimal | None] = []
    empty = 0
    seen: dict[str, int] = {}
    for row, number in zip(table.rows, table.numbers, strict=True):
        cells = {column: row[index].strip() if index < len(row) else "" for column, index in columns.items()}
        if not any(cells.get(column) for column in (BankColumn.DAY, *_AMOUNTS)):
            empty += 1
            continue
        try:
            entry = _entry(cells, currency, today, mark, order)
            said = cells.get(BankColumn.BALANCE)
            balances.append(_money(said, "balance", mark) if said else None)
        except ValueError as problem:
            bad.append(BadLine(number, str(problem)))
            continue
        # However the columns are read, the same line is the same; two alike in a file are two.
        reference = sha256("\n".join(row).encode()).hexdigest()[:40]
        seen[reference] = turn = seen.get(reference, 0) + 1
        told = BankEntry(f"{reference}/{turn}" if turn > 1 else reference, *entry)
        good.append((number, told))
    proven = None
    if not bad and len(good) > 1 and None not in balances:
        broken = _break([one.amount for _, one in good], [one for one in balances if one is not None])
        proven = broken is None
        if broken is not None:
            bad.append(
                BadLine(good[broken][0], "its balance does not follow from the line beside it: a line is missing")
            )
    return BankRows(tuple(good), tuple(bad), empty, proven)


_AMOUNTS = (BankColumn.AMOUNT, BankColumn.CAME_IN, BankColumn.WENT_OUT)


def _break(amounts: Sequence[Decimal], balances: Sequence[Decimal]) -> int | None:
    """Where the balances stop following from each other; None where they never do, read down or up."""
    down = [at for at in range(1, len(amounts)) if balances[at - 1] + amounts[at] != balances[at]]
    up = [at for at in range(1, len(amounts)) if balances[at] + amounts[at - 1] != balances[at - 1]]
    if not down or not up:
        return None
    return min((down, up), key=len)[0]


def _entry(
    cells: Mapping[BankColumn, str], currency: str, today: date, mark: Mark, order: DayOrder
) -> tuple[date, Decimal, str, str]:
    said = cells.get(BankColumn.CURRENCY, "").upper()
    if said and said != currency:
        raise ValueError(f"it is in {said}, and the books are in {currency}")
    day = _day(cells.get(BankColumn.DAY, ""), order)
    if day > today:
        raise ValueError(f"{day:%d %B %Y} is still to come")
    return day, _amount(cells, mark), cells.get(BankColumn.WHO, ""), " ".join(cells.get(BankColumn.WORDS, "").split())


def _amount(cells: Mapping[BankColumn, str], mark: Mark) -> Decimal:
    """Above 0 for what came in."""
    if text := cells.get(BankColumn.AMOUNT):
        amount = _money(text, "amount", mark)
        way = cells.get(BankColumn.WAY, "").lower()
        if way in _IN or way in _OUT:
            return abs(amount) if way in _IN else -abs(amount)
        if way or BankColumn.WAY in cells:
            raise ValueError(f"“{way}” does not say whether it came in or went out: C or D, H or S, in or out")
        return amount
    came, went = (
        abs(_money(text, "amount", mark)) if (text := cells.get(column)) else ZERO
        for column in (BankColumn.CAME_IN, BankColumn.WENT_OUT)
    )
    if came and went:
        raise ValueError("it says both what came in and what went out")
    if BankColumn.AMOUNT in cells and not came and not went:
        raise ValueError("nothing says its amount")
    return came - went


def _money(text: str, what: str, mark: Mark) -> Decimal:
    # Without the currency, and without what parts thousands in Switzerland.
    bare = re.sub(r"[€£$'’]|\b[A-Za-z]{2,3}\b\.?", "", text).strip()
    # Some write the sign behind it.
    if bare[-1:] in {"-", "−", "+"}:
        bare = bare[-1] + bare[:-1]
    try:
        amount = read_number(bare, mark)
    except TwoMeanings as problem:
        raise ValueError(f"{what}: {problem}") from problem
    except QuantityError as problem:
        raise ValueError(f"“{text}” is no {what}") from problem
    if abs(amount) >= MOST or amount != amount.quantize(Decimal("0.01")):
        raise ValueError(f"“{text}” is no {what} of money")
    return amount.quantize(Decimal("0.01"))


def _day(text: str, order: DayOrder) -> date:
    """As `read_day`; also with a year of two figures, without marks, and with a time behind it."""
    bare = re.sub(r"[T ]\d{1,2}:\d{2}.*$", "", text)
    if found := re.fullmatch(r"(\d{4})(\d{2})(\d{2})", bare):
        bare = "-".join(found.groups())
    elif found := re.fullmatch(r"(\d{1,2})([./-])(\d{1,2})\2(\d{2})", bare):
        bare = f"{found[1]}{found[2]}{found[3]}{found[2]}20{found[4]}"
    try:
        return read_day(bare, order)
    except ValueError as problem:
        raise ValueError(str(problem).replace("when it was sold", "when it was booked")) from problem
