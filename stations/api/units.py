"""A unit as other programs read it."""

from collections.abc import Iterable
from datetime import datetime
from decimal import Decimal
from typing import Annotated, Any

from django.conf import settings
from django.db.models import QuerySet
from django.urls import reverse
from ninja import Field, Schema

from core.flow.stage import Stage, State, Station
from core.intake.triage import Path
from core.machine.approach import Approach
from core.machine.casing import FormFactor
from core.machine.tags import Tag
from core.selling.grade import Grade
from stations.api.answers import Asked, Currency, LotCode, Money, PageOf, number_of
from stations.books.selectors import units_earnings
from stations.selling import graded
from stations.selling.models import Listing, Sale, UnitGrade
from stations.units import costs, stages
from stations.units.models import Unit


class UnitRecord(Schema):
    """A machine or part with a tag of its own. What nobody recorded is null."""

    tag: Annotated[str, Field(description="As its label says it, with the check character.", examples=[str(Tag(136))])]
    number: int
    title: str
    model: str | None
    form_factor: FormFactor
    serial: str | None
    lot: Annotated[str, Field(examples=["L-007"])]
    holding: Annotated[Unit.Holding, Field(description="Ours, on commission, or in custody.")]
    stage: Stage
    stage_since: datetime
    station: Station
    state: State
    why: Annotated[str | None, Field(description="Why it stands where it does, in words.")]
    next_step: str | None
    place: str | None
    approach: Approach | None
    path: Path | None
    received_at: datetime
    came_back_at: Annotated[datetime | None, Field(description="When it came back from its buyer, or its owner.")]
    grade: Annotated[Grade | None, Field(description="As it was given last.")]
    graded_at: datetime | None
    grade_in_doubt: Annotated[str | None, Field(description="Why that grade holds no longer, of what is not sold.")]
    on_offer: bool
    offered_since: datetime | None
    asking: Annotated[Money | None, Field(description="The price asked, on offer or to be.")]
    channel: Annotated[str | None, Field(description="Where it is offered, or was sold.")]
    sold_at: datetime | None
    price: Annotated[Money | None, Field(description="What it was sold for.")]
    sent_at: datetime | None
    cost: Annotated[Money | None, Field(description="All that it cost so far, our own labour too; null: not known.")]
    cost_unknown: Annotated[str | None, Field(description="Why nobody knows what it cost, in words.")]
    income: Annotated[Money, Field(description="What came in for it, less what was paid back.")]
    realised_margin: Annotated[Money | None, Field(description="Income less cost, of what is sold; null: not known.")]
    currency: Currency
    page: Annotated[str, Field(description="Where people look at it, at this host.")]


class Units(PageOf):
    """Units by their numbers, the first first."""

    items: list[UnitRecord]


class UnitsAsked(Asked):
    """Which units are asked for: those of which all of this is so."""

    stage: Stage | None = None
    station: Station | None = None
    holding: Unit.Holding | None = None
    lot: LotCode | None = None
    place: str | None = None
    on_offer: bool | None = None

    def units(self) -> "QuerySet[Unit]":
        rows = Unit.objects.all()
        same = {name: said for name in ("stage", "station", "holding", "place") if (said := getattr(self, name))}
        if self.lot:
            same["lot__number"] = number_of(self.lot)
        if self.on_offer is not None:
            live = Unit.objects.filter(listing__status=Listing.Status.LIVE).values("pk")
            rows = rows.filter(pk__in=live) if self.on_offer else rows.exclude(pk__in=live)
        return rows.filter(**same).select_related("lot", "model", "line")


def records(units: Iterable[Unit]) -> list[UnitRecord]:
    """All that is told of these units, in a number of queries that does not grow with them."""
    units = list(units)
    ids = [unit.pk for unit in units]
    money, unknown = units_earnings(units), costs.not_shared(units)
    grades = {row.unit_id: row for row in UnitGrade.objects.filter(unit_id__in=ids).order_by("id")}
    doubts = _doubts(units, grades)
    listings = {row.unit_id: row for row in Listing.objects.filter(unit_id__in=ids).select_related("channel")}
    sales = {row.open_for_id: row for row in Sale.objects.filter(open_for__in=ids).select_related("channel")}
    return [
        UnitRecord(
            **_itself(unit),
            **_offer(grades.get(unit.pk), doubts.get(unit.pk), listings.get(unit.pk), sales.get(unit.pk)),
            cost=None if unit.pk in unknown else money[unit.pk].cost,
            cost_unknown=unknown.get(unit.pk),
            income=money[unit.pk].sale,
            realised_margin=money[unit.pk].margin if unit.pk in sales and unit.pk not in unknown else None,
            currency=settings.BASE_CURRENCY,
            page=reverse("floor:unit", args=[unit.number]),
        )
        for unit in units
    ]


def _itself(unit: Unit) -> dict[str, Any]:
    return {
        "tag": str(unit.tag),
        "number": unit.number,
        "title": unit.title,
        "model": unit.model.name if unit.model else None,
        "form_factor": unit.form_factor,
        "serial": unit.serial or None,
        "lot": unit.lot.code,
        "holding": unit.holding,
        "stage": unit.stage,
        "stage_since": unit.stage_since,
        "station": unit.station,
        "state": unit.state,
        "why": unit.stage_reason or None,
        "next_step": unit.next_step or None,
        "place": unit.place or None,
        "approach": unit.approach or None,
        "path": unit.path or None,
        "received_at": unit.received_at,
        "came_back_at": unit.came_back_at,
    }


def _offer(grade: UnitGrade | None, doubt: str | None, listing: Listing | None, sale: Sale | None) -> dict[str, Any]:
    where = sale or listing
    on_offer = listing is not None and listing.is_live
    price: Decimal | None = sale.price if sale else None
    return {
        "grade": grade.grade if grade else None,
        "graded_at": grade.when if grade else None,
        "grade_in_doubt": doubt,
        "on_offer": on_offer,
        "offered_since": listing.published_at if listing and on_offer else None,
        "asking": listing.asking if listing else None,
        "channel": where.channel.name if where else None,
        "sold_at": sale.sold_at if sale else None,
        "price": price,
        "sent_at": sale.sent_at if sale else None,
    }


def _doubts(units: list[Unit], grades: dict[int, UnitGrade]) -> dict[int, str]:
    """Of which units the grade holds no longer, and why; what is sold was sold at it."""
    here = [unit for unit in units if unit.pk in grades and not unit.gone]
    if not here:
        return {}
    given = {unit.pk: grades[unit.pk] for unit in here}
    return graded.since_graded(here, given, stages.facts_of(here, before="selling"), graded.fixes_of(here))
