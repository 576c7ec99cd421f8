"""Statements of the bank as CSV: looked at, then taken in whole or not at all."""

from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass

from django.conf import settings
from django.db import transaction

from core.buying.manifest import ManifestError, Table, decode, guess_columns
from core.machine.quantities import Mark
from core.selling.bank_file import BankEntry, BankStatement
from core.selling.bank_table import HEADS, BankColumn, BankRows, account_in, find_table, read_bank_table
from core.selling.sales_file import DayOrder
from stations.common import clock
from stations.common.refusals import Refused, shortened
from stations.dispatch import bank
from stations.dispatch.bank import TakenIn
from stations.dispatch.models import BankFile, BankLine, BankTable
from stations.people import history
from stations.people.models import HistoryEntry, Person
from stations.people.permissions import require

MOST_ACCOUNT = 64
GONE = "That file is taken in already, or was left for a day."


@dataclass(frozen=True)
class Reading:
    """How a file is to be read, and of which account it is; `columns` None: guessed by their heads."""

    columns: Mapping[BankColumn, int] | None = None
    mark: Mark = Mark.ASK
    order: DayOrder = DayOrder.ASK
    account: str = ""


@dataclass(frozen=True)
class Preview:
    """`new` entries by their lines; how many are `known` already, and how many of the new are like another that is
    there in day and sum (`twice`)."""

    table: Table
    columns: Mapping[BankColumn, int]
    read: BankRows
    new: list[tuple[int, BankEntry]]
    known: int
    twice: int


def is_table(data: bytes) -> bool:
    """Whether a file of the bank is a table, or anything else but XML."""
    return not data.lstrip(b"\xef\xbb\xbf \t\r\n").startswith((b"<", b"\xff\xfe", b"\xfe\xff"))


@transaction.atomic
def upload(person: Person, name: str, data: bytes) -> BankTable:
    """Keep a file for looking at. None of its entries count yet."""
    require(person, "take a payment")
    try:
        text = decode(data)
        find_table(text)
    except ManifestError as problem:
        raise Refused(str(problem), "file") from problem
    return BankTable.objects.create(name=shortened(name, 120), text=text, uploaded_at=clock.now(), who=person)


def accounts() -> list[str]:
    """Of which something was taken in, that of the last first."""
    return list(dict.fromkeys(BankFile.objects.values_list("account", flat=True)[:200]))


def account_named(row: BankTable, typed: str | None) -> str:
    """The account that is known by what was typed, whatever its blanks and letters. Where nobody typed anything yet:
    the one that the file names, or the only one there is."""
    known = accounts()
    if typed is None:
        typed = account_in(row.text) or (known[0] if len(known) == 1 else "")
    wanted = "".join(typed.split()).casefold()
    return next((one for one in known if "".join(one.split()).casefold() == wanted), " ".join(typed.split()))


def preview(row: BankTable, how: Reading) -> Preview:
    """The table, and what its lines would be: two queries, however long it is."""
    table = find_table(row.text)
    columns = guess_columns(table.head, HEADS) if how.columns is None else how.columns
    read = read_bank_table(table, columns, settings.BASE_CURRENCY, clock.today(), mark=how.mark, order=how.order)
    there = BankLine.objects.filter(account=how.account)
    references = [entry.reference for _, entry in read.entries]
    known = set(there.filter(reference__in=references).values_list("reference", flat=True))
    new = [one for one in read.entries if one[1].reference not in known and one[1].amount]
    days = {entry.day for _, entry in new}
    others = Counter(there.filter(day__in=days).exclude(reference__in=known).values_list("day", "amount"))
    twice = Counter((entry.day, entry.amount) for _, entry in new) & others
    return Preview(table, columns, read, new, len(known), twice.total())


@transaction.atomic
def take_table_in(person: Person, row: BankTable, how: Reading, again: bool = False) -> TakenIn:
    """All that is new in it, or nothing: a single bad line stops it. The file itself goes."""
    require(person, "take a payment")
    if not how.account:
        raise Refused("Say of which account it is.", "account")
    if len(how.account) > MOST_ACCOUNT:
        raise Refused(f"An account has {MOST_ACCOUNT} characters at most.", "account")
    held = BankTable.objects.select_for_update().filter(pk=row.pk).first()
    if held is None:
        raise Refused(GONE)
    found = preview(held, how)
    if found.read.bad:
        first = found.read.bad[0]
        raise Refused(
            f"{len(found.read.bad)} bad lines; nothing was taken in. The first: line {first.number}, {first.reason}."
        )
    if not found.read.entries:
        raise Refused("No line of it has a day and an amount: say which columns hold them.")
    if found.twice and not again:
        raise Refused(f"{found.twice} of them are there already by day and sum. Tick the box if they are others.")
    entries = tuple(entry for _, entry in found.read.entries)
    taken = bank.keep(person, held.name, BankStatement(how.account, settings.BASE_CURRENCY, entries))
    words = f"Bank statement {held.name}: {taken.words}"
    history.record(person, "dispatch.take_table_in", HistoryEntry.Subject.SHOP, 0, words)
    held.delete()
    return taken
