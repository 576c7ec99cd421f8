"""What selling answers for: grade, listing, sale, and what a model fetches elsewhere."""

from collections.abc import Iterable, Iterator, Mapping
from datetime import date, timedelta
from pathlib import Path

from django.urls import reverse

from core.flow.facts import FlowFacts, SellingFlow
from core.selling.listing import blocks
from stations.backup import lost
from stations.catalogue.prices import price_sources
from stations.common import clock
from stations.common.paging import first_of
from stations.people import shop_settings, stopped
from stations.people.history import Place, places
from stations.people.models import Person, TaxScheme, TaxTerms
from stations.people.permissions import may
from stations.people.stopped import SILENT, Stopped
from stations.selling import attention, market, placing, selectors, to_come
from stations.selling.appraisal import appraisal_of
from stations.selling.models import Channel, Listing, Sale, ShownPhoto, UnitGrade
from stations.units import picture_files, stages
from stations.units.models import Unit
from stations.workshop.worth import appraisers

price_sources.add("selling")(market.triage_prices)
appraisers.add("selling")(appraisal_of)
stages.moved.add("selling")(placing.follow)

# `to_come` answers what units may still bring, by being here.
__all__ = ["selling_flow", "to_come"]


@lost.told_of.add("cut pictures")
def cut_pictures() -> Iterator[Path]:
    return picture_files.both_of(ShownPhoto.objects.exclude(sha256="").values_list("sha256", flat=True))


# So many that do not answer are named on the Floor.
NAMED = 3


@stopped.kinds.add("channels")
def silent_channels(person: Person) -> list[Stopped]:
    if not may(person, "record a sale"):
        return []
    silent = attention.in_trouble().filter(trouble_since__lt=clock.now() - SILENT).order_by("trouble_since")
    found = first_of(silent, NAMED)
    told = [
        Stopped(
            f"{channel} has not answered since {stopped.at(channel.trouble_since)}: what was sold elsewhere may still"
            " be on offer there.",
            reverse("selling:channel", args=[channel.pk]),
            "Look at it",
        )
        for channel in found
    ]
    if found.cut:
        told.append(Stopped(f"{found.count - NAMED} more have not answered.", reverse("selling:selling"), "See them"))
    return told


@shop_settings.taxed_already.add("selling")
def sold_then(first: date, after: date, tax: TaxTerms) -> str:
    """What was sold in those days keeps the tax it was sold with; under global accounting it has none of its own."""
    sales = Sale.objects.filter(ended_at=None, sold_at__gte=clock.begin_of(first), sold_at__lt=clock.begin_of(after))
    if tax.scheme == TaxScheme.GLOBAL:
        sales = sales.exclude(tax_scheme=TaxScheme.GLOBAL)
    last = sales.exclude(tax_scheme="").select_related("unit").order_by("-sold_at").first()
    if last is None:
        return ""
    day, taxed = clock.day_of(last.sold_at), TaxTerms(TaxScheme(last.tax_scheme), last.tax_percent)
    earliest = day + timedelta(days=1)
    return (
        f"{last.unit.tag} was sold on {day:%-d %B %Y}, taxed by {taxed.words}: "
        f"this can hold from {earliest:%-d %B %Y}, or once that sale is called off."
    )


@stages.resting.add("selling")
def selling_flow(units: list[Unit], told: Mapping[int, FlowFacts]) -> dict[int, SellingFlow]:
    """Of units that are graded, priced, on offer or sold: a fixed number of queries for all of them."""
    ids = [unit.pk for unit in units]
    graded = set(UnitGrade.objects.filter(unit_id__in=ids).values_list("unit_id", flat=True))
    listings = {listing.unit_id: listing for listing in Listing.objects.filter(unit_id__in=ids)}
    listed = {unit_id for unit_id, listing in listings.items() if listing.is_live}
    sales = {sale.unit_id: sale for sale in Sale.objects.filter(open_for_id__in=ids).prefetch_related("channel")}
    offered = [unit for unit in units if unit.pk in graded | listed and unit.pk not in sales]
    blocked = {unit_id: blocks(facts) for unit_id, facts in selectors.offer_facts(offered, told).items()}
    return {
        unit_id: SellingFlow(
            graded=unit_id in graded,
            blocks=[block.words for block in blocked.get(unit_id, ())],
            listed=unit_id in listed,
            sold=unit_id in sales,
            sent=unit_id in sales and sales[unit_id].sent_at is not None,
            closed=unit_id in sales and sales[unit_id].closed_at is not None,
            owed=unit_id in sales and sales[unit_id].owed > 0 and not sales[unit_id].channel.answers_itself,
            asking=listings[unit_id].asking if unit_id in listings else None,
        )
        for unit_id in graded | set(listings) | set(sales)
    }


@places.add("channel")
def channels(keys: Iterable[int]) -> dict[int, Place]:
    rows = Channel.objects.filter(pk__in=keys)
    return {row.pk: Place(row.name, reverse("selling:channel", args=[row.pk])) for row in rows}
