"""What a bank says of an account: a statement as ISO 20022 camt.053 (versions 02 to 13), read whole or not at all.

Elements are named as in the message definition; they are found by their local name, whatever the version.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date
from decimal import Decimal, InvalidOperation
from hashlib import sha256
from xml.etree.ElementTree import Element, ParseError

from defusedxml import DefusedXmlException
from defusedxml.ElementTree import fromstring

from core.money import ZERO

# An entry as long as this is none (the message allows 18 digits).
_MOST = Decimal(10**9)
_BOOKED = "BOOK"
_OPENING, _CLOSING = ("OPBD", "PRCD"), ("CLBD",)


class BankFileError(ValueError):
    """The file can’t be taken, in words for whoever chose it."""


@dataclass(frozen=True)
class BankEntry:
    """Money that came in (above 0) or went out (below). `reference` is the same whenever this is read again; `who` paid
    it or was paid, and `words` is all that was said with it, each empty where the bank does not say."""

    reference: str
    day: date
    amount: Decimal
    who: str
    words: str


@dataclass(frozen=True)
class BankStatement:
    """The booked entries of one account, in the currency of its amounts."""

    account: str
    currency: str
    entries: tuple[BankEntry, ...]


def read_statements(data: bytes, currency: str) -> list[BankStatement]:
    """The statements of a file, one for each account and time; all amounts have to be in `currency`.

    BankFileError for what is no such file, lacks a part, or does not add up from its opening to its closing balance.
    """
    try:
        root = fromstring(data, forbid_dtd=True)
    except (ParseError, DefusedXmlException, ValueError, LookupError) as error:
        raise BankFileError("This is no whole XML file: export the statement from the bank again.") from error
    if _name(root) != "Document" or (message := _child(root, "BkToCstmrStmt")) is None:
        raise BankFileError("This is no statement of an account (camt.053).")
    found = [_statement(one, currency) for one in _children(message, "Stmt")]
    if not found:
        raise BankFileError("There is no statement in it.")
    return found


def _statement(stmt: Element, currency: str) -> BankStatement:
    account = _text(stmt, "Acct", "Id", "IBAN") or _text(stmt, "Acct", "Id", "Othr", "Id")
    if not account:
        raise BankFileError("It does not say of which account it is.")
    seen: dict[str, int] = {}
    entries: list[BankEntry] = []
    for number, entry in enumerate(_children(stmt, "Ntry"), 1):
        try:
            if (_text(entry, "Sts", "Cd") or _text(entry, "Sts")) == _BOOKED:
                entries += _entries(entry, currency, seen)
        except BankFileError as error:
            raise BankFileError(f"Entry {number}: {error}") from error
    _adds_up(stmt, currency, entries)
    return BankStatement(account[:64], currency, tuple(entries))


def _entries(entry: Element, currency: str, seen: dict[str, int]) -> Iterator[BankEntry]:
    """One entry, or each of those that it was booked together from where they say all of its amount."""
    amount, day = _signed(entry, currency), _day(entry)
    parts = [part for details in _children(entry, "NtryDtls") for part in _children(details, "TxDtls")]
    amounts = [_part_amount(part, entry, currency) for part in parts]
    known = [one for one in amounts if one is not None]
    split = len(parts) > 1 and len(known) == len(parts) and sum(known, ZERO) == amount
    own = _text(entry, "AcctSvcrRef")
    for index, part in enumerate(parts if split else [parts[0] if len(parts) == 1 else None]):
        of_part = known[index] if split else amount
        who, words = _party(part, incoming=of_part > 0), _words(part, entry)
        reference = (_text(part, "Refs", "AcctSvcrRef") if split else "") or own
        if not reference:
            said = "\n".join((day.isoformat(), str(of_part), who, words))
            reference = sha256(said.encode()).hexdigest()[:40]
        # Two alike on a day are two.
        seen[reference] = turn = seen.get(reference, 0) + 1
        reference = f"{reference[:80]}/{turn}" if turn > 1 else reference[:80]
        yield BankEntry(reference, day, of_part, who, words)


def _adds_up(stmt: Element, currency: str, entries: list[BankEntry]) -> None:
    """A statement that lost entries on its way does not come from its opening to its closing balance."""
    balances = {_text(bal, "Tp", "CdOrPrtry", "Cd"): _signed(bal, currency) for bal in _children(stmt, "Bal")}
    opening = next((balances[code] for code in _OPENING if code in balances), None)
    closing = next((balances[code] for code in _CLOSING if code in balances), None)
    if opening is None or closing is None:
        raise BankFileError("It lacks the balance at first or at last, so nobody can say whether it is whole.")
    moved = sum((entry.amount for entry in entries), ZERO)
    if opening + moved != closing:
        raise BankFileError(f"It is not whole: from {opening} with {moved} of entries it does not come to {closing}.")


def _signed(of: Element, currency: str) -> Decimal:
    amount, way = _amount(_child(of, "Amt"), currency), _text(of, "CdtDbtInd")
    if amount is None:
        raise BankFileError("it lacks its amount.")
    if way not in {"CRDT", "DBIT"}:
        raise BankFileError("it does not say whether it came in or went out.")
    return amount if way == "CRDT" else -amount


def _part_amount(part: Element, entry: Element, currency: str) -> Decimal | None:
    """What one of several came to, signed as the entry where it has no way of its own (none has in version 02); None
    where it does not say, or says it in another currency."""
    at = _child(part, "Amt")
    if at is None:
        at = _child(part, "AmtDtls", "TxAmt", "Amt")
    way = _text(part, "CdtDbtInd") or _text(entry, "CdtDbtInd")
    if at is None or at.get("Ccy") != currency:
        return None
    amount = _amount(at, currency)
    return -amount if amount is not None and way == "DBIT" else amount


def _amount(at: Element | None, currency: str) -> Decimal | None:
    if at is None:
        return None
    if at.get("Ccy") != currency:
        raise BankFileError(f"it is in {at.get('Ccy') or 'no currency'}, and the books are in {currency}.")
    try:
        amount = Decimal((at.text or "").strip())
    except InvalidOperation as error:
        raise BankFileError("its amount is no number.") from error
    if not amount.is_finite() or not 0 <= amount < _MOST or amount != amount.quantize(Decimal("0.01")):
        raise BankFileError("its amount is no sum of money.")
    return amount.quantize(Decimal("0.01"))


def _day(entry: Element) -> date:
    said = _text(entry, "BookgDt", "Dt") or _text(entry, "BookgDt", "DtTm") or _text(entry, "ValDt", "Dt")
    try:
        return date.fromisoformat(said[:10])
    except ValueError as error:
        raise BankFileError("it lacks the day on which it was booked.") from error


def _party(part: Element | None, *, incoming: bool) -> str:
    """Who paid what came in, or was paid; the bank’s own charges have nobody."""
    role = "Dbtr" if incoming else "Cdtr"
    return _text(part, "RltdPties", role, "Nm") or _text(part, "RltdPties", role, "Pty", "Nm")


def _words(part: Element | None, entry: Element) -> str:
    """All that was said with it, in the order of the message."""
    said = [_text(part, "Refs", "EndToEndId")]
    remittance = _child(part, "RmtInf")
    if remittance is not None:
        said += [_line(one) for one in _children(remittance, "Ustrd")]
        for one in _children(remittance, "Strd"):
            said.append(_text(one, "CdtrRefInf", "Ref"))
            said += [_line(words) for words in _children(one, "AddtlRmtInf")]
    said += [_text(part, "AddtlTxInf"), _text(entry, "AddtlNtryInf")]
    return " ".join(dict.fromkeys(words for words in said if words and words != "NOTPROVIDED"))


def _name(element: Element) -> str:
    return element.tag.rpartition("}")[2]


def _children(of: Element, name: str) -> Iterator[Element]:
    return (child for child in of if _name(child) == name)


def _child(of: Element | None, *path: str) -> Element | None:
    for name in path:
        of = next(_children(of, name), None) if of is not None else None
    return of


def _text(of: Element | None, *path: str) -> str:
    """What stands there, in one line; empty where nothing does."""
    found = _child(of, *path)
    return _line(found) if found is not None else ""


def _line(element: Element) -> str:
    return " ".join((element.text or "").split())
