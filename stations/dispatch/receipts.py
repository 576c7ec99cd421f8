"""Receipts and invoices of what was sold, credit notes for what was taken off; each with the next number of a year."""

from decimal import Decimal

from django.db import transaction
from django.template.loader import render_to_string

from core.selling.receipt import Line, ReceiptKind, tax_line, total_of
from stations.common import clock
from stations.common.currency import base_currency
from stations.common.locking import lock_row
from stations.common.refusals import Refused, shortened, within
from stations.dispatch.models import Receipt, ReceiptLine, ReceiptSeries
from stations.dispatch.terms import terms
from stations.people import history
from stations.people.models import HistoryEntry, Person, TaxScheme
from stations.people.permissions import require
from stations.selling.models import Sale
from stations.units.models import Unit

UNIT = HistoryEntry.Subject.UNIT


def together(sale: Sale) -> list[Sale]:
    """The sale, and those that were sold with it as one bundle and stand, by unit."""
    if sale.bundle_id is None:
        return [sale]
    rows = Sale.objects.filter(bundle=sale.bundle_id, buyer=sale.buyer, ended_at=None)
    return list(rows.select_related("unit", "channel").order_by("unit_id")) or [sale]


def receipt_of(sale: Sale) -> Receipt | None:
    """The receipt or invoice of a sale; None before it was issued."""
    line = ReceiptLine.objects.filter(first_for=sale).select_related("receipt").first()
    return line.receipt if line else None


@transaction.atomic
def issue(person: Person, sale: Sale, buyer: str = "", kind: str = ReceiptKind.RECEIPT) -> Receipt:
    """Issue the one receipt or invoice of a sale, or of all that was sold with it as a bundle."""
    require(person, "issue a receipt")
    if kind not in {ReceiptKind.RECEIPT, ReceiptKind.INVOICE}:
        raise Refused("A receipt or an invoice.", "kind")
    sales = together(sale)
    for unit in sorted((one.unit for one in sales), key=lambda unit: unit.pk):
        lock_row(Unit.objects.all(), unit)
    sales = [lock_row(Sale.objects.select_related("unit", "channel"), one) for one in sales]
    sale = next(one for one in sales if one.pk == sale.pk)
    if not sale.stands:
        raise Refused(f"The sale ended: {sale.ended_words}.")
    if before := receipt_of(sale):
        raise Refused(f"It has its {before}; there is one.")
    buyer = within(buyer.strip(), 400, "buyer") or sale.buyer
    if kind == ReceiptKind.INVOICE and len(buyer.splitlines()) < 2:
        raise Refused("An invoice names the buyer and an address: a line for each.", "buyer")
    shop = terms()
    # So an invoice and a simplified one alike (2006/112/EC, Articles 226 (5) and 226b (b)).
    if not shop.address:
        raise Refused("Every paper names the shop: type its name and address under Terms of sale first.")
    lines = [(one, Line(_words_of(one), one.costs)) for one in sales if receipt_of(one) is None]
    receipt = _issued(person, kind, lines, buyer, sum((tax_left(one) for one, _ in lines), Decimal(0)))
    for one, _ in lines:
        history.record(person, "dispatch.issue", UNIT, one.unit_id, f"{_capital(receipt)} issued")
    return receipt


def credit(person: Person, sale: Sale, amount: Decimal, tax: Decimal, words: str) -> Receipt | None:
    """The credit note for what is taken off a price, where a receipt was issued for it. The caller holds the sale."""
    receipt = receipt_of(sale)
    if receipt is None:
        return None
    line = Line(f"{_named(sale)}: {words}", -amount)
    note = _issued(person, ReceiptKind.CREDIT, [(sale, line)], receipt.buyer, -tax, receipt)
    history.record(person, "dispatch.credit", UNIT, sale.unit_id, f"{_capital(note)} over {amount}")
    return note


def owed_again(person: Person, sale: Sale, amount: Decimal, tax: Decimal) -> Receipt | None:
    """The paper of a sale’s kind for what was taken off its price by mistake, where one was issued for it. The caller
    holds the sale."""
    receipt = receipt_of(sale)
    if receipt is None:
        return None
    line = Line(f"{_named(sale)}: taken off by mistake", amount)
    again = _issued(person, receipt.kind, [(sale, line)], receipt.buyer, tax, first=False)
    history.record(person, "dispatch.owed_again", UNIT, sale.unit_id, f"{_capital(again)} over {amount}")
    return again


def _issued(
    person: Person,
    kind: str,
    lines: list[tuple[Sale, Line]],
    buyer: str,
    tax: Decimal,
    credits: Receipt | None = None,
    *,
    first: bool = True,
) -> Receipt:
    sale, shop, now = lines[0][0], terms(), clock.now()
    total, year = total_of([line for _, line in lines]), clock.day_of(now).year
    shown = tax_line(sale.tax_scheme, sale.tax_percent, total, tax)
    notes = {TaxScheme.STANDARD: shop.note_standard, TaxScheme.NONE: shop.note_none, "": ""}
    receipt = Receipt.objects.create(
        year=year,
        number=_next(year),
        kind=kind,
        credits=credits,
        buyer=buyer,
        shop="\n".join(filter(None, (shop.address, f"Tax number {shop.tax_number}" if shop.tax_number else ""))),
        total=total,
        tax=shown.tax if shown else None,
        tax_percent=shown.percent if shown else None,
        tax_scheme=sale.tax_scheme,
        note=notes.get(sale.tax_scheme, shop.note_margin),
        thanks=shop.thanks,
        issued_at=now,
        issued_by=person,
    )
    ReceiptLine.objects.bulk_create(
        ReceiptLine(
            receipt=receipt,
            sale=one,
            first_for=one if first and credits is None else None,
            words=shortened(line.words, 200),
            amount=line.amount,
        )
        for one, line in lines
    )
    return receipt


def _next(year: int) -> int:
    """The next number of a year. Taken and given back with the transaction, so that none is missing; whoever comes at
    the same time waits."""
    ReceiptSeries.objects.get_or_create(year=year)
    series = ReceiptSeries.objects.select_for_update().get(year=year)
    ReceiptSeries.objects.filter(pk=series.pk).update(last=series.last + 1)
    return series.last + 1


def _named(sale: Sale) -> str:
    serial = f", serial {sale.unit.serial}" if sale.unit.serial else ""
    return f"{sale.unit.tag} {sale.unit.title}{serial}"


def _words_of(sale: Sale) -> str:
    """What it is; the day of the sale where that is not the paper’s own (2006/112/EC, Article 226 (7)); and what its
    buyer was promised."""
    day, days = clock.day_of(sale.sold_at), sale.warranty_days
    sold = "" if day == clock.today() else f", sold {day:%-d %B %Y}"
    return f"{_named(sale)}{sold}" + (f"; warranty {days} day{'s' if days > 1 else ''} from delivery" if days else "")


def tax_left(sale: Sale) -> Decimal:
    """The tax on it after what came back with its refunds."""
    return sale.tax - sum(sale.refunds.standing().values_list("tax_back", flat=True), Decimal(0))


def _capital(receipt: Receipt) -> str:
    words = str(receipt)
    return words[:1].upper() + words[1:]


def as_pdf(receipt: Receipt) -> bytes:
    """The paper, from what was kept when it was issued."""
    from weasyprint import HTML  # slow to load, and only wanted here

    context = {"receipt": receipt, "lines": receipt.lines.all(), "currency": base_currency()}
    return HTML(string=render_to_string("dispatch/receipt_paper.html", context)).write_pdf()
