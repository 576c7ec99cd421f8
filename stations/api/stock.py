"""A drawer of the stock as other programs read it."""

from collections.abc import Sequence
from decimal import Decimal
from typing import Annotated

from django.conf import settings
from django.db.models import QuerySet, prefetch_related_objects
from django.urls import reverse
from ninja import Field, Schema

from core.money import to_cent
from core.stock.measure import Measure
from core.stock.parts import Condition
from stations.api.answers import Amount, Asked, Currency, Money, PageOf
from stations.stock import selectors
from stations.stock.models import StockItem

NONE = Decimal("0.000")


class DrawerRecord(Schema):
    """Parts or means of one kind in one condition. What nobody recorded is null."""

    id: int
    name: str
    condition: Condition
    drawer: Annotated[str | None, Field(description="Where it lies.")]
    measure: Annotated[Measure, Field(description="What amounts of it are counted in.")]
    amount: Amount
    reserved: Annotated[Amount, Field(description="What of it jobs hold.")]
    free: Amount
    on_the_way: Annotated[Amount, Field(description="What is ordered and has not come.")]
    order_at: Annotated[Amount | None, Field(description="At so much free or on the way more is ordered.")]
    order_up_to: Amount | None
    to_order: Annotated[Amount | None, Field(description="How much to order now; null: none.")]
    book_value: Annotated[Money, Field(description="What stands in the books for what is there.")]
    cost_unknown_of: Annotated[Amount, Field(description="Of so much of it nobody knows what it cost.")]
    each: Annotated[Money | None, Field(description="What `each_of` of it costs on average; null: not known.")]
    each_of: Annotated[int, Field(description="One, or a hundred of what is poured or weighed.")]
    fits: Annotated[list[str], Field(description="Models that it is known to fit.")]
    modern: Annotated[bool, Field(description="Not of the machine’s time.")]
    keeps_data: Annotated[bool, Field(description="Used storage, which may hold somebody’s data.")]
    currency: Currency
    page: Annotated[str, Field(description="Where people look at it, at this host.")]


class Drawers(PageOf):
    """Drawers in the order in which they were made."""

    items: list[DrawerRecord]


class DrawersAsked(Asked):
    """Which drawers are asked for, of those that are gone on with: those of which all of this is so."""

    words: Annotated[str, Field(description="Each word is in its name; one word may be its drawer.", max_length=80)] = (
        ""
    )
    low: Annotated[bool, Field(description="Only what is at the level at which more is ordered.")] = False

    def items(self) -> "QuerySet[StockItem]":
        return selectors.find(self.words, low=self.low)


def records(items: Sequence[StockItem]) -> list[DrawerRecord]:
    """All that is told of these drawers: a fixed number of queries."""
    items = list(items)
    prefetch_related_objects(items, "fits")
    return [
        DrawerRecord(
            id=one.item.pk,
            name=one.item.name,
            condition=Condition(one.item.condition),
            drawer=one.item.drawer or None,
            measure=one.item.counted_in,
            amount=one.item.quantity,
            reserved=one.item.reserved,
            free=one.item.free,
            on_the_way=one.coming + NONE,
            order_at=one.item.reorder_at,
            order_up_to=one.item.reorder_to,
            to_order=one.to_order,
            book_value=one.worth,
            cost_unknown_of=sum((row.amount for row in one.unpriced), NONE),
            each=None if one.each is None else to_cent(one.each),
            each_of=one.per,
            fits=[model.name for model in one.item.fits.all()],
            modern=one.item.modern,
            keeps_data=one.item.keeps_data,
            currency=settings.BASE_CURRENCY,
            page=reverse("stock:item", args=[one.item.pk]),
        )
        for one in selectors.in_stock(items)
    ]
