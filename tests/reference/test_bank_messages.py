"""Statements of a bank as ISO 20022 defines them: the classes of pyiso20022, which are generated from the published
message definitions, write what we read and read what our tests write."""

import warnings
from datetime import date
from decimal import Decimal
from unittest import TestCase

from pyiso20022.camt import camt_053_001_02 as v02
from pyiso20022.camt import camt_053_001_08 as v08
from xsdata.formats.dataclass.parsers import XmlParser
from xsdata.formats.dataclass.parsers.config import ParserConfig
from xsdata.formats.dataclass.serializers import XmlSerializer
from xsdata.models.datatype import XmlDate, XmlDateTime

from core.selling.bank_file import read_statements
from simulators.bank import entry, part, statement

D = Decimal
IN, OUT = v08.CreditDebitCode.CRDT, v08.CreditDebitCode.DBIT
DAY = v08.DateAndDateTime2Choice(dt=XmlDate(2026, 3, 2))


def money(amount: str) -> v08.ActiveOrHistoricCurrencyAndAmount:
    return v08.ActiveOrHistoricCurrencyAndAmount(value=D(amount), ccy="EUR")


def balance(code: str, amount: str) -> v08.CashBalance8:
    kind = v08.BalanceType13(cd_or_prtry=v08.BalanceType10Choice(cd=code))
    return v08.CashBalance8(tp=kind, amt=money(amount), cdt_dbt_ind=IN, dt=DAY)


def somebody(name: str) -> v08.Party40Choice:
    return v08.Party40Choice(pty=v08.PartyIdentification135(nm=name))


def booked(amount: str, way, *details: v08.EntryTransaction10, day=DAY, state="BOOK") -> v08.ReportEntry10:
    return v08.ReportEntry10(
        amt=money(amount),
        cdt_dbt_ind=way,
        sts=v08.EntryStatus1Choice(cd=state),
        bookg_dt=day,
        acct_svcr_ref="S1" if way is IN else "S2",
        bk_tx_cd=v08.BankTransactionCodeStructure4(),
        ntry_dtls=[v08.EntryDetails9(tx_dtls=list(details))],
    )


def of_version_8() -> bytes:
    paid = v08.RemittanceInformation16(
        ustrd=["For W-0147", "with thanks"],
        strd=[v08.StructuredRemittanceInformation16(cdtr_ref_inf=v08.CreditorReferenceInformation2(ref="RF18 5390"))],
    )
    parts = [
        v08.EntryTransaction10(
            amt=money("100.00"),
            cdt_dbt_ind=IN,
            rltd_pties=v08.TransactionParties6(dbtr=somebody("A. Reader"), cdtr=somebody("The shop")),
            rmt_inf=paid,
        ),
        v08.EntryTransaction10(
            refs=v08.TransactionReferences6(end_to_end_id="2026-0012"),
            amt=money("50.00"),
            cdt_dbt_ind=IN,
            rltd_pties=v08.TransactionParties6(dbtr=somebody("I. Falk")),
        ),
    ]
    later = v08.DateAndDateTime2Choice(dt_tm=XmlDateTime(2026, 3, 4, 9, 30, 0))
    out = v08.EntryTransaction10(rltd_pties=v08.TransactionParties6(cdtr=somebody("Skerry Post")))
    account = v08.AccountIdentification4Choice(othr=v08.GenericAccountIdentification1(id="0012-7"))
    found = v08.AccountStatement9(
        id="7",
        acct=v08.CashAccount39(id=account),
        bal=[balance("OPBD", "20.00"), balance("CLBD", "163.10")],
        ntry=[
            booked("150.00", IN, *parts),
            booked("9.00", IN, state="PDNG"),
            booked("6.90", OUT, out, day=later),
        ],
    )
    head = v08.GroupHeader81(msg_id="1", cre_dt_tm=XmlDateTime(2026, 3, 4, 9, 30, 0))
    document = v08.Document(bk_to_cstmr_stmt=v08.BankToCustomerStatementV08(grp_hdr=head, stmt=[found]))
    return XmlSerializer().render(document).encode()


class Written(TestCase):
    def test_version_8_as_the_definition_has_it(self):
        (found,) = read_statements(of_version_8(), "EUR")
        self.assertEqual(found.account, "0012-7")
        first, second, third = found.entries
        self.assertEqual((first.amount, first.who), (D("100.00"), "A. Reader"))
        self.assertEqual(first.words, "For W-0147 with thanks RF18 5390")
        self.assertEqual((second.amount, second.who, second.words), (D("50.00"), "I. Falk", "2026-0012"))
        self.assertEqual((third.amount, third.who, third.day), (D("-6.90"), "Skerry Post", date(2026, 3, 4)))

    def test_version_2_that_our_tests_write_is_one(self):
        parts = part("100.00", "A. Reader", "W-0147") + part("50.00", "I. Falk", "W-0148")
        data = statement(entry("150", ref="S", parts=parts), entry("-6.90", who="Skerry Post"), moved="143.10")
        strict = XmlParser(config=ParserConfig(fail_on_unknown_properties=True, fail_on_converter_warnings=True))
        with warnings.catch_warnings():
            warnings.simplefilter("error")
            (theirs,) = strict.from_bytes(data, v02.Document).bk_to_cstmr_stmt.stmt
        (ours,) = read_statements(data, "EUR")
        self.assertEqual(ours.account, theirs.acct.id.iban)
        amounts = [d.amt_dtls.tx_amt.amt.value for n in theirs.ntry[:1] for p in n.ntry_dtls for d in p.tx_dtls]
        self.assertEqual([one.amount for one in ours.entries], [*amounts, -theirs.ntry[1].amt.value])
        self.assertEqual(ours.entries[1].who, theirs.ntry[0].ntry_dtls[0].tx_dtls[1].rltd_pties.dbtr.nm)
