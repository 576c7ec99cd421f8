"""Money by bank transfer: statements taken in, and what came in booked on the sales that a person says."""

from collections.abc import Sequence
from dataclasses import dataclass

from django.conf import settings
from django.db import transaction

from core.machine.tags import TagError, parse_tag
from core.selling.bank_file import BankEntry, BankFileError, BankStatement, read_statements
from core.selling.money_in import OpenSale, Proposal, plain, proposals
from core.selling.receipt import number_words
from stations.common import clock
from stations.common.locking import lock_row
from stations.common.refusals import Refused, reason, shortened
from stations.dispatch import selectors
from stations.dispatch.models import BankBooking, BankFile, BankLine, ReceiptLine
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require
from stations.selling import payments
from stations.selling.models import Payment, Sale

SHOP = HistoryEntry.Subject.SHOP
# Of so many open sales it is asked which money is for, those sold last.
MOST_OPEN = 500


@dataclass(frozen=True)
class TakenIn:
    """A file that was taken in: how many of its entries are new, and how many were there already."""

    new: int
    known: int

    @property
    def words(self) -> str:
        there = f", {self.known} were there already" if self.known else ""
        return f"{self.new} new {'entry' if self.new == 1 else 'entries'} taken in{there}."


@transaction.atomic
def take_in(person: Person, name: str, data: bytes) -> TakenIn:
    """Take in all that is new in a statement of the bank; a file that is not whole is refused whole."""
    require(person, "take a payment")
    try:
        statements = read_statements(data, settings.BASE_CURRENCY)
    except BankFileError as error:
        raise Refused(str(error), "file") from error
    found = [keep(person, name, statement) for statement in statements]
    taken = TakenIn(sum(one.new for one in found), sum(one.known for one in found))
    history.record(person, "dispatch.take_in", SHOP, 0, f"Bank statement {name}: {taken.words}")
    return taken


def keep(person: Person, name: str, statement: BankStatement) -> TakenIn:
    """Lines of all that is new in it."""
    references = [entry.reference for entry in statement.entries]
    there = BankLine.objects.filter(account=statement.account, reference__in=references)
    known = set(there.values_list("reference", flat=True))
    new = [entry for entry in statement.entries if entry.reference not in known and entry.amount]
    if new:
        told = {"name": shortened(name, 120), "account": statement.account}
        file = BankFile.objects.create(**told, taken_in_at=clock.now(), who=person)
        BankLine.objects.bulk_create(_line(file, entry) for entry in new)
    return TakenIn(len(new), len(known))


def _line(file: BankFile, entry: BankEntry) -> BankLine:
    said = {"day": entry.day, "amount": entry.amount, "who": entry.who, "words": entry.words}
    return BankLine(file=file, account=file.account, reference=entry.reference, **said)


@dataclass(frozen=True)
class ToPlace:
    """A line of the bank with the sales that it may be for."""

    line: BankLine
    proposals: list[Proposal]

    @property
    def plain(self) -> bool:
        """The first is the one, by all that is known."""
        return plain(self.proposals)

    @property
    def tied(self) -> bool:
        """Nothing tells the first two apart."""
        return len(self.proposals) > 1 and self.proposals[0].weight == self.proposals[1].weight


def to_place(lines: Sequence[BankLine]) -> list[ToPlace]:
    """Each with what it may be for: two queries for all."""
    sales = _open_sales() if lines else []
    return [ToPlace(line, proposals(line.rest, line.who, line.words, sales)) for line in lines]


def _open_sales() -> list[OpenSale]:
    rows = list(selectors.to_pay().order_by("-sold_at")[:MOST_OPEN])
    first = ReceiptLine.objects.filter(first_for__in=[sale.pk for sale in rows])
    numbers = {
        sale: number_words(year, number)
        for sale, year, number in first.values_list("first_for", "receipt__year", "receipt__number")
    }
    return [OpenSale(sale.pk, sale.unit.number, numbers.get(sale.pk, ""), sale.buyer, sale.owed) for sale in rows]


def sale_of(tag: str) -> Sale:
    """The sale of the unit whose tag was typed, that stands."""
    try:
        found = parse_tag(tag)
    except TagError as error:
        raise Refused(str(error)) from error
    if found is None:
        raise Refused("Type the tag of what was sold: W-0147.")
    sale = Sale.objects.select_related("unit").filter(unit__number=found.number, ended_at=None).first()
    if sale is None:
        raise Refused(f"{found} is not sold.")
    return sale


@transaction.atomic
def book(person: Person, line: BankLine, sales: Sequence[Sale]) -> list[Payment]:
    """What came in is for these sales, one after the other, as far as each is open; of what is left somebody says what
    it is for."""
    held = [payments.hold(sale) for sale in sorted(sales, key=lambda sale: sale.unit_id)]
    found = []
    for sale in held:
        # What is held by now may be less than the page said.
        line = _hold(line)
        if not sale.owed:
            raise Refused(f"{sale.unit.tag} is paid.")
        payment = payments.take_payment(person, sale, min(line.rest, sale.owed), Payment.How.TRANSFER, line.day)
        BankBooking.objects.create(line=line, payment=payment, amount=payment.amount)
        found.append(payment)
    return found


def _hold(line: BankLine) -> BankLine:
    """The line as it now is, where something of it is still to be placed."""
    lock_row(BankLine.objects.all(), line)
    line = BankLine.objects.with_booked().get(pk=line.pk)
    if line.aside:
        raise Refused(f"It was set aside: {line.aside}.")
    if line.rest <= 0:
        raise Refused("All of it is booked already.")
    return line


@transaction.atomic
def set_aside(person: Person, line: BankLine, why: str) -> None:
    """It is for no sale, or what is left of it is not: why stays with it."""
    require(person, "take a payment")
    line, why = _hold(line), reason(why)
    BankLine.objects.filter(pk=line.pk).update(aside=why, aside_at=clock.now(), aside_by=person)
    history.record(person, "dispatch.set_aside", SHOP, 0, f"{line.rest} of {line.day:%-d %B} set aside: {why}")


@transaction.atomic
def take_up(person: Person, line: BankLine) -> None:
    """It was set aside by mistake: it is to be placed again."""
    require(person, "take a payment")
    line = lock_row(BankLine.objects.all(), line)
    if not line.aside:
        raise Refused("It is not set aside.")
    BankLine.objects.filter(pk=line.pk).update(aside="", aside_at=None, aside_by=None)
    history.record(person, "dispatch.take_up", SHOP, 0, f"{line.amount} of {line.day:%-d %B} is to be placed again")


def came_to(lines: Sequence[BankLine]) -> dict[int, list[Payment]]:
    """The payments that stand, by line: one query."""
    found: dict[int, list[Payment]] = {line.pk: [] for line in lines}
    rows = BankBooking.objects.filter(line__in=list(found), payment__posting__reversed_by=None)
    for row in rows.select_related("payment__sale__unit"):
        found[row.line_id].append(row.payment)
    return found
