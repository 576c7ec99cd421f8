"""A lot as other programs read it."""

from collections.abc import Sequence
from datetime import date
from typing import Annotated, Any

from django.conf import settings
from django.urls import reverse
from ninja import Field, Schema

from stations.api.answers import Currency, Money, PageOf
from stations.books.selectors import lot_results
from stations.buying import selectors
from stations.buying.models import Claim, LineKind, Lot, LotLine, SourceKind
from stations.buying.sharing import current_sharing
from stations.common.paging import rows_of


class LotRecord(Schema):
    """What was bought together. What nobody recorded is null."""

    code: Annotated[str, Field(examples=["L-007"])]
    number: int
    title: str
    supplier: str
    source: SourceKind
    bought_on: date
    paid_on: date | None
    arrived_on: date | None
    pieces: Annotated[int, Field(description="How many were bought.")]
    received: int
    to_receive: int
    not_come: Annotated[int, Field(description="How many never come.")]
    units: Annotated[int, Field(description="How many of them were received as units; parts go into drawers.")]
    sold: Annotated[int, Field(description="How many units are sold.")]
    finished: Annotated[bool, Field(description="All of it is gone for good.")]
    paid: Annotated[Money | None, Field(description="The price with all that was charged; null: not known.")]
    cost: Annotated[Money | None, Field(description="What it cost so far, our own labour too; null: not known.")]
    income: Annotated[Money, Field(description="What came in for it, less what was paid back.")]
    margin_so_far: Annotated[Money | None, Field(description="Income less cost; null while the cost is not known.")]
    expected_result: Annotated[
        Money | None, Field(description="With what the pieces left are thought to bring; null: nobody knows.")
    ]
    currency: Currency
    page: Annotated[str, Field(description="Where people look at it, at this host.")]


class LotLineRecord(Schema):
    """A line of a lot: so many pieces of a kind."""

    description: str
    kind: LineKind
    quantity: int
    received: int
    not_come: int
    claim: Annotated[Claim, Field(description="What was said of it by whoever had it; nobody tested it.")]
    claim_words: str | None
    share: Annotated[Money | None, Field(description="Its part of what the lot cost; null: not shared yet.")]


class LotInFull(LotRecord):
    """A lot with its lines."""

    lines: list[LotLineRecord]


class Lots(PageOf):
    """Lots by their numbers, the first first."""

    items: list[LotRecord]


def records(lots: Sequence[Lot]) -> list[LotRecord]:
    """All that is told of these lots: a fixed number of queries."""
    return [LotRecord(**told) for told in _told(lots)]


def in_full(lot: Lot) -> LotInFull:
    lines: list[LotLine] = list(lot.lines.order_by("position"))
    shared = selectors.lines_with_shares(lines, current_sharing(lot))
    (told,) = _told([lot])
    return LotInFull(
        **told,
        lines=[
            LotLineRecord(
                description=line.description,
                kind=line.kind,
                quantity=line.quantity,
                received=line.received,
                not_come=line.not_come,
                claim=line.claim,
                claim_words=line.claim_words or None,
                share=share.amount if share else None,
            )
            for line, share, _ in shared
        ],
    )


def _told(lots: Sequence[Lot]) -> list[dict[str, Any]]:
    # Their pieces are counted of these alone.
    rows = rows_of([lot.pk for lot in lots], selectors.lots())
    return [
        {
            "code": lot.code,
            "number": lot.number,
            "title": lot.title,
            "supplier": lot.supplier.name,
            "source": lot.source_kind,
            "bought_on": lot.bought_on,
            "paid_on": lot.paid_on,
            "arrived_on": lot.arrived_on,
            "pieces": lot.pieces or 0,
            "received": lot.here or 0,
            "to_receive": lot.to_receive or 0,
            "not_come": (lot.pieces or 0) - (lot.here or 0) - (lot.to_receive or 0),
            "units": result.units,
            "sold": result.sold,
            "finished": result.finished,
            "paid": lot.landed_total if lot.priced else None,
            "cost": result.money.cost if lot.priced else None,
            "income": result.money.sale,
            "margin_so_far": result.money.margin if lot.priced else None,
            "expected_result": result.likely,
            "currency": settings.BASE_CURRENCY,
            "page": reverse("books:lot", args=[lot.number]),
        }
        for lot, result in zip(rows, lot_results(rows), strict=True)
    ]
