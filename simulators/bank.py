"""A bank: statements of an account as camt.053, of entries that are made up."""

from decimal import Decimal

# Of no country: ZZ is given to none (ISO 3166).
ACCOUNT = "ZZ61000012340000567890"
MADE = "<CreDtTm>2026-03-04T09:30:00</CreDtTm>"


def entry(
    amount: Decimal | str,
    day: str = "2026-03-02",
    ref: str = "",
    who: str = "",
    words: str = "",
    *,
    status: str = "BOOK",
    parts: str = "",
    currency: str = "EUR",
) -> str:
    """One entry; what went out is below 0."""
    amount = Decimal(amount)
    way, role = ("CRDT", "Dbtr") if amount > 0 else ("DBIT", "Cdtr")
    party = f"<RltdPties><{role}><Nm>{who}</Nm></{role}></RltdPties>" if who else ""
    said = f"<RmtInf><Ustrd>{words}</Ustrd></RmtInf>" if words else ""
    details = parts or f"<TxDtls>{party}{said}</TxDtls>"
    reference = f"<AcctSvcrRef>{ref}</AcctSvcrRef>" if ref else ""
    return (
        f'<Ntry><Amt Ccy="{currency}">{abs(amount)}</Amt><CdtDbtInd>{way}</CdtDbtInd><Sts>{status}</Sts>'
        f"<BookgDt><Dt>{day}</Dt></BookgDt>{reference}<BkTxCd/><NtryDtls>{details}</NtryDtls></Ntry>"
    )


def part(amount: str, who: str = "", words: str = "", role: str = "Dbtr") -> str:
    """One of several that were booked together."""
    return (
        f'<TxDtls><AmtDtls><TxAmt><Amt Ccy="EUR">{amount}</Amt></TxAmt></AmtDtls>'
        f"<RltdPties><{role}><Nm>{who}</Nm></{role}></RltdPties><RmtInf><Ustrd>{words}</Ustrd></RmtInf></TxDtls>"
    )


def balance(code: str, amount: Decimal) -> str:
    way = "CRDT" if amount >= 0 else "DBIT"
    return (
        f'<Bal><Tp><CdOrPrtry><Cd>{code}</Cd></CdOrPrtry></Tp><Amt Ccy="EUR">{abs(amount)}</Amt>'
        f"<CdtDbtInd>{way}</CdtDbtInd><Dt><Dt>2026-03-02</Dt></Dt></Bal>"
    )


def statement(*entries: str, moved: Decimal | str = "0", account: str = ACCOUNT) -> bytes:
    """A file with one statement of an account with 100.00 on it; `moved` is what its booked entries come to."""
    first = Decimal("100.00")
    return (
        '<?xml version="1.0" encoding="UTF-8"?><Document xmlns="urn:iso:std:iso:20022:tech:xsd:camt.053.001.02">'
        f"<BkToCstmrStmt><GrpHdr><MsgId>1</MsgId>{MADE}</GrpHdr><Stmt><Id>1</Id>{MADE}"
        f"<Acct><Id><IBAN>{account}</IBAN></Id></Acct>"
        f"{balance('OPBD', first)}{balance('CLBD', first + Decimal(moved))}"
        f"{''.join(entries)}</Stmt></BkToCstmrStmt></Document>"
    ).encode()
