"""What is read of units, lots, stock and the book."""

from ninja import Query, Router
from ninja.errors import HttpError

from core.machine.tags import TagError, parse_tag
from stations.api import ledger, lots, stock, units
from stations.api.answers import Asked, Problem, page_of
from stations.buying.models import Lot
from stations.common.snapshot import one_moment

WRONG = {401: Problem, 422: Problem, 429: Problem}
MISSING = {401: Problem, 404: Problem, 429: Problem}
router = Router()


@router.get("/units", response={200: units.Units, **WRONG}, url_name="units", tags=["Units"], operation_id="list_units")
def list_units(request, asked: Query[units.UnitsAsked]):
    """Units, by their numbers."""
    return page_of(request, asked, asked.units(), units.records, key="number")


@router.get(
    "/units/{str:tag}",
    response={200: units.UnitRecord, **MISSING},
    url_name="unit",
    tags=["Units"],
    operation_id="one_unit",
)
def one_unit(request, tag: str):
    """One unit, by its tag: with or without check character, or its number alone."""
    try:
        read = parse_tag(tag)
    except TagError as problem:
        raise HttpError(404, str(problem)) from problem
    with one_moment():
        told = units.records(units.UnitsAsked().units().filter(number=read.number)) if read else []
    if not told:
        raise HttpError(404, f"There is no unit {tag}.")
    return told[0]


@router.get("/lots", response={200: lots.Lots, **WRONG}, url_name="lots", tags=["Lots"], operation_id="list_lots")
def list_lots(request, asked: Query[Asked]):
    """Lots, by their numbers."""
    return page_of(request, asked, Lot.objects.all(), lots.records, key="number")


@router.get(
    "/lots/L-{int:number}",
    response={200: lots.LotInFull, **MISSING},
    url_name="lot",
    tags=["Lots"],
    operation_id="one_lot",
)
def one_lot(request, number: int):
    """One lot with its lines, by its code."""
    with one_moment():
        lot = Lot.objects.filter(number=number).first()
        if lot is None:
            raise HttpError(404, f"There is no lot L-{number:03d}.")
        return lots.in_full(lot)


@router.get(
    "/stock", response={200: stock.Drawers, **WRONG}, url_name="stock", tags=["Stock"], operation_id="list_stock"
)
def list_stock(request, asked: Query[stock.DrawersAsked]):
    """Drawers that are gone on with, in the order in which they were made."""
    return page_of(request, asked, asked.items(), stock.records)


@router.get(
    "/ledger", response={200: ledger.Postings, **WRONG}, url_name="ledger", tags=["Ledger"], operation_id="list_ledger"
)
def list_ledger(request, asked: Query[ledger.PostingsAsked]):
    """Postings of the book, in the order in which they were written. A posting never changes: read on after the
    greatest number that you have."""
    return page_of(request, asked, asked.postings(), ledger.records)
