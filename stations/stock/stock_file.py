"""The drawers as CSV, out and in: a file is looked at line by line, then all of it goes in or nothing."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from decimal import Decimal

from django.core.paginator import Paginator
from django.db import transaction

from core.buying.manifest import ManifestError, decode, read_table
from core.machine.quantities import QuantityError, read_number
from core.stock.measure import Measure, read_amount
from core.stock.parts import Condition
from stations.common.refusals import Refused
from stations.common.spreadsheet import unmarked
from stations.people.models import Person
from stations.people.permissions import require
from stations.stock import drawer, selectors, services
from stations.stock.models import StockItem
from stations.stock.services import Sort

HEAD = ("name", "condition", "drawer", "measure", "quantity", "paid", "modern", "keeps_data", "reserved", "worth")
_NEEDED = ("name", "quantity", "paid")
MOST_ROWS = 2000
_YES = {"yes": True, "no": False, "": False}


@dataclass(frozen=True)
class FileLine:
    """A line of a file that can go in: what, how much as typed, and what was paid for it in all."""

    number: int
    sort: Sort
    amount: str
    paid: Decimal

    @property
    def amount_words(self) -> str:
        measure = Measure(self.sort.measure)
        return measure.words(read_amount(self.amount, measure))


@dataclass(frozen=True)
class BadLine:
    number: int
    reason: str


@dataclass(frozen=True)
class Read:
    """`empty`: how many lines are of drawers with nothing in them, as they go out; they are left out."""

    good: tuple[FileLine, ...]
    bad: tuple[BadLine, ...]
    empty: int = 0


def rows() -> Iterator[tuple]:
    """Every drawer as it goes out; what is paid stays empty, so that a file that comes back asks for it."""
    for page in Paginator(StockItem.objects.all(), 500):
        for one in selectors.in_stock(list(page)):
            item = one.item
            yes = {True: "yes", False: "no"}
            yield (
                item.name,
                item.condition,
                item.drawer,
                item.measure,
                format(item.quantity.normalize(), "f"),
                "",
                yes[item.modern],
                yes[item.keeps_data],
                format(item.reserved.normalize(), "f"),
                str(one.worth),
            )


def text_of(data: bytes) -> str:
    """The file as text; Refused when it is none."""
    try:
        return decode(data)
    except ManifestError as problem:
        raise Refused(str(problem), "file") from problem


def read(text: str) -> Read:
    """Every line that can go in, and every one that can’t, with its number and why. Refused for what is no table."""
    try:
        table = read_table(text)
    except ManifestError as problem:
        raise Refused(str(problem), "file") from problem
    head = [name.strip().lower() for name in table.head]
    if missing := [name for name in _NEEDED if name not in head]:
        raise Refused(f"The head names no {', no '.join(missing)}. Columns: {', '.join(HEAD[:8])}.", "file")
    if len(table.rows) > MOST_ROWS:
        raise Refused(f"{MOST_ROWS:,} lines at most. Split the file.", "file")
    good: list[FileLine] = []
    bad: list[BadLine] = []
    known = dict(StockItem.objects.values_list("name", "measure"))
    lying = {(name, of): at for name, of, at in StockItem.objects.values_list("name", "condition", "drawer") if at}
    for row, number in zip(table.rows, table.numbers, strict=True):
        cells = {name: unmarked(row[index]) if index < len(row) else "" for index, name in enumerate(head)}
        try:
            if line := _line(number, cells, known):
                _refuse_elsewhere(line.sort, lying)
                good.append(line)
        except ValueError as problem:
            bad.append(BadLine(number, str(problem)))
    return Read(tuple(good), tuple(bad), len(table.rows) - len(good) - len(bad))


def _refuse_elsewhere(sort: Sort, lying: Mapping[tuple[str, str], str]) -> None:
    """A part lies in one drawer: what a file says of another would be passed over."""
    here = lying.get((sort.name, sort.condition), "")
    if sort.drawer and here and sort.drawer != here:
        raise ValueError(f"it lies in drawer {here} here, not in {sort.drawer}")


def _line(number: int, cells: dict[str, str], known: dict[str, str]) -> FileLine | None:
    name = cells["name"]
    if not name or len(name) > 80:
        raise ValueError("a name of 1 to 80 characters")
    condition = cells.get("condition", "") or Condition.NEW.value
    if condition not in set(Condition):
        raise ValueError(f"“{condition}” is no condition: {', '.join(Condition)}")
    measure = cells.get("measure", "") or known.get(name, Measure.PIECE.value)
    if measure not in set(Measure):
        raise ValueError(f"“{measure}” is no measure: {', '.join(Measure)}")
    if len(cells.get("drawer", "")) > 20:
        raise ValueError("a drawer has 20 characters at most")
    flags = {}
    for flag in ("modern", "keeps_data"):
        if (said := cells.get(flag, "").lower()) not in _YES:
            raise ValueError(f"{flag}: yes or no, not “{said}”")
        flags[flag] = _YES[said]
    try:
        amount = read_amount(cells["quantity"], Measure(measure))
        if not amount and not cells["paid"]:
            return None
        if not cells["paid"]:
            raise ValueError("nothing says what was paid for it; 0 says that it was nothing")
        paid = read_number(cells["paid"])
    except QuantityError as problem:
        raise ValueError(str(problem)) from problem
    if not amount:
        raise ValueError("a quantity above nothing")
    if not 0 <= paid < 10**8:
        raise ValueError("paid: from 0 up")
    sort = Sort(name, condition, cells.get("drawer", ""), measure, **flags)
    return FileLine(number, sort, cells["quantity"], round(paid, 2))


@transaction.atomic
def take_in(person: Person, text: str) -> int:
    """Put every line in its drawer, or none: a single bad line stops it. Answers how many there were."""
    require(person, "import stock")
    found = read(text)
    if found.bad:
        first = found.bad[0]
        said = f"The first: line {first.number}, {first.reason}."
        raise Refused(f"{len(found.bad)} lines are bad; nothing was taken in. {said}")
    items: list[StockItem] = []
    for line in found.good:
        try:
            item = services.item_of(line.sort)
            services.buy_stock(person, item, drawer.typed_amount(item, line.amount), line.paid)
            items.append(item)
        except Refused as refusal:
            raise Refused(f"Line {line.number}: {refusal.message} Nothing was taken in.") from refusal
    drawer.came(person, items)
    return len(found.good)
