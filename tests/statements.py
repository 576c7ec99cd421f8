"""Statements of a bank for tests, as camt.053; accounts and names are made up."""

from decimal import Decimal

ACCOUNT = "DE02120300000000202051"
MADE = "<CreDtTm>2026-03-04T09:30:00</CreDtTm>"


def entry(amount, day="2026-03-02", ref="", who="", words="", *, status="BOOK", parts="", currency="EUR") -> str:
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


def part(amount, who="", words="", role="Dbtr") -> str:
    """One of several that were booked together."""
    return (
        f'<TxDtls><AmtDtls><TxAmt><Amt Ccy="EUR">{amount}</Amt></TxAmt></AmtDtls>'
        f"<RltdPties><{role}><Nm>{who}</Nm></{role}></RltdPties><RmtInf><Ustrd>{words}</Ustrd></RmtInf></TxDtls>"
    )


def balance(code: str, amount) -> str:
    amount = Decimal(amount)
    way = "CRDT" if amount >= 0 else "DBIT"
    return (
        f'<Bal><Tp><CdOrPrtry><Cd>{code}</Cd></CdOrPrtry></Tp><Amt Ccy="EUR">{abs(amount)}</Amt>'
        f"<CdtDbtInd>{way}</CdtDbtInd><Dt><Dt>2026-03-02</Dt></Dt></Bal>"
    )


def statement(*entries: str, first="100.00", last=None, account=ACCOUNT, moved="0") -> bytes:
    """A file with one statement; `moved` is what its booked entries come to, unless `last` says something else."""
    closing = Decimal(first) + Decimal(moved) if last is None else Decimal(last)
    return (
        '<?xml version="1.0" encoding="UTF-8"?><Document xmlns="urn:iso:std:iso:20022:tech:xsd:camt.053.001.02">'
        f"<BkToCstmrStmt><GrpHdr><MsgId>1</MsgId>{MADE}</GrpHdr><Stmt><Id>1</Id>{MADE}<Acct><Id><IBAN>{account}</IBAN></Id></Acct>"
        f"{balance('OPBD', first)}{balance('CLBD', closing)}{''.join(entries)}</Stmt></BkToCstmrStmt></Document>"
    ).encode()
