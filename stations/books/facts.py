"""What books tells earlier rooms: which unit is taxed by itself, and up to which day tax was closed."""

from datetime import date

from stations.books.models import TakenOutOfGlobal, TaxPeriod
from stations.dispatch.terms import counted_from
from stations.people import shop_settings
from stations.people.models import TaxTerms
from stations.selling.dues import taxed_by_item
from stations.units.models import Unit


@taxed_by_item.add("books")
def taken_out(unit: Unit) -> bool:
    return TakenOutOfGlobal.objects.filter(unit=unit).exists()


@shop_settings.taxed_already.add("books")
def closed_then(first: date, after: date, tax: TaxTerms) -> str:
    last = TaxPeriod.objects.order_by("-first").first()
    if last is None or first >= last.after:
        return ""
    return f"Tax was closed up to {last.after:%-d %B %Y}: this can hold from that day."


@counted_from.add("books")
def first_closed() -> date | None:
    """The first day of the first period that was closed; None where none was."""
    first = TaxPeriod.objects.order_by("first").first()
    return first.first if first else None
